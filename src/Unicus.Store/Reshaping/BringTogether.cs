using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Several products that are to become variants of the first of them.</summary>
/// <param name="Codes">The first one keeps its page.</param>
/// <param name="Values">Which value of the new option each of them is.</param>
public sealed record TogetherRequest(ImmutableArray<string> Codes, string Name, string Option, ImmutableArray<string> Values);

/// <summary>A variant as it will be.</summary>
public sealed record TogetherRow(string Name, Sku Sku, Money? Price, Money? Cost, int OnHand, string From);

/// <summary>What bringing together would make.</summary>
public sealed record TogetherPreview(Product Product, ImmutableArray<TogetherRow> Rows, int NotMade);

/// <summary>Brings products together: each becomes one or more variants of the first and keeps SKU, price, cost, stock, ledger,
/// pictures, codes and texts; sets, rules and suggestions that named it follow.</summary>
public sealed class BringTogether(UnicusContext db, TimeProvider clock, FollowNames follow)
{
    public const int MostProducts = 100;

    public async Task<Outcome<TogetherPreview>> Preview(TogetherRequest request)
    {
        var plan = await Plan(request, forChange: false);
        return plan.Done ? Outcome<TogetherPreview>.Of(plan.Result!.Preview) : new Outcome<TogetherPreview>(null, plan.Faults);
    }

    /// <summary>Applies it in one transaction; where the first product is on sale, a new edition is published with it.</summary>
    public async Task<Outcome> Run(TogetherRequest request, Actor by)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var planned = await Plan(request, forChange: true);
        if (!planned.Done)
            return planned;
        var plan = planned.Result!;
        var home = plan.Copies[0];
        var rehoming = new Rehoming(db);
        foreach (var (copy, i) in plan.Copies.Skip(1).Select((c, i) => (c, i + 1)))
        {
            // What is retired goes along under a value that is not offered, so that its history is not lost.
            var gone = copy
                .Rows.Where(r => plan.Landing[i].All(l => l.Row.Id != r.Id))
                .Select(r => (r, Combination.Parse(r.Values).With(plan.Option, plan.Values[i])));
            await rehoming.Move([.. plan.Landing[i].Concat(gone)], home.Row.Id);
            var pick = Combination.Empty.With(plan.Option, plan.Values[i]).Text;
            await rehoming.LeadAddresses(copy.Row.Id, home.Row.Id, pick, except: null);
            await db.SaveChangesAsync();
            db.ChangeTracker.Clear();
            await rehoming.Empty(copy.Row.Id, home.Row.Id);
        }
        await LeadBaskets(plan);
        db.ChangeTracker.Clear();
        var grown = (await WorkingCopy.Load(db, home.Row.Code, forChange: true))!;
        var moved = plan
            .Landing.SelectMany((rows, i) => rows.Select(r => (From: i == 0 ? r.Row.Values : r.Values.Text, To: r.Values)))
            .ToDictionary(m => m.From, m => m.To);
        var written = await new WorkingCopies(db, clock).Write(
            grown,
            plan.After,
            $"{plan.Copies.Count} products brought together",
            by,
            moved,
            undoable: false
        );
        if (!written.Done)
            return written;
        var isOnSale = grown.Row.Edition is not null;
        if (isOnSale)
            await follow.Publishing(p => p.Run(grown.Row.Code, by));
        if (await follow.Run(plan.Moved, isOnSale, by) is { Done: false } refused)
            return refused;
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    private sealed record Planned(
        List<WorkingCopy> Copies,
        Key Option,
        ImmutableArray<Key> Values,
        Product After,
        List<List<(VariantRow Row, Combination Values)>> Landing,
        ImmutableArray<MovedGoods> Moved,
        TogetherPreview Preview
    );

