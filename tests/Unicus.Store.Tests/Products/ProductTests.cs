using System.Collections.Immutable;
using System.Diagnostics;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Store.Tests;

public class ProductTests(Database db) : IClassFixture<Database>
{
    private const string Stocked = """
        , "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "price": "120.00", "stock": 12 },
          { "values": { "depth": "shallow", "timber": "pine" }, "stock": 5 } ]
        """;

    private Task<Outcome<MatrixDifference>> Change(
        string code,
        Func<ImmutableArray<Option>, ImmutableArray<Option>> change,
        OptionDecisions? decisions = null,
        int? version = null
    ) =>
        db.Use<ChangeOptions, Outcome<MatrixDifference>>(async use =>
            await use.Run(code, change((await db.Load(code)).Product.Options), decisions ?? new(), "Options", Database.Tester, version)
        );

    private async Task<int> OnHand(string code) => (await db.Load(code)).Stock.Values.Sum(s => s.OnHand);

    private async Task LedgerAddsUp()
    {
        var wrong = await db.Use<UnicusContext, int>(c =>
            c.Levels.CountAsync(l =>
                l.OnHand != c.Movements.Where(m => m.SkuId == l.SkuId && m.LocationId == l.LocationId).Sum(m => m.OnHand)
                || l.Allocated != c.Movements.Where(m => m.SkuId == l.SkuId && m.LocationId == l.LocationId).Sum(m => m.Allocated)
            )
        );
        Assert.Equal(0, wrong);
    }

    [Fact]
    public async Task A_product_needs_a_name_and_nothing_else()
    {
        var made = await db.Use<ChangeProduct, Outcome<string>>(p => p.Create("Wax melter <b>2</b>", Database.Tester));
        Assert.Equal("Wax melter <b>2</b>", (await db.Load(made.Result!)).Product.Name);
        Assert.False((await db.Use<ChangeProduct, Outcome<string>>(p => p.Create("  ", Database.Tester))).Done);
        Assert.False((await db.Use<ChangeProduct, Outcome<string>>(p => p.Create(new string('x', 300), Database.Tester))).Done);
    }

    [Fact]
    public async Task A_document_put_twice_is_the_same_and_receives_stock_once()
    {
        Assert.Equal(PutResult.Created, (await db.Put(Database.Hive("PUT1", Stocked))).Result);
        Assert.Equal(PutResult.Replaced, (await db.Put(Database.Hive("PUT1", Stocked))).Result);
        var copy = await db.Load("PUT1");
        Assert.Equal(17, copy.Stock.Values.Sum(s => s.OnHand));
        Assert.Equal("120.00", copy.Matrix.Find(Combination.Parse("depth=deep,timber=cedar"))!.Price.Figure?.ToString());
        await LedgerAddsUp();
    }

    [Fact]
    public async Task A_document_that_would_lose_stock_is_refused_unless_it_may_retire()
    {
        await db.Put(Database.Hive("PUT2", Stocked));
        var without = Database.Hive("PUT2").Replace(""", { "key": "pine", "label": "Pine", "sku": "PI" }""", "");
        var (result, faults) = await db.Put(without);
        Assert.Equal(PutResult.WouldLose, result);
        Assert.Contains("PUT2-S-PI has 5 on hand", Assert.Single(faults).What);
        Assert.Equal(PutResult.Replaced, (await db.Put(without, retire: true)).Result);
        Assert.Equal(
            17,
            await db.Use<UnicusContext, int>(c =>
                c.Levels.Where(l => c.Skus.Any(s => s.Id == l.SkuId && s.CodeKey.StartsWith("PUT2"))).SumAsync(l => l.OnHand)
            )
        );
    }

    [Fact]
    public async Task A_document_whose_pattern_makes_a_SKU_of_another_product_is_refused_with_its_owner()
    {
        await db.Put(Database.Hive("PUT7"));
        var clashing = Database
            .Hive("PUT8")
            .Replace(
                "\"name\": \"Hive",
                "\"skuPattern\": [ { \"text\": \"PUT7-\" }, { \"option\": \"depth\" }, { \"text\": \"-\" }, { \"option\": \"timber\" "
                    + "} ], \"name\": \"Hive"
            );
        var (result, faults) = await db.Put(clashing);
        Assert.Equal(PutResult.Faulty, result);
        Assert.Contains(faults, f => f.What.Contains("PUT7-D-CE is already used by Hive PUT7", StringComparison.Ordinal));
        Assert.Null(await db.Use<UnicusContext, ProductRow?>(c => c.Products.FirstOrDefaultAsync(p => p.Code == "PUT8")));
    }

