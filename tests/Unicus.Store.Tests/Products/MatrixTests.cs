using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Store.Tests;

public class MatrixTests(Database db) : IClassFixture<Database>
{
    private const string Stocked = """
        , "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "price": "120.00", "stock": 12 },
          { "values": { "depth": "shallow", "timber": "pine" }, "stock": 5 } ]
        """;

    private Task<Outcome<int>> Bulk(string code, BulkRequest request) =>
        db.Use<BulkChange, Outcome<int>>(b => b.Apply(code, request, Database.Tester));

    private async Task<IEnumerable<string?>> Prices(string code) =>
        (await db.Load(code)).Matrix.Variants.Select(v => v.Price.Figure?.ToString());

    private static MatrixFilter Pick(params string[] picks) => MatrixFilter.None with { Picks = [.. picks] };

    [Fact]
    public async Task Bulk_change_rounds_up_to_an_ending_and_is_undone_and_done_again()
    {
        await db.Put(Database.Hive("BLK1", Stocked));
        ImmutableArray<string> cedar = ["depth=shallow,timber=cedar", "depth=deep,timber=cedar"];
        Assert.Equal(2, (await Bulk("BLK1", new BulkRequest(cedar, "price", BulkOperation.Percent, "12", ".50"))).Result);
        string[] raised = ["112.50", "100.00", "134.50", "100.00"],
            before = ["100.00", "100.00", "120.00", "100.00"];
        Assert.Equal(raised, await Prices("BLK1"));
        Assert.True((await db.Use<UndoChange, Outcome<string>>(u => u.Run("BLK1"))).Done);
        Assert.Equal(before, await Prices("BLK1"));
        Assert.True((await db.Use<UndoChange, Outcome<string>>(u => u.Again("BLK1"))).Done);
        Assert.Equal(raised, await Prices("BLK1"));
        Assert.False((await db.Use<UndoChange, Outcome<string>>(u => u.Again("BLK1"))).Done);
        Assert.True((await db.Use<UndoChange, Outcome<string>>(u => u.Run("BLK1"))).Done);
        await Bulk("BLK1", new BulkRequest([], "cost", BulkOperation.Set, "50", null));
        Assert.Contains(
            "nothing to do again",
            (await db.Use<UndoChange, Outcome<string>>(u => u.Again("BLK1"))).Faults[0].What,
            StringComparison.Ordinal
        );
        Assert.Equal(before, await Prices("BLK1"));
    }

    [Theory]
    [InlineData(BulkOperation.Set, "99", "", "99.00 100.00 99.00 100.00")]
    [InlineData(BulkOperation.Add, "1.25", "", "101.25 100.00 121.25 100.00")]
    [InlineData(BulkOperation.Subtract, "0.01", "", "99.99 100.00 119.99 100.00")]
    [InlineData(BulkOperation.Percent, "-12.5", "", "87.50 100.00 105.00 100.00")]
    [InlineData(BulkOperation.Copy, "cost", "", "40.00 100.00 40.00 100.00")]
    [InlineData(BulkOperation.Round, "", "9.99", "109.99 100.00 129.99 100.00")]
    [InlineData(BulkOperation.Split, "100.01", "", "50.01 100.00 50.00 100.00")]
    [InlineData(BulkOperation.Clear, "", "", "100.00 100.00 100.00 100.00")]
    public async Task Every_bulk_operation_changes_every_cedar_one_and_no_other(
        BulkOperation operation,
        string amount,
        string ending,
        string expected
    )
    {
        var code = "OP" + operation.ToString().ToUpperInvariant();
        await db.Put(Database.Hive(code, Stocked));
        Assert.True((await Bulk(code, new BulkRequest([], "price", operation, amount, ending, Pick("timber=cedar")))).Done);
        Assert.Equal(expected.Split(' '), await Prices(code));
    }

    [Fact]
    public async Task A_bulk_change_that_would_fall_below_nothing_changes_nothing()
    {
        await db.Put(Database.Hive("BLK2", Stocked));
        Assert.Contains(
            "would fall below 0",
            (await Bulk("BLK2", new BulkRequest([], "price", BulkOperation.Subtract, "110", null))).Faults[0].What,
            StringComparison.Ordinal
        );
        Assert.Equal(["100.00", "100.00", "120.00", "100.00"], await Prices("BLK2"));
    }

    [Theory]
    [InlineData("own", "", "", "D-CE")]
    [InlineData("out", "", "", "S-CE D-PI")]
    [InlineData("", "pine", "", "S-PI D-PI")]
    [InlineData("", "", "-price", "D-CE S-CE S-PI D-PI")]
    [InlineData("", "", "stock", "S-CE D-PI S-PI D-CE")]
    [InlineData("no-gtin", "d-", "", "D-CE D-PI")]
    public async Task Filters_find_and_sort(string state, string text, string sort, string expected)
    {
        if (await db.Use<UnicusContext, bool>(c => c.Products.AllAsync(p => p.Code != "FLT")))
            await db.Put(Database.Hive("FLT", Stocked));
        var copy = await db.Load("FLT");
        Assert.Equal(
            expected,
            string.Join(' ', new MatrixFilter([], state, text, sort).Find(copy).Select(n => copy.Matrix.At(n).Sku.Text[4..]))
        );
    }