    private async Task<Outcome<Planned>> Plan(TogetherRequest request, bool forChange)
    {
        var codes = request.Codes.Select(c => c.ToUpperInvariant()).Distinct().ToList();
        var faults = new List<Fault>();
        if (codes.Count < 2)
            faults.Add(new Fault("codes", "Choose at least two products."));
        if (codes.Count > MostProducts)
            faults.Add(new Fault("codes", $"At most {MostProducts} products are brought together at once."));
        if (request.Option.Trim().Length is 0 or > TypedValues.LongestLabel)
            faults.Add(new Fault("option", "Say what sets them apart, such as Capacity."));
        if (request.Name.Trim().Length is 0 or > Product.LongestName)
            faults.Add(new Fault("name", "The whole needs a name."));
        var (labels, problems) = TypedValues.Split(
            string.Join('\n', request.Values.Select(v => v.Replace(',', ' ').Replace(';', ' '))),
            []
        );
        if (labels.Count != codes.Count)
            faults.Add(new Fault("values", problems.Count > 0 ? string.Join(' ', problems) : "Each product needs a value of its own."));
        if (faults.Count > 0)
            return new Outcome<Planned>(null, faults);

        var copies = new List<WorkingCopy>();
        foreach (var code in forChange ? [.. codes.Order(StringComparer.Ordinal)] : codes)
        {
            if (await WorkingCopy.Load(db, code, forChange) is { } copy)
                copies.Add(copy);
            else
                faults.Add(new Fault("codes", $"There is no product {code}."));
        }
        if (faults.Count > 0)
            return new Outcome<Planned>(null, faults);
        copies = [.. codes.Select(c => copies.Find(x => x.Row.Code == c)!)];
        return Shape(request, copies, labels);
    }

    private static Outcome<Planned> Shape(TogetherRequest request, List<WorkingCopy> copies, IReadOnlyList<string> labels)
    {
        var home = copies[0];
        if (WhyNot(request, copies) is { Count: > 0 } faults)
            return new Outcome<Planned>(null, faults);
        var merged = Merged(copies);
        var key = (home.Whole with { Options = merged }).FreeKey(request.Option);
        var values = TypedValues.Make(labels, []);
        var options = merged.Add(new Option(key, request.Option.Trim(), OptionRole.Variant) { Values = [.. values] });
        if (MadeSet.Size(options) > MadeSet.MostVariants)
            return Outcome<Planned>.No(
                "codes",
                $"That would make {MadeSet.Size(options):N0} combinations; a product holds at most {MadeSet.MostVariants:N0}."
            );
        var landing = copies
            .SelectMany((c, i) => c.Matrix.Variants.Select(v => new Landing(c, v, Target(c, v, merged, key, values[i].Key))))
            .ToLookup(l => l.From);
        var basis = Basis(request, copies, key, values, options, landing);
        var moved = Moved(copies, key, values, landing);
        var bare = basis.Matrix();
        var after = new NamesFollowing(moved, _ => []).Of(
            basis with
            {
                Variants = [.. copies.SelectMany(c => landing[c]).Select(l => l.Rehomed(bare, basis.Selling))],
            }
        );
        return Outcome<Planned>.Of(
            new Planned(
                copies,
                key,
                [.. values.Select(v => v.Key)],
                after,
                [.. copies.Select(c => landing[c].Select(l => (l.Row, l.Values)).ToList())],
                moved,
                new TogetherPreview(after, [.. copies.SelectMany(c => landing[c]).Select(l => l.Shown(options))], basis.NotMade.Length)
            )
        );
    }

