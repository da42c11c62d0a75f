namespace Unicus.Core.Pricing.Stages;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Pricing.Answers;

// Together with RuleUse: a rule counts the lines that it holds, a line remembers the rules that moved it.
/// <summary>A line on its way through the stages of a price, in whole minor units of its currency.</summary>
/// <remarks>The trace costs nothing where it is left out.</remarks>
internal sealed class LineRun
{
    /// <summary>Where the steps of a working are put together; each thread has its own.</summary>
    [ThreadStatic]
    private static List<WorkingStep>? _steps;

    /// <summary>The steps of stages 1 and 2; null where no working is written.</summary>
    private readonly IEnumerable<WorkingStep>? _before;

    private Noted? _last;

    /// <summary>What a rule or the floor did, as it is noted on the way; made a step when the working is asked for.</summary>
    private sealed record Noted(Noted? Before, PriceStep Step, string Label, long Amount, bool PerLine, string? Rule);

    private LineRun(LineGoods of, int quantity, IEnumerable<WorkingStep>? steps) => (Of, Quantity, _before) = (of, quantity, steps);

    /// <summary>What is sold.</summary>
    public LineGoods Of { get; }

    /// <summary>Its place in the basket, from 0.</summary>
    public int Number { get; private init; }

    /// <summary>Units; 1 or more.</summary>
    public int Quantity { get; }

    /// <summary>Of one unit: the list price, L.</summary>
    public long List => Of.List;

    /// <summary>Of one unit: what its answers add, A.</summary>
    public long Answers { get; private set; }

    /// <summary>For the line: surcharges that are due once.</summary>
    public long Once { get; private set; }

    /// <summary>Of one unit: the running price, x; after stage 3 with its floor the price of a unit.</summary>
    public long Unit { get; private set; }

    /// <summary>The line without what is due once, after the stage so far; from the end of stage 3 on.</summary>
    public long Goods { get; private set; }

    /// <summary>Whether the floor gave something back behind stage 3, 4 or 5.</summary>
    public bool IsHeld { get; private set; }

    /// <summary>Whether an <em>alone</em> rule acts on it at stage 3, so that it takes no part in stages 4 and 5.</summary>
    public bool StandsAlone { get; set; }

    /// <summary>Whether it may stand alone; false where a bound for several lines is looked for, of which not all do.</summary>
    public bool MayStandAlone { get; set; } = true;

    /// <summary>For the line: its share of what the basket is reduced by; 0 or less.</summary>
    public long Share { get; set; }

    /// <summary>The line after the stage so far, what is due once included.</summary>
    public long Total => Goods + Once;

    /// <summary>How far later stages may still reduce the line.</summary>
    public long RoomLeft => Of.Room is { } room ? room * Quantity - ((List + Answers) * Quantity - Goods) : long.MaxValue;

    /// <summary>The line without the list prices of its parts: the weight of the goods themselves when it is shared out.</summary>
    public long OwnWeight => (List + Answers - Parts) * Quantity + Once;

    /// <summary>Of one unit: the part of A that is the list price of parts.</summary>
    private long Parts { get; set; }

    /// <summary>A line with its answers already reckoned, without a working.</summary>
    /// <param name="of">What the line is of.</param>
    /// <param name="answers">A, in minor units.</param>
    /// <param name="quantity">Units of the line; 1 or more.</param>
    /// <param name="once">What is due once, in minor units.</param>
    public static LineRun Bare(LineGoods of, long answers, int quantity, long once = 0) =>
        Start(of, 0, quantity, new AnswerSheet.Sum(answers, once), null);

    /// <summary>Stages 1 and 2 with the answers added up already.</summary>
    /// <param name="of">What the line is of.</param>
    /// <param name="number">Its place in the basket, from 0.</param>
    /// <param name="quantity">Units; 1 or more.</param>
    /// <param name="answers">What the answers add.</param>
    /// <param name="steps">The steps of both stages, gone through when the working is asked for; null: none is written.</param>
    public static LineRun Start(LineGoods of, int number, int quantity, AnswerSheet.Sum answers, IEnumerable<WorkingStep>? steps) =>
        new(of, quantity, steps)
        {
            Number = number,
            Answers = answers.Each,
            Once = answers.Once,
            Unit = of.List + answers.Each,
            Goods = (of.List + answers.Each) * quantity,
        };

    /// <summary>Stages 1 and 2: the list price and what the answers add.</summary>
    /// <param name="of">What the line is of.</param>
    /// <param name="title">The label of its first step.</param>
    /// <param name="number">Its place in the basket, from 0.</param>
    /// <param name="quantity">Units; 1 or more.</param>
    /// <param name="amounts">As <see cref="AnswerPricing.Amounts"/> gives them.</param>
    /// <param name="trace">Whether the working is written.</param>
    public static LineRun Start(LineGoods of, string title, int number, int quantity, IEnumerable<AnswerAmount> amounts, bool trace = true)
    {
        return Start(of, [of.Step(title)], [], number, quantity, amounts, trace);
    }

