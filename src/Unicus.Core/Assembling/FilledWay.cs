namespace Unicus.Core.Assembling;

/// <summary>A slot that is filled.</summary>
internal sealed record FilledWay(List<SlotOption> Options, FrontPoint Point)
{
    private const int Most = 400;

    /// <summary>The ways to fill it with these options, one for each price and cost that they may have together.</summary>
    public static IEnumerable<FilledWay> Of(List<SlotOption> options) =>
        options
            .Aggregate((IEnumerable<FrontPoint>)[FrontPoint.None], (points, option) => points.SelectMany(p => option.Low.Select(p.With)))
            .Select(p => new FilledWay(options, p));

    /// <summary>The ways to take so many different candidates, the cheapest first; at most some hundreds.</summary>
    public static IEnumerable<List<SlotOption>> Several(List<SlotOption> options, int least)
    {
        if (least == 0)
            return
            [
                [],
            ];
        if (least == 1)
            return options.Select(o => new List<SlotOption> { o });
        return Pick(0, least).Take(Most);

        IEnumerable<List<SlotOption>> Pick(int from, int left)
        {
            if (left == 0)
            {
                yield return [];
                yield break;
            }
            for (var i = from; i < options.Count; i++)
                foreach (var others in Pick(i + 1, left - 1))
                    if (others.TrueForAll(o => o.Candidate != options[i].Candidate))
                        yield return [options[i], .. others];
        }
    }
}