    /// <summary>The product that they become, without its variants.</summary>
    private static Product Basis(
        TogetherRequest request,
        List<WorkingCopy> copies,
        Key key,
        IReadOnlyList<OptionValue> values,
        ImmutableArray<Option> options,
        ILookup<WorkingCopy, Landing> landing
    )
    {
        var home = copies[0];
        var there = landing.SelectMany(l => l.Select(x => x.Values)).ToHashSet();
        var all = new MadeSet(options, []);
        return home.Product with
        {
            Name = request.Name.Trim(),
            WebAddress = home.Product.Address,
            Options = options,
            NotMade = [.. all.Made().Select(all.At).Where(c => !there.Contains(c))],
            SkuPattern = home.Product.SkuPattern.IsEmpty
                ? []
                : [.. home.Product.SkuPattern, new PatternPiece.Text("-"), new PatternPiece.OfOption(key)],
            Categories = [.. copies.SelectMany(c => c.Product.Categories).Distinct(StringComparer.OrdinalIgnoreCase)],
            Tags = [.. copies.SelectMany(c => c.Product.Tags).Distinct(StringComparer.OrdinalIgnoreCase)],
            Companions = [.. copies.SelectMany(c => c.Product.Companions).Distinct()],
            StepUps = [.. copies.SelectMany(c => c.Product.StepUps).Distinct()],
            PriceRules = [.. PriceRules(copies.Select(c => (c, landing[c].Select(l => l.Row.SkuCode))))],
            Pictures =
            [
                .. copies
                    .SelectMany(
                        (c, i) => c.Product.Pictures.Select(p => p.Shows is null || i > 0 ? p with { Shows = (key, values[i].Key) } : p)
                    )
                    .DistinctBy(p => (p.File, p.Shows)),
            ],
            Variants = [],
        };
    }

    /// <summary>Where the goods of each go.</summary>
    private static ImmutableArray<MovedGoods> Moved(
        List<WorkingCopy> copies,
        Key key,
        IReadOnlyList<OptionValue> values,
        ILookup<WorkingCopy, Landing> landing
    ) =>
        [
            .. copies.Select(
                (c, i) =>
                    new MovedGoods.Joined(
                        c.Row.Code,
                        copies[0].Row.Code,
                        Combination.Empty.With(key, values[i].Key),
                        [.. landing[c].Where(l => !l.Row.Retired).Select(l => new MovedVariant(l.Variant.Values, l.Values, l.Variant.Sku))]
                    )
            ),
        ];

    /// <summary>The price rules of all of them, each for the variants that it was for.</summary>
    private static IEnumerable<PriceRule> PriceRules(IEnumerable<(WorkingCopy Of, IEnumerable<string> Skus)> copies)
    {
        var keys = new HashSet<string>();
        foreach (var (copy, skus) in copies)
            foreach (var rule in copy.Product.PriceRules)
            {
                var key = rule.Key.Text;
                for (var i = 2; !keys.Add(key); i++)
                    key = $"{rule.Key}-{i}";
                var scope = rule.Scope.Skus.IsEmpty
                    ? rule.Scope with
                    {
                        Skus = [.. skus.Select(s => s.ToUpperInvariant()).Distinct()],
                    }
                    : rule.Scope;
                yield return rule with
                {
                    Key = Key.Of(key),
                    Scope = scope,
                };
            }
    }

    /// <summary>A variant of one of the products, and what it is in the whole.</summary>
    private sealed record Landing(WorkingCopy From, MatrixVariant Variant, Combination Values)
    {
        public VariantRow Row => From.RowOf(Variant.Values)!;

        /// <summary>With the figures that it had, as far as the whole does not give it the same.</summary>
        public Variant Rehomed(VariantMatrix bare, Selling selling) =>
            Rehoming.Resolved(From, Variant, Values, bare, selling) with
            {
                Former = Variant.Variant.Former ?? From.Row.Definition,
            };

        public TogetherRow Shown(ImmutableArray<Option> options) =>
            new(
                Values.Name(options),
                Variant.Sku,
                Variant.Price.Figure,
                Variant.Cost.Figure,
                From.Stock.GetValueOrDefault(Variant.Sku).OnHand,
                From.Product.Name
            );
    }

