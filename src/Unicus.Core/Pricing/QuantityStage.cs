namespace Unicus.Core;

/// <summary>Stage 4: bands and packs. One rule acts on a line: the one with the lowest total.</summary>
internal static class QuantityStage
{
    /// <summary>Runs the stage.</summary>
    /// <param name="uses">The rules of this stage that are ready, in their order.</param>
    public static void Run(IEnumerable<RuleUse> uses)
    {
        var best = new Dictionary<LineRun, (RuleUse Use, long Goods)>();
        foreach (var use in uses)
        {
            var counted = use.Rule.Effect is PriceEffect.Bands { AcrossProduct: true } ? Together(use) : null;
            foreach (var line in use.Lines)
            {
                if (line.StandsAlone || line.Unit <= 0)
                    continue;
                var place = counted?[line] ?? new Place(0, line.Quantity);
                var goods = use.Rule.Effect is PriceEffect.Packs packs ? OfPacks(packs, line) : OfBands(use, line, place);
                if (goods < (best.TryGetValue(line, out var lowest) ? lowest.Goods : line.Goods))
                    best[line] = (use, goods);
            }
        }
        foreach (var (line, (use, goods)) in best)
            line.TakeGoods(PriceStep.Quantity, use, goods);
    }

    /// <summary>Where the units of a line stand among those that count together.</summary>
    /// <param name="Before">Units of earlier lines.</param>
    /// <param name="Total">Units of all.</param>
    private readonly record struct Place(long Before, long Total);

    /// <summary>Mixed variants of one product, filled in the order of the basket.</summary>
    private static Dictionary<LineRun, Place> Together(RuleUse use)
    {
        var places = new Dictionary<LineRun, Place>();
        foreach (var product in use.Lines.Where(l => !l.StandsAlone).GroupBy(l => l.Product))
        {
            var total = product.Sum(l => (long)l.Quantity);
            var before = 0L;
            foreach (var line in product)
            {
                places[line] = new Place(before, total);
                before += line.Quantity;
            }
        }
        return places;
    }

    private static long OfBands(RuleUse use, LineRun line, Place place)
    {
        var bands = (PriceEffect.Bands)use.Rule.Effect;
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
        var band = ((PriceEffect.Bands)use.Rule.Effect).Rows[row];
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
