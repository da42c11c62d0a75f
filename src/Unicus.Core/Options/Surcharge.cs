namespace Unicus.Core;

/// <summary>What a value adds to the price or, negative, takes off.</summary>
public abstract record Surcharge
{
    private Surcharge() { }

    /// <summary>A fixed amount for each unit.</summary>
    public sealed record PerUnit(Money Amount) : Surcharge;

    /// <summary>A percentage of the base price; several do not compound.</summary>
    public sealed record Percent(Percentage Rate) : Surcharge;

    /// <summary>What this adds to one unit whose base price is <paramref name="basis"/>, rounded half away from zero.</summary>
    public Money On(Money basis) => this switch
    {
        PerUnit s => s.Amount,
        Percent s => s.Rate.Of(basis),
        _ => throw new InvalidOperationException("A kind of surcharge without a rule."),
    };

    /// <summary>How people write it: <c>-32.00</c> or <c>8 %</c>.</summary>
    public string ForPeople() => this switch
    {
        PerUnit s => s.Amount.ForPeople(),
        Percent s => $"{s.Rate} %",
        _ => "",
    };
}
