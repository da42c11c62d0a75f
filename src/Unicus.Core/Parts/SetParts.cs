namespace Unicus.Core.Parts;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;

/// <summary>Whether parts make one thing or are each bought by themselves.</summary>
public enum Sold
{
    /// <summary>For one price, all or none: a bundle or a kit.</summary>
    Together,

    /// <summary>From one page, each with its own quantity: a group.</summary>
    Separately,
}

/// <summary>What stock a set takes.</summary>
public enum SetStock
{
    /// <summary>Its parts'.</summary>
    Parts,

    /// <summary>Its own, made up ahead.</summary>
    Own,

    /// <summary>Its own first, then its parts'.</summary>
    OwnThenParts,
}

/// <summary>How the page of a group is arranged.</summary>
public enum Arrangement
{
    /// <summary>A compact list.</summary>
    List,

    /// <summary>Full pieces.</summary>
    Pieces,

    /// <summary>Led by pictures with pins.</summary>
    Lookbook,
}

/// <summary>What the price line of a group says.</summary>
public enum PriceLine
{
    /// <summary>The lowest price of a piece.</summary>
    From,

    /// <summary>The lowest and the highest.</summary>
    Span,

    /// <summary>What the default quantities come to.</summary>
    Default,

    /// <summary>Nothing.</summary>
    None,
}

/// <summary>How the list price of parts that are sold together is made.</summary>
public abstract record SetPrice
{
    private SetPrice() { }

    /// <summary>The sum of the parts, less a reduction.</summary>
    public sealed record Sum(PartReduction? Reduce) : SetPrice;

    /// <summary>An amount, and the extra of picks that say so.</summary>
    public sealed record Fixed(Money Amount) : SetPrice;
}

/// <summary>A pin of a picture that leads to a piece.</summary>
/// <param name="Slot">The slot.</param>
/// <param name="X">From 0 at the left to 1.</param>
/// <param name="Y">From 0 at the top to 1.</param>
public sealed record Pin(Key Slot, decimal X, decimal Y);

/// <summary>A picture of a lookbook with its pins.</summary>
/// <param name="File">Its name in the picture store.</param>
/// <param name="Alt">What stands for it where it cannot be seen.</param>
/// <param name="Pins">What lies where on it.</param>
public sealed record LookbookPicture(string File, string Alt, ImmutableArray<Pin> Pins);

/// <summary>What a product is put together from, or presents (domain.md, section 6).</summary>
public sealed record SetParts
{
    /// <summary>Slots of one product at most.</summary>
    public const int MostSlots = 200;

    /// <summary>Levels of sets within sets at most.</summary>
    public const int MostLevels = 12;

    /// <summary>Whether the parts make one thing.</summary>
    public Sold Sold { get; init; }

    /// <summary>What stock a set takes.</summary>
    public SetStock Stock { get; init; }

    /// <summary>How its list price is made.</summary>
    public SetPrice Price { get; init; } = new SetPrice.Sum(null);

    /// <summary>Whether price rules that are about a part act on it inside.</summary>
    public bool RulesReachParts { get; init; }

    /// <summary>The tax class of the whole; null: each leaf has its own.</summary>
    public string? TaxClass { get; init; }

    /// <summary>The places that parts fill, in order.</summary>
    public ImmutableArray<Slot> Slots { get; init; } = [];

    /// <summary>How the page of a group is arranged.</summary>
    public Arrangement Arrangement { get; init; }

    /// <summary>The pictures of a lookbook.</summary>
    public ImmutableArray<LookbookPicture> Pictures { get; init; } = [];

    /// <summary>What a piece of a group shows, where its slot does not say otherwise.</summary>
    public PieceShows Shows { get; init; } = PieceShows.Everything;

    /// <summary>What the pieces of a slot show.</summary>
    public PieceShows ShowsOf(Slot slot) => slot.Shows ?? Shows;

    /// <summary>What the price line of a group says.</summary>
    public PriceLine PriceLine { get; init; }

    /// <summary>Whether nothing is taken from parts when one is sold.</summary>
    public bool IsMadeUp => Sold == Sold.Together && Stock != SetStock.Parts;
}
