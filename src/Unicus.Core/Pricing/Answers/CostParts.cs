namespace Unicus.Core.Pricing.Answers;

/// <summary>Costs over configurations that are looked at part by part.</summary>
internal static class CostParts
{
    /// <summary>The extremes over several parts of the configurations together. The most promising are looked at first; what can be
    /// neither lower nor higher than what was found is left out.</summary>
    /// <param name="bounds">Of what each part can come to.</param>
    /// <param name="find">The extremes over one of the parts.</param>
    public static CostExtremes? Over((long Least, long Most)[] bounds, Func<int, CostExtremes?> find)
    {
        CostExtremes? best = null;
        var seen = new bool[bounds.Length];
        foreach (var part in Enumerable.Range(0, bounds.Length).OrderBy(i => bounds[i].Least))
        {
            if (best?.Lowest <= bounds[part].Least)
                break;
            Look(part);
        }
        foreach (var part in Enumerable.Range(0, bounds.Length).OrderByDescending(i => bounds[i].Most))
        {
            if (best?.Highest >= bounds[part].Most)
                break;
            Look(part);
        }
        return best;

        void Look(int part)
        {
            if (seen[part])
                return;
            seen[part] = true;
            if (find(part) is not { } found)
                return;
            best = best is not { } so
                ? found
                : new CostExtremes(
                    Math.Min(so.Lowest, found.Lowest),
                    Math.Max(so.Highest, found.Highest),
                    found.Lowest < so.Lowest ? found.Cheapest : so.Cheapest
                );
        }
    }
}
