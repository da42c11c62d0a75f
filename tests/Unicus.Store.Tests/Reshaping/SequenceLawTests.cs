using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Store.Tests;

/// <summary>
/// Law, over random sequences of option edits, merges of values, sharing of SKUs, bulk changes, marks, undos, splits and bringing together:
/// no unit of stock disappears without a movement that says so; no own figure changes but by a change of figures, nor disappears without
/// standing in a difference; the ledger adds up; SKUs stay unique; each matrix is the product of values less what is not made; whatever is
/// split off or brought together keeps SKU and price.
/// </summary>
public class SequenceLawTests(Database db) : IClassFixture<Database>
{
    private const int Steps = 26;
    private const int Units = 17;

    /// <summary>What a step may do to figures.</summary>
    private enum Effect
    {
        /// <summary>Own figures may change.</summary>
        Figures,

        /// <summary>Own figures stay, or stand in the difference.</summary>
        Options,

        /// <summary>Every SKU stays and has the price it had.</summary>
        Homes,
    }

    private sealed record Family(string First, List<string> Codes)
    {
        /// <summary>Rows whose own figures a difference showed as lost.</summary>
        public HashSet<int> Shown { get; } = [];
    }

    public static IEnumerable<object[]> Seeds => Enumerable.Range(1, 40).Select(s => new object[] { s });

    [Theory]
    [MemberData(nameof(Seeds))]
    public async Task Whatever_sequence_of_edits_is_made_every_unit_and_figure_is_accounted_for(int seed)
    {
        var family = new Family($"SEQ{seed}", [$"SEQ{seed}"]);
        await db.Put(
            Database.Hive(
                family.First,
                """
                , "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "price": "120.00", "cost": "7.00", "stock": 12 },
                  { "values": { "depth": "shallow", "timber": "pine" }, "stock": 5 } ]
                """
            )
        );
        var random = new Random(seed);
        for (var step = 0; step < Steps; step++)
        {
            var before = await Load(family);
            var (own, prices) = (Own(before), Prices(before));
            family.Shown.Clear();
            var code = family.Codes[random.Next(family.Codes.Count)];
            var kind = random.Next(14);
            var effect = await Step(family, before.First(c => c.Row.Code == code), kind, random, step);
            var after = await Load(family);
            foreach (var copy in after)
                HoldsTogether(copy);
            Assert.Equal(Units + await Counted(after), after.Sum(c => c.WholeStock.OnHand));
            var where = $"{code}, step {step} of kind {kind}";
            if (effect == Effect.Homes)
                Assert.True(
                    prices.OrderBy(p => p.Key.Text).SequenceEqual(Prices(after).OrderBy(p => p.Key.Text)),
                    $"A SKU or its price changed by {where}."
                );
            if (effect == Effect.Options)
                foreach (var (row, figures) in own.Where(o => !family.Shown.Contains(o.Key)))
                    Assert.True(
                        Own(after).TryGetValue(row, out var now) && now == figures,
                        "A variant lost its own figures by " + $"{where}."
                    );
        }
        await LedgerAddsUp();
    }

    private async Task<List<WorkingCopy>> Load(Family family)
    {
        var copies = new List<WorkingCopy>();
        foreach (var code in family.Codes)
            copies.Add(await db.Load(code));
        return copies;
    }

    private static void HoldsTogether(WorkingCopy copy)
    {
        Assert.Equal(MadeSet.Size(copy.Product.Options) - copy.Matrix.NotMadeCount, copy.Matrix.Variants.Count);
        Assert.All(copy.Matrix.Variants, v => Assert.NotNull(copy.RowOf(v.Values)));
        // One SKU for each set of values that tells SKUs apart, and none for two of them.
        var apart = copy.Matrix.Variants.GroupBy(v => OptionChange.Apart(v.Values, copy.Product.Options)).ToList();
        Assert.All(apart, g => Assert.Single(g.Select(v => v.Sku).Distinct()));
        Assert.Equal(apart.Count, copy.Matrix.Variants.Select(v => v.Sku).Distinct().Count());
    }

    /// <summary>Own figures by row, which stays the same whatever its SKU and values become.</summary>
    private static Dictionary<int, Figures> Own(IEnumerable<WorkingCopy> copies) =>
        copies
            .SelectMany(c => c.Matrix.Variants.Where(v => !v.Variant.Own.AreNone).Select(v => (c.RowOf(v.Values)!.Id, v.Variant.Own)))
            .ToDictionary();

    private static Dictionary<Sku, Money?> Prices(IEnumerable<WorkingCopy> copies) =>
        copies.SelectMany(c => c.Matrix.Variants).DistinctBy(v => v.Sku).ToDictionary(v => v.Sku, v => v.Price.Figure);

    private Task<int> Counted(List<WorkingCopy> copies)
    {
        var ids = copies.Select(c => c.Row.Id).ToArray();
        return db.Use<UnicusContext, int>(c =>
            c.Movements.Where(m =>
                    c.Skus.Any(s => s.Id == m.SkuId && ids.Contains(s.ProductId))
                    && (m.Kind == MovementKind.WriteOff || m.Kind == MovementKind.Count)
                )
                .SumAsync(m => m.OnHand)
        );
    }

    private async Task LedgerAddsUp() =>
        Assert.Equal(
            0,
            await db.Use<UnicusContext, int>(c =>
                c.Levels.CountAsync(l =>
                    l.OnHand != c.Movements.Where(m => m.SkuId == l.SkuId && m.LocationId == l.LocationId).Sum(m => m.OnHand)
                )
            )
        );

