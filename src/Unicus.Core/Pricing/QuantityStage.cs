namespace Unicus.Core;

/// <summary>Stage 4: bands and packs. One rule acts on a line: the one with the lowest total.</summary>
internal static class QuantityStage
{
    /// <summary>Finds where lines stand among those that count together.</summary>
    /// <param name="uses">The rules of this stage that are ready.</param>
    public static void Count(IEnumerable<RuleUse> uses)
    {
        foreach (var use in uses)
            if (use.Rule.Effect is PriceEffect.Bands { AcrossProduct: true })
                use.Places = Together(use);
    }

    /// <summary>Runs the stage for one line.</summary>
    /// <param name="uses">The rules of this stage that are ready and reach the line, in their order.</param>
    public static void Run(LineRun line, RuleUse[] uses)
    {
        if (line.StandsAlone || line.Unit <= 0)
            return;
        RuleUse? best = null;
        var lowest = line.Goods;
        foreach (var use in uses)
        {
            var place = use.Places?[line] ?? new PlaceInBands(0, line.Quantity);
            var goods = use.Bands is { } bands ? OfBands(use, bands, line, place) : OfPacks((PriceEffect.Packs)use.Rule.Effect, line);
            if (goods < lowest)
                (best, lowest) = (use, goods);
        }
        if (best is not null)
            line.TakeGoods(PriceStep.Quantity, best, lowest);
    }

    /// <summary>Mixed variants of one product, filled in the order of the basket.</summary>
    private static Dictionary<LineRun, PlaceInBands> Together(RuleUse use)
    {
        var places = new Dictionary<LineRun, PlaceInBands>();
        foreach (var product in use.Lines.Where(l => !l.StandsAlone).GroupBy(l => l.Product))
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

    private static long OfBands(RuleUse use, PriceEffect.Bands bands, LineRun line, PlaceInBands place)
    {
        if (bands.Mode == BandMode.AllUnits)
        {
            var row = -1;
            while (row + 1 < bands.Rows.Length && bands.Rows[row + 1].From <= place.Total)
                row++;
            return row < 0 ? line.Goods : UnitIn(use, row, line) * line.Quantity;
        }
        var goods = line.Goods;
        for (var row = 0; row < bands.Rows.Length; row++)
        {
            // The units numbered from … to … are in this row.
            var from = Math.Max(bands.Rows[row].From, place.Before + 1);
            var last = row + 1 < bands.Rows.Length ? bands.Rows[row + 1].From - 1 : long.MaxValue;
            var units = Math.Min(last, place.Before + line.Quantity) - from + 1;
            if (units > 0)
                goods -= units * (line.Unit - UnitIn(use, row, line));
        }
        return goods;
    }

    private static long UnitIn(RuleUse use, int row, LineRun line)
    {
        var band = use.Bands!.Rows[row];
        return band.Unit is { } price ? Math.Min(line.Unit, Math.Max(0, price + line.Answers)) : use.Rates[row].Remains(line.Unit);
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

/// <summary>Where the units of a line stand among those that count together.</summary>
/// <param name="Before">Units of earlier lines.</param>
/// <param name="Total">Units of all.</param>
internal readonly record struct PlaceInBands(long Before, long Total);
