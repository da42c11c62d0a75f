using System.Diagnostics;
using System.IO.Compression;
using System.Text;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

/// <summary>Texts that would act, files that unpack to anything, signs that cannot be kept.</summary>
public class HostileInputTests(Database db) : IClassFixture<Database>
{
    private const string Acting =
        """<p hx-post=\"/office/orders/1001?handler=Cancel\" hx-trigger=\"load\" data-hx-get=\"/x\" onclick=\"x()\">"""
        + "Dry <script>x()</script><b>well</b></p>";

    [Fact]
    public async Task HTML_is_cleaned_on_the_way_in_whichever_field_it_comes_by()
    {
        await db.Put(
            $$"""
            { "format": "unicus-product/1", "code": "HTM1", "name": "Acting text", "description": "{{Acting}}",
              "passages": [ { "heading": "Care", "text": "{{Acting}}" } ] }
            """
        );
        var product = (await db.Load("HTM1")).Product;
        Assert.Equal("<p>Dry <b>well</b></p>", product.Description);
        Assert.Equal("<p>Dry <b>well</b></p>", product.Passages[0].Text);
    }

    [Fact]
    public void HTML_that_was_stored_before_is_cleaned_on_the_way_out() =>
        Assert.Equal("<p>Dry <b>well</b></p>", SafeHtml.ToShow(Acting.Replace("\\\"", "\"")));

    [Fact]
    public async Task What_could_not_be_read_again_is_never_kept()
    {
        await db.Put("""{ "format": "unicus-product/1", "code": "VT1", "name": "Vertical tab" }""");
        var outcome = await db.Use<ChangeProduct, Outcome>(p =>
            p.Apply("VT1", "A specification", Database.Tester, copy =>
                Read<Product>.Of(copy.Product with { Specifications = [new Specification("Reach", "up\vto 3")] })
            )
        );
        Assert.Contains("Nothing was saved", Assert.Single(outcome.Faults).What, StringComparison.Ordinal);
        Assert.Empty((await db.Load("VT1")).Product.Specifications);
    }

