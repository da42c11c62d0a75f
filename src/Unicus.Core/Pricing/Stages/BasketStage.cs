namespace Unicus.Core.Pricing.Stages;

/// <summary>Stage 6: reductions of the basket, allocated over the lines in scope.</summary>
internal static class BasketStage
{
    /// <summary>Runs the stage.</summary>
    /// <param name="lines">All lines of the basket.</param>
    /// <param name="uses">The rules of this stage that are ready and whose condition on the basket's amount holds, in their order.</param>
    public static void Run(IReadOnlyList<LineRun> lines, IReadOnlyList<RuleUse> uses)
    {
        if (uses.Count == 0)
            return;
        var before = new Shares(lines);
        var together = before;
        foreach (var use in uses.Where(u => u.Rule.Combine == Combine.Best))
            if (before.With(use) is var tried && tried.Sum < together.Sum)
                together = tried;
        foreach (var use in uses.Where(u => u.Rule.Combine == Combine.Adds))
            together = together.With(use);
        var final = together;
        foreach (var use in uses.Where(u => u.Rule.Combine == Combine.Alone))
            if (before.With(use) is var tried && tried.Sum < final.Sum)
                final = tried;
        final.Settle();
    }

    /// <summary>What rules leave of a basket of one line where no floor holds them.</summary>
    /// <param name="total">The line after stage 5, in minor units; 0 or more.</param>
    /// <param name="uses">As they are run.</param>
    public static long Unheld(long total, IReadOnlyList<RuleUse> uses)
    {
        long Left(RuleUse use, long running) =>
            ((PriceEffect.ReduceBasket)use.Rule.Effect).Amount is { } amount ? Math.Max(0, running - amount) : use.Rate.Remains(running);
        var left = total;
        foreach (var use in uses.Where(u => u.Rule.Combine == Combine.Best))
            left = Math.Min(left, Left(use, total));
        foreach (var use in uses.Where(u => u.Rule.Combine == Combine.Adds))
            left = Left(use, left);
        foreach (var use in uses.Where(u => u.Rule.Combine == Combine.Alone))
            left = Math.Min(left, Left(use, total));
        return left;
    }

    /// <summary>What each line has been reduced by so far, and by which rules.</summary>
    private sealed class Shares
    {
        private readonly IReadOnlyList<LineRun> _lines;
        private readonly long[] _shares;
        private readonly List<(RuleUse Use, long Amount)> _rows;

        public Shares(IReadOnlyList<LineRun> lines)
            : this(lines, new long[lines.Count], []) { }

        private Shares(IReadOnlyList<LineRun> lines, long[] shares, List<(RuleUse, long)> rows) =>
            (_lines, _shares, _rows, Sum) = (lines, shares, rows, shares.Sum());

        /// <summary>0 or less.</summary>
        public long Sum { get; }

        /// <summary>With one rule more, from what the ones before left.</summary>
        public Shares With(RuleUse use)
        {
            var effect = (PriceEffect.ReduceBasket)use.Rule.Effect;
            var running = use.Lines.Sum(l => l.Total + _shares[l.Number]);
            if (running <= 0)
                return this;
            var off = effect.Amount is { } amount ? Math.Min(amount, running) : running - use.Rate.Remains(running);
            var parts = Sharing.Of(off, [.. use.Lines.Select(l => Math.Max(0, l.Total))]);
            var shares = (long[])_shares.Clone();
            var taken = 0L;
            for (var i = 0; i < parts.Length; i++)
            {
                var line = use.Lines[i];
                // The share itself is smaller where the floor, or the price, leaves no more room; nothing moves to other lines.
                var part = Math.Min(parts[i], Math.Min(line.Total, line.RoomLeft) + shares[line.Number]);
                if (part <= 0)
                    continue;
                shares[line.Number] -= part;
                taken += part;
            }
            return new Shares(_lines, shares, [.. _rows, (use, -taken)]);
        }

        /// <summary>Writes the result to the lines and rules.</summary>
        public void Settle()
        {
            foreach (var line in _lines)
                line.Share = _shares[line.Number];
            foreach (var (use, amount) in _rows)
                use.Moved += amount;
        }
    }
}