    [Fact]
    public async Task A_stale_version_is_refused()
    {
        await db.Put(Database.Hive("PUT3"));
        var version = (await db.Load("PUT3")).Row.Version;
        Assert.Equal(PutResult.Replaced, (await db.Put(Database.Hive("PUT3"), version: version)).Result);
        Assert.Equal(PutResult.Stale, (await db.Put(Database.Hive("PUT3"), version: version)).Result);
    }

    [Fact]
    public async Task A_SKU_used_elsewhere_is_refused_and_names_its_owner()
    {
        await db.Put(Database.Hive("OWN1"));
        var (result, faults) = await db.Put(
            Database.Hive("OWN2", """, "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "sku": "own1-d-ce" } ]""")
        );
        Assert.Equal(PutResult.Faulty, result);
        Assert.Contains("Hive OWN1, deep, cedar", Assert.Single(faults).What);
    }

    [Fact]
    public async Task Adding_the_first_option_keeps_SKU_price_and_stock_and_splits_evenly_when_asked()
    {
        await db.Put(
            """
            { "format": "unicus-product/1", "code": "ONE1", "name": "One", "base": { "price": "5.00" }, "variants": [ { "values": {},
              "stock": 10 } ] }
            """
        );
        var depth = new Option(Key.Of("depth"), "Depth", OptionRole.Variant)
        {
            Values = [.. TypedValues.Make(["Shallow", "Medium", "Deep"], [])],
        };
        var outcome = await Change(
            "ONE1",
            _ => [depth],
            new OptionDecisions
            {
                Stock = StockBeforeOptions.SplitEvenly,
                Takes = ImmutableDictionary<Key, Key>.Empty.Add(Key.Of("depth"), Key.Of("medium")),
            }
        );
        Assert.True(outcome.Done);
        var copy = await db.Load("ONE1");
        Assert.Equal("ONE1", copy.Matrix.Find(Combination.Parse("depth=medium"))!.Sku.Text);
        Assert.Equal(["3", "4", "3"], copy.Matrix.Variants.Select(v => copy.Stock.GetValueOrDefault(v.Sku).OnHand.ToString()));
        await LedgerAddsUp();
    }

    [Fact]
    public async Task Stock_counted_later_leaves_by_a_count_that_says_so()
    {
        await db.Put("""{ "format": "unicus-product/1", "code": "ONE2", "name": "Two", "variants": [ { "values": {}, "stock": 10 } ] }""");
        await Change(
            "ONE2",
            _ => [new Option(Key.Of("size"), "Size", OptionRole.Variant) { Values = [.. TypedValues.Make(["S", "M"], [])] }],
            new OptionDecisions { Stock = StockBeforeOptions.CountLater }
        );
        Assert.Equal(0, await OnHand("ONE2"));
        Assert.Equal(
            1,
            await db.Use<UnicusContext, int>(c =>
                c.Movements.CountAsync(m => m.Kind == MovementKind.Count && m.OnHand == -10 && m.Reason!.Contains("to be counted"))
            )
        );
    }

    [Fact]
    public async Task A_removed_values_units_move_where_the_merchant_says()
    {
        await db.Put(Database.Hive("REM1", Stocked));
        var moveTo = ImmutableDictionary<string, Combination>.Empty.Add(
            "depth=shallow,timber=pine",
            Combination.Parse("depth=shallow,timber=cedar")
        );
        var outcome = await Change(
            "REM1",
            o => o.SetItem(1, o[1] with { Values = o[1].Values.RemoveAt(1) }),
            new OptionDecisions { MoveTo = moveTo }
        );
        Assert.Equal("+0 new, 1 lost, 1 to retire: 5 units on hand", outcome.Result!.InWords());
        var copy = await db.Load("REM1");
        Assert.Equal(5, copy.Stock[Sku.Of("REM1-S-CE")].OnHand);
        Assert.Equal(0, copy.Stock[Sku.Of("REM1-S-PI")].OnHand);
        Assert.True(copy.Rows.Single(r => r.SkuCode == "REM1-S-PI").Retired);
        await LedgerAddsUp();
    }

