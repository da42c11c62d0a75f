using System.Diagnostics;
using System.Globalization;
using System.Text.Json;
using Google.OrTools.Sat;
using Npgsql;

namespace Unicus.Bench;

/// <summary>Sets: how many over all mixes against another solver, and a pick on a kit against the same picks as plain extras.</summary>
internal static class SetRatios
{
    public static async Task Run(string connection)
    {
        Mixes(12, 40);
        Mixes(6, 30);
        Picks();
        Lift();
        await Availability(connection);
    }

    /// <summary>What was bought together in 200,000 orders over 20,000 products, which come in clusters, against reading the orders
    /// once.</summary>
    private static void Lift()
    {
        var random = new Random(5);
        var orders = new List<int[]>();
        for (var i = 0; i < 200_000; i++)
        {
            var cluster = random.Next(2_000) * 10;
            orders.Add([
                .. Enumerable
                    .Range(0, 1 + random.Next(6))
                    .Select(_ => random.Next(3) == 0 ? random.Next(20_000) : cluster + random.Next(10)),
            ]);
        }
        var read = Median(5, () => orders.Sum(o => o.Distinct().Count()));
        var found = 0;
        var own = Median(3, () => found = BoughtTogether.Find(orders, 3, 12).Count);
        Report.Row(
            $"bought together, 200,000 orders over 20,000 products ({found:N0} pairs), ms",
            own,
            "reading them",
            read,
            own / read,
            "10 s"
        );
    }

    /// <summary>How many of 1,000 sets of 20 parts in three levels can be sold, from a stock of 50,000 SKUs, against one SQL join that
    /// reads the same levels and is told what the sets come apart into.</summary>
    private static async Task Availability(string connection)
    {
        var random = new Random(3);
        var goods = Enumerable.Range(0, 2_000).Select(i => Plain($"L{i}", i + 1)).ToList();
        string Fixed(int key, string code) => $$"""{ "key": "s-{{key}}", "of": [ { "product": "{{code}}" } ] }""";
        string Some() => goods[random.Next(goods.Count)].Product.Code.Text;
        var inner = Enumerable
            .Range(0, 100)
            .Select(i => Set($"I{i}", 10_000 + i, Enumerable.Range(0, 5).Select(k => Fixed(k, Some()))))
            .ToList();
        var middle = Enumerable
            .Range(0, 100)
            .Select(i => Set($"M{i}", 20_000 + i, Enumerable.Range(0, 5).Select(k => Fixed(k, Some())).Append(Fixed(9, $"I{i}"))))
            .ToList();
        var sets = Enumerable
            .Range(0, 1_000)
            .Select(i => Set($"S{i}", 30_000 + i, Enumerable.Range(0, 10).Select(k => Fixed(k, Some())).Append(Fixed(19, $"M{i % 100}"))))
            .ToList();
        var range = new PublishedRange.Of([.. goods, .. inner, .. middle, .. sets]);
        var stock = Enumerable.Range(0, 50_000).Select(i => (Sku: $"L{i}", OnHand: random.Next(500))).ToList();
        var nothing = StockOutlook.Empty(DateOnly.MinValue);
        var run = new RunTerms(new TradeTerms(Currency.Euro, true, [], []), null);
        var needs = new List<(int Set, string Sku, int Units)>();
        foreach (var (i, set) in sets.Index())
            foreach (
                var need in ConfigurationStatus
                    .Of(set, Configuration.Empty, Filling.None, new ConfigurationTerms(range, nothing, run))
                    .Needs.Value
            )
                needs.Add((i, need.Goods.Variant.Sku.Text, need.PerUnit));
        await using var db = new NpgsqlConnection(connection);
        await db.OpenAsync();
        await Fill(db, stock, needs);
        const string Wanted = "select sku, on_hand, allocated, on_hold from bench_stock where sku = any($1)";
        const string Join = """
            select n.set_id, min((s.on_hand - s.allocated - s.on_hold) / n.units)::bigint
            from (select set_id, sku, sum(units)::int units from bench_needs group by set_id, sku) n join bench_stock s using (sku)
            group by n.set_id order by n.set_id
            """;
        string[] skus = [.. needs.Select(n => n.Sku).Distinct()];
        long[] Joined()
        {
            using var command = new NpgsqlCommand(Join, db);
            using var rows = command.ExecuteReader();
            var found = new List<long>();
            while (rows.Read())
                found.Add(rows.GetInt64(1));
            return [.. found];
        }
        long[] Own()
        {
            var levels = new Dictionary<string, StockLevel>();
            using (var command = new NpgsqlCommand(Wanted, db) { Parameters = { new NpgsqlParameter<string[]> { TypedValue = skus } } })
            using (var rows = command.ExecuteReader())
                while (rows.Read())
                    levels[rows.GetString(0)] = new StockLevel(rows.GetInt32(1), rows.GetInt32(2), rows.GetInt32(3), 0);
            var terms = new ConfigurationTerms(range, new StockOutlook(sku => levels[sku.Text], DateOnly.MinValue), run);
            return [.. sets.Select(s => ConfigurationStatus.Of(s, Configuration.Empty, Filling.None, terms).Available!.Units!.Value)];
        }
        if (!Own().SequenceEqual(Joined()))
            throw new InvalidOperationException("The join says something else.");
        var (own, joined) = (Median(41, Own), Median(41, Joined));
        Report.Row(
            "available of 1,000 sets of 20 leaves in three levels, levels read, ms",
            own,
            "one SQL join that reads the same levels",
            joined,
            own / joined,
            "at most 3"
        );
    }

