using System.Text.Json.Nodes;
using CsCheck;
using Google.OrTools.Sat;

namespace Unicus.CoreTests;

/// <summary>How many sets can be sold, against CP-SAT of Google.OrTools over all ways to put a set together.</summary>
public class SetCountTests
{
    private const int MostWays = 400;

    /// <summary>Random sets up to three levels deep, most of them sharing leaves: what is said of open picks is the optimum of an integer
    /// program with a variable for each way to put a set together; in few of them, at most a fiftieth, it says that it is a bound from
    /// below, and then it is one.</summary>
    [Fact]
    public void The_most_over_all_mixes_is_the_optimum_of_another_solver()
    {
        var (compared, bounds) = (0, 0);
        Gen.Select(Gen.Int, Gen.Int)
            .Sample(
                (seed, stockSeed) =>
                {
                    var range = new RandomSets(seed, withPrices: false);
                    var code = $"S{1 + (seed & int.MaxValue) % 3}";
                    if (new SetWays(range.Docs, MostWays).Of(code) is not { } ways)
                        return;
                    var stock = StockOf(range, new Random(stockSeed));
                    var terms = new ConfigurationTerms(range.Range, stock.Leaf, Sample.Plain);
                    var counts = SetCounts.Of(ConfigurationStatus.Of(range[code], Configuration.Empty, Filling.None, terms))!;
                    // A set that may hold nothing at all is not limited.
                    var optimum = ways.Exists(w => w.Count == 0) ? null : (long?)Optimum(ways, stock.Units);
                    if (counts.IsExact)
                        Assert.Equal(optimum, counts.Most);
                    else
                        Assert.InRange(counts.Most!.Value, 0, optimum!.Value);
                    if (!counts.IsExact)
                        Interlocked.Increment(ref bounds);
                    Interlocked.Increment(ref compared);
                },
                iter: 2_000
            );
        Assert.True(compared > 1_000, $"only {compared} of them were small enough");
        Assert.True(bounds * 50 < compared, $"{bounds} of {compared} were bounds from below only");
    }

    /// <summary>The law: as many sets as are available can be taken, and one more cannot.</summary>
    [Fact]
    public void What_is_available_can_be_taken_and_no_more() =>
        Gen.Select(Gen.Int, Gen.Int)
            .Sample(
                (seed, stockSeed) =>
                {
                    var range = new RandomSets(seed);
                    var code = $"S{1 + (seed & int.MaxValue) % 3}";
                    if (range.Picks(code) is not { } picks)
                        return;
                    var (stock, faults) = (StockOf(range, new Random(stockSeed)), new List<Fault>());
                    var request = new LineRequest(code, null, picks.Answers, 1, null) { Parts = picks.Parts };
                    if (
                        new LineCompletion(range.Range, default, Sample.Plain).Complete(request, "#", faults)
                        is not { Needs.IsEmpty: false } line
                    )
                        return;
                    var available = stock.Leaf.Of(line.Needs).Units!.Value;
                    if (available > 0)
                        Assert.Empty(Shortages.Of([line with { Quantity = available }], stock.Leaf));
                    Assert.NotEmpty(Shortages.Of([line with { Quantity = available + 1 }], stock.Leaf));
                },
                iter: 1_500
            );

    private static (StockOutlook Leaf, Dictionary<string, int> Units) StockOf(RandomSets range, Random random)
    {
        var units = range.Editions.SelectMany(e => e.Matrix.Variants).ToDictionary(v => v.Sku.Text, _ => random.Next(25));
        return (new StockOutlook(sku => new StockLevel(units[sku.Text], 0, 0, 0), default), units);
    }

    private static long Optimum(IReadOnlyList<Dictionary<string, int>> ways, Dictionary<string, int> stock)
    {
        var model = new CpModel();
        var sets = ways.Select((_, i) => model.NewIntVar(0, 1_000, $"way {i}")).ToList();
        foreach (var (sku, units) in stock)
            if (ways.Any(w => w.ContainsKey(sku)))
                model.Add(LinearExpr.WeightedSum(sets, ways.Select(w => (long)w.GetValueOrDefault(sku))) <= units);
        model.Maximize(LinearExpr.Sum(sets));
        var solver = new CpSolver { StringParameters = "num_workers:1" };
        Assert.Equal(CpSolverStatus.Optimal, solver.Solve(model));
        return (long)Math.Round(solver.ObjectiveValue);
    }

    /// <summary>A way to put a set together.</summary>
    /// <param name="Kind">What was picked, at every level; units of one part are of one kind.</param>
    /// <param name="Taken">Units of every SKU: something made up ahead, or what is in it.</param>
    private sealed record SetWay(string Kind, Dictionary<string, int> Taken)
    {
        public static SetWay Nothing { get; } = new("", []);

        public SetWay With(SetWay other) =>
            new($"{Kind} {other.Kind}", Taken.Concat(other.Taken).GroupBy(x => x.Key).ToDictionary(g => g.Key, g => g.Sum(x => x.Value)));
    }

    /// <summary>All ways to put a set together, read from documents alone: for each the units of every SKU.</summary>
    private sealed class SetWays(IReadOnlyDictionary<string, JsonObject> docs, int most)
    {
        /// <summary>Null where there are too many.</summary>
        public List<Dictionary<string, int>>? Of(string code)
        {
            var all = new List<Dictionary<string, int>>();
            foreach (var size in IsSized(code) ? RandomSets.Sizes : new string?[] { null })
            {
                if (Of(code, size) is not { } ways)
                    return null;
                all.AddRange(ways.Select(w => w.Taken));
            }
            return all.Count > most ? null : all;
        }