    /// <summary>What keeps products from being one; the first has the say.</summary>
    private static List<Fault> WhyNot(TogetherRequest request, List<WorkingCopy> copies)
    {
        var (home, wanted) = (copies[0].Product.Name, copies[0].Product.Options);
        var faults = new List<Fault>();
        foreach (var copy in copies.Skip(1).Where(c => !SameLabels(c.Product.Options, wanted)))
            faults.Add(
                new Fault(
                    "codes",
                    $"{copy.Product.Name} has {Words(copy.Product.Options)}, {home} {Words(wanted)}. Give them the same options first."
                )
            );
        if (faults.Count == 0)
            foreach (var copy in copies.Skip(1))
                foreach (var option in wanted.Where(o => Own(copy, o).SharesSku != o.SharesSku))
                    faults.Add(
                        new Fault(
                            "codes",
                            $"{option.Label} shares SKU and stock in {(option.SharesSku ? home : copy.Product.Name)} but not in "
                                + $"{(option.SharesSku ? copy.Product.Name : home)}. Set it the same in both first."
                        )
                    );
        if (wanted.Any(o => string.Equals(o.Label, request.Option.Trim(), StringComparison.OrdinalIgnoreCase)))
            faults.Add(new Fault("option", $"They have an option {request.Option} already."));
        if (faults.Count == 0 && copies.Select(Asked).Distinct().Count() > 1)
            faults.Add(
                new Fault(
                    "codes",
                    "Their extras or rules differ, and one page can ask only one set of questions. Make them the same first, or keep "
                        + "them as a shared set."
                )
            );
        if (copies.Exists(c => c.Product.Parts is not null))
            faults.Add(new Fault("codes", "One of them is made of parts or shows pieces; only goods of their own become variants."));
        if (copies.Select(c => c.Product.Floor).Distinct().Count() > 1)
            faults.Add(new Fault("codes", "They have different floors, and one product has one. Make them the same first."));
        return faults;
    }

    private static bool SameLabels(ImmutableArray<Option> some, ImmutableArray<Option> others) =>
        some.Select(o => o.Label.ToLowerInvariant()).Order().SequenceEqual(others.Select(o => o.Label.ToLowerInvariant()).Order());

    /// <summary>Its extras and rules, to be compared.</summary>
    private static string Asked(WorkingCopy copy) =>
        DocumentWriter
            .Write(new Product(ProductCode.Of("X"), "x") { Extras = copy.Product.Extras, Rules = copy.Product.Rules }, ListedVariants.None)
            .ToJsonString();

    /// <summary>The options of the first with the values that only others have.</summary>
    private static ImmutableArray<Option> Merged(List<WorkingCopy> copies) =>
        [
            .. copies[0]
                .Product.Options.Select(o =>
                    o with
                    {
                        Values =
                        [
                            .. o.Values,
                            .. copies
                                .Skip(1)
                                .SelectMany(c => Own(c, o).Values)
                                .Where(v => o.Find(v.Key) is null)
                                .DistinctBy(v => v.Key)
                                .Select(v => o.Values.Any(x => x.SkuPiece == v.SkuPiece) ? v with { SkuCode = null } : v),
                        ],
                    }
                ),
        ];

    private static Option Own(WorkingCopy copy, Option option) =>
        copy.Product.Options.First(o => string.Equals(o.Label, option.Label, StringComparison.OrdinalIgnoreCase));

    /// <summary>Values by label, since two products may have given the same value other keys.</summary>
    private static Combination Target(WorkingCopy copy, MatrixVariant variant, ImmutableArray<Option> merged, Key option, Key value) =>
        Combination.Of(
            merged
                .Select(o =>
                {
                    var own = Own(copy, o);
                    var label = own.Find(variant.Values[own.Key]!.Value)!;
                    return (
                        o.Key,
                        (
                            o.Find(label.Key)
                            ?? o.Values.First(v => string.Equals(v.Label, label.Label, StringComparison.OrdinalIgnoreCase))
                        ).Key
                    );
                })
                .Append((option, value))
        );

    /// <summary>Baskets ask for the variants where they are, those of the first product too: it asks one question more.</summary>
    private async Task LeadBaskets(Planned plan)
    {
        foreach (var goods in plan.Moved.Cast<MovedGoods.Joined>())
            await BasketLines.Lead(db, goods.From, goods.To, answers =>
                goods.Variants.FirstOrDefault(v => v.Before.Pairs.All(p => answers[p.Option.Text]?.ToString() == p.Value.Text))
                    is { } variant
                    ? Rehoming.Answers(answers, variant.Before, variant.Now)
                    : null
            );
    }

    private static string Words(ImmutableArray<Option> options) =>
        options.IsEmpty ? "no options" : string.Join(", ", options.Select(o => o.Label));
}