    [Fact]
    public async Task A_removed_option_merges_variants_and_adds_their_stock_up()
    {
        await db.Put(Database.Hive("MRG1", Stocked));
        await Change("MRG1", o => [o[0]], new OptionDecisions { Survivors = ["depth=shallow,timber=pine"] });
        var copy = await db.Load("MRG1");
        Assert.Equal(["MRG1-S-PI", "MRG1-D-CE"], copy.Matrix.Variants.Select(v => v.Sku.Text));
        Assert.Equal(17, copy.Matrix.Variants.Sum(v => copy.Stock.GetValueOrDefault(v.Sku).OnHand));
        await LedgerAddsUp();
    }

    [Fact]
    public async Task A_value_taken_away_and_brought_back_brings_its_SKU_back()
    {
        await db.Put(Database.Hive("BCK1", Stocked));
        var before = (await db.Load("BCK1")).Product.Options;
        await Change("BCK1", o => o.SetItem(1, o[1] with { Values = o[1].Values.RemoveAt(1) }));
        await Change("BCK1", _ => before);
        var copy = await db.Load("BCK1");
        Assert.Equal(["BCK1-S-CE", "BCK1-S-PI", "BCK1-D-CE", "BCK1-D-PI"], copy.Matrix.Variants.Select(v => v.Sku.Text));
        Assert.DoesNotContain(copy.Matrix.Variants, v => v.Variant.Retired);
    }

    [Fact]
    public async Task A_change_of_options_seen_at_another_version_is_refused()
    {
        await db.Put(Database.Hive("VER1"));
        var outcome = await Change("VER1", o => [o[0]], version: 0);
        Assert.Contains("changed elsewhere", Assert.Single(outcome.Faults).What);
    }

    [Fact]
    public async Task Cells_are_written_all_or_none_and_every_fault_is_named()
    {
        await db.Put(Database.Hive("CEL1"));
        var outcome = await db.Use<MatrixCells, Outcome>(c =>
            c.Write(
                "CEL1",
                [
                    new("depth=deep,timber=cedar", "price", "1,340.50", "100.00"),
                    new("depth=deep,timber=pine", "price", "abc", "100.00"),
                    new("depth=deep,timber=pine", "stock", "-4", "0"),
                ],
                Database.Tester
            )
        );
        Assert.Equal("depth=deep,timber=pine|price", Assert.Single(outcome.Faults).Where);
        Assert.Equal("100.00", (await db.Load("CEL1")).Matrix.Find(Combination.Parse("depth=deep,timber=cedar"))!.Price.Figure?.ToString());
        Assert.False(
            (
                await db.Use<MatrixCells, Outcome>(c =>
                    c.Write("CEL1", [new("depth=deep,timber=pine", "stock", "-4", "0")], Database.Tester)
                )
            ).Done
        );
    }

    [Fact]
    public async Task A_cell_changed_elsewhere_meanwhile_is_not_overwritten_unseen()
    {
        await db.Put(Database.Hive("CEL2"));
        var first = await db.Use<MatrixCells, Outcome>(c =>
            c.Write("CEL2", [new("depth=deep,timber=cedar", "price", "110", "100.00")], Database.Tester)
        );
        var second = await db.Use<MatrixCells, Outcome>(c =>
            c.Write("CEL2", [new("depth=deep,timber=cedar", "price", "90", "100.00")], Database.Tester)
        );
        Assert.True(first.Done);
        Assert.Contains("110.00", Assert.Single(second.Faults).What);
    }

    [Fact]
    public async Task Two_tabs_with_one_field_the_later_one_is_told()
    {
        await db.Put(Database.Hive("TAB1"));
        Task<Outcome> Type(string text, string was) =>
            db.Use<ChangeField, Outcome>(c => c.Run("TAB1", "summary", text, was, Database.Tester));
        Assert.True((await Type("one", "")).Done);
        Assert.Contains("Changed elsewhere", Assert.Single((await Type("two", "")).Faults).What);
        Assert.True((await Type("two", "one")).Done);
    }

    [Fact]
    public async Task Undo_brings_deleted_variants_back_and_takes_new_ones_away()
    {
        await db.Put(Database.Hive("UND1"));
        await Change("UND1", o => o.SetItem(1, o[1] with { Values = [o[1].Values[0], .. TypedValues.Make(["Larch"], o[1].Values)] }));
        Assert.Equal(["UND1-S-CE", "UND1-S-L", "UND1-D-CE", "UND1-D-L"], (await db.Load("UND1")).Matrix.Variants.Select(v => v.Sku.Text));
        var undone = await db.Use<UndoChange, Outcome<string>>(u => u.Run("UND1"));
        Assert.True(undone.Done);
        Assert.Equal(["UND1-S-CE", "UND1-S-PI", "UND1-D-CE", "UND1-D-PI"], (await db.Load("UND1")).Matrix.Variants.Select(v => v.Sku.Text));
    }

