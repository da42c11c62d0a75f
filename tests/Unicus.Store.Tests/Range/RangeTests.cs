using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Store.Tests;

/// <summary>Work over several products at once: the sheet of the range, categories, SKUs made anew.</summary>
public class RangeTests(Database db) : IClassFixture<Database>
{
    private const string Deep = "depth=deep,timber=cedar";

    private async Task<string?> Price(string code) => (await db.Load(code)).Matrix.Find(Deep)!.Price.Figure?.ToString();

    [Fact]
    public async Task Cells_of_several_products_are_written_all_or_none()
    {
        await db.Put(Database.Hive("RA1"));
        await db.Put(Database.Hive("RA2"));
        Task<Outcome> Write(string first, string second) =>
            db.Use<RangeGrid, Outcome>(g =>
                g.Write(
                    [new CellEdit($"RA1|{Deep}", "price", first, null), new CellEdit($"RA2|{Deep}", "price", second, null)],
                    Database.Tester
                )
            );
        Assert.True((await Write("111", "112")).Done);
        Assert.Equal(("111.00", "112.00"), (await Price("RA1"), await Price("RA2")));
        var refused = await Write("211", "dear");
        Assert.Equal($"RA2|{Deep}|price", Assert.Single(refused.Faults).Where);
        Assert.Equal(("111.00", "112.00"), (await Price("RA1"), await Price("RA2")));
    }

    [Fact]
    public async Task A_bulk_change_over_products_is_one_transaction()
    {
        await db.Put(Database.Hive("RB1"));
        await db.Put(Database.Hive("RB2").Replace("\"100.00\"", "\"3.00\""));
        ImmutableArray<string> both = [$"RB1|{Deep}", $"RB2|{Deep}"];
        Assert.False(
            (
                await db.Use<RangeGrid, Outcome<int>>(g =>
                    g.Apply(new BulkRequest(both, "price", BulkOperation.Subtract, "5", null), Database.Tester)
                )
            ).Done
        );
        Assert.Equal("100.00", await Price("RB1"));
        var preview = await db.Use<RangeGrid, BulkPreview>(g =>
            g.Preview(new BulkRequest(both, "price", BulkOperation.Percent, "10", null))
        );
        Assert.Equal([(100m, 110m), (3m, 3.30m)], preview.Rows.Select(r => (r.Old!.Value, r.New!.Value)));
        Assert.Equal(
            2,
            (
                await db.Use<RangeGrid, Outcome<int>>(g =>
                    g.Apply(new BulkRequest(both, "price", BulkOperation.Percent, "10", null), Database.Tester)
                )
            ).Result
        );
        Assert.Equal(("110.00", "3.30"), (await Price("RB1"), await Price("RB2")));
    }

    [Fact]
    public async Task The_range_is_filtered_by_text_category_and_state()
    {
        await db.Put(
            Database.Hive(
                "RC1",
                """
                , "categories": ["Hives of RC"], "variants": [ { "values": { "depth": "deep", "timber": "pine" }, "price": "7.00",
                  "gtin": "6291041500213" } ]
                """
            )
        );
        async Task<int> Count(string text, string category, string state) =>
            (await db.Use<RangeGrid, RangeWindow>(g => g.Window(new RangeFilter(text, category, state), 0, 10))).Total;
        Assert.Equal(4, await Count("rc1", "", ""));
        Assert.Equal(2, await Count("RC1-D", "", ""));
        Assert.Equal(4, await Count("", "Hives of RC", ""));
        Assert.Equal(1, await Count("RC1", "", "own"));
        Assert.Equal(3, await Count("RC1", "", "no-gtin"));
        Assert.Equal(0, await Count("RC1", "", "retired"));
    }

