namespace Unicus.Core.Pricing.Stages;

/// <summary>The rules of stage 3 that are ready and reach a line, by how they combine; each kind in its order.</summary>
internal sealed class UnitRules
{
    private readonly Competing _best;
    private readonly RuleUse[] _adds;
    private readonly RuleUse[] _alone;

    /// <param name="uses">In their order.</param>
    public UnitRules(IReadOnlyCollection<RuleUse> uses)
    {
        RuleUse[] Combining(Combine combine) => [.. uses.Where(u => u.Rule.Combine == combine)];
        (_best, _adds, _alone) = (new Competing(Combining(Combine.Best)), Combining(Combine.Adds), Combining(Combine.Alone));
    }

    /// <summary>Those that compete.</summary>
    public Competing Best => _best;

    /// <summary>Those that act on what is left.</summary>
    public ReadOnlySpan<RuleUse> Adds => _adds;

    /// <summary>Those that stand against all others.</summary>
    public ReadOnlySpan<RuleUse> Alone => _alone;
}

/// <summary>Rules of which the one with the lowest result acts.</summary>
/// <remarks>Of two that take percentages off, or amounts, or set a price, the same one always wins, unless rounding makes them
/// equal; so only the leading one of each kind is looked at.</remarks>
internal sealed class Competing
{
    private readonly RuleUse[] _all;
    private readonly RuleUse[] _leading;
    private readonly long _sureFrom;

    /// <param name="all">In their order.</param>
    public Competing(RuleUse[] all)
    {
        _all = all;
        var leading = new List<RuleUse>();
        foreach (var use in all)
            if (leading.FindIndex(l => l.IsLike(use)) is >= 0 and var at)
            {
                if (use.Depth <= leading[at].Depth)
                    continue;
                leading.RemoveAt(at);
                leading.Add(use);
            }
            else
                leading.Add(use);
        _leading = [.. leading];
        foreach (var use in all)
            if (leading.Find(l => l.IsLike(use)) is { } leads)
                _sureFrom = Math.Max(_sureFrom, leads.DiffersFrom(use));
    }

    /// <summary>All of them, in their order.</summary>
    public ReadOnlySpan<RuleUse> All => _all;

    /// <summary>Whether there are none.</summary>
    public bool IsEmpty => _all.Length == 0;

    /// <summary>Those that may act on a unit, in their order.</summary>
    /// <param name="unit">Its running price, in minor units.</param>
    public ReadOnlySpan<RuleUse> LookedAt(long unit) => unit >= _sureFrom ? _leading : _all;
}

/// <summary>Stage 3: rules for a unit, with the floor behind them. What a unit comes to is said here and nowhere else.</summary>
internal static class UnitStage
{
    /// <summary>Runs the stage for one line, its floor included.</summary>
    public static void Run(LineRun line, UnitRules rules)
    {
        Reduce(line, rules);
        line.EndUnits();
    }

    /// <summary>A line by itself behind the stage.</summary>
    /// <param name="of">What the line is of.</param>
    /// <param name="answers">A, in minor units.</param>
    /// <param name="quantity">Units; 1 or more.</param>
    /// <param name="rules">The rules.</param>
    public static LineRun Alone(LineGoods of, long answers, int quantity, UnitRules rules)
    {
        var line = LineRun.Bare(of, answers, quantity);
        Run(line, rules);
        return line;
    }

    /// <summary>The rules that bring a line by itself down.</summary>
    /// <param name="of">What the line is of.</param>
    /// <param name="answers">A, in minor units.</param>
    /// <param name="quantity">Units of the line; 1 or more.</param>
    /// <param name="uses">Those of the stage that reach it, in their order; what they moved before is forgotten.</param>
    /// <inheritdoc cref="Alone(LineGoods, long, int, UnitRules)"/>
    public static IEnumerable<PriceRule> Acting(LineGoods of, long answers, int quantity, IReadOnlyCollection<RuleUse> uses)
    {
        foreach (var use in uses)
            use.Moved = 0;
        Alone(of, answers, quantity, new UnitRules(uses));
        return uses.Where(u => u.Moved < 0).Select(u => u.Rule);
    }

    private static void Reduce(LineRun line, UnitRules rules)
    {
        if (line.Unit <= 0)
            return;
        var before = line.Unit;
        var best = rules.Best.IsEmpty ? default : Best(line, rules.Best, before);
        if (!rules.Alone.IsEmpty && Alone(line, rules, best.Use is null ? before : best.Result) is { } alone)
        {
            line.TakeUnit(alone.Use!, alone.Unfloored);
            line.StandsAlone = line.MayStandAlone;
            return;
        }
        if (best.Use is { } won)
            line.TakeUnit(won, best.Unfloored);
        foreach (var use in rules.Adds)
            line.TakeUnit(use, use.Left(line, line.Unit));
    }

    /// <summary>A rule with what it makes of a unit.</summary>
    /// <param name="Use">Null: none makes it lower.</param>
    /// <param name="Unfloored">Before the floor.</param>
    /// <param name="Result">Behind it, where it is looked at.</param>
    private readonly record struct Lowered(RuleUse? Use, long Unfloored, long Result);

    /// <summary>The rule that by itself, floor included, is lower than all the others together; null where none is.</summary>
    private static Lowered? Alone(LineRun line, UnitRules rules, long together)
    {
        var least = line.Of.Room is { } room ? line.Unit - room : long.MinValue;
        foreach (var use in rules.Adds)
            together = use.Left(line, together);
        var alone = Lowest(line, rules.Alone, Math.Max(together, least), least);
        return alone.Use is null ? null : alone;
    }

    /// <summary>The rule that competes best.</summary>
    private static Lowered Best(LineRun line, Competing rules, long unit)
    {
        var best = Lowest(line, rules.LookedAt(unit), unit, long.MinValue);
        // At 0 rules come to the same that do not elsewhere: then the first of all has it.
        return best is { Use: not null, Result: <= 0 } ? Lowest(line, rules.All, unit, long.MinValue) : best;
    }

    /// <summary>The rule with the lowest result below a limit; the first on a tie.</summary>
    private static Lowered Lowest(LineRun line, ReadOnlySpan<RuleUse> uses, long below, long least)
    {
        var (lowest, unit) = (default(Lowered), line.Unit);
        foreach (var use in uses)
        {
            var unfloored = use.Left(line, unit);
            var result = Math.Max(unfloored, least);
            if (result >= below)
                continue;
            lowest = new Lowered(use, unfloored, result);
            below = result;
        }
        return lowest;
    }
}
