namespace Unicus.Core.Pricing;

/// <summary>The stages at which rules move prices, in their order (domain.md, section 5: stages 3 to 6, and delivery). List price and
/// answers come before them, floor and tax after.</summary>
public enum PriceStage
{
    /// <summary>Each unit by itself: stage 3.</summary>
    Unit,

    /// <summary>What many units cost: stage 4.</summary>
    Quantity,

    /// <summary>The cheapest of several: stage 5.</summary>
    CheapestOff,

    /// <summary>The basket as a whole: stage 6.</summary>
    Basket,

    /// <summary>The charge of delivery.</summary>
    Delivery,
}

/// <summary>What belongs to each stage.</summary>
/// <typeparam name="T">What there is of each.</typeparam>
public sealed class ByStage<T>
{
    private readonly T[] _all;

    /// <summary>Made of what belongs to each.</summary>
    public ByStage(Func<PriceStage, T> of) => _all = [.. Enum.GetValues<PriceStage>().Select(of)];

    /// <summary>In the order of the stages.</summary>
    public IEnumerable<T> All => _all;

    /// <summary>What belongs to a stage.</summary>
    public T this[PriceStage stage] => _all[(int)stage];
}