    /// <summary>Stock of 50,000 SKUs, and what the sets take, as tables of this connection.</summary>
    private static async Task Fill(NpgsqlConnection db, List<(string Sku, int OnHand)> stock, List<(int Set, string Sku, int Units)> needs)
    {
        await using (
            var make = new NpgsqlCommand(
                """
                create temp table bench_stock (sku text primary key, on_hand int not null, allocated int not null, on_hold int not null);
                create temp table bench_needs (set_id int not null, sku text not null, units int not null)
                """,
                db
            )
        )
            await make.ExecuteNonQueryAsync();
        await using (var writer = await db.BeginBinaryImportAsync("copy bench_stock from stdin (format binary)"))
        {
            foreach (var (sku, onHand) in stock)
                await writer.WriteRowAsync(default, sku, onHand, 0, 0);
            await writer.CompleteAsync();
        }
        await using (var writer = await db.BeginBinaryImportAsync("copy bench_needs from stdin (format binary)"))
        {
            foreach (var (set, sku, units) in needs)
                await writer.WriteRowAsync(default, set, sku, units);
            await writer.CompleteAsync();
        }
        await using var tidy = new NpgsqlCommand("analyze bench_stock; analyze bench_needs", db);
        await tidy.ExecuteNonQueryAsync();
    }

    /// <summary>Slots whose candidates overlap, each taking 1 to 3 units.</summary>
    private static void Mixes(int slots, int candidates)
    {
        var random = new Random(11);
        var goods = Enumerable.Range(0, slots * candidates / 3).Select(i => Plain($"G{i}", i + 1)).ToList();
        var chosen = Enumerable
            .Range(0, slots)
            .Select(s => (Units: 1 + s % 3, Goods: goods.OrderBy(_ => random.Next()).Take(candidates).ToList()))
            .ToList();
        var set = Set(
            "SET",
            100_000,
            chosen.Select(
                (c, i) =>
                    $$"""
                        { "key": "slot-{{i}}", "quantity": { "min": {{c.Units}}, "max": {{c.Units}} },
                          "of": [ {{string.Join(",", c.Goods.Select(g => $$"""{ "product": "{{g.Product.Code}}" }"""))}} ] }
                        """
            )
        );
        var units = goods.ToDictionary(g => g.Product.Code.Text, _ => random.Next(40));
        var range = new PublishedRange.Of([.. goods, set]);
        var stock = new StockOutlook(sku => new StockLevel(units.GetValueOrDefault(sku.Text), 0, 0, 0), DateOnly.MinValue);
        var terms = new ConfigurationTerms(range, stock, new RunTerms(new TradeTerms(Currency.Euro, true, [], []), null));
        var status = ConfigurationStatus.Of(set, Configuration.Empty, Filling.None, terms);
        var own = Median(201, () => SetCounts.Of(status)!);
        var other = 0L;
        var solver = Median(3, () =>
            other = Optimum(chosen.ConvertAll(c => (c.Units, c.Goods.ConvertAll(g => g.Product.Code.Text))), units)
        );
        var found = SetCounts.Of(status)!;
        if (found.Most > other || (found.IsExact && found.Most != other))
            throw new InvalidOperationException($"{found.Most} sets against {other} of the other solver.");
        var said = found.IsExact ? "exact" : $"at least {found.Most} said of {other}";
        Report.Row(
            $"how many over all mixes, {slots} slots of {candidates} that overlap ({said}), ms",
            own,
            "OR-Tools' integer program",
            solver,
            own / solver,
            slots == 6 ? "at most 0.1" : "within 50 ms"
        );
    }