        private bool IsSized(string code) => docs[code]["options"]?.AsArray().Any(o => (string)o!["key"]! == "size") == true;

        /// <summary>One set with its own size.</summary>
        private List<SetWay>? Of(string code, string? size)
        {
            var parts = docs[code]["parts"]!;
            var own = new Dictionary<string, int> { [size is null ? code : $"{code}-{size.ToUpperInvariant()}"] = 1 };
            List<(Dictionary<string, string[]> Picks, SetWay Way)> ways = [([], SetWay.Nothing)];
            foreach (var slot in parts["slots"]!.AsArray().Select(s => (JsonObject)s!))
            {
                var next = new List<(Dictionary<string, string[]>, SetWay)>();
                foreach (var chosen in Choices(slot))
                {
                    List<SetWay> filled = [SetWay.Nothing];
                    foreach (var entry in chosen)
                    {
                        if (Filled(slot, entry, size) is not { } options)
                            return null;
                        filled = [.. filled.SelectMany(f => options.Select(f.With))];
                        if (filled.Count > most)
                            return null;
                    }
                    var picks = chosen.Select(e => RandomSets.CodeOf(e).ToLowerInvariant()).ToArray();
                    next.AddRange(
                        ways.SelectMany(w =>
                            filled.Select(f =>
                                (new Dictionary<string, string[]>(w.Picks) { [(string)slot["key"]!] = picks }, w.Way.With(f))
                            )
                        )
                    );
                    if (next.Count > most * 4)
                        return null;
                }
                ways = next;
            }
            var allowed = ways.Where(w => IsAllowed(code, w.Picks))
                .Select(w => w.Way with { Kind = $"{code} {size} ({w.Way.Kind})" })
                .ToList();
            // A size that some part is not made in is not made either, whatever was made up ahead.
            if (allowed.Count > 0 && (string)parts["stock"]! != "parts")
            {
                var ahead = allowed[0] with { Taken = own };
                allowed = (string)parts["stock"]! == "own" ? [ahead] : [.. allowed, ahead];
            }
            return allowed.Count > most ? null : allowed;
        }

        private bool IsAllowed(string code, Dictionary<string, string[]> picks)
        {
            if (docs[code]["rules"]?[0] is not { } rule)
                return true;
            var (option, candidate) = ((string)rule["when"]!["option"]!, (string)rule["when"]!["is"]![0]!);
            var forbidden = rule["then"]!["forbid"]!.AsObject().First();
            return !(picks[option].Contains(candidate) && picks[forbidden.Key].Contains((string)forbidden.Value![0]!));
        }

        /// <summary>The candidates of an open slot: none where it is optional, else as few as may be.</summary>
        private static IEnumerable<JsonNode[]> Choices(JsonObject slot)
        {
            var entries = slot["of"]!.AsArray().Select(e => e!).ToArray();
            if (slot["optional"] is not null)
                return Enumerable.Range(0, 1 << entries.Length).Select(Subset).Where(s => s.Length == 0 || IsNumber(s.Length));
            return Enumerable.Range(1, (1 << entries.Length) - 1).Select(Subset).Where(s => IsNumber(s.Length));

            JsonNode[] Subset(int bits) => [.. entries.Where((_, i) => (bits >> i & 1) == 1)];
            bool IsNumber(int count) =>
                slot["picks"] is { } picks ? count >= (int)picks["min"]! && count <= (int)picks["max"]! : count == 1;
        }

        /// <summary>The ways to fill a slot with one candidate, in the least units.</summary>
        private List<SetWay>? Filled(JsonObject slot, JsonNode entry, string? size)
        {
            var units = (int)slot["quantity"]!["min"]!;
            var code = RandomSets.CodeOf(entry).Split('-')[0];
            var sku = entry["sku"] is null ? null : RandomSets.CodeOf(entry);
            IEnumerable<string?> sizes =
                !IsSized(code) ? new string?[] { null }
                : sku is not null ? [sku.Split('-')[1].ToLowerInvariant()]
                : entry["variants"] is null ? RandomSets.Sizes
                : ["s", "m"];
            if (slot["pick"] is JsonObject && IsSized(code))
                sizes = sizes.Where(s => s == size);
            var found = new List<SetWay>();
            foreach (var one in sizes)
            {
                if (docs[code]["parts"] is null)
                {
                    var taken = one is null ? code : $"{code}-{one.ToUpperInvariant()}";
                    found.Add(new SetWay(taken, new Dictionary<string, int> { [taken] = units }));
                    continue;
                }
                if (Of(code, one) is not { } inner || Several(inner, units) is not { } mixed)
                    return null;
                found.AddRange(mixed);
            }
            return found.Count > most ? null : found;
        }

        /// <summary>Units of one set within another are alike, but each thing in each of them may have been made up ahead or not.</summary>
        private List<SetWay>? Several(List<SetWay> ways, int units)
        {
            var all = new List<SetWay>();
            foreach (var alike in ways.GroupBy(w => w.Kind))
            {
                List<SetWay> mixed = [new(alike.Key, [])];
                for (var i = 0; i < units; i++)
                {
                    mixed = [.. mixed.SelectMany(a => alike.Select(w => a.With(w) with { Kind = alike.Key }))];
                    if (mixed.Count > most)
                        return null;
                }
                all.AddRange(mixed);
            }
            return all;
        }
    }
}
