using System.Globalization;
using System.Text;
using CsvHelper;
using Microsoft.EntityFrameworkCore;
using MiniExcelLibs;
using Unicus.Store;

namespace Unicus.Store.Tests;

/// <summary>CSV by RFC 4180, read and written through CsvHelper; XLSX by MiniExcel.</summary>
public class SheetTests(Database db) : IClassFixture<Database>
{
    private const string Stocked =
        """, "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "price": "120.00", "stock": 12, "note": "=1+1" } ]""";

    private Task<Outcome<SheetPlan>> DryRun(string? code, string csv) =>
        db.Use<SheetImport, Outcome<SheetPlan>>(i => i.DryRun(code, Encoding.UTF8.GetBytes(csv), "a.csv", Database.Tester));

    private Task<Outcome<SheetPlan>> Write(string? code, byte[] content, string name = "a.csv") =>
        db.Use<SheetImport, Outcome<SheetPlan>>(i => i.Run(code, content, name, Database.Tester));

    private async Task<byte[]> Export(string? code, bool xlsx = false)
    {
        var table = (await db.Use<SheetExport, (IReadOnlyList<string>, IReadOnlyList<IReadOnlyList<object?>>)?>(e => e.Table(code)))!.Value;
        using var stream = new MemoryStream();
        if (xlsx)
            SheetFile.WriteXlsx(stream, table.Item1, table.Item2);
        else
            SheetFile.WriteCsv(stream, table.Item1, table.Item2);
        return stream.ToArray();
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task What_is_exported_and_sent_back_changes_nothing(bool xlsx)
    {
        var code = xlsx ? "SH1X" : "SH1";
        await db.Put(Database.Hive(code, Stocked));
        var plan = (await Write(code, await Export(code, xlsx), xlsx ? "a.xlsx" : "a.csv")).Result!;
        Assert.Equal((4, 0, 0, 0), (plan.Rows, plan.Changes.Count, plan.Faults.Count, plan.UnknownColumns.Count));
    }

    [Fact]
    public async Task Another_library_reads_what_is_written_and_formulas_are_harmless()
    {
        await db.Put(Database.Hive("SH2", Stocked));
        var bytes = await Export("SH2");
        Assert.Equal([0xEF, 0xBB, 0xBF], bytes[..3]);
        using var csv = new CsvReader(new StreamReader(new MemoryStream(bytes)), CultureInfo.InvariantCulture);
        var rows = csv.GetRecords<dynamic>().Select(r => (IDictionary<string, object>)r).ToList();
        var deep = rows.Single(r => (string)r["option: Depth"] == "Deep" && (string)r["option: Timber"] == "Cedar");
        Assert.Equal(
            ("SH2-D-CE", "120.00", "'=1+1", "12"),
            ((string)deep["SKU"], (string)deep["price"], (string)deep["note"], (string)deep["on hand"])
        );
        using var xlsx = new MemoryStream(await Export("SH2", xlsx: true));
        Assert.Equal(
            120.0,
            xlsx.Query(useHeaderRow: true).Cast<IDictionary<string, object>>().Single(r => (string)r["SKU"] == "SH2-D-CE")["price"]
        );
    }

    /// <summary>LibreOffice (Debian) opens what is written and saves it again, as CSV and as XLSX; the figures stay, and what comes back
    /// from it changes nothing but what was changed there.</summary>
    [Theory]
    [InlineData("csv", "xlsx")]
    [InlineData("xlsx", "csv")]
    [InlineData("xlsx", "xlsx")]
    public async Task A_spreadsheet_program_opens_the_files_with_the_same_figures(string from, string to)
    {
        var code = $"LO{from[0]}{to[0]}".ToUpperInvariant();
        var digits =
            "01234"
            + (
                from == "csv" ? "01"
                : to == "csv" ? "02"
                : "03"
            );
        var variants = $$"""
            , "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "price": "1120.05", "stock": 12,
              "gtin": "{{digits}}{{Gtin.CheckDigit(digits)}}", "note": "=1+1, “ö” and\na break" },
              { "values": { "depth": "shallow", "timber": "pine" }, "weightGrams": 13200 } ]
            """;
        Assert.Empty((await db.Put(Database.Hive(code, variants))).Faults);
        var folder = Directory.CreateTempSubdirectory("unicus-office");
        try
        {
            var file = Path.Combine(folder.FullName, $"a.{from}");
            await File.WriteAllBytesAsync(file, await Export(code, from == "xlsx"));
            Office(folder.FullName, file, to);
            var plan = (
                await Write(code, await File.ReadAllBytesAsync(Path.Combine(folder.FullName, "out", $"a.{to}")), $"a.{to}")
            ).Result!;
            Assert.Equal(
                (4, "", "", 0),
                (plan.Rows, string.Join("; ", plan.Faults.Select(f => f.What)), string.Join("; ", plan.Changes), plan.UnknownColumns.Count)
            );
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    private static void Office(string folder, string file, string to)
    {
        // A CSV is read as UTF-8 with commas, and its second kind of texts is left alone.
        string[] reads = file.EndsWith(".csv", StringComparison.Ordinal) ? ["--infilter=CSV:44,34,76,1"] : [];
        string[] arguments =
        [
            "--headless",
            $"-env:UserInstallation=file://{folder}/profile",
            .. reads,
            "--convert-to",
            to == "csv" ? "csv:Text - txt - csv (StarCalc):44,34,76" : to,
            "--outdir",
            Path.Combine(folder, "out"),
            file,
        ];
        using var office = System.Diagnostics.Process.Start(
            new System.Diagnostics.ProcessStartInfo("soffice", arguments) { RedirectStandardOutput = true, RedirectStandardError = true }
        )!;
        Assert.True(office.WaitForExit(TimeSpan.FromSeconds(90)), "LibreOffice did not end.");
        Assert.Equal(0, office.ExitCode);
    }

    [Fact]
    public async Task Every_change_and_every_fault_is_told_by_line_and_column_and_nothing_is_written()
    {
        await db.Put(Database.Hive("SH3", Stocked));
        await db.Put(Database.Hive("SH3B"));
        var plan = (
            await DryRun(
                "SH3",
                """
                price;option: Timber;option: Depth;SKU;colour of lid;GTIN
                101,50;Cedar;Shallow;SH3-S-CE;blue;
                dear;Pine;Shallow;SH3-S-PI;blue;
                99;Oak;Deep;;;
                98;Cedar;Deep;SH3B-D-CE;;4006381333930
                97;Cedar;Deep;;;
                """
            )
        ).Result!;
        Assert.Equal(["colour of lid"], plan.UnknownColumns);
        Assert.Equal(["3|price", "5|GTIN", "5|SKU", "6|"], plan.Faults.Select(f => $"{f.Line}|{f.Column}"));
        Assert.Equal((4, "the value Oak of Timber"), (plan.Made.Single().Line, plan.Made.Single().What));
        Assert.Contains(plan.Changes, c => c is { Line: 2, Column: "price", Old: "100.00", New: "101,50" });
        Assert.Equal("100.00", (await db.Load("SH3")).Matrix.Find("depth=shallow,timber=cedar")!.Price.Figure?.ToString());
        Assert.Contains((await DryRun("SH3", "SKU,option: Timber,option: Depth\nSH3B-D-CE,Cedar,Deep\n")).Result!.Faults, f =>
            f.Line == 2 && f.Column == "SKU" && f.What.Contains("already used by Hive SH3B")
        );
    }

    [Fact]
    public async Task Semicolons_commas_marks_and_breaks_inside_cells_are_read_and_empty_cells_inherit()
    {
        await db.Put(Database.Hive("SH4", Stocked));
        var bytes = Encoding
            .UTF8.GetPreamble()
            .Concat(
                Encoding.UTF8.GetBytes(
                    "option: Depth;option: Timber;price;note;on hand\r\nDeep;Cedar;;\"two\r\nlines; "
                        + "one\";15\r\nShallow;Pine;1.340,50;;\r\n"
                )
            )
            .ToArray();
        Assert.Equal(4, (await Write("SH4", bytes)).Result!.Changes.Count);
        var copy = await db.Load("SH4");
        var deep = copy.Matrix.Find("depth=deep,timber=cedar")!;
        Assert.Equal(("100.00", "two\r\nlines; one", 15), (deep.Price.Figure?.ToString(), deep.Variant.Note, copy.Stock[deep.Sku].OnHand));
        Assert.Equal("1340.50", copy.Matrix.Find("depth=shallow,timber=pine")!.Price.Figure?.ToString());
        Assert.True((await db.Use<UndoChange, Outcome<string>>(u => u.Run("SH4"))).Done);
        Assert.Equal("120.00", (await db.Load("SH4")).Matrix.Find("depth=deep,timber=cedar")!.Price.Figure?.ToString());
    }

    [Fact]
    public async Task A_sheet_of_the_range_is_one_transaction_over_all_products()
    {
        await db.Put(Database.Hive("RG1"));
        await db.Put(Database.Hive("RG2"));
        var good = "product code,SKU,cost\nRG1,RG1-D-CE,41\nRG2,RG2-D-CE,42\n";
        Assert.Equal(2, (await Write(null, Encoding.UTF8.GetBytes(good))).Result!.Changes.Count);
        var plan = (await Write(null, Encoding.UTF8.GetBytes("product code,SKU,cost\nRG1,RG1-D-CE,50\nRG2,NONE,50\nNOPE,X,1\n"))).Result!;
        Assert.Equal([3, 4], plan.Faults.Select(f => f.Line));
        Assert.Equal("41.00", (await db.Load("RG1")).Matrix.Find("depth=deep,timber=cedar")!.Cost.Figure?.ToString());
        Assert.Contains("product code", (await DryRun(null, "SKU,cost\nX,1\n")).Faults[0].What, StringComparison.Ordinal);
        Assert.Contains("No column of figures", (await DryRun("RG1", "a,b\n1,2\n")).Faults[0].What, StringComparison.Ordinal);
        Assert.False((await db.Use<SheetImport, Outcome<SheetPlan>>(i => i.DryRun("RG1", [1, 2, 3, 0], "x.xlsx", Database.Tester))).Done);
    }

    private Task<SheetPlan> Try(string text) =>
        db.Use<SheetImport, SheetPlan>(async i =>
            (await i.DryRun(null, System.Text.Encoding.UTF8.GetBytes(text), "a.csv", Database.Tester)).Result!
        );

    private Task<SheetPlan> Make(string text) =>
        db.Use<SheetImport, SheetPlan>(async i =>
            (await i.Run(null, System.Text.Encoding.UTF8.GetBytes(text), "a.csv", Database.Tester)).Result!
        );

    private Task<int> Count() => db.Use<UnicusContext, int>(c => c.Products.CountAsync());

    /// <summary>Two RRPs given are two, not four.</summary>
    [Fact]
    public async Task A_blank_of_a_new_product_stays_blank()
    {
        const string Sheet = """
            product,option: Size,price,RRP
            Blank,S,10.00,14.00
            Blank,M,10.00,
            Blank,L,10.00,14.00
            Blank,XL,12.00,
            """;
        var shown = await Try(Sheet);
        Assert.Equal("4 variants of Size (4); price 10.00 to 12.00, RRP 14.00 on 2 of 4", Assert.Single(shown.Made).What);
        var code = Assert.Single((await Make(Sheet)).Made).Code;
        var matrix = (await db.Load(code)).Product.Matrix();
        var written = matrix.Variants.Select(v => matrix.Figures.Resolve(v.Variant.Own, v.Values, f => f.Rrp).Figure?.Amount);
        Assert.Equal([14m, null, 14m, null], written);
    }

    [Fact]
    public async Task A_flat_list_becomes_products_with_options_behind_a_preview()
    {
        const string Flat = """
            product,option: Cut,option: Cloth,categories,tags,SKU,price,cost,on hand,weight
            Apron,Long,Linen,"Outside > Wear, Gifts",new,,30.00,12,5,300 g
            Apron,Long,Wool,,,AP-WOOL,36.00,12,,300 g
            Apron,Short,Linen,,,,30.00,12,0,250 g
            Tin of wax,,,Gifts,,,9.00,4,40,
            """;
        var before = await Count();
        var shown = await Try(Flat);
        Assert.Empty(shown.Faults);
        Assert.Equal(
            [
                ("Apron", "3 variants of Cut (2), Cloth (2); price 30.00 to 36.00, cost 12.00, 5 on hand"),
                ("Tin of wax", "one piece; price 9.00, cost 4.00, 40 on hand"),
            ],
            shown.Made.Select(m => (m.Name, m.What))
        );
        Assert.Equal(before, await Count());
        var made = await Make(Flat);
        Assert.Equal(shown.Made, made.Made);
        Assert.Equal(before + 2, await Count());
        var apron = await db.Load(made.Made[0].Code);
        Assert.Equal(["30.00", "36.00", "30.00"], apron.Matrix.Variants.Select(v => MatrixFigures.Find("price")!.Show(apron, v).Text));
        Assert.Equal(
            ("30.00", "Wear, Gifts", "new"),
            (apron.Product.Base.Price.ToString(), string.Join(", ", apron.Product.Categories), apron.Product.Tags[0])
        );
        Assert.Equal([5, 0, 0], apron.Matrix.Variants.Select(v => apron.Stock.GetValueOrDefault(v.Sku).OnHand));
        Assert.Contains("AP-WOOL", apron.Matrix.Variants.Select(v => v.Sku.Text));
        Assert.Equal(40, (await db.Load(made.Made[1].Code)).Stock.Values.Single().OnHand);
        var above = await db.Use<UnicusContext, string>(c =>
            c.Categories.Where(x => c.Categories.Any(w => w.Name == "Wear" && w.ParentId == x.Id)).Select(x => x.Name).SingleAsync()
        );
        Assert.Equal("Outside", above);
        // The same sheet again makes nothing and changes nothing but what stands otherwise.
        var again = await Try(Flat);
        Assert.Equal((0, 0), (again.Made.Count, again.Faults.Count));
        Assert.DoesNotContain(again.Changes, c => c.Column is "price" or "SKU" or "on hand");
    }

    [Fact]
    public async Task A_value_that_a_product_has_not_is_made_with_the_variants_that_the_sheet_names()
    {
        await db.Put(Database.Hive("SHV"));
        const string Sheet = "product code,option: Depth,option: Timber,price\nSHV,Deep,Ash,140.00\nSHV,Deep,Cedar,101.00";
        var shown = await Try(Sheet);
        Assert.Equal("the value Ash of Timber", Assert.Single(shown.Made).What);
        Assert.Equal(4, (await db.Load("SHV")).Matrix.Variants.Count);
        Assert.Empty((await Make(Sheet)).Faults);
        var copy = await db.Load("SHV");
        Assert.Equal(5, copy.Matrix.Variants.Count);
        Assert.Equal(
            "140.00",
            MatrixFigures.Find("price")!.Show(copy, copy.Matrix.Variants.Single(v => v.Values.Text.Contains("ash"))).Text
        );
    }

    [Fact]
    public async Task What_cannot_be_made_is_told_by_line_and_nothing_is_written()
    {
        await db.PublishPlain("SHX", 1);
        var before = await Count();
        var plan = await Make(
            """
            product code,product,option: Size,SKU,GTIN,price
            ,Mat,Small,SHX,,5.00
            ,Mat,Small,,,6.00
            ,Mat,,,,6.00
            NOPE,,,,,1
            ,Rug,Big,R1,,cheap
            ,Bag,Big,R2,6291041500213,1
            ,Box,Big,r2,6291041500213,1
            bad code!,Jug,Big,,,1
            """
        );
        Assert.Equal(
            [
                (3, "This variant stands on line 2 already."),
                (4, "A value is needed, as in its other rows."),
                (5, "There is no product NOPE. To make it, give its name in the column “product”."),
            ],
            plan.Faults.Take(3).Select(f => (f.Line, f.What))
        );
        Assert.Equal([3, 4, 5, 6, 8, 8, 9], plan.Faults.Select(f => f.Line));
        Assert.Equal(before, await Count());
    }

    [Fact]
    public async Task Ten_thousand_rows_that_make_three_hundred_products_are_shown_within_seconds()
    {
        var text = new System.Text.StringBuilder("product,option: Size,option: Colour,price,cost,on hand,weight\n");
        for (var p = 0; p < 300; p++)
            for (var v = 0; v < 34; v++)
                text.Append(
                    System.Globalization.CultureInfo.InvariantCulture,
                    $"Bulk {p},S{v % 17},{(v < 17 ? "red" : "blue")},{10 + v}.00,4.00,{v},20{v} g\n"
                );
        var sheet = text.ToString();
        await Try(sheet[..4000][..sheet[..4000].LastIndexOf('\n')]);
        var watch = System.Diagnostics.Stopwatch.StartNew();
        var shown = await Try(sheet);
        Assert.True(watch.Elapsed < TimeSpan.FromSeconds(30), $"{watch.Elapsed}");
        Assert.Equal((10_200, 300, 0), (shown.Rows, shown.Made.Count, shown.Faults.Count));
    }
}