    private static long Optimum(List<(int Units, List<string> Goods)> slots, Dictionary<string, int> stock)
    {
        var model = new CpModel();
        var sets = model.NewIntVar(0, 100_000, "sets");
        var taken = stock.Keys.ToDictionary(k => k, _ => new List<(IntVar Var, int Units)>());
        foreach (var (units, goods) in slots)
        {
            var ways = goods.ConvertAll(g => (Goods: g, Var: model.NewIntVar(0, 100_000, g)));
            foreach (var (g, way) in ways)
                taken[g].Add((way, units));
            model.Add(LinearExpr.Sum(ways.Select(w => w.Var)) == sets);
        }
        foreach (var (sku, units) in stock)
            if (taken[sku].Count > 0)
                model.Add(LinearExpr.WeightedSum(taken[sku].Select(t => t.Var), taken[sku].Select(t => (long)t.Units)) <= units);
        model.Maximize(sets);
        var solver = new CpSolver { StringParameters = "num_workers:1" };
        solver.Solve(model);
        return (long)Math.Round(solver.ObjectiveValue);
    }

    /// <summary>A kit of eight slots, three of them with sizes, against a product with eight extras of as many values.</summary>
    private static void Picks()
    {
        var goods = Enumerable.Range(0, 24).Select(i => Plain($"P{i}", i + 1)).ToList();
        var sized = Enumerable.Range(0, 3).Select(i => Sized($"V{i}", 50 + i)).ToList();
        string Of(IEnumerable<string> codes) => string.Join(",", codes.Select(c => $$"""{ "product": "{{c}}" }"""));
        var slots = Enumerable
            .Range(0, 8)
            .Select(i =>
                $$"""
                    { "key": "slot-{{i}}",
                      "of": [ {{Of(
                        goods.Skip(i * 3).Take(i < 3 ? 2 : 3).Select(g => g.Product.Code.Text).Concat(i < 3 ? [$"V{i}"] : [])
                    )}} ] }
                    """
            );
        var kit = Set("KIT", 90, slots);
        var extras = Enumerable
            .Range(0, 8)
            .Select(i =>
                $$"""
                    { "key": "slot-{{i}}", "label": "x", "role": "extra", "ask": "one", "required": true, "values": [
                      { "key": "a", "label": "a" }, { "key": "b", "label": "b", "surcharge": { "amount": "1.00" } },
                      { "key": "c", "label": "c", "surcharge": { "amount": "2.00" } } ] }
                    """
            );
        var plain = Read(
            91,
            $$"""
            { "format": "unicus-product/1", "code": "PLAIN", "name": "Plain", "base": { "price": "10.00" },
              "options": [ {{string.Join(",", extras)}} ] }
            """
        );
        var range = new PublishedRange.Of([.. goods, .. sized, kit, plain]);
        var stock = new StockOutlook(_ => new StockLevel(1_000, 0, 0, 0), DateOnly.MinValue);
        var terms = new ConfigurationTerms(range, stock, new RunTerms(new TradeTerms(Currency.Euro, true, [], []), null));
        // By turns, since the machine is not as fast at one time as at another.
        var turns = Enumerable.Range(0, 5).Select(_ => (Kit: PickTime(kit, terms), Plain: PickTime(plain, terms))).ToList();
        var (ofKit, ofPlain) = (turns.Select(t => t.Kit).Order().ElementAt(2), turns.Select(t => t.Plain).Order().ElementAt(2));
        Report.Row("a pick on a kit of 8 slots, 3 with sizes, median µs", ofKit, "8 plain extras", ofPlain, ofKit / ofPlain, "at most 2");
    }

    private static double PickTime(Edition edition, ConfigurationTerms terms)
    {
        var times = PickTimes.Of(edition, terms);
        return 1_000 * times.Order().ElementAt(times.Count / 2);
    }

    private static double Median(int rounds, Func<object> work)
    {
        var times = new List<double>();
        for (var i = 0; i < rounds; i++)
        {
            var clock = Stopwatch.GetTimestamp();
            _ = work();
            times.Add(Stopwatch.GetElapsedTime(clock).TotalMilliseconds);
        }
        times.Sort();
        return times[rounds / 2];
    }

    private static Edition Plain(string code, int id) =>
        Read(
            id,
            $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}",
              "base": { "price": "{{(5 + id % 40).ToString(CultureInfo.InvariantCulture)}}.00" } }
            """
        );

    private static Edition Sized(string code, int id) =>
        Read(
            id,
            $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}", "base": { "price": "20.00" },
              "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [
                { "key": "s", "label": "S" }, { "key": "m", "label": "M" }, { "key": "l", "label": "L" } ] } ] }
            """
        );

    private static Edition Set(string code, int id, IEnumerable<string> slots) =>
        Read(
            id,
            $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}",
              "parts": { "slots": [ {{string.Join(",", slots)}} ] } }
            """
        );

    private static Edition Read(int id, string json)
    {
        var (product, _, faults) = DocumentReader.Read(JsonDocument.Parse(json).RootElement, Currency.Euro);
        if (product is null)
            throw new InvalidOperationException(faults[0].What);
        return new Edition(id, 1, DateTimeOffset.UnixEpoch, product, product.Matrix()) { Sets = [] };
    }
}
