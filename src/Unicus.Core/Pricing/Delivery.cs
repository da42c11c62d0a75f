namespace Unicus.Core.Pricing;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;

/// <summary>What is sent together; goods that are not shipped are not among it.</summary>
/// <param name="Grams">0 or more.</param>
/// <param name="LongestMm">The longest side of anything in it; 0 where no size is known.</param>
/// <param name="Goods">The products in it.</param>
public sealed record Parcel(long Grams, int LongestMm, ImmutableArray<ParcelGoods> Goods);

/// <summary>A product in a parcel.</summary>
/// <param name="Code">Its code.</param>
/// <param name="Tags">Its tags.</param>
public sealed record ParcelGoods(string Code, ImmutableArray<string> Tags);

/// <summary>One row of a table of delivery charges.</summary>
/// <param name="WeightUpToGrams">The heaviest parcel that the row is for, inclusive; null: any.</param>
/// <param name="FromBasket">What the goods must cost at least; null: anything.</param>
/// <param name="Amount">The charge, in the shop's price mode.</param>
public sealed record DeliveryRate(int? WeightUpToGrams, Money? FromBasket, Money Amount)
{
    /// <summary>The longest side of a parcel that the row is for, inclusive; null: any.</summary>
    public int? LongestUpToMm { get; init; }
}

/// <summary>What is charged once besides where anything bulky is sent.</summary>
/// <param name="Tags">Goods with one of these tags are bulky.</param>
/// <param name="Products">So are these, by their codes.</param>
/// <param name="Amount">What it comes to.</param>
public sealed record BulkyCharge(ImmutableArray<string> Tags, ImmutableArray<string> Products, Money Amount)
{
    /// <summary>Whether anything in a parcel is bulky.</summary>
    public bool IsFor(Parcel parcel) =>
        parcel.Goods.Any(g => Products.Contains(g.Code) || g.Tags.Any(t => Tags.Contains(t, StringComparer.OrdinalIgnoreCase)));

    /// <summary>Whether the other is charged for the same goods.</summary>
    public bool Equals(BulkyCharge? other) =>
        other is not null && Amount == other.Amount && Tags.SequenceEqual(other.Tags) && Products.SequenceEqual(other.Products);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Amount, Tags.Length, Products.Length);
}

/// <summary>A way in which goods are sent to a destination.</summary>
/// <param name="Key">Unique within its destination.</param>
/// <param name="Label">What shoppers read.</param>
/// <param name="TaxClass">The key of the class that its charge is taxed by.</param>
/// <param name="Rates">At least one row.</param>
public sealed record DeliveryService(Key Key, string Label, string TaxClass, ImmutableArray<DeliveryRate> Rates)
{
    /// <summary>What bulky goods cost besides; null: nothing.</summary>
    public BulkyCharge? Bulky { get; init; }

    /// <summary>The charge for a parcel; null where no row is for it, so that this service does not take it.</summary>
    /// <param name="parcel">What is sent.</param>
    /// <param name="goods">What the goods cost after stage 6.</param>
    /// <remarks>Of the rows that hold, the one for the lightest parcels counts, of these the one for the shortest, and of these the one
    /// for the dearest goods.</remarks>
    public Money? Charge(Parcel parcel, Money goods)
    {
        var row = Rates
            .Where(r => !(r.WeightUpToGrams < parcel.Grams) && !(r.LongestUpToMm < parcel.LongestMm) && !(r.FromBasket > goods))
            .OrderBy(r => r.WeightUpToGrams ?? int.MaxValue)
            .ThenBy(r => r.LongestUpToMm ?? int.MaxValue)
            .ThenByDescending(r => r.FromBasket?.Amount ?? decimal.MinValue)
            .FirstOrDefault();
        return row is null ? null
            : Bulky is { } bulky && bulky.IsFor(parcel) ? row.Amount + bulky.Amount
            : row.Amount;
    }

    /// <summary>The charge where it is the same for everything; null where it hangs on what is sent.</summary>
    public Money? FlatCharge =>
        Rates is [{ WeightUpToGrams: null, LongestUpToMm: null, FromBasket: null } only] && Bulky is null ? only.Amount : null;

    /// <summary>A service that takes everything for one charge.</summary>
    public static DeliveryService Flat(Money charge, string taxClass) =>
        new(Key.Of("standard"), "Standard", taxClass, [new DeliveryRate(null, null, charge)]);
}
