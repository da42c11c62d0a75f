namespace Unicus.Core.Pricing;

using System.Collections.Immutable;

/// <summary>How bands count.</summary>
public enum BandMode
{
    /// <summary>The band of the total quantity holds for all units.</summary>
    AllUnits,

    /// <summary>Each unit is in its own band.</summary>
    Incremental,
}

/// <summary>A row of bands: a price or a percentage off, from a quantity on.</summary>
/// <param name="From">The first unit that it is for; 2 or more.</param>
/// <param name="Unit">The price of a unit without its answers, in minor units; null where it is a percentage.</param>
/// <param name="Percent">Off the running price; above 0 and at most 100.</param>
public sealed record BandRow(int From, long? Unit, decimal? Percent);

/// <summary>So many units for one price.</summary>
/// <param name="Units">2 or more.</param>
/// <param name="Total">For the pack without answers, in minor units.</param>
public sealed record Pack(int Units, long Total);

/// <summary>What a price rule does. Amounts are whole minor units of the shop's currency.</summary>
public abstract record PriceEffect
{
    private PriceEffect() { }

    /// <summary>Takes something off each unit (stage 3).</summary>
    /// <param name="Percent">Above 0 and at most 100; null where it is an amount.</param>
    /// <param name="Amount">More than 0.</param>
    public sealed record Reduce(decimal? Percent, long? Amount) : PriceEffect;

    /// <summary>Sets the price of a unit; answers come on top (stage 3).</summary>
    public sealed record SetUnit(long Price) : PriceEffect;

    /// <summary>Sets prices by SKU; reaches and counts only the SKUs it names (stage 3).</summary>
    /// <param name="Prices">By SKU in capitals.</param>
    public sealed record SetBySku(ImmutableSortedDictionary<string, long> Prices) : PriceEffect;

    /// <summary>Prices by quantity (stage 4).</summary>
    /// <param name="Mode">How bands act on units.</param>
    /// <param name="AcrossProduct">Whether mixed variants of one product count together; otherwise each line by itself.</param>
    /// <param name="Rows">With rising beginnings.</param>
    public sealed record Bands(BandMode Mode, bool AcrossProduct, ImmutableArray<BandRow> Rows) : PriceEffect;

    /// <summary>Packs: as many full ones as fit, the largest first (stage 4).</summary>
    /// <param name="Rows">The largest first.</param>
    public sealed record Packs(ImmutableArray<Pack> Rows) : PriceEffect;

    /// <summary>Of every so many units the cheapest are reduced (stage 5).</summary>
    /// <param name="InEvery">2 or more.</param>
    /// <param name="Units">How many of them; fewer than <paramref name="InEvery"/>.</param>
    /// <param name="Percent">Above 0 and at most 100.</param>
    public sealed record CheapestOff(int InEvery, int Units, decimal Percent) : PriceEffect;

    /// <summary>Takes something off the rule's goods in the basket (stage 6).</summary>
    /// <param name="Percent">Above 0 and at most 100; null where it is an amount.</param>
    /// <param name="Amount">More than 0.</param>
    public sealed record ReduceBasket(decimal? Percent, long? Amount) : PriceEffect;

    /// <summary>Takes a percentage off delivery.</summary>
    /// <param name="Percent">Above 0 and at most 100.</param>
    public sealed record ReduceDelivery(decimal Percent) : PriceEffect;

    /// <summary>The stage at which it acts.</summary>
    public PriceStage Stage =>
        this switch
        {
            Reduce or SetUnit or SetBySku => PriceStage.Unit,
            Bands or Packs => PriceStage.Quantity,
            CheapestOff => PriceStage.CheapestOff,
            ReduceBasket => PriceStage.Basket,
            _ => PriceStage.Delivery,
        };
}
