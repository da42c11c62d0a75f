namespace Unicus.Core.RuleBook;

using System.Collections;
using System.Collections.Concurrent;
using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Products;
using Unicus.Core.Range;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>A rule that reaches a product, made ready for its variants.</summary>
internal sealed class ReachingRule
{
    private readonly Edition _edition;
    private readonly bool _wholly;
    private readonly BitArray? _hit;

    private ReachingRule(PriceRule rule, Edition edition, bool wholly)
    {
        (Rule, _edition, _wholly) = (rule, edition, wholly);
        if (!wholly)
            _hit = Hits();
    }

    public PriceRule Rule { get; }

    /// <summary>Whether it reaches every variant alike.</summary>
    public bool IsWhole => _wholly;

    /// <summary>Whether it sets prices by SKU, so that it treats each variant by itself.</summary>
    public bool IsBySku => Rule.Effect is PriceEffect.SetBySku;

    /// <summary>The rule made ready; null where nothing of the product is in its scope.</summary>
    /// <param name="rule">The rule.</param>
    /// <param name="edition">The product.</param>
    /// <param name="goods">The product as rules see it.</param>
    public static ReachingRule? Of(PriceRule rule, Edition edition, RuleGoods goods)
    {
        if (!Touches(rule, goods))
            return null;
        var wholly = rule.Scope.Where is null && !rule.NamesSkus;
        var reaching = new ReachingRule(rule, edition, wholly);
        return wholly || reaching._hit!.HasAnySet() ? reaching : null;
    }

    /// <summary>Whether a product as a whole is in the scope of a rule, so that some of its variants may be.</summary>
    public static bool Touches(PriceRule rule, RuleGoods goods)
    {
        var scope = rule.Scope;
        return (rule.Owner is not { } owner || owner == goods.Code)
            && (rule.ReachesSets || !goods.IsSet)
            && (scope.Products.IsEmpty || scope.Products.Contains(goods.Code))
            && (scope.Categories.IsEmpty || scope.Categories.Any(goods.Categories.Contains))
            && (scope.Tags.IsEmpty || scope.Tags.Any(t => goods.Tags.Contains(t, StringComparer.OrdinalIgnoreCase)))
            && (scope.Where is not { } where || where.Questions.All(q => goods.Options.Contains(q)));
    }

    /// <summary>Whether it reaches a variant of its product.</summary>
    public bool Reaches(MatrixVariant variant) => _wholly || (variant.Number >= 0 && variant.Number < _hit!.Length && _hit[variant.Number]);

    /// <summary>Whether it acts on goods that are bought through a page.</summary>
    public bool IsThrough(string? page) => IsThrough(Rule, page);

    /// <inheritdoc cref="IsThrough(string?)"/>
    public static bool IsThrough(PriceRule rule, string? page) =>
        rule.Scope.Through is not { } through || string.Equals(through, page, StringComparison.OrdinalIgnoreCase);

    private BitArray Hits()
    {
        var hit = new BitArray(Math.Max(1, _edition.Matrix.Made.Combinations));
        var skus = Rule.Scope.Skus;
        var named = (Rule.Effect as PriceEffect.SetBySku)?.Prices;
        foreach (var variant in _edition.Matrix.Offered)
        {
            var sku = variant.Sku.Text.ToUpperInvariant();
            hit[variant.Number] =
                (skus.IsEmpty || skus.Contains(sku))
                && named?.ContainsKey(sku) != false
                && (Rule.Scope.Where is not { } where || Holds(where, variant.Values));
        }
        return hit;
    }

    private static bool Holds(Condition condition, Combination values) =>
        condition switch
        {
            Condition.Is i => values[i.Question] is { } v && i.Values.Contains(v),
            Condition.Answered a => values[a.Question] is not null,
            Condition.All a => a.Of.All(c => Holds(c, values)),
            Condition.Any a => a.Of.Any(c => Holds(c, values)),
            Condition.Not n => !Holds(n.Of, values),
            // Variant options are no numbers.
            _ => false,
        };
}

/// <summary>The rules in force that reach one product, by stage and in their order.</summary>
internal sealed class EditionRules
{
    private readonly bool _isWhole;
    private readonly int[] _every;
    private readonly ConcurrentDictionary<int, int[]> _reach = [];
    private readonly ConcurrentDictionary<string, int[]> _alike = [];

    private EditionRules(IEnumerable<ReachingRule> rules)
    {
        All = [.. rules.OrderBy(r => r.Rule, PriceRule.Order)];
        HasPages = All.Any(r => r.Rule.Scope.Through is not null);
        _isWhole = All.All(r => r.IsWhole);
        _every = [.. Enumerable.Range(0, All.Length)];
        ByStage = new(stage => [.. All.Where(r => r.Rule.Effect.Stage == stage)]);
    }

    public ReachingRule[] All { get; }

    /// <summary>Whether some of them are only for goods that are bought through a page.</summary>
    public bool HasPages { get; }

    /// <summary>The places in <see cref="All"/> of those that reach a variant, whichever page it is bought through; the very same for
    /// variants that the same rules reach.</summary>
    public int[] ReachOf(MatrixVariant variant) => _isWhole ? _every : _reach.GetOrAdd(variant.Number, _ => FindReach(variant));

    private int[] FindReach(MatrixVariant variant)
    {
        int[] reach = [.. All.Index().Where(r => r.Item.Reaches(variant)).Select(r => r.Index)];
        return _alike.GetOrAdd(string.Join(',', reach), reach);
    }

    /// <summary>By the stage at which they act.</summary>
    public ByStage<ReachingRule[]> ByStage { get; }

    /// <summary>Makes rules ready for a product.</summary>
    /// <param name="rules">The rules.</param>
    /// <param name="edition">The product.</param>
    /// <param name="tree">All categories, for scopes.</param>
    public static EditionRules Of(IEnumerable<PriceRule> rules, Edition edition, IReadOnlyList<Category> tree)
    {
        var all = rules.ToList();
        var goods = RuleGoods.Of(edition, Categories(all, edition.Product, tree));
        return new(all.Select(r => ReachingRule.Of(r, edition, goods)).OfType<ReachingRule>());
    }

    /// <summary>The rules whose scope holds something of a product, in force or not.</summary>
    public static IEnumerable<PriceRule> Reaching(IEnumerable<PriceRule> rules, Edition edition, IReadOnlyList<Category> tree) =>
        Of(rules, edition, tree).All.Select(r => r.Rule);

    /// <summary>The names of the categories that hold a product; looked up only where a rule asks.</summary>
    private static ImmutableHashSet<string> Categories(List<PriceRule> rules, Product product, IReadOnlyList<Category> tree)
    {
        if (rules.TrueForAll(r => r.Scope.Categories.IsEmpty))
            return [];
        var names = tree.ToDictionary(c => c.Id, c => c.Name);
        return Membership
            .Of(tree, product.Categories, Membership.TextOf(product))
            .Select(id => names[id])
            .Concat(product.Categories)
            .ToImmutableHashSet(StringComparer.OrdinalIgnoreCase);
    }
}