    [Fact]
    public async Task A_description_is_sanitised()
    {
        await db.Put(Database.Hive("HTM1"));
        await db.Use<ChangeField, Outcome>(c =>
            c.Run(
                "HTM1",
                "description",
                """<p onclick="x()">Good <script>alert(1)</script><a href="javascript:x()">link</a><img src=x onerror=y></p>""",
                "",
                Database.Tester
            )
        );
        Assert.Equal("<p>Good <a>link</a></p>", (await db.Load("HTM1")).Product.Description);
    }

    [Fact]
    public async Task A_text_file_named_png_is_refused_and_a_picture_is_re_encoded()
    {
        var refused = await db.Use<PictureStore, Read<string>>(p => p.Keep("notes.png", "just text"u8.ToArray()));
        Assert.Contains("not a picture", refused.Problem);
        var png = Convert.FromBase64String(
            "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="
        );
        var kept = await db.Use<PictureStore, Read<string>>(p => p.Keep("dot.png", png));
        Assert.True(kept.Ok);
        var row = await db.Use<UnicusContext, PictureRow>(c => c.Pictures.SingleAsync(p => p.File == kept.Value));
        Assert.Equal("WEBP", System.Text.Encoding.ASCII.GetString(row.Large, 8, 4));
    }

    [Fact]
    public async Task An_edition_does_not_change_when_the_working_copy_does()
    {
        await db.Put(Database.Hive("EDN1"));
        Assert.Equal(1, (await db.Use<PublishEdition, Outcome<int>>(p => p.Run("EDN1", Database.Tester))).Result);
        await db.Use<ChangeField, Outcome>(c => c.Run("EDN1", "price", "555", null, Database.Tester));
        var edition = await db.Use<UnicusContext, Edition?>(c => db.Catalogue.Editions.Latest(c, "EDN1"));
        Assert.All(edition!.Matrix.Variants, v => Assert.Equal("100.00", v.Price.Figure?.ToString()));
    }

    [Fact]
    public async Task Publishing_is_refused_with_what_stands_in_the_way()
    {
        await db.Put("""{ "format": "unicus-product/1", "code": "NOP1", "name": "No price" }""");
        var outcome = await db.Use<PublishEdition, Outcome<int>>(p => p.Run("NOP1", Database.Tester));
        Assert.Equal("It has no price.", Assert.Single(outcome.Faults).What);
    }

    /// <summary>What a connection planned for tables that were small then must not be kept for a large product: each of its rows would
    /// read a whole table.</summary>
    [Fact]
    public async Task A_large_product_is_stored_in_seconds_right_after_small_ones()
    {
        static string Values(int count) =>
            string.Join(',', Enumerable.Range(0, count).Select(v => $$"""{ "key": "v{{v}}", "label": "v{{v}}" }"""));
        static string Option(string key, int values) =>
            $$"""{ "key": "{{key}}", "label": "{{key}}", "role": "variant", "values": [{{Values(values)}}] }""";
        static string Of(string code, int values) =>
            $$"""
                { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}", "base": { "price": "10.00" },
                  "options": [{{Option("a", values)}}, {{Option("b", values)}}] }
                """;
        await db.Put(Of("SMALL", 2));
        await db.Use<UnicusContext, int>(c => c.Database.ExecuteSqlRawAsync("analyze skus; analyze variants; analyze levels"));
        for (var i = 0; i < 8; i++)
            await db.Put(Of($"SMALL{i}", 2));
        var clock = Stopwatch.StartNew();
        await db.Put(Of("LARGE", 220));
        Assert.Equal(48_400, (await db.Load("LARGE")).Matrix.Made.Count);
        Assert.True((await db.Use<ChangeProduct, Outcome>(c => c.Delete("LARGE"))).Done);
        // Some seconds; with such a plan it is many minutes, on however busy a machine.
        Assert.True(clock.Elapsed < TimeSpan.FromSeconds(90), $"It took {clock.Elapsed.TotalSeconds:0} s.");
    }
}
