namespace Unicus.CoreTests;

/// <summary>A line for the second reading: amounts are whole cents as decimals, units are taken one by one.</summary>
internal sealed record ReadLine(
    string Product,
    string Sku,
    IReadOnlyDictionary<string, string> Values,
    IReadOnlyList<string> Tags,
    int Quantity,
    decimal List,
    decimal Answers,
    decimal Once,
    decimal? Room,
    string? Through
);

/// <summary>What the second reading makes of a line.</summary>
internal sealed record ReadResult(decimal Unit, decimal Total, decimal Share);

/// <summary>Section 5 of domain.md read a second time, from the text alone: plain, slow, and without anything of the core but the shape
/// of rules.</summary>
internal sealed class SecondReading(IReadOnlyList<ReadLine> lines, IReadOnlyList<PriceRule> rules, ISet<string> coupons)
{
    private readonly decimal[] _units = new decimal[lines.Count];
    private readonly decimal[] _goods = new decimal[lines.Count];
    private readonly bool[] _alone = new bool[lines.Count];
    private readonly decimal[] _taken = new decimal[lines.Count];

    public IReadOnlyList<ReadResult> Read()
    {
        for (var i = 0; i < lines.Count; i++)
            Unit(i);
        Quantity();
        Cheapest();
        var shares = Basket();
        return [.. lines.Select((l, i) => new ReadResult(_units[i], _goods[i] + l.Once, -shares[i]))];
    }

    private static decimal Round(decimal amount) => Math.Round(amount, 0, MidpointRounding.AwayFromZero);

    private static decimal Off(decimal amount, decimal percent) => Round(amount * (100 - percent) / 100);

    private IEnumerable<PriceRule> InOrder(Func<PriceEffect, bool> kind) =>
        rules.Where(r => kind(r.Effect) && Holds(r)).OrderBy(r => r.Priority).ThenBy(r => r.Key.Text, StringComparer.Ordinal);

    private bool InScope(PriceRule rule, ReadLine line)
    {
        var scope = rule.Scope;
        if (rule.Owner is not null && rule.Owner != line.Product)
            return false;
        if (scope.Products.Length > 0 && !scope.Products.Contains(line.Product))
            return false;
        if (scope.Skus.Length > 0 && !scope.Skus.Contains(line.Sku))
            return false;
        if (scope.Tags.Length > 0 && !scope.Tags.Any(line.Tags.Contains))
            return false;
        if (scope.Through is not null && scope.Through != line.Through)
            return false;
        if (rule.Effect is PriceEffect.SetBySku by && !by.Prices.ContainsKey(line.Sku))
            return false;
        return scope.Where is not Condition.Is where
            || (line.Values.TryGetValue(where.Question.Text, out var value) && where.Values.Any(v => v.Text == value));
    }

    private bool Holds(PriceRule rule)
    {
        var units = lines.Where(l => InScope(rule, l)).Sum(l => l.Quantity);
        if (units == 0 || units < (rule.When.QuantityAtLeast ?? 0))
            return false;
        return rule.When.Coupon is null || coupons.Contains(rule.When.Coupon.ToUpperInvariant());
    }

    private void Unit(int i)
    {
        var line = lines[i];
        var start = line.List + line.Answers;
        var floor = line.Room is { } room ? start - room : decimal.MinValue;
        var mine = InOrder(e => e is PriceEffect.Reduce or PriceEffect.SetUnit or PriceEffect.SetBySku)
            .Where(r => InScope(r, line))
            .ToList();
        decimal Result(PriceRule rule, decimal x) =>
            Math.Max(
                0,
                rule.Effect switch
                {
                    PriceEffect.Reduce { Percent: { } p } => Off(x, p),
                    PriceEffect.Reduce { Amount: { } a } => x - a,
                    PriceEffect.SetUnit s => Math.Min(x, Math.Max(0, s.Price + line.Answers)),
                    PriceEffect.SetBySku s => Math.Min(x, Math.Max(0, s.Prices[line.Sku] + line.Answers)),
                    _ => throw new InvalidOperationException(),
                }
            );
        var others = start;
        var best = mine.Where(r => r.Combine == Combine.Best).ToList();
        if (best.Count > 0)
            others = Math.Min(others, best.Min(r => Result(r, start)));
        foreach (var adds in mine.Where(r => r.Combine == Combine.Adds))
            others = Math.Min(others, Result(adds, others));
        var (price, alone) = (Math.Max(others, floor), false);
        foreach (var rule in mine.Where(r => r.Combine == Combine.Alone))
            if (Math.Max(Result(rule, start), floor) < price)
                (price, alone) = (Math.Max(Result(rule, start), floor), true);
        (_units[i], _goods[i], _alone[i], _taken[i]) = (price, price * line.Quantity, alone, (start - price) * line.Quantity);
    }

    /// <summary>A line falls to a total, as far as its room goes.</summary>
    private void Fall(int i, decimal to)
    {
        var (line, fall) = (lines[i], _goods[i] - to);
        if (line.Room is { } room)
            fall = Math.Min(fall, room * line.Quantity - _taken[i]);
        (_goods[i], _taken[i]) = (_goods[i] - fall, _taken[i] + fall);
    }

