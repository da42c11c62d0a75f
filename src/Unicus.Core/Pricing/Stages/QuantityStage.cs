namespace Unicus.Core.Pricing.Stages;

/// <summary>Stage 4: bands and packs. One rule acts on a line: the one with the lowest total.</summary>
internal static class QuantityStage
{
    /// <summary>Finds where lines stand among those that count together.</summary>
    /// <param name="uses">The rules of this stage that are ready.</param>
    public static void Count(IEnumerable<RuleUse> uses)
    {
        foreach (var use in uses)
            if (use.Bands is { AcrossProduct: true })
                use.Places = Together(use);
    }

    /// <summary>Runs the stage for one line, with the floor behind it.</summary>
    /// <param name="line">The line.</param>
    /// <param name="uses">The rules of this stage that are ready and reach the line, in their order.</param>
    public static void Run(LineRun line, RuleUse[] uses)
    {
        if (uses.Length == 0 || line.StandsAlone || line.Unit <= 0)
            return;
        RuleUse? best = null;
        var lowest = line.Goods;
        foreach (var use in uses)
        {
            var goods = Left(use, line);
            if (goods < lowest)
                (best, lowest) = (use, goods);
        }
        if (best is null)
            return;
        line.TakeGoods(PriceStep.Quantity, best, lowest);
        line.EndGoods();
    }

    /// <summary>What a rule leaves of a line.</summary>
    private static long Left(RuleUse use, LineRun line)
    {
        if (use.Bands is not { } bands)
            return OfPacks((PriceEffect.Packs)use.Rule.Effect, line);
        var place = use.Places is null ? new PlaceInBands(0, line.Quantity) : use.Places[line];
        return bands.Mode == BandMode.AllUnits ? OfAllUnits(use.Rows, line, place.Total) : OfUnitsInBands(use.Rows, line, place);
    }

    /// <summary>Mixed variants of one product, filled in the order of the basket.</summary>
    private static Dictionary<LineRun, PlaceInBands> Together(RuleUse use)
    {
        var places = new Dictionary<LineRun, PlaceInBands>();
        foreach (var product in use.Lines.Where(l => !l.StandsAlone).GroupBy(l => l.Of.Product))
        {
            var total = product.Sum(l => (long)l.Quantity);
            var before = 0L;
            foreach (var line in product)
            {
                places[line] = new PlaceInBands(before, total);
                before += line.Quantity;
            }
        }
        return places;
    }

    /// <summary>The band of all units together is that of each.</summary>
    private static long OfAllUnits(BandPrice[] rows, LineRun line, long total)
    {
        var row = rows.Length - 1;
        while (row >= 0 && rows[row].From > total)
            row--;
        return row < 0 ? line.Goods : rows[row].Of(line) * line.Quantity;
    }

    /// <summary>Each unit is in the band of its own number.</summary>
    private static long OfUnitsInBands(BandPrice[] rows, LineRun line, PlaceInBands place)
    {
        var goods = line.Goods;
        for (var row = 0; row < rows.Length; row++)
        {
            // The units numbered from … to … are in this row.
            var from = Math.Max(rows[row].From, place.Before + 1);
            var last = row + 1 < rows.Length ? rows[row + 1].From - 1 : long.MaxValue;
            var units = Math.Min(last, place.Before + line.Quantity) - from + 1;
            if (units > 0)
                goods -= units * (line.Unit - rows[row].Of(line));
        }
        return goods;
    }

    private static long OfPacks(PriceEffect.Packs packs, LineRun line)
    {
        // Packs may cost anything; what is more than the line costs anyway is never taken.
        var (left, goods) = ((long)line.Quantity, (Int128)0);
        foreach (var pack in packs.Rows)
        {
            var full = left / pack.Units;
            goods += full * (pack.Total + (Int128)pack.Units * line.Answers);
            left -= full * pack.Units;
        }
        return (long)Int128.Clamp(goods + left * line.Unit, 0, line.Goods);
    }
}
