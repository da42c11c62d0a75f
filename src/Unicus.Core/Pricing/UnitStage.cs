namespace Unicus.Core;

/// <summary>The rules of stage 3 that are ready and reach a line, by how they combine; each kind in its order.</summary>
internal sealed class UnitRules
{
    private readonly RuleUse[] _best;
    private readonly RuleUse[] _adds;
    private readonly RuleUse[] _alone;

    /// <param name="uses">In their order.</param>
    public UnitRules(IReadOnlyCollection<RuleUse> uses)
    {
        RuleUse[] Combining(Combine combine) => [.. uses.Where(u => u.Rule.Combine == combine)];
        (_best, _adds, _alone) = (Combining(Combine.Best), Combining(Combine.Adds), Combining(Combine.Alone));
    }

    /// <summary>Those that compete.</summary>
    public ReadOnlySpan<RuleUse> Best => _best;

    /// <summary>Those that act on what is left.</summary>
    public ReadOnlySpan<RuleUse> Adds => _adds;

    /// <summary>Those that stand against all others.</summary>
    public ReadOnlySpan<RuleUse> Alone => _alone;
}

/// <summary>Stage 3: rules for a unit, with the floor behind them.</summary>
internal static class UnitStage
{
    /// <summary>Runs the stage for one line.</summary>
    public static void Run(LineRun line, UnitRules rules)
    {
        if (line.Unit <= 0)
            return;
        var before = line.Unit;
        var best = Lowest(line, rules.Best, before, long.MinValue);
        if (!rules.Alone.IsEmpty && Alone(line, rules, best.Use is null ? before : best.Result) is { } alone)
        {
            line.TakeUnit(alone.Use!, alone.Unfloored);
            line.StandsAlone = true;
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
        var least = line.Room is { } room ? line.Unit - room : long.MinValue;
        foreach (var use in rules.Adds)
            together = use.Left(line, together);
        var alone = Lowest(line, rules.Alone, Math.Max(together, least), least);
        return alone.Use is null ? null : alone;
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
