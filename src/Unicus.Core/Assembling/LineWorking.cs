namespace Unicus.Core.Assembling;

using Unicus.Core.Pricing;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;

/// <summary>How one line comes to its price, as if it stood alone in the basket.</summary>
public static class LineWorking
{
    /// <summary>Its working up to stage 5.</summary>
    /// <returns>Null where it has no price, or one that cannot be charged.</returns>
    public static PriceWorking? Of(RunLine line, RunTerms terms, PublishedRange range)
    {
        if (new LineStart(terms, range, trace: true).Of(line, 0) is not { Run: { IsChargeable: true } run })
            return null;
        RuleRun.Of([run], [line], terms.Buying);
        return run.Working();
    }
}
