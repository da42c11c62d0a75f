namespace Unicus.Core.Pricing.Stages;

/// <summary>A rule in one run of prices: the lines in its scope and what became of it.</summary>
internal sealed class RuleUse
{
    private readonly Kind _kind;

    /// <summary>What it takes off, or the price that it sets, in minor units.</summary>
    private readonly long _amount;

    private enum Kind
    {
        Other,
        Percent,
        Amount,
        Price,
        BySku,
    }

    /// <summary>Whether it is of stage 3 and of the same kind as another, so that the one that says more always comes to less.</summary>
    public bool IsLike(RuleUse other) => _kind == other._kind && _kind is Kind.Percent or Kind.Amount or Kind.Price;

    /// <summary>How much lower a unit becomes by it than by others of its kind, on a scale of its own.</summary>
    public decimal Depth =>
        _kind switch
        {
            Kind.Percent => ((PriceEffect.Reduce)Rule.Effect).Percent!.Value,
            Kind.Amount => _amount,
            _ => -_amount,
        };

    /// <summary>The price, in minor units, from which a rule that takes so much less off cannot come to the same by rounding.</summary>
    public long DiffersFrom(RuleUse other) =>
        _kind == Kind.Percent && Depth > other.Depth ? (long)Math.Min(long.MaxValue, Math.Ceiling(100 / (Depth - other.Depth))) : 0;

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
        (_kind, _amount) = rule.Effect switch
        {
            PriceEffect.Reduce { Amount: { } amount } => (Kind.Amount, amount),
            PriceEffect.Reduce => (Kind.Percent, 0),
            PriceEffect.SetUnit set => (Kind.Price, set.Price),
            PriceEffect.SetBySku => (Kind.BySku, 0),
            _ => (Kind.Other, 0),
        };
        Bands = rule.Effect as PriceEffect.Bands;
        Rows = Bands is null ? [] : [.. Bands.Rows.Select(r => new BandPrice(r))];
    }

    public PriceRule Rule { get; }

    /// <summary>What it leaves of a running price at stage 3; never more than that, and never below 0.</summary>
    /// <param name="line">Its SKU and what its answers add to a unit.</param>
    /// <param name="running">What the unit has come to, in minor units.</param>
    public long Left(LineRun line, long running)
    {
        switch (_kind)
        {
            case Kind.Percent:
                return Rate.Remains(running);
            case Kind.Amount:
                return Math.Max(0, running - _amount);
            case Kind.Price:
                return Math.Min(running, Math.Max(0, _amount + line.Answers));
            case Kind.BySku:
                var price = ((PriceEffect.SetBySku)Rule.Effect).Prices[line.Of.Sku];
                return Math.Min(running, Math.Max(0, price + line.Answers));
            default:
                return running;
        }
    }

    /// <summary>The percentage of its effect, where it has one.</summary>
    public Rate Rate { get; }

    /// <summary>Its bands, where it has some.</summary>
    public PriceEffect.Bands? Bands { get; }

    /// <summary>What its bands make of a unit, with rising beginnings.</summary>
    public BandPrice[] Rows { get; }

    /// <summary>The lines in its scope, in the order of the basket; of rules of stage 3, and of bands and packs that count each line by
    /// itself, they are not kept.</summary>
    public List<LineRun> Lines { get; } = [];

    /// <summary>Whether <see cref="Lines"/> are kept.</summary>
    public bool KeepsLines => Rule.Effect is PriceEffect.Bands { AcrossProduct: true } || Rule.Effect.Stage > PriceStage.Quantity;

    /// <summary>Where each line stands, where mixed variants count together; null where each line counts by itself.</summary>
    public Dictionary<LineRun, PlaceInBands>? Places { get; set; }

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

/// <summary>What a band makes of a unit.</summary>
internal readonly struct BandPrice(BandRow row)
{
    private readonly long _unit = row.Unit ?? -1;
    private readonly Rate _rate = row.Percent is { } percent ? new Rate(percent) : default;

    /// <summary>The first unit that it is for; 2 or more.</summary>
    public int From { get; } = row.From;

    /// <summary>One unit of a line in it, in minor units.</summary>
    public long Of(LineRun line) => _unit < 0 ? _rate.Remains(line.Unit) : Math.Min(line.Unit, Math.Max(0, _unit + line.Answers));
}
