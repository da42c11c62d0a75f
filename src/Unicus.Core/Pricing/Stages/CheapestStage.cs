namespace Unicus.Core.Pricing.Stages;

/// <summary>Stage 5: in every so many units of a scope the cheapest are reduced.</summary>
internal static class CheapestStage
{
    /// <summary>Runs the stage; rules act one after another, and a unit that one has reduced is out of the pool of the next.</summary>
    /// <param name="uses">The rules of this stage that are ready, in their order.</param>
    public static void Run(IEnumerable<RuleUse> uses)
    {
        var units = new Dictionary<LineRun, LineUnits>();
        foreach (var use in uses)
            Run(use, units);
    }

    private static void Run(RuleUse use, Dictionary<LineRun, LineUnits> units)
    {
        var effect = (PriceEffect.CheapestOff)use.Rule.Effect;
        var pool = new List<Same>();
        foreach (var line in use.Lines)
        {
            if (line.StandsAlone)
                continue;
            if (!units.TryGetValue(line, out var own))
                units[line] = own = new LineUnits(line);
            pool.AddRange(own.Left());
        }
        var reduced = pool.Sum(s => s.Count) / effect.InEvery * effect.Units;
        var takenOff = new Dictionary<LineRun, long>();
        foreach (var same in pool.OrderBy(s => s.Price).ThenByDescending(s => s.Line.Number).ThenBy(s => s.IsEarlier))
        {
            var count = Math.Min(reduced, same.Count);
            if (count == 0)
                break;
            reduced -= count;
            units[same.Line].Take(same.IsEarlier, count);
            takenOff[same.Line] = takenOff.GetValueOrDefault(same.Line) + count * (same.Price - use.Rate.Remains(same.Price));
        }
        foreach (var (line, off) in takenOff)
            line.TakeGoods(PriceStep.CheapestOff, use, line.Goods - off);
    }

    /// <summary>Units of one line with one price.</summary>
    /// <param name="Line">The first of them.</param>
    /// <param name="Price">In minor units.</param>
    /// <param name="IsEarlier">Whether they stand before the line's other units, as those that have a minor unit more do.</param>
    /// <param name="Count">How many lines are so.</param>
    private readonly record struct Same(LineRun Line, long Price, bool IsEarlier, long Count);

    /// <summary>The units of a line after stage 4, its total allocated evenly: the earlier ones have the missing minor units.</summary>
    private sealed class LineUnits(LineRun line)
    {
        private readonly long _each = line.Goods / line.Quantity;
        private long _earlierLeft = line.Goods % line.Quantity;
        private long _laterLeft = line.Quantity - line.Goods % line.Quantity;

        public IEnumerable<Same> Left()
        {
            if (_earlierLeft > 0)
                yield return new Same(line, _each + 1, true, _earlierLeft);
            if (_laterLeft > 0)
                yield return new Same(line, _each, false, _laterLeft);
        }

        public void Take(bool earlier, long count)
        {
            if (earlier)
                _earlierLeft -= count;
            else
                _laterLeft -= count;
        }
    }
}
