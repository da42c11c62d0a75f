namespace Unicus.Core.Orders;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Pricing;
using Unicus.Core.Stock;

/// <summary>A line of an order, as it was then.</summary>
public sealed record OrderLine
{
    /// <summary>Its place in the order, from 0.</summary>
    public required int Position { get; init; }

    /// <summary>The number of the product.</summary>
    public required int ProductId { get; init; }

    /// <summary>The product's code as it was then.</summary>
    public required string ProductCode { get; init; }

    /// <summary>The edition that was on sale.</summary>
    public required int Edition { get; init; }

    /// <summary>The number of the variant's stock.</summary>
    public required int SkuId { get; init; }

    /// <summary>Empty where it is what a group's own extras cost.</summary>
    public required string Sku { get; init; }

    /// <summary>“Garden hive, deep, cedar”.</summary>
    public required string Title { get; init; }

    /// <summary>What was answered, as it was read then.</summary>
    public required ImmutableArray<OrderedAnswer> Answers { get; init; }

    /// <summary>The same answers as they are asked for again, as JSON; null where an old order has none.</summary>
    public string? Asked { get; init; }

    /// <summary>What was asked of the parts of a set, as JSON; null for nothing.</summary>
    public string? AskedParts { get; init; }

    /// <summary>How its price came about.</summary>
    public required PriceWorking Working { get; init; }

    /// <summary>1 or more.</summary>
    public required int Quantity { get; init; }

    /// <summary>One unit after stage 3 with its floor.</summary>
    public required Money Unit { get; init; }

    /// <summary>The line after stage 5.</summary>
    public required Money Total { get; init; }

    /// <summary>Its share of the basket's reductions; 0 or less.</summary>
    public required Money Reduction { get; init; }

    /// <summary>Contained in, or added to, what was paid for it.</summary>
    public required Money Tax { get; init; }

    /// <summary>What it cost then; null where that was not known.</summary>
    public Money? Cost { get; init; }

    /// <summary>The page that it was bought through.</summary>
    public required string Through { get; init; }

    /// <summary>What is said now that it is ordered; null for nothing.</summary>
    public string? Note { get; init; }

    /// <summary>What it takes of stock, the goods themselves first.</summary>
    public required ImmutableArray<OrderLeaf> Leaves { get; init; }

    /// <summary>What was paid for it.</summary>
    public Money Paid => Total + Reduction;

    /// <summary>The leaves that are parts of it.</summary>
    public IEnumerable<OrderLeaf> PartLeaves => Leaves.Where(l => !l.Path.IsOwn || l.MadeUp);

    /// <summary>The answers to extras; those that make the variant stand in its title.</summary>
    public IEnumerable<OrderedAnswer> Extras => Answers.Where(a => a.Extra);

    /// <summary>What of the line was beyond stock, in a sentence; empty where nothing was.</summary>
    public string BeyondWords =>
        string.Join(
            ' ',
            Leaves
                .Where(l => l.Beyond > 0)
                .Select(l => (l.Place.Leaf == 0 ? "" : $"{l.Name}: ") + Availability.BeyondWords(l.Units, l.Beyond))
        );

    /// <summary>What is sent or cancelled by one press with a leaf, it first: where a set was made up ahead, that and all that is in it;
    /// else the leaf alone.</summary>
    public IReadOnlyList<OrderLeaf> GoesWith(OrderLeaf leaf)
    {
        var made = Leaves.Where(l => l.MadeUp && l.Holds(leaf)).MinBy(l => l.Path.Text.Length);
        return made is null ? [leaf] : [made, .. Leaves.Where(l => l.Place != made.Place && made.Holds(l))];
    }
}

/// <summary>An answer in an order's line, as it was read then.</summary>
/// <param name="Option">The option that it is about.</param>
/// <param name="Value">What was chosen or typed.</param>
/// <param name="Extra">Whether it answers an extra; else it makes the variant.</param>
public sealed record OrderedAnswer(string Option, string Value, bool Extra);
