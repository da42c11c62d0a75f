namespace Unicus.Core;

/// <summary>Stage 3: rules for a unit, with the floor behind them.</summary>
internal static class UnitStage
{
    /// <summary>Runs the stage for one line.</summary>
    /// <param name="uses">The rules of this stage that are ready and reach the line, in their order.</param>
    public static void Run(LineRun line, IReadOnlyList<RuleUse> uses)
    {
        if (uses.Count == 0 || line.Unit <= 0)
            return;
        var (before, least) = (line.Unit, line.Room is { } room ? line.Unit - room : long.MinValue);
        var best = Lowest(line, uses, Combine.Best, before, long.MinValue);
        var together = best?.Result ?? before;
        foreach (var use in uses)
            if (use.Rule.Combine == Combine.Adds)
                together = Result(use, line, together);
        if (Lowest(line, uses, Combine.Alone, Math.Max(together, least), least) is { } alone)
        {
            line.TakeUnit(alone.Use, alone.Unfloored);
            line.StandsAlone = true;
            return;
        }
        if (best is { } won)
            line.TakeUnit(won.Use, won.Unfloored);
        foreach (var use in uses)
            if (use.Rule.Combine == Combine.Adds)
                line.TakeUnit(use, Result(use, line, line.Unit));
    }

    /// <summary>What a rule makes of a running price; never more than that, and never below 0.</summary>
    public static long Result(RuleUse use, LineRun line, long running) =>
        Result(use.Rule.Effect, use.Rate, line.Sku, line.Answers, running);

    /// <inheritdoc cref="Result(RuleUse, LineRun, long)"/>
    /// <param name="sku">In capitals.</param>
    /// <param name="answers">What the answers add to a unit.</param>
    public static long Result(PriceEffect effect, Rate rate, string sku, long answers, long running) =>
        effect switch
        {
            PriceEffect.Reduce { Amount: { } amount } => Math.Max(0, running - amount),
            PriceEffect.Reduce => rate.Remains(running),
            PriceEffect.SetUnit set => Math.Min(running, Math.Max(0, set.Price + answers)),
            PriceEffect.SetBySku by => Math.Min(running, Math.Max(0, by.Prices[sku] + answers)),
            _ => running,
        };

    /// <summary>A rule with what it makes of a unit.</summary>
    /// <param name="Unfloored">Before the floor.</param>
    /// <param name="Result">Behind it, where it is looked at.</param>
    private readonly record struct Candidate(RuleUse Use, long Unfloored, long Result);

    /// <summary>Of the rules that combine so, the one with the lowest result below a limit; the first on a tie.</summary>
    private static Candidate? Lowest(LineRun line, IReadOnlyList<RuleUse> uses, Combine combine, long below, long least)
    {
        Candidate? lowest = null;
        foreach (var use in uses)
        {
            if (use.Rule.Combine != combine)
                continue;
            var unfloored = Result(use, line, line.Unit);
            var result = Math.Max(unfloored, least);
            if (result < (lowest?.Result ?? below))
                lowest = new Candidate(use, unfloored, result);
        }
        return lowest;
    }
}
