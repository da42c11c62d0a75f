namespace Unicus.Core.Pricing;

/// <summary>Something doubtful about a price rule.</summary>
/// <param name="Rule">As workings name it.</param>
/// <param name="Text">A sentence.</param>
public sealed record PriceRuleCheck(string Rule, string Text);

/// <summary>Looks price rules over, by what stands in them.</summary>
public static class PriceRuleChecks
{
    /// <summary>What is doubtful about rules that stand together.</summary>
    public static IEnumerable<PriceRuleCheck> Look(IReadOnlyList<PriceRule> rules)
    {
        var on = rules.Where(r => r.State == RuleState.On).ToList();
        foreach (var rule in on)
        {
            if (rule.When.Until <= rule.When.From)
                yield return new PriceRuleCheck(rule.Id, "It ends before it begins, so it never acts.");
            if (rule.Effect is PriceEffect.Bands bands && Rising(bands) is { } row)
                yield return new PriceRuleCheck(
                    rule.Id,
                    $"Its bands rise: from {row.From:N0} units each costs more than in the band before."
                );
        }
        foreach (var (i, rule) in on.Index())
            if (on.Take(i).FirstOrDefault(r => BothWin(r, rule)) is { } other)
                yield return new PriceRuleCheck(rule.Id, $"It does the same as {other.Name}, and both act: their reductions add up.");
    }

    /// <summary>The first row of bands that is dearer than the one before; null where none is.</summary>
    public static BandRow? Rising(PriceEffect.Bands bands) =>
        bands
            .Rows.Zip(bands.Rows.Skip(1))
            .Where(p => p.Second.Unit > p.First.Unit || p.Second.Percent < p.First.Percent)
            .Select(p => p.Second)
            .FirstOrDefault();

    /// <summary>Whether two rules are equal but for their names, and each acts on what the other left.</summary>
    private static bool BothWin(PriceRule a, PriceRule b) =>
        a.Owner == b.Owner
        && (a.Combine, b.Combine) == (Combine.Adds, Combine.Adds)
        && a.Effect == b.Effect
        && a.Scope.IsSame(b.Scope)
        && a.When.IsSame(b.When);
}
