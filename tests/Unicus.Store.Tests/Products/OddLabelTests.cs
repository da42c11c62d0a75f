using System.Collections.Immutable;
using System.Text;
using Unicus.Store;

namespace Unicus.Store.Tests;

/// <summary>Labels of every script, and matrices larger than can be.</summary>
public class OddLabelTests(Database db) : IClassFixture<Database>
{
    private static readonly string[] More = ["a\u202Eb", "Zoë’s"];
    private static readonly string[] Odd = ["עץ ארז", "خشب الصنوبر", "🐝 ½ lb", "Größe “XL”, weit", .. More];

    private static Option Make(string label, IEnumerable<string> values) =>
        new(Key.From(label, new HashSet<Key>(), "option"), label, OptionRole.Variant) { Values = [.. TypedValues.Make([.. values], [])] };

    [Fact]
    public async Task Labels_of_every_script_make_variants_with_SKUs_and_go_through_a_spreadsheet()
    {
        await db.Put("""{ "format": "unicus-product/1", "code": "ODD1", "name": "מוצר 🐝", "base": { "price": "5.00" } }""");
        var made = await db.Use<ChangeOptions, Outcome<MatrixDifference>>(c =>
            c.Run("ODD1", [Make("גודל", Odd), Make("Lid 🍯", ["🍯", "蜂"])], new OptionDecisions(), "Options", Database.Tester)
        );
        Assert.True(made.Done, string.Join(' ', made.Faults));
        var copy = await db.Load("ODD1");
        Assert.Equal(12, copy.Matrix.Variants.Select(v => v.Sku).Distinct().Count());
        Assert.Equal(Odd, copy.Product.Options[0].Values.Select(v => v.Label));
        var table = (
            await db.Use<SheetExport, (IReadOnlyList<string>, IReadOnlyList<IReadOnlyList<object?>>)?>(e => e.Table("ODD1"))
        )!.Value;
        using var stream = new MemoryStream();
        SheetFile.WriteCsv(
            stream,
            table.Item1,
            table.Item2.Select(r => (IReadOnlyList<object?>)[.. r.Select((c, i) => table.Item1[i] == "cost" ? 1.50m : c)])
        );
        var plan = (await db.Use<SheetImport, Outcome<SheetPlan>>(i => i.Run("ODD1", stream.ToArray(), "a.csv", Database.Tester))).Result!;
        Assert.Equal((12, 12, 0), (plan.Rows, plan.Changes.Count, plan.Faults.Count));
        Assert.All((await db.Load("ODD1")).Matrix.Variants, v => Assert.Equal("1.50", v.Cost.Figure?.ToString()));
    }

    [Fact]
    public async Task A_matrix_of_a_million_million_is_told_before_it_is_tried()
    {
        await db.Put("""{ "format": "unicus-product/1", "code": "ODD2", "name": "Huge" }""");
        ImmutableArray<Option> wanted =
        [
            .. Enumerable.Range(1, 4).Select(o => Make($"Option {o}", Enumerable.Range(0, 1000).Select(v => $"Value {v}"))),
        ];
        var refused = await db.Use<ChangeOptions, Outcome<MatrixDifference>>(c => c.Preview("ODD2", wanted, new OptionDecisions()));
        Assert.Contains(
            "1,000,000,000,000 variants; a product holds at most 200,000",
            refused.Faults[0].What,
            StringComparison.Ordinal
        );
        Assert.Contains("extra", refused.Faults[0].What, StringComparison.Ordinal);
        Assert.Empty((await db.Load("ODD2")).Product.Options);
    }

    [Theory]
    [InlineData("Deep, deep")]
    [InlineData("Deep,  DEEP ")]
    [InlineData("Deep\ndeep")]
    public void Values_that_differ_by_case_or_blanks_only_are_one(string typed) =>
        Assert.Contains("there already", Assert.Single(TypedValues.Split(typed, []).Problems), StringComparison.Ordinal);

    [Fact]
    public void A_sheet_in_an_old_encoding_is_read() =>
        Assert.Equal("Größe", SheetFile.Read(Encoding.Latin1.GetBytes("SKU;note\nA;Größe\n"), "a.csv").Value!.Rows[0].Cells[1]);
}
