using Unicus.Store;

namespace Unicus.Store.Tests;

/// <summary>Figures of the matrix as people type them, and blocks tried before they are written.</summary>
public class CellTests(Database db) : IClassFixture<Database>
{
    private const string Deep = "depth=deep,timber=cedar";

    private Task<Outcome> Write(string code, bool tryOnly, params CellEdit[] edits) =>
        db.Use<MatrixCells, Outcome>(m => m.Write(code, edits, Database.Tester, tryOnly));

    private async Task<string> Cell(string code, string figure)
    {
        var copy = await db.Load(code);
        return MatrixFigures.Find(figure)!.Show(copy, copy.Matrix.Find(Deep)!).Text;
    }

    private async Task<string> Typed(string figure, string text)
    {
        const string code = "CLL1";
        if (await db.Use<UnicusContext, bool>(c => Task.FromResult(c.Products.All(p => p.Code != code))))
            await db.Put(Database.Hive(code));
        var outcome = await Write(code, false, new CellEdit(Deep, figure, text, null));
        return outcome.Done ? await Cell(code, figure) : outcome.Faults[0].What;
    }

    [Theory]
    [InlineData("size", "64 x 40 x 3", "64 × 40 × 3 cm")]
    [InlineData("size", "640mm×40cm×0,03 m", "64 × 40 × 3 cm")]
    [InlineData("size", "", "")]
    [InlineData("tax", "standard", "Standard")]
    [InlineData("tax", "STANDARD", "Standard")]
    [InlineData("selling", "off", "off")]
    [InlineData("selling", "off till 3 May 2027", "off till 3 May 2027")]
    [InlineData("selling", "to order", "to order")]
    [InlineData("selling", "5 beyond", "5 beyond")]
    [InlineData("selling", "without end, not counted", "not counted, without end")]
    [InlineData("selling", "", "on")]
    [InlineData("weight", "1,5 kg", "1.5 kg")]
    public async Task A_figure_is_understood_and_shown_again(string figure, string typed, string shown) =>
        Assert.Equal(shown, await Typed(figure, typed));

    [Theory]
    [InlineData("size", "64 x 40", "length × width × height")]
    [InlineData("size", "64 x 40 x", "three sides")]
    [InlineData("size", "64 x 40 x 3 miles", "not a unit")]
    [InlineData("tax", "zero", "There is no tax class zero")]
    [InlineData("selling", "maybe", "is not understood")]
    public async Task What_is_not_understood_says_what_is(string figure, string typed, string why) =>
        Assert.Contains(why, await Typed(figure, typed), StringComparison.Ordinal);

    [Theory]
    [InlineData("selling", "off", "off")]
    [InlineData("tax", "standard", "Standard")]
    [InlineData("size", "64 x 40 x 3", "64 × 40 × 3 cm")]
    [InlineData("note", "By the door", "By the door")]
    public async Task A_text_is_set_for_many_variants_at_once_and_inherited_again(string figure, string typed, string shown)
    {
        var code = $"CLB{figure.Length}{figure[0]}".ToUpperInvariant();
        await db.Put(Database.Hive(code));
        Task<Outcome<int>> Bulk(BulkOperation operation, string? text) =>
            db.Use<BulkChange, Outcome<int>>(b =>
                b.Apply(code, new BulkRequest([], figure, operation, text, null, MatrixFilter.None), Database.Tester)
            );
        var inherited = await Cell(code, figure);
        var preview = await db.Use<BulkChange, BulkPreview?>(b =>
            b.Preview(code, new BulkRequest([], figure, BulkOperation.Set, typed, null, MatrixFilter.None))
        );
        Assert.Equal((inherited, typed), preview!.Rows[0].Texts);
        var count = (await Bulk(BulkOperation.Set, typed)).Result;
        Assert.Equal((preview.Count, shown), (count, await Cell(code, figure)));
        Assert.Contains("is set or inherited again", (await Bulk(BulkOperation.Add, typed)).Faults[0].What, StringComparison.Ordinal);
        Assert.True((await Bulk(BulkOperation.Clear, null)).Done);
        Assert.Equal(inherited, await Cell(code, figure));
    }

    [Fact]
    public async Task A_block_that_is_only_tried_names_its_faults_and_writes_nothing()
    {
        await db.Put(Database.Hive("CLL2"));
        var tried = await Write(
            "CLL2",
            true,
            new CellEdit(Deep, "price", "77", null),
            new CellEdit("depth=deep,timber=pine", "price", "abc", null),
            new CellEdit("depth=deep,timber=elm", "price", "1", null)
        );
        Assert.Equal(["depth=deep,timber=pine|price", "depth=deep,timber=elm|price"], tried.Faults.Select(f => f.Where));
        Assert.True((await Write("CLL2", true, new CellEdit(Deep, "price", "77", null), new CellEdit(Deep, "stock", "9", null))).Done);
        Assert.Equal(("100.00", "0"), (await Cell("CLL2", "price"), await Cell("CLL2", "stock")));
        Assert.True((await Write("CLL2", false, new CellEdit(Deep, "price", "77", null))).Done);
        Assert.Equal("77.00", await Cell("CLL2", "price"));
    }

    [Fact]
    public async Task First_units_that_several_type_at_once_are_counted_once()
    {
        for (var round = 0; round < 5; round++)
        {
            var code = $"CLM{round}";
            await db.Put(Database.Hive(code));
            var typed = new[] { new CellEdit(Deep, "stock", "9", null), new CellEdit("depth=deep,timber=pine", "stock", "4", null) };
            var outcomes = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => Write(code, false, typed)));
            Assert.All(outcomes, o => Assert.True(o.Done));
            Assert.Equal("9", await Cell(code, "stock"));
        }
    }

    [Theory]
    [InlineData("[]", 0)]
    [InlineData("""[{"values":"a=b","figure":"price","text":"1","was":null}]""", 1)]
    [InlineData("""[{"values":"a=b"}]""", -1)]
    [InlineData("nonsense", -1)]
    [InlineData("null", -1)]
    public void Cells_of_a_page_are_read_or_refused(string json, int count) => Assert.Equal(count, CellEdit.ReadAll(json)?.Count ?? -1);

    [Fact]
    public async Task The_only_variant_of_a_product_without_options_cannot_be_marked_not_made()
    {
        await db.Put("""{ "format": "unicus-product/1", "code": "CLL3", "name": "One", "base": { "price": "5.00" } }""");
        Assert.Contains(
            "off the shelf",
            (await db.Use<MatrixCells, Outcome>(m => m.MarkMade("CLL3", [""], false, Database.Tester))).Faults[0].What,
            StringComparison.Ordinal
        );
        Assert.Single((await db.Load("CLL3")).Matrix.Variants);
    }
}
