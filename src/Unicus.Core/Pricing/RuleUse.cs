namespace Unicus.Core;

/// <summary>A rule in one run of prices: the lines in its scope and what became of it.</summary>
internal sealed class RuleUse
{
    public RuleUse(PriceRule rule)
    {
        Rule = rule;
        Rate = rule.Effect switch
        {
            PriceEffect.Reduce { Percent: { } p } => new Rate(p),
            PriceEffect.CheapestOff c => new Rate(c.Percent),
            PriceEffect.ReduceBasket { Percent: { } p } => new Rate(p),
            PriceEffect.ReduceDelivery d => new Rate(d.Percent),
            _ => default,
        };
        Rates = rule.Effect is PriceEffect.Bands bands ? [.. bands.Rows.Select(r => r.Percent is { } p ? new Rate(p) : default)] : [];
    }

    public PriceRule Rule { get; }

    /// <summary>The percentage of its effect, where it has one.</summary>
    public Rate Rate { get; }

    /// <summary>The percentages of its bands.</summary>
    public Rate[] Rates { get; }

    /// <summary>The lines in its scope, in the order of the basket.</summary>
    public List<LineRun> Lines { get; } = [];

    /// <summary>Units in its scope.</summary>
    public long Quantity { get; set; }

    /// <summary>Whether it may act, everything that it asks for holding but a basket's amount.</summary>
    public bool IsReady { get; set; }

    /// <summary>What it moved, in minor units; 0 or less.</summary>
    public long Moved { get; set; }

    /// <summary>What its goods come to where a basket amount kept it from acting.</summary>
    public long? FellShortAt { get; set; }

    /// <summary>What its goods come to after stage 5, and after stage 6 as well where that is asked.</summary>
    public long Amount(bool afterBasket)
    {
        var amount = 0L;
        foreach (var line in Lines)
            amount += line.Total + (afterBasket ? line.Share : 0);
        return amount;
    }
}