    private async Task<Effect> Step(Family family, WorkingCopy copy, int kind, Random random, int step)
    {
        var code = copy.Row.Code;
        if (copy.Matrix.Variants.Count == 0)
            kind = 2;
        switch (kind)
        {
            case 0:
                Assert.True(
                    (
                        await db.Use<BulkChange, Outcome<int>>(b =>
                            b.Apply(
                                code,
                                new BulkRequest([], "price", BulkOperation.Percent, "3", ".95", MatrixFilter.None),
                                Database.Tester
                            )
                        )
                    ).Done
                );
                return Effect.Figures;
            case 1:
                var some = copy.Matrix.Variants[random.Next(copy.Matrix.Variants.Count)];
                await db.Use<MatrixCells, Outcome>(m => m.MarkMade(code, [some.Values.Text], made: false, Database.Tester));
                family.Shown.Add(copy.RowOf(some.Values)!.Id);
                if (random.Next(2) == 0)
                    await db.Use<MatrixCells, Outcome>(m => m.MarkMade(code, [some.Values.Text], made: true, Database.Tester));
                return Effect.Options;
            case 2:
                await db.Use<UndoChange, Outcome<string>>(u => u.Run(code));
                return Effect.Figures;
            case 3:
                await db.Use<UndoChange, Outcome<string>>(u => u.Again(code));
                return Effect.Figures;
            case 4 or 5:
                var which = kind == 4 ? OneValue(copy, random) : copy.Matrix.Variants[random.Next(copy.Matrix.Variants.Count)].Values;
                var split = await db.Use<SplitOff, Outcome<string>>(s =>
                    s.Run(code, which, $"Split {family.First} {step}", Database.Tester)
                );
                if (split.Done)
                    family.Codes.Add(split.Result!);
                return Effect.Homes;
            case 6 when family.Codes.Count > 1:
                var others = family.Codes.Where(c => c != code).Take(1 + random.Next(2)).Prepend(code).ToImmutableArray();
                var together = await db.Use<BringTogether, Outcome>(b =>
                    b.Run(
                        new TogetherRequest(
                            others,
                            $"Together {family.First} {step}",
                            $"Model {step}",
                            [.. others.Select((_, i) => $"M{i}")]
                        ),
                        Database.Tester
                    )
                );
                if (together.Done)
                    family.Codes.RemoveAll(c => c != code && others.Contains(c));
                return Effect.Homes;
            default:
                await Edit(family, copy, kind, random, step);
                return Effect.Options;
        }
    }

    private static Combination OneValue(WorkingCopy copy, Random random)
    {
        if (copy.Product.Options.IsEmpty)
            return Combination.Empty;
        var option = copy.Product.Options[random.Next(copy.Product.Options.Length)];
        return Combination.Of([(option.Key, option.Values[random.Next(option.Values.Length)].Key)]);
    }

    private async Task Edit(Family family, WorkingCopy copy, int kind, Random random, int step)
    {
        var options = copy.Product.Options;
        var at = options.IsEmpty ? 0 : random.Next(options.Length);
        var decisions = new OptionDecisions { Stock = (StockBeforeOptions)random.Next(3) };
        var wanted = options;
        switch (kind)
        {
            case 7 when options.Length < 4:
                wanted = options.Add(Fresh(options, random));
                break;
            case 8 when options.Length > 0:
                wanted = options.RemoveAt(at);
                break;
            case 9 when options.Length > 0 && options[at].Values.Length > 1:
                wanted = options.SetItem(
                    at,
                    options[at] with
                    {
                        Values = options[at].Values.RemoveAt(random.Next(options[at].Values.Length)),
                    }
                );
                break;
            case 10 when options.Length > 0:
                wanted = options.SetItem(
                    at,
                    options[at] with
                    {
                        Values = [.. options[at].Values, .. TypedValues.Make([$"New {step}"], options[at].Values)],
                    }
                );
                break;
            case 11 when options.Length > 0 && options[at].Values.Length > 1:
                var (stays, goes) = (options[at].Values[0].Key, options[at].Values[^1].Key);
                wanted = options.SetItem(at, options[at] with { Values = options[at].Values.RemoveAt(options[at].Values.Length - 1) });
                decisions = decisions with { Becomes = decisions.Becomes.Add((options[at].Key, goes), stays) };
                break;
            case 12 when options.Length > 0:
                wanted = options.SetItem(at, options[at] with { SharesSku = !options[at].SharesSku });
                break;
            default:
                wanted = [.. options.Reverse()];
                break;
        }
        var outcome = await db.Use<ChangeOptions, Outcome<MatrixDifference>>(c =>
            c.Run(copy.Row.Code, wanted, decisions, "Options", Database.Tester)
        );
        Assert.True(outcome.Done, string.Join(' ', outcome.Faults));
        var d = outcome.Result!;
        foreach (
            var lost in d
                .Deleted.Concat(d.Retired)
                .Concat(d.Merged.SelectMany(m => m.Absorbed))
                .Concat(d.Joined.SelectMany(j => j.Joining).Concat(d.Parted).Select(k => k.Stake))
        )
            family.Shown.Add(copy.RowOf(lost.Variant.Values)!.Id);
    }

    private static Option Fresh(ImmutableArray<Option> options, Random random) =>
        new(Key.From("Extra", options.Select(o => o.Key).ToHashSet()), $"Extra {options.Length}", OptionRole.Variant)
        {
            Values = [.. TypedValues.Make(Enumerable.Range(0, 1 + random.Next(3)).Select(i => $"Value {i}"), [])],
        };
}
