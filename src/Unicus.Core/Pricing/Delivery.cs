using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>One row of a table of delivery charges.</summary>
/// <param name="WeightUpToGrams">The heaviest parcel that the row is for, inclusive; null: any.</param>
/// <param name="FromBasket">What the goods must cost at least; null: anything.</param>
/// <param name="Amount">The charge, in the shop's price mode.</param>
public sealed record DeliveryRate(int? WeightUpToGrams, Money? FromBasket, Money Amount);

/// <summary>A way in which goods are sent to a destination.</summary>
/// <param name="Key">Unique within its destination.</param>
/// <param name="Label">What shoppers read.</param>
/// <param name="TaxClass">The key of the class that its charge is taxed by.</param>
/// <param name="Rates">At least one row.</param>
public sealed record DeliveryService(Key Key, string Label, string TaxClass, ImmutableArray<DeliveryRate> Rates)
{
    /// <summary>The charge for a parcel; null where no row is for it, so that this service does not take it.</summary>
    /// <param name="grams">What the goods weigh; 0 or more.</param>
    /// <param name="goods">What they cost after stage 6.</param>
    /// <remarks>Of the rows that hold, the one for the lightest parcels counts, and of these the one for the dearest goods.</remarks>
    public Money? Charge(long grams, Money goods) =>
        Rates
            .Where(r => !(r.WeightUpToGrams < grams) && !(r.FromBasket > goods))
            .OrderBy(r => r.WeightUpToGrams ?? int.MaxValue)
            .ThenByDescending(r => r.FromBasket?.Amount ?? decimal.MinValue)
            .FirstOrDefault()
            ?.Amount;

    /// <summary>The charge where it is the same for everything; null where it hangs on weight or price.</summary>
    public Money? FlatCharge => Rates is [{ WeightUpToGrams: null, FromBasket: null } only] ? only.Amount : null;

    /// <summary>A service that takes everything for one charge.</summary>
    public static DeliveryService Flat(Money charge, string taxClass) =>
        new(Key.Of("standard"), "Standard", taxClass, [new DeliveryRate(null, null, charge)]);
}