    private static byte[] Xlsx(string sheet, string? shared = null)
    {
        using var stream = new MemoryStream();
        using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true))
        {
            void Part(string name, string text)
            {
                using var writer = new StreamWriter(zip.CreateEntry(name, CompressionLevel.Fastest).Open(), Encoding.UTF8);
                writer.Write(text);
            }
            Part("xl/workbook.xml", "<workbook xmlns:r='r'><sheets><sheet name='a' sheetId='1' r:id='rId1'/></sheets></workbook>");
            Part(
                "xl/_rels/workbook.xml.rels",
                "<Relationships><Relationship Id='rId1' Target='worksheets/sheet1.xml'/></Relationships>"
            );
            Part("xl/worksheets/sheet1.xml", $"<worksheet><dimension ref='A1:XFD1048576'/><sheetData>{sheet}</sheetData></worksheet>");
            if (shared is not null)
                Part("xl/sharedStrings.xml", $"<sst>{shared}</sst>");
        }
        return stream.ToArray();
    }

    private static string Cell(string at, string text) => $"<c r='{at}' t='inlineStr'><is><t>{text}</t></is></c>";

    [Fact]
    public void A_sheet_is_read_with_every_kind_of_cell_and_the_lines_it_stands_on()
    {
        var sheet =
            $"<row r='1'>{Cell("A1", "SKU")}{Cell("C1", "price")}</row>"
            + "<row r='4'><c r='A4' t='s'><v>0</v></c><c r='B4' t='b'><v>1</v></c><c r='C4'><v>1.25E1</v></c><c r='D4' "
            + "t='str'><f>A1</f><v>x</v></c></row>";
        var read = SheetFile
            .Read(Xlsx(sheet, "<si><r><t>TWO</t></r><r><t> RUNS</t></r><rPh><t>spoken</t></rPh></si>"), "a.xlsx")
            .Value!;
        Assert.Equal(["SKU", "", "price"], read.Headings);
        Assert.Equal((4, "TWO RUNS|True|12.5|x"), (read.Rows[0].Line, string.Join('|', read.Rows[0].Cells)));
    }

    [Theory]
    [InlineData("columns")]
    [InlineData("text")]
    [InlineData("rows")]
    [InlineData("cells")]
    public void A_sheet_larger_than_anybodys_is_refused_before_it_fills_the_memory(string how)
    {
        var sheet = how switch
        {
            "columns" => $"<row r='1048576'>{Cell("XFD1048576", "x")}</row>",
            "text" => $"<row>{Cell("A1", new string('a', 20_000_000))}</row>",
            "rows" => string.Concat(Enumerable.Repeat("<row><c><v>1</v></c></row>", SheetFile.MostRows + 5)),
            _ => string.Concat(Enumerable.Repeat($"<row>{Cell("OA1", "x")}</row>", 30_000)),
        };
        var file = Xlsx(sheet);
        var (before, clock) = (GC.GetTotalMemory(forceFullCollection: true), Stopwatch.StartNew());
        var read = SheetFile.Read(file, "a.xlsx");
        Assert.False(read.Ok);
        Assert.DoesNotContain("cannot be read as a table", read.Problem!, StringComparison.Ordinal);
        Assert.True(clock.Elapsed < TimeSpan.FromSeconds(15));
        Assert.InRange(GC.GetTotalMemory(forceFullCollection: true) - before, long.MinValue, 60_000_000);
    }

    [Fact]
    public void Reading_a_sheet_can_be_stopped()
    {
        using var stop = new CancellationTokenSource();
        stop.Cancel();
        Assert.Throws<OperationCanceledException>(() => SheetFile.Read(Xlsx("<row><c><v>1</v></c></row>"), "a.xlsx", stop.Token));
    }

    [Theory]
    [InlineData("PK nonsense")]
    [InlineData("")]
    public void What_is_no_sheet_is_said_to_be_none(string content) =>
        Assert.Contains(
            "cannot be read as a table",
            SheetFile.Read(Encoding.UTF8.GetBytes(content), "a.xlsx").Problem!,
            StringComparison.Ordinal
        );

    [Fact]
    public async Task A_film_is_read_in_slices()
    {
        byte[] film = [0, 0, 0, 0, .. "ftyp"u8, .. Enumerable.Range(0, 100_000).Select(i => (byte)i)];
        var address = (await db.Use<VideoStore, Read<string>>(v => v.Keep("long.mp4", film))).Value!;
        var kept = (await db.Use<VideoStore, KeptFilm?>(v => v.Find(address[ProductVideo.Kept.Length..])))!;
        Assert.Equal(film.Length, kept.Length);
        Assert.Equal(film[70_000..70_010], await db.Use<VideoStore, byte[]>(v => v.Slice(kept, 70_000, 10)));
        Assert.Equal(8, (await db.Use<VideoStore, byte[]>(v => v.Slice(kept, film.Length - 8, 500))).Length);
    }

    [Fact]
    public async Task A_shop_left_half_made_is_taken_out_and_one_that_was_ready_never()
    {
        var another = new Database();
        await another.InitializeAsync();
        try
        {
            await Assert.ThrowsAsync<InvalidOperationException>(() =>
                another.Use<UnicusContext, int>(async c =>
                {
                    await Founding.TakeOutHalfMade(c);
                    return 0;
                })
            );
            await another.Put("""{ "format": "unicus-product/1", "code": "HALF", "name": "Half made" }""");
            var left = await another.Use<UnicusContext, int>(async c =>
            {
                await c.Shops.ExecuteUpdateAsync(u => u.SetProperty(s => s.FoundedAt, (DateTimeOffset?)null));
                Assert.False(await Founding.IsDone(c));
                await Founding.TakeOutHalfMade(c);
                await Founding.Run(c, TimeProvider.System);
                Assert.True(await Founding.IsDone(c));
                return await c.Products.CountAsync();
            });
            Assert.Equal(0, left);
        }
        finally
        {
            await another.DisposeAsync();
        }
    }
}
