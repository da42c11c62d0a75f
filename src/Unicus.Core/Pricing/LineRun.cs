namespace Unicus.Core;

/// <summary>A line on its way through the stages of a price, in whole minor units of its currency.</summary>
/// <remarks>Stages 3 to 7 act on it between its answers and what is paid; the trace costs nothing where it is left out.</remarks>
internal sealed class LineRun
{
    private readonly List<WorkingStep>? _trace;
    private readonly int _quantity;
    private readonly Currency _currency;

    private LineRun(Money list, int quantity, List<WorkingStep>? trace)
    {
        (_currency, _quantity, _trace) = (list.Currency, quantity, trace);
        List = Unit = MinorUnits.Of(list);
    }

    /// <summary>Of one unit: the list price, L.</summary>
    public long List { get; }

    /// <summary>Of one unit: what its answers add, A.</summary>
    public long Answers { get; private set; }

    /// <summary>For the line: surcharges that are due once.</summary>
    public long Once { get; private set; }

    /// <summary>Of one unit: the running price, x; after stage 3 with its floor the price of a unit.</summary>
    public long Unit { get; private set; }

    /// <summary>For the line: its share of what the basket is reduced by; 0 or less.</summary>
    public long Reduction { get; }

    /// <summary>The line after stage 5.</summary>
    public long Total => Unit * _quantity + Once;

    /// <summary>The line without the list prices of its parts: the weight of the goods themselves when it is shared out.</summary>
    public long OwnWeight => (List + Answers - Parts) * _quantity + Once;

    /// <summary>Of one unit: the part of A that is the list price of parts.</summary>
    private long Parts { get; set; }

    /// <summary>Stages 1 and 2: the list price and what the answers add.</summary>
    /// <param name="title">The label of the first step.</param>
    /// <param name="amounts">As <see cref="AnswerPricing.Amounts"/> gives them.</param>
    /// <param name="quantity">Units; 1 or more.</param>
    /// <param name="trace">Whether the working is written.</param>
    public static LineRun Start(string title, Money list, IEnumerable<AnswerAmount> amounts, int quantity, bool trace = true)
    {
        var line = new LineRun(list, quantity, trace ? [new WorkingStep(PriceStep.List, title, list)] : null);
        foreach (var amount in amounts)
            line.Add(amount);
        return line;
    }

    /// <summary>The account of it; empty where none was written.</summary>
    public PriceWorking Working() => new([.. _trace ?? []], _quantity, _currency);

    private void Add(AnswerAmount amount)
    {
        var minor = MinorUnits.Of(amount.Amount);
        if (amount.PerLine)
            Once += minor;
        else
            (Answers, Unit) = (Answers + minor, Unit + minor);
        if (amount.PartPrice is not null)
            Parts += minor;
        _trace?.Add(amount.Step());
    }
}
