namespace Unicus.Core;

/// <summary>Stages 3 to 7 of a run: what rules make of started lines.</summary>
internal sealed class RuleRun
{
    private readonly IReadOnlyList<LineRun> _lines;
    private readonly Dictionary<PriceRule, RuleUse> _uses = new(ReferenceEqualityComparer.Instance);
    private readonly List<RuleUse>[] _byStage = [.. Enumerable.Range(0, 8).Select(_ => new List<RuleUse>())];
    private readonly List<RuleUse>[] _unit;
    private readonly Buying _buying;

    private RuleRun(IReadOnlyList<LineRun> lines, Buying buying)
    {
        (_lines, _buying) = (lines, buying);
        _unit = new List<RuleUse>[lines.Count];
    }

    /// <summary>Every rule in force whose scope holds a line, in their order.</summary>
    public IEnumerable<RuleUse> Uses => _byStage.SelectMany(s => s);

    /// <summary>Runs stages 3 to 6, each with its floor.</summary>
    /// <param name="lines">As they started.</param>
    /// <param name="goods">What each line is of.</param>
    public static RuleRun Of(IReadOnlyList<LineRun> lines, IReadOnlyList<RunLine> goods, Buying buying)
    {
        var run = new RuleRun(lines, buying);
        run.Find(goods);
        run.Ready();
        for (var i = 0; i < lines.Count; i++)
        {
            if (run._unit[i] is { } uses)
                UnitStage.Run(lines[i], uses);
            lines[i].EndUnits();
        }
        run.Lines(4, QuantityStage.Run);
        run.Lines(5, CheapestStage.Run);
        BasketStage.Run(lines, [.. run._byStage[6].Where(u => u.IsReady && Reached(u, afterBasket: false))]);
        return run;
    }

    /// <summary>What remains of the charge of delivery, whose rules compete among themselves.</summary>
    /// <param name="charge">In minor units.</param>
    /// <param name="acts">Whether it is what is charged, so that the rules that take something off count as having acted.</param>
    public long Delivery(long charge, bool acts)
    {
        var uses = _byStage[7].Where(u => u.IsReady && Reached(u, afterBasket: true)).ToList();
        if (uses.Count == 0 || charge == 0)
            return charge;
        var acting = new List<(RuleUse Use, long Left)>();
        var left = charge;
        void Act(RuleUse use, long remains)
        {
            if (remains < left)
                acting.Add((use, remains));
            left = Math.Min(left, remains);
        }
        if (uses.Where(u => u.Rule.Combine == Combine.Best).MinBy(u => u.Rate.Remains(charge)) is { } best)
            Act(best, best.Rate.Remains(charge));
        foreach (var use in uses.Where(u => u.Rule.Combine == Combine.Adds))
            Act(use, use.Rate.Remains(left));
        if (uses.Where(u => u.Rule.Combine == Combine.Alone).MinBy(u => u.Rate.Remains(charge)) is { } alone)
            if (alone.Rate.Remains(charge) is var remains && remains < left)
                (acting, left) = ([(alone, remains)], remains);
        if (!acts)
            return left;
        var before = charge;
        foreach (var (use, remains) in acting)
        {
            use.Moved += remains - before;
            before = remains;
        }
        return left;
    }

    /// <summary>Finds the rules whose scope holds each line.</summary>
    private void Find(IReadOnlyList<RunLine> goods)
    {
        var inForce = _buying.Book.At(_buying.At, _buying.Day);
        for (var i = 0; i < _lines.Count; i++)
        {
            var (edition, variant) = goods[i].Goods;
            foreach (var reaching in inForce.Of(edition, _buying.At, _buying.Day).All)
            {
                if (!reaching.Reaches(variant) || !reaching.IsThrough(goods[i].Through))
                    continue;
                var use = UseOf(reaching.Rule);
                use.Lines.Add(_lines[i]);
                use.Quantity += _lines[i].Quantity;
                if (reaching.Rule.Effect.Stage == 3)
                    (_unit[i] ??= []).Add(use);
            }
        }
        foreach (var stage in _byStage)
            stage.Sort((a, b) => PriceRule.Order.Compare(a.Rule, b.Rule));
    }

    private RuleUse UseOf(PriceRule rule)
    {
        if (_uses.TryGetValue(rule, out var use))
            return use;
        _uses[rule] = use = new RuleUse(rule);
        _byStage[rule.Effect.Stage].Add(use);
        return use;
    }

    /// <summary>Finds out of which rules everything but a basket's amount holds; the others are left out of stage 3.</summary>
    private void Ready()
    {
        foreach (var use in _uses.Values)
            use.IsReady = _buying.Allows(use);
        if (_uses.Values.All(u => u.IsReady))
            return;
        foreach (var uses in _unit)
            uses?.RemoveAll(u => !u.IsReady);
    }

    private void Lines(int stage, Action<IEnumerable<RuleUse>> work)
    {
        var ready = _byStage[stage].Where(u => u.IsReady).ToList();
        if (ready.Count == 0)
            return;
        work(ready);
        foreach (var line in _lines)
            line.EndGoods();
    }

    private static bool Reached(RuleUse use, bool afterBasket)
    {
        if (use.Rule.When.BasketAtLeast is not { } least)
            return true;
        var amount = use.Amount(afterBasket);
        if (amount < least)
            use.FellShortAt = amount;
        return amount >= least;
    }
}