    [Fact]
    public async Task A_GTIN_that_another_product_has_is_refused_with_its_owner_however_it_is_written()
    {
        await db.Put(Database.Hive("GT1"));
        await db.Put(Database.Hive("GT2"));
        Task<Outcome> Type(string code, string gtin) =>
            db.Use<MatrixCells, Outcome>(m =>
                m.Write(code, [new CellEdit("depth=deep,timber=cedar", "gtin", gtin, null)], Database.Tester)
            );
        Assert.True((await Type("GT1", "036000291452")).Done);
        Assert.Contains("already used by Hive GT1", (await Type("GT2", "0036000291452")).Faults[0].What, StringComparison.Ordinal);
        Assert.Contains("check digit", (await Type("GT2", "036000291453")).Faults[0].What, StringComparison.Ordinal);
        Assert.True((await Type("GT1", "036000291452")).Done);
    }

    /// <summary>Law: a large product whose value went, with history, and came back among more has the rows of one laid out anew.</summary>
    [Fact]
    public async Task Adding_values_to_a_large_product_equals_laying_it_out_anew_retired_variants_included()
    {
        string Document(string code, int last)
        {
            string Values(int count) =>
                string.Join(
                    ',',
                    Enumerable.Range(0, count).Select(v => $$"""{ "key": "v{{v}}", "label": "Value {{v}}", "sku": "{{v}}" }""")
                );
            var options = Enumerable
                .Range(1, 3)
                .Select(o =>
                    $$"""{ "key": "o{{o}}", "label": "Option {{o}}", "role": "variant", "values": [{{Values(o == 3 ? last : 16)}}] }"""
                );
            return $$"""
                { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}", "base": { "price": "10.00" },
                  "options": [{{string.Join(',', options)}}] }
                """;
        }
        async Task Options(Func<ImmutableArray<OptionValue>, ImmutableArray<OptionValue>> values)
        {
            var options = (await db.Load("GROW")).Product.Options;
            var wanted = options.SetItem(2, options[2] with { Values = values(options[2].Values) });
            var outcome = await db.Use<ChangeOptions, Outcome<MatrixDifference>>(c =>
                c.Run("GROW", wanted, new(), "Changed", Database.Tester)
            );
            Assert.True(outcome.Done, string.Join(' ', outcome.Faults.Select(f => f.What)));
        }
        async Task<List<(string, string, bool, decimal?)>> Rows(string code)
        {
            var copy = await db.Load(code);
            return
            [
                .. copy
                    .Matrix.Variants.Select(v => (v, Row: copy.RowOf(v.Values)!))
                    .Select(x => (x.Row.Values, x.Row.SkuCode[code.Length..], x.Row.Retired, x.v.Price.Figure?.Amount))
                    .Order(),
            ];
        }
        await db.Put(Document("GROW", 13));
        var kept = (await db.Load("GROW")).Matrix.Variants.First(v => v.Values.Text.EndsWith("o3=v12", StringComparison.Ordinal));
        await db.Use<MoveStock, Outcome>(m => m.Run(new MovementRequest(kept.Sku.Text, "receipt", 4, null, null, null), Database.Tester));
        var gone = (await db.Load("GROW")).Product.Options[2].Values[12];
        await db.Use<MoveStock, Outcome>(m => m.Run(new MovementRequest(kept.Sku.Text, "write-off", 4, null, null, null), Database.Tester));
        await Options(v => v.RemoveAt(12));
        await Options(v => [.. v, gone, .. TypedValues.Make(["Value 13"], v)]);
        await db.Put(Document("ANEW", 13));
        var anew = await Rows("ANEW");
        var grown = await Rows("GROW");
        Assert.Equal(16 * 16 * 14, grown.Count);
        Assert.Equal(anew, grown.Where(r => !r.Item1.EndsWith("value-13", StringComparison.Ordinal)));
        Assert.DoesNotContain(grown, r => r.Item3);
        Assert.Equal(grown.Count, grown.Select(r => r.Item2).Distinct().Count());
        Assert.Equal(0, (await db.Level(kept.Sku.Text)).OnHand);
    }

