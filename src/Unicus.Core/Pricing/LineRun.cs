using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>A line on its way through the stages of a price, in whole minor units of its currency.</summary>
/// <remarks>The trace costs nothing where it is left out.</remarks>
internal sealed class LineRun
{
    private readonly Currency _currency;
    private readonly List<Noted>? _notes;
    private IEnumerable<WorkingStep> _before = [];

    /// <summary>What a rule or the floor did, as it is noted on the way; made a step when the working is asked for.</summary>
    private readonly record struct Noted(PriceStep Step, string Label, long Amount, bool PerLine, string? Rule);

    private LineRun(Money list, int quantity, bool trace)
    {
        (_currency, Quantity, _notes) = (list.Currency, quantity, trace ? [] : null);
        List = Unit = MinorUnits.Of(list);
    }

    private LineRun(long list, Currency currency, int quantity, bool trace = false)
    {
        (_currency, Quantity, _notes) = (currency, quantity, trace ? [] : null);
        List = Unit = list;
    }

    /// <summary>Its place in the basket, from 0.</summary>
    public int Number { get; init; }

    /// <summary>The code of its product.</summary>
    public string Product { get; init; } = "";

    /// <summary>Its SKU in capitals.</summary>
    public string Sku { get; init; } = "";

    /// <summary>How far rules may reduce one unit, R; null where nothing limits them.</summary>
    public long? Room { get; init; }

    /// <summary>Units; 1 or more.</summary>
    public int Quantity { get; }

    /// <summary>Of one unit: the list price, L.</summary>
    public long List { get; }

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

    /// <summary>For the line: its share of what the basket is reduced by; 0 or less.</summary>
    public long Share { get; set; }

    /// <summary>The line after the stage so far, what is due once included.</summary>
    public long Total => Goods + Once;

    /// <summary>How far later stages may still reduce the line.</summary>
    public long RoomLeft => Room is { } room ? room * Quantity - ((List + Answers) * Quantity - Goods) : long.MaxValue;

    /// <summary>The line without the list prices of its parts: the weight of the goods themselves when it is shared out.</summary>
    public long OwnWeight => (List + Answers - Parts) * Quantity + Once;

    /// <summary>Of one unit: the part of A that is the list price of parts.</summary>
    private long Parts { get; set; }

    /// <summary>A line with its list price and answers already reckoned, without a working.</summary>
    /// <param name="list">L, in minor units.</param>
    /// <param name="answers">A, in minor units.</param>
    /// <param name="floor">F, in minor units; null where nothing limits rules.</param>
    /// <param name="once">What is due once, in minor units.</param>
    public static LineRun Bare(MatrixVariant variant, long list, long answers, int quantity, long? floor, long once = 0) =>
        new(list, variant.Price.Figure?.Currency ?? Currency.Euro, quantity)
        {
            Sku = variant.Sku.Text.ToUpperInvariant(),
            Room = floor is { } f ? Math.Max(0, list - f) : null,
            Answers = answers,
            Once = once,
            Unit = list + answers,
            Goods = (list + answers) * quantity,
        };

    /// <summary>Stages 1 and 2 with the answers added up already.</summary>
    /// <param name="line">What is priced.</param>
    /// <param name="list">L, in minor units.</param>
    /// <param name="steps">The steps of both stages, gone through when the working is asked for; null: none is written.</param>
    public static LineRun Start(
        StartingLine line,
        long list,
        AnswerSheet.Sum answers,
        Currency currency,
        IEnumerable<WorkingStep>? steps = null
    ) =>
        new(list, currency, line.Quantity, trace: steps is not null)
        {
            _before = steps ?? [],
            Number = line.Number,
            Product = line.Product,
            Sku = line.Sku,
            Room = line.Floor is { } floor ? Math.Max(0, list - floor) : null,
            Answers = answers.Each,
            Once = answers.Once,
            Unit = list + answers.Each,
            Goods = (list + answers.Each) * line.Quantity,
        };