    private void Quantity()
    {
        var found = _goods.ToArray();
        foreach (var rule in InOrder(e => e is PriceEffect.Bands or PriceEffect.Packs))
        {
            foreach (var i in Enumerable.Range(0, lines.Count).Where(i => !_alone[i] && InScope(rule, lines[i])))
                found[i] = Math.Min(found[i], rule.Effect is PriceEffect.Packs packs ? OfPacks(packs, i) : OfBands(rule, i));
        }
        for (var i = 0; i < lines.Count; i++)
            Fall(i, found[i]);
    }

    private decimal OfPacks(PriceEffect.Packs packs, int i)
    {
        var (left, total) = (lines[i].Quantity, 0m);
        foreach (var pack in packs.Rows.OrderByDescending(p => p.Units))
            for (; left >= pack.Units; left -= pack.Units)
                total += pack.Total + pack.Units * lines[i].Answers;
        return Math.Max(0, total + left * _units[i]);
    }

    private decimal OfBands(PriceRule rule, int i)
    {
        var bands = (PriceEffect.Bands)rule.Effect;
        var together = Enumerable
            .Range(0, lines.Count)
            .Where(j => j == i || (bands.AcrossProduct && !_alone[j] && InScope(rule, lines[j]) && lines[j].Product == lines[i].Product))
            .ToList();
        var all = together.Sum(j => lines[j].Quantity);
        var before = together.Where(j => j < i).Sum(j => lines[j].Quantity);
        var total = 0m;
        for (var unit = 1; unit <= lines[i].Quantity; unit++)
        {
            var place = bands.Mode == BandMode.AllUnits ? all : before + unit;
            total += bands.Rows.LastOrDefault(r => r.From <= place) switch
            {
                null => _units[i],
                { Unit: { } s } => Math.Min(_units[i], Math.Max(0, s + lines[i].Answers)),
                { Percent: { } p } => Off(_units[i], p),
                _ => throw new InvalidOperationException(),
            };
        }
        return total;
    }

    private void Cheapest()
    {
        // Every unit by itself: its price is its share of the line, the missing cents one each with the earlier ones.
        var units = new List<(int Line, int Unit, decimal Price)>();
        for (var i = 0; i < lines.Count; i++)
        {
            var each = Share(_goods[i], [.. Enumerable.Repeat(1m, lines[i].Quantity)]);
            units.AddRange(each.Select((price, u) => (i, u, price)));
        }
        var falls = new decimal[lines.Count];
        foreach (var rule in InOrder(e => e is PriceEffect.CheapestOff))
        {
            var effect = (PriceEffect.CheapestOff)rule.Effect;
            var pool = units
                .Where(u => !_alone[u.Line] && InScope(rule, lines[u.Line]))
                .OrderBy(u => u.Price)
                .ThenByDescending(u => u.Line)
                .ThenByDescending(u => u.Unit)
                .ToList();
            foreach (var unit in pool.Take(pool.Count / effect.InEvery * effect.Units))
            {
                falls[unit.Line] += unit.Price - Off(unit.Price, effect.Percent);
                units.Remove(unit);
            }
        }
        for (var i = 0; i < lines.Count; i++)
            Fall(i, _goods[i] - falls[i]);
    }

    private decimal[] Basket()
    {
        var totals = lines.Select((l, i) => _goods[i] + l.Once).ToArray();
        var mine = InOrder(e => e is PriceEffect.ReduceBasket)
            .Where(r =>
                Enumerable.Range(0, lines.Count).Where(i => InScope(r, lines[i])).Sum(i => totals[i]) >= (r.When.BasketAtLeast ?? 0)
            )
            .ToList();
        decimal[] With(PriceRule rule, decimal[] shares)
        {
            var scope = Enumerable.Range(0, lines.Count).Where(i => InScope(rule, lines[i])).ToList();
            var running = scope.Sum(i => totals[i] - shares[i]);
            var effect = (PriceEffect.ReduceBasket)rule.Effect;
            var off = effect.Percent is { } p ? running - Off(running, p) : Math.Min(effect.Amount!.Value, running);
            var next = shares.ToArray();
            foreach (var (i, part) in scope.Zip(Share(off, [.. scope.Select(i => totals[i])])))
            {
                var room = lines[i].Room is { } r ? r * lines[i].Quantity - _taken[i] - shares[i] : decimal.MaxValue;
                next[i] += Math.Max(0, Math.Min(part, Math.Min(room, totals[i] - shares[i])));
            }
            return next;
        }
        var none = new decimal[lines.Count];
        var others = mine.Where(r => r.Combine == Combine.Best).Select(r => With(r, none)).Append(none).MaxBy(s => s.Sum())!;
        foreach (var adds in mine.Where(r => r.Combine == Combine.Adds))
            others = With(adds, others);
        return mine.Where(r => r.Combine == Combine.Alone).Select(r => With(r, none)).Prepend(others).MaxBy(s => s.Sum())!;
    }

    /// <summary>Largest remainders, the earlier line first.</summary>
    private static decimal[] Share(decimal total, decimal[] weights)
    {
        var all = weights.Sum();
        if (all == 0)
            (weights, all) = ([.. weights.Select(_ => 1m)], weights.Length);
        var exact = weights.Select(w => total * w / all).ToArray();
        var shares = exact.Select(Math.Truncate).ToArray();
        var missing = (int)(total - shares.Sum());
        foreach (var i in Enumerable.Range(0, weights.Length).OrderByDescending(i => total * weights[i] % all).ThenBy(i => i).Take(missing))
            shares[i]++;
        return shares;
    }
}