    [Fact]
    public async Task A_large_product_changes_only_what_is_touched()
    {
        const int wide = 8;
        var options = string.Join(
            ',',
            Enumerable
                .Range(1, 4)
                .Select(o =>
                    $$"""
                        {"key":"o{{o}}","label":"Option {{o}}","role":"variant",
                          "values":[{{string.Join(
                            ',',
                            Enumerable.Range(0, wide).Select(v => $$"""{"key":"v{{v}}","label":"Value {{v}}","sku":"{{v}}"}""")
                        )}}]}
                        """
                )
        );
        await db.Put($$"""{"format":"unicus-product/1","code":"BIG","name":"Big","base":{"price":"10.00"},"options":[{{options}}]}""");
        async Task Holds(int variants)
        {
            var copy = await db.Load("BIG");
            Assert.Equal(variants, copy.Matrix.OfferedCount);
            Assert.Equal(variants, copy.Rows.Count(r => !r.Retired));
            Assert.Equal(variants, copy.Rows.Where(r => !r.Retired).Select(r => r.SkuCode).Distinct().Count());
            Assert.All(copy.Matrix.Offered, v => Assert.NotNull(copy.RowOf(v.Values)));
        }
        await Holds(4096);
        var skus = (await db.Load("BIG")).Rows.ToDictionary(r => r.Values, r => r.SkuCode);
        var before = (await db.Load("BIG")).Product.Options;
        var added = await db.Use<ChangeOptions, Outcome<MatrixDifference>>(c =>
            c.Run(
                "BIG",
                before.SetItem(3, before[3] with { Values = [.. before[3].Values, .. TypedValues.Make(["Nine"], before[3].Values)] }),
                new(),
                "More",
                Database.Tester
            )
        );
        Assert.Equal(512, added.Result!.New.Length);
        await Holds(4608);
        var grown = await db.Load("BIG");
        Assert.All(skus, s => Assert.Equal(s.Value, grown.RowOf(Combination.Parse(s.Key))!.SkuCode));
        var one = "o1=v0,o2=v0,o3=v0,o4=v0";
        Assert.True(
            (await db.Use<MatrixCells, Outcome>(m => m.Write("BIG", [new CellEdit(one, "stock", "7", null)], Database.Tester))).Done
        );
        Assert.Contains(
            "7 on hand",
            (await db.Use<MatrixCells, Outcome>(m => m.MarkMade("BIG", [one], false, Database.Tester))).Faults[0].What,
            StringComparison.Ordinal
        );
        var two = "o1=v0,o2=v0,o3=v0,o4=v1";
        Assert.True((await db.Use<MatrixCells, Outcome>(m => m.MarkMade("BIG", [two], false, Database.Tester))).Done);
        await Holds(4607);
        Assert.True((await db.Use<UndoChange, Outcome<string>>(u => u.Run("BIG"))).Done);
        await Holds(4608);
        Assert.Equal(576, (await Bulk("BIG", new BulkRequest([], "price", BulkOperation.Add, "1", null, Pick("o1=v3")))).Result);
        Assert.Equal(576, (await db.Load("BIG")).Matrix.Offered.Count(v => v.Price.Figure?.Amount == 11));
        Assert.True((await db.Use<UndoChange, Outcome<string>>(u => u.Run("BIG"))).Done);
        Assert.All((await db.Load("BIG")).Matrix.Offered, v => Assert.Equal(10, v.Price.Figure?.Amount));
    }

    [Fact]
    public async Task Stock_of_many_is_set_added_subtracted_and_split_with_a_reason_in_the_ledger()
    {
        await db.Put(Database.Hive("BST1"));
        BulkRequest Stock(BulkOperation operation, string amount, params string[] values) =>
            new([.. values], BulkRequest.Stock, operation, amount, null, MatrixFilter.None) { Reason = "delivery of May" };
        async Task<List<int>> OnHand()
        {
            var copy = await db.Load("BST1");
            return [.. copy.Matrix.Variants.Select(v => copy.Stock.GetValueOrDefault(v.Sku).OnHand)];
        }
        Assert.Equal(4, (await Bulk("BST1", Stock(BulkOperation.Set, "10"))).Result);
        Assert.Equal([10, 10, 10, 10], await OnHand());
        Assert.Equal(2, (await Bulk("BST1", Stock(BulkOperation.Add, "5", "depth=deep,timber=cedar", "depth=deep,timber=pine"))).Result);
        Assert.Equal([10, 10, 15, 15], await OnHand());
        Assert.Contains("10 on hand", (await Bulk("BST1", Stock(BulkOperation.Subtract, "11"))).Faults[0].What);
        Assert.Contains("set, added", (await Bulk("BST1", Stock(BulkOperation.Percent, "5"))).Faults[0].What);
        Assert.False((await Bulk("BST1", Stock(BulkOperation.Add, "many"))).Done);
        Assert.Equal([10, 10, 15, 15], await OnHand());
        Assert.Equal(4, (await Bulk("BST1", Stock(BulkOperation.Split, "7"))).Result);
        Assert.Equal(7, (await OnHand()).Sum());
        await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => Bulk("BST1", Stock(BulkOperation.Add, "1"))));
        Assert.Equal(7 + 24, (await OnHand()).Sum());
        var moved = await db.Use<UnicusContext, List<MovementRow>>(c =>
            c.Movements.Where(m => c.Skus.Any(s => s.Id == m.SkuId && s.Code.StartsWith("BST1"))).ToListAsync()
        );
        Assert.Equal(31, moved.Sum(m => m.OnHand));
        Assert.All(moved, m => Assert.Equal("delivery of May", m.Reason));
        Assert.Equal(26, moved.Count(m => m.Kind == MovementKind.Receipt));
    }
}
