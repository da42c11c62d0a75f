namespace Unicus.Core.Assembling;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Parts;
using Unicus.Core.Range;
using Unicus.Core.Rules;

/// <summary>Something in stock that one unit of a line takes.</summary>
/// <param name="Path">Where it comes from.</param>
/// <param name="Goods">The variant.</param>
/// <param name="PerUnit">Units of it for each unit of the line; 1 or more.</param>
/// <param name="Label">The answer that brought it, for messages; empty for the goods themselves.</param>
public sealed record LeafNeed(LeafPath Path, VariantOnSale Goods, int PerUnit, string Label)
{
    /// <summary>The label of the outermost slot that it stands in, or of the answer that brought the set it is in; null where it stands
    /// in none.</summary>
    internal string? Slot { get; init; }

    /// <summary>The part that an answer of the line itself brought, which it is or is in; null for all else.</summary>
    internal BroughtPart? Brought { get; init; }

    /// <summary>The answer or slot that brought it, for messages; empty for the goods themselves.</summary>
    public string Label
    {
        get => Slot is null ? field : $"{Slot}: {Goods.Figures.Name}";
        init;
    } = Label;

    /// <summary>What is taken for each of it that was not made up ahead; empty where it does not come apart.</summary>
    public ImmutableArray<LeafNeed> Apart { get; init; } = [];

    /// <summary>Whether what is missing of it is taken from its parts.</summary>
    public bool ComesApart => !Apart.IsEmpty;

    /// <summary>It and all that it may come apart into.</summary>
    public IEnumerable<LeafNeed> All => Apart.SelectMany(n => n.All).Prepend(this);

    /// <summary>The same within a slot, or behind an answer.</summary>
    /// <param name="key">The key of the slot that it lies in.</param>
    /// <param name="times">Units of what stands there, for each unit of the line.</param>
    /// <param name="label">Of the slot or the answer.</param>
    /// <param name="brought">The part of an answer of the line itself that it is in.</param>
    internal LeafNeed Under(string key, int times, string label, BroughtPart? brought = null) =>
        this with
        {
            Path = Path.Under(key),
            PerUnit = (int)Math.Min(int.MaxValue, (long)PerUnit * times),
            Slot = label,
            Brought = brought,
            Apart = Apart.IsEmpty ? Apart : [.. Apart.Select(n => n.ApartUnder(key))],
        };

    /// <summary>What something made up ahead may come apart into is counted for each of that.</summary>
    private LeafNeed ApartUnder(string key) =>
        this with
        {
            Path = Path.Under(key),
            Apart = Apart.IsEmpty ? Apart : [.. Apart.Select(n => n.ApartUnder(key))],
        };
}

/// <summary>A stocked variant that a line takes, after everything in it has come apart.</summary>
/// <param name="Path">Where it comes from.</param>
/// <param name="Goods">The variant.</param>
/// <param name="Units">For the whole line; 1 or more.</param>
/// <param name="Allocated">Its share of what is paid for the line.</param>
/// <param name="Cost">What its units cost the merchant; null where that is not known.</param>
public sealed record Leaf(LeafPath Path, VariantOnSale Goods, long Units, Money Allocated, Money? Cost)
{
    /// <summary>The key of the class that it is taxed by: that of the set which names one, else its own.</summary>
    public string? TaxClass { get; init; } = Goods.TaxClass;
}

/// <summary>Takes a line apart into the stocked variants that it is made of (domain.md, section 6).</summary>
/// <remarks>A plain variant is one leaf of itself; the part that comes with an extra's value is a leaf beside it; a set is the leaves of
/// its parts, or itself where it is made up ahead.</remarks>
public static class ComingApart
{
    /// <summary>What one unit takes, the goods themselves first, then parts in the order of the questions.</summary>
    /// <param name="goods">The variant of the line.</param>
    /// <param name="shown">Answers of questions that are shown.</param>
    /// <param name="range">Where parts are looked up.</param>
    /// <param name="assembled">The parts of a set; null for a product without.</param>
    /// <param name="within">The sets that it stands in, itself included.</param>
    /// <returns>The needs, or which part cannot be had.</returns>
    internal static Read<ImmutableArray<LeafNeed>> Needs(
        VariantOnSale goods,
        Configuration shown,
        PublishedRange range,
        AssembledSet? assembled,
        EnteredSets within
    )
    {
        if (assembled is { Problem: { } problem })
            return Read<ImmutableArray<LeafNeed>>.No(problem);
        var brought = BroughtPart.Of(goods.Edition, shown, range, within);
        if (brought.Problem is { } missing)
            return Read<ImmutableArray<LeafNeed>>.No(missing);
        var own = OwnNeeds(goods, assembled);
        return Read<ImmutableArray<LeafNeed>>.Of(brought.Value.IsEmpty ? own : [.. own, .. brought.Value.SelectMany(b => b.Needs)]);
    }

    /// <summary>What one unit takes besides what answers bring; a group has no stock of its own.</summary>
    internal static ImmutableArray<LeafNeed> OwnNeeds(VariantOnSale goods, AssembledSet? assembled) =>
        assembled is not null ? OfSet(goods, assembled)
        : goods.Edition.Product.IsGroup ? []
        : [new LeafNeed(LeafPath.Own, goods, 1, "")];

    private static ImmutableArray<LeafNeed> OfSet(VariantOnSale goods, AssembledSet assembled)
    {
        var needs = ImmutableArray.CreateBuilder<LeafNeed>(assembled.Parts.Length);
        foreach (var part in assembled.Parts)
            if (part.Status is { Needs.Ok: true, Variant: not null })
                needs.AddRange(OfPart(part));
        var parts = needs.DrainToImmutable();
        return goods.Edition.Product.Parts!.Stock switch
        {
            SetStock.Own => [new LeafNeed(LeafPath.Own, goods, 1, "")],
            SetStock.OwnThenParts => [new LeafNeed(LeafPath.Own, goods, 1, "") { Apart = parts }],
            _ => parts,
        };
    }

    /// <summary>What is taken to make one up ahead, each SKU once: a part that is itself made up ahead is taken as it is.</summary>
    /// <returns>Empty where something in it is open or cannot be had.</returns>
    public static ImmutableArray<LeafNeed> ToMakeUp(AssembledSet assembled) =>
        !assembled.IsDecided || assembled.Parts.Any(p => p.Status is not { IsWhole: true })
            ? []
            :
            [
                .. assembled
                    .Parts.SelectMany(OfPart)
                    .GroupBy(n => n.Goods.Variant.Sku)
                    .Select(g => g.First() with { PerUnit = g.Sum(n => n.PerUnit), Apart = [] }),
            ];

    private static IEnumerable<LeafNeed> OfPart(PickedPart part)
    {
        var (slot, units) = (part.Slot.Slot, part.Units ?? part.Slot.Slot.Quantity.Min);
        return part.Status!.Needs.Value.Select(n => n.Under(slot.Key.Text, units, slot.Label));
    }
}