    /// <summary>Stages 1 and 2: the list price and what the answers add.</summary>
    /// <param name="line">What is priced; its answers count.</param>
    /// <param name="amounts">As <see cref="AnswerPricing.Amounts"/> gives them.</param>
    /// <param name="trace">Whether the working is written.</param>
    public static LineRun Start(StartingLine line, Money list, IEnumerable<AnswerAmount> amounts, bool trace = true)
    {
        var run = new LineRun(list, line.Quantity, trace)
        {
            Number = line.Number,
            Product = line.Product,
            Sku = line.Sku,
            Room = line.Floor is { } floor ? Math.Max(0, MinorUnits.Of(list) - floor) : null,
        };
        var steps = new List<WorkingStep> { new(PriceStep.List, line.Title, list) };
        foreach (var amount in amounts)
        {
            run.Add(amount);
            if (trace)
                steps.Add(amount.Step());
        }
        run._before = steps;
        run.Goods = run.Unit * run.Quantity;
        return run;
    }

    /// <summary>Stages 1 and 2 of a set.</summary>
    /// <param name="line">What is priced.</param>
    /// <param name="steps">How its list price is made up.</param>
    /// <param name="once">What parts' answers add once for the line.</param>
    /// <param name="amounts">What its own answers add.</param>
    public static LineRun StartSet(
        StartingLine line,
        Money list,
        IEnumerable<WorkingStep> steps,
        IEnumerable<WorkingStep> once,
        IEnumerable<AnswerAmount> amounts,
        bool trace
    )
    {
        var run = Start(line, list, amounts, trace);
        ImmutableArray<WorkingStep> ofParts = [.. once];
        run.Once += ofParts.Sum(s => MinorUnits.Of(s.Amount));
        run._before = [.. steps, .. run._before.Skip(1), .. ofParts];
        return run;
    }

    /// <summary>Whether its amounts can be reckoned with and charged at all.</summary>
    public bool IsChargeable
    {
        get
        {
            if (Quantity <= 1_000 && Math.Abs(List) < Usual && Math.Abs(Unit) < Usual && Math.Abs(Once) < Usual)
                return true;
            var most = (Int128)Money.Most * TenTo(_currency.MinorUnits);
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
        if (Room is { } room && List + Answers - room > Unit)
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
        if (_notes is null)
            return new PriceWorking([], Quantity, _currency);
        var steps = ImmutableArray.CreateBuilder<WorkingStep>(UsualSteps + _notes.Count);
        steps.AddRange(_before);
        foreach (var (step, label, amount, perLine, rule) in _notes)
            steps.Add(new WorkingStep(step, label, MinorUnits.ToMoney(amount, _currency), perLine, rule));
        return new PriceWorking(steps.DrainToImmutable(), Quantity, _currency);
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

    private const int UsualSteps = 3;

    private const string FloorLabel = "Not below the floor";

    private void Add(AnswerAmount amount)
    {
        var minor = MinorUnits.Of(amount.Amount);
        if (amount.PerLine)
            Once += minor;
        else
            (Answers, Unit) = (Answers + minor, Unit + minor);
        if (amount.PartPrice is not null)
            Parts += minor;
    }

    private void Trace(PriceStep step, string label, long amount, bool perLine, string? rule) =>
        _notes?.Add(new Noted(step, label, amount, perLine, rule));
}

/// <summary>What a line starts from.</summary>
/// <param name="Title">The label of its first step.</param>
/// <param name="Number">Its place in the basket, from 0.</param>
/// <param name="Product">The code of its product.</param>
/// <param name="Sku">In capitals.</param>
/// <param name="Quantity">Units; 1 or more.</param>
/// <param name="Floor">What a unit is not pushed below without its answers, F, in minor units; null where nothing limits rules.</param>
internal readonly record struct StartingLine(string Title, int Number, string Product, string Sku, int Quantity, long? Floor);
