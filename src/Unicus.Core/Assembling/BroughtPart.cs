namespace Unicus.Core.Assembling;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Answers;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Rules;
using Unicus.Core.Stock;

/// <summary>A part that comes with the picked value of an extra: goods, or a set as it is with nothing picked (domain.md,
/// section 6).</summary>
/// <param name="Question">The key of the extra.</param>
/// <param name="Label">The extra and its value, for messages.</param>
/// <param name="Goods">The variant.</param>
/// <param name="PerUnit">Units of it for each unit of what it comes with; 1 or more.</param>
/// <param name="Set">What it comes apart into; null for goods without parts.</param>
internal sealed record BroughtPart(string Question, string Label, VariantOnSale Goods, int PerUnit, BroughtSet? Set)
{
    /// <summary>Its list price by which what is paid is shared out, for each unit of what it comes with, in minor units.</summary>
    public long Weight => (Set?.Priced.List ?? (Goods.Figures.Price is { } price ? MinorUnits.Of(price) : 0)) * PerUnit;

    /// <summary>What one unit of what it comes with takes.</summary>
    public IEnumerable<LeafNeed> Needs =>
        Set is null
            ? [new LeafNeed(new LeafPath(Question), Goods, PerUnit, Label) { Brought = this }]
            : Set.Needs.Select(n => n.Under(Question, PerUnit, Label, this));

    /// <summary>The parts of the answers that are picked, in the order of the questions.</summary>
    /// <param name="edition">The product.</param>
    /// <param name="shown">Answers of questions that are shown.</param>
    /// <param name="range">Where parts are looked up.</param>
    /// <param name="within">The sets that the product stands in, itself included; null where that is not looked at.</param>
    /// <returns>The parts, or which of them cannot be had.</returns>
    public static Read<ImmutableArray<BroughtPart>> Of(
        Edition edition,
        Configuration shown,
        PublishedRange range,
        EnteredSets? within = null
    )
    {
        List<BroughtPart>? parts = null;
        foreach (var question in edition.Product.Extras)
            foreach (var value in AnswerText.Picked(question, shown[question.Key]))
            {
                if (value.Part is not { } wanted)
                    continue;
                var label = $"{question.Label}: {value.Label}";
                if (range.Part(wanted.Sku) is not { } goods)
                    return Read<ImmutableArray<BroughtPart>>.No($"{label} cannot be had: its part {wanted.Sku} is not on sale.");
                var set = goods.Edition.Product.IsSet ? range.Brought(goods, within) : default;
                if (set.Problem is { } problem)
                    return Read<ImmutableArray<BroughtPart>>.No($"{label} cannot be had: {problem}");
                (parts ??= []).Add(new BroughtPart(question.Key.Text, label, goods, wanted.Quantity, set.Value));
            }
        return Read<ImmutableArray<BroughtPart>>.Of(parts is null ? [] : [.. parts]);
    }
}

/// <summary>A set that comes with an answer: as it is, with what is picked beforehand, and without extras of its own.</summary>
/// <param name="Priced">Its list price and those of its parts; rules of prices stay outside.</param>
/// <param name="Needs">What one unit takes.</param>
/// <param name="Figures">List price and cost of one unit.</param>
internal sealed record BroughtSet(PricedSet Priced, ImmutableArray<LeafNeed> Needs, PartFigures Figures)
{
    /// <summary>Nothing is there, and nobody asks how much.</summary>
    private static readonly StockOutlook NoStock = StockOutlook.Empty(DateOnly.FromDateTime(DateTime.UnixEpoch));

    /// <summary>The classes by which its leaves are taxed; null for the shop's first.</summary>
    public ImmutableArray<string?> TaxClasses { get; private init; } = [];

    /// <summary>The products in it, through every level.</summary>
    public ImmutableArray<int> Products { get; private init; } = [];

    /// <summary>Puts a set together.</summary>
    /// <returns>The set, or why it cannot come with an answer, as the end of a sentence.</returns>
    public static Read<BroughtSet> Of(VariantOnSale goods, PublishedRange range, EnteredSets? within)
    {
        var (edition, variant) = goods;
        if (within is not null && (within.Contains(edition.ProductId) || within.Levels > SetParts.MostLevels))
            return Read<BroughtSet>.No($"{edition.Product.Name} contains what it would come with.");
        var bare = new RunTerms(new TradeTerms(Currency.Euro, false, [], []), null);
        var entered = new EnteredSets(edition.ProductId, within);
        var status = ConfigurationStatus.Within(
            edition,
            Configuration.Of(variant.Values),
            PartAnswers.None,
            Filling.Beforehand,
            new ConfigurationTerms(range, NoStock, bare),
            entered
        );
        var assembled = status.Assembled!;
        if (assembled.Problem is { } problem)
            return Read<BroughtSet>.No(problem);
        if (!status.Reply.Valid || !assembled.IsDecided)
            return Read<BroughtSet>.No($"{edition.Product.Name} leaves something to be picked: {string.Join(", ", assembled.OpenLabels)}.");
        var needs = ComingApart.OwnNeeds(goods, assembled);
        if (needs.IsEmpty)
            return Read<BroughtSet>.No($"{edition.Product.Name} has nothing in it unless something is picked.");
        if (CurrencyOf(edition, assembled) is not { } currency)
            return Read<BroughtSet>.No($"{edition.Product.Name} has no price.");
        var pricing = new SetPricing(bare with { Trade = bare.Trade with { Currency = currency } }, range, rulesReachParts: false);
        if (pricing.Of(edition, assembled, 1) is not { } priced)
            return Read<BroughtSet>.No($"{edition.Product.Name} has no price.");
        priced = WithoutOnce(priced);
        var costs = SetPricing.Costs(priced, edition.Product.Parts!.TaxClass, 1).ToList();
        Money? cost = costs.TrueForAll(c => c.Cost is not null) ? MinorUnits.ToMoney(costs.Sum(c => c.Cost!.Value), currency) : null;
        var figures = new PartFigures(MinorUnits.ToMoney(priced.List, currency), cost, edition.Title(variant));
        return Read<BroughtSet>.Of(
            new BroughtSet(priced, needs, figures)
            {
                TaxClasses = [.. costs.Select(c => c.TaxClass).Distinct()],
                Products = [.. ProductsIn(priced).Append(edition.ProductId).Distinct()],
            }
        );
    }

    /// <summary>Nothing is asked of its parts, so nothing is charged once for their answers either.</summary>
    private static PricedSet WithoutOnce(PricedSet set) =>
        set with
        {
            Parts =
            [
                .. set.Parts.Select(p =>
                    p with
                    {
                        Once = [],
                        ValueCosts = p.ValueCosts with { Once = 0 },
                        Inner = p.Inner is { } inner ? WithoutOnce(inner) : null,
                    }
                ),
            ],
        };

    private static IEnumerable<int> ProductsIn(PricedSet set) =>
        set.Parts.SelectMany(p =>
            p.Brought.SelectMany(b => b.Set?.Products ?? [b.Goods.Edition.ProductId])
                .Concat(p.Inner is { } inner ? ProductsIn(inner) : [])
                .Append(p.Goods.Edition.ProductId)
        );

    private static Currency? CurrencyOf(Edition edition, AssembledSet assembled) =>
        edition.Product.Parts!.Price is SetPrice.Fixed price
            ? price.Amount.Currency
            : assembled
                .Parts.Select(p => p.Status)
                .OfType<ConfigurationStatus>()
                .Select(s => s.Assembled is { } inner ? CurrencyOf(s.Edition, inner) : s.Variant?.Price.Figure?.Currency)
                .FirstOrDefault(c => c is not null);
}