    /// <summary>Stages 1 and 2 of a set.</summary>
    /// <param name="of">What the line is of.</param>
    /// <param name="steps">How its list price is made up.</param>
    /// <param name="once">What parts' answers add once for the line.</param>
    /// <param name="number">Its place, from 0.</param>
    /// <param name="quantity">Units of the line; 1 or more.</param>
    /// <param name="amounts">What its own answers add.</param>
    /// <inheritdoc cref="Start(LineGoods, string, int, int, IEnumerable{AnswerAmount}, bool)"/>
    /// <param name="trace">Whether the working is written.</param>
    public static LineRun Start(
        LineGoods of,
        IEnumerable<WorkingStep> steps,
        IEnumerable<WorkingStep> once,
        int number,
        int quantity,
        IEnumerable<AnswerAmount> amounts,
        bool trace
    )
    {
        ImmutableArray<AnswerAmount> own = [.. amounts];
        ImmutableArray<WorkingStep> ofParts = [.. once];
        var each = own.Where(a => !a.PerLine).Sum(a => MinorUnits.Of(a.Amount));
        var due = own.Where(a => a.PerLine).Sum(a => MinorUnits.Of(a.Amount)) + ofParts.Sum(s => MinorUnits.Of(s.Amount));
        IEnumerable<WorkingStep>? before = trace ? [.. steps, .. own.Select(a => a.Step()), .. ofParts] : null;
        var run = Start(of, number, quantity, new AnswerSheet.Sum(each, due), before);
        run.Parts = own.Where(a => a.PartPrice is not null).Sum(a => MinorUnits.Of(a.Amount));
        return run;
    }

    /// <summary>Whether its amounts can be reckoned with and charged at all.</summary>
    public bool IsChargeable
    {
        get
        {
            if (Quantity <= 1_000 && Math.Abs(List) < Usual && Math.Abs(Unit) < Usual && Math.Abs(Once) < Usual)
                return true;
            var most = (Int128)Money.Most * TenTo(Of.Currency.MinorUnits);
            return Math.Abs(List) * (Int128)Quantity <= most && Int128.Abs((Int128)Unit * Quantity + Once) <= most;
        }
    }

    /// <summary>A rule leaves so much of a unit (stage 3).</summary>
    public void TakeUnit(RuleUse use, long left)
    {
        if (left == Unit)
            return;
        use.Moved += (left - Unit) * Quantity;
        Trace(PriceStep.Unit, use.Rule.Name, left - Unit, perLine: false, use.Rule.Id);
        Unit = left;
    }

    /// <summary>The floor behind stage 3; the line is then what its units come to.</summary>
    public void EndUnits()
    {
        if (Of.Room is { } room && List + Answers - room > Unit)
        {
            var given = List + Answers - room - Unit;
            Trace(PriceStep.Floor, FloorLabel, given, perLine: false, null);
            Unit += given;
            IsHeld = true;
        }
        Goods = Unit * Quantity;
    }

    /// <summary>A rule leaves so much of the line (stages 4 and 5).</summary>
    public void TakeGoods(PriceStep step, RuleUse use, long left)
    {
        if (left == Goods)
            return;
        use.Moved += left - Goods;
        Trace(step, use.Rule.Name, left - Goods, perLine: true, use.Rule.Id);
        Goods = left;
    }

    /// <summary>The floor behind stage 4 or 5.</summary>
    public void EndGoods()
    {
        if (RoomLeft >= 0)
            return;
        Trace(PriceStep.Floor, FloorLabel, -RoomLeft, perLine: true, null);
        Goods -= RoomLeft;
        IsHeld = true;
    }

    /// <summary>The account of it; empty where none was written.</summary>
    public PriceWorking Working()
    {
        if (_before is null)
            return new PriceWorking([], Quantity, Of.Currency);
        var steps = _steps ??= [];
        steps.Clear();
        steps.AddRange(_before);
        var first = steps.Count;
        for (var note = _last; note is not null; note = note.Before)
            steps.Insert(
                first,
                new WorkingStep(note.Step, note.Label, MinorUnits.ToMoney(note.Amount, Of.Currency), note.PerLine, note.Rule)
            );
        return new PriceWorking([.. steps], Quantity, Of.Currency);
    }

    /// <summary>A thousand units of less than this, in minor units, can always be charged.</summary>
    private const long Usual = 100_000_000;

    private static long TenTo(int power)
    {
        var ten = 1L;
        for (var i = 0; i < power; i++)
            ten *= 10;
        return ten;
    }

    private const string FloorLabel = "Not below the floor";

    private void Trace(PriceStep step, string label, long amount, bool perLine, string? rule)
    {
        if (_before is not null)
            _last = new Noted(_last, step, label, amount, perLine, rule);
    }
}
