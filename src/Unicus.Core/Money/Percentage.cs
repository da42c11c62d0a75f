namespace Unicus.Core.Money;

using System.Globalization;

/// <summary>A percentage such as 12.5; negative ones take off.</summary>
/// <param name="Value">In per cent: 12.5 means 12.5 of 100.</param>
public readonly record struct Percentage(decimal Value)
{
    /// <summary>The amount that this percentage adds to <paramref name="whole"/>, rounded half away from zero.</summary>
    public Money Of(Money whole) => new(whole.Amount * Value / 100, whole.Currency);

    /// <summary>What remains of <paramref name="whole"/> when this percentage is taken off: round(x·(100−p)/100).</summary>
    public Money TakenOff(Money whole) => new(whole.Amount * (100 - Value) / 100, whole.Currency);

    /// <summary>The tax contained in a price that includes it: x·p/(100+p), rounded half away from zero.</summary>
    /// <remarks>At 20 % the fraction is 1/6 (HMRC VAT Notice 700, from memory).</remarks>
    public Money ContainedIn(Money gross) => new(gross.Amount * Value / (100 + Value), gross.Currency);

    /// <inheritdoc/>
    public override string ToString() => Value.ToString("0.############", CultureInfo.InvariantCulture);
}