    [Fact]
    public async Task SKUs_are_rewritten_by_the_pattern_shown_first_and_former_codes_stay_known()
    {
        await db.Put(Database.Hive("RS1", """, "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "stock": 3 } ]"""));
        await db.Put(Database.Hive("RS2"));
        ImmutableArray<PatternPiece> counted = [new PatternPiece.Code(), new PatternPiece.Text("."), new PatternPiece.Counter(3)];
        Assert.True((await db.Use<RewriteSkus, Outcome>(r => r.SetPattern("RS1", counted, Database.Tester))).Done);
        Assert.Equal("RS1-D-CE", (await db.Load("RS1")).Matrix.Find(Deep)!.Sku.Text);
        var preview = await db.Use<RewriteSkus, RewritePreview?>(r => r.Preview("RS1"));
        Assert.Equal(["RS1.001", "RS1.002", "RS1.003", "RS1.004"], preview!.Rows.Select(r => r.New.Text));
        Assert.Empty(preview.Clashes);
        Assert.True((await db.Use<RewriteSkus, Outcome>(r => r.Run("RS1", Database.Tester))).Done);
        Assert.Equal("RS1.003", (await db.Use<UnicusContext, SkuRow?>(c => SkuLookup.Find(c, "RS1-D-CE")))!.Code);
        Assert.Equal(3, (await db.Load("RS1")).Stock[Sku.Of("RS1.003")].OnHand);
        Assert.True((await db.Use<UndoChange, Outcome<string>>(u => u.Run("RS1"))).Done);
        Assert.Equal("RS1-D-CE", (await db.Load("RS1")).Matrix.Find(Deep)!.Sku.Text);

        ImmutableArray<PatternPiece> taken =
        [
            new PatternPiece.Text("RS2-"),
            new PatternPiece.OfOption(Key.Of("depth")),
            new PatternPiece.Text("-"),
            new PatternPiece.OfOption(Key.Of("timber")),
        ];
        await db.Use<RewriteSkus, Outcome>(r => r.SetPattern("RS1", taken, Database.Tester));
        Assert.Contains("RS2-D-CE belongs to Hive RS2.", (await db.Use<RewriteSkus, RewritePreview?>(r => r.Preview("RS1")))!.Clashes);
        Assert.Contains(
            "already used by Hive RS2",
            (await db.Use<RewriteSkus, Outcome>(r => r.Run("RS1", Database.Tester))).Faults[0].What,
            StringComparison.Ordinal
        );
        await db.Use<RewriteSkus, Outcome>(r => r.SetPattern("RS1", [new PatternPiece.Code()], Database.Tester));
        Assert.Contains(
            "would be made for 4 variants",
            (await db.Use<RewriteSkus, RewritePreview?>(r => r.Preview("RS1")))!.Clashes[0],
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Categories_lie_in_a_tree_and_fill_themselves()
    {
        await db.Put(Database.Hive("RT1", """, "tags": ["glass"], "categories": ["Inner"]"""));
        Assert.True((await db.Use<CategoryTree, Outcome>(t => t.Create("Outer", null))).Done);
        Assert.Contains(
            "already",
            (await db.Use<CategoryTree, Outcome>(t => t.Create("outer", null))).Faults[0].What,
            StringComparison.Ordinal
        );
        var rows = await db.Use<UnicusContext, List<CategoryRow>>(c => c.Categories.ToListAsync());
        var (outer, inner) = (rows.Single(r => r.Name == "Outer"), rows.Single(r => r.Name == "Inner"));
        Task<Outcome> Change(int id, string name, int? parent, string? search) =>
            db.Use<CategoryTree, Outcome>(t =>
                t.Change(id, name, parent, search, ["size"], ["Reach"], (_, _) => Task.FromResult(Outcome.Ok))
            );
        Assert.True((await Change(inner.Id, "Inner", outer.Id, null)).Done);
        Assert.Contains(
            "cannot lie below itself",
            (await Change(outer.Id, "Outer", inner.Id, null)).Faults[0].What,
            StringComparison.Ordinal
        );
        rows = await db.Use<UnicusContext, List<CategoryRow>>(c => c.Categories.AsNoTracking().ToListAsync());
        var product = (await db.Load("RT1")).Product;
        Category[] tree =
        [
            .. rows.Select(r => new Category(r.Id, r.Name, r.ParentId, r.Search)),
            new Category(-1, "Jars", null, "glass jar"),
            new Category(-2, "Glass hives", null, "glass hive"),
        ];
        int[] both = [.. new[] { inner.Id, outer.Id }.Order()];
        var holding = Membership.Of(tree, product.Categories, Membership.TextOf(product));
        Assert.Equal([-2, .. both], holding.ToArray());
    }

    [Fact]
    public void Plain_text_becomes_paragraphs_and_comes_back_as_it_was()
    {
        Assert.Equal("<p>One &amp; two<br>three</p><p>Four</p>", ProductFields.FromPlain("One & two\nthree\n\nFour"));
        Assert.Equal("One & two\nthree\n\nFour", ProductFields.ToPlain(ProductFields.FromPlain("One & two\nthree\n\nFour")));
        Assert.DoesNotContain("script", ProductFields.FromPlain("<p>Hello<script>x</script></p>"), StringComparison.Ordinal);
    }
}
