using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using SkiaSharp;
using Unicus.Store;

namespace Unicus.Store.Tests;

public class PictureTests(Database db) : IClassFixture<Database>
{
    /// <summary>Red on the left half, blue on the right.</summary>
    private async Task<string> Halves()
    {
        using var bitmap = new SKBitmap(400, 200);
        using (var canvas = new SKCanvas(bitmap))
        {
            canvas.Clear(SKColors.Red);
            using var blue = new SKPaint { Color = SKColors.Blue };
            canvas.DrawRect(200, 0, 200, 200, blue);
        }
        using var image = SKImage.FromBitmap(bitmap);
        using var png = image.Encode(SKEncodedImageFormat.Png, 100);
        return (await db.Use<PictureStore, Read<string>>(p => p.Keep("halves.png", png.ToArray()))).Value!;
    }

    [Theory]
    [InlineData(0.25, 0.5, true)]
    [InlineData(0.75, 0.5, false)]
    [InlineData(0, 0, true)]
    [InlineData(1, 1, false)]
    public async Task A_swatch_is_the_piece_of_the_picture_that_was_clicked(double x, double y, bool red)
    {
        var file = await Halves();
        var piece = await db.Use<PictureStore, Read<string>>(p => p.Cut(file, x, y, 0.2));
        var row = await db.Use<UnicusContext, PictureRow>(c => c.Pictures.SingleAsync(p => p.File == piece.Value));
        Assert.Equal((40, 40), (row.Width, row.Height));
        using var cut = SKBitmap.Decode(row.Small);
        var colour = cut.GetPixel(20, 20);
        Assert.True(red ? colour.Red > 200 && colour.Blue < 60 : colour.Blue > 200 && colour.Red < 60);
        Assert.Equal(piece.Value, (await db.Use<PictureStore, Read<string>>(p => p.Cut(file, x, y, 0.2))).Value);
    }

    [Theory]
    [InlineData(1.5, 0.5, 0.2)]
    [InlineData(0.5, 0.5, 0)]
    [InlineData(double.NaN, 0.5, 0.2)]
    public async Task A_piece_outside_the_picture_is_refused(double x, double y, double size)
    {
        var file = await Halves();
        Assert.Contains(
            "outside",
            (await db.Use<PictureStore, Read<string>>(p => p.Cut(file, x, y, size))).Problem,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "no longer kept",
            (await db.Use<PictureStore, Read<string>>(p => p.Cut("none.webp", 0.5, 0.5, 0.2))).Problem,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task A_variant_shows_its_own_picture_else_that_of_its_value_else_of_the_product()
    {
        var (all, pine) = (
            await Halves(),
            (await db.Use<PictureStore, Read<string>>(async p => await p.Cut(await Halves(), 0.9, 0.5, 0.2))).Value!
        );
        await db.Put(
            Database.Hive(
                "PIC1",
                $$"""
                , "pictures": [{ "file": "{{all}}", "alt": "Both" }, { "file": "{{pine}}", "alt": "Pine", "shows": { "option": "timber",
                  "value": "pine" } }]
                """
            )
        );
        const string deepPine = "depth=deep,timber=pine",
            deepCedar = "depth=deep,timber=cedar";
        async Task<(string, FigureSource)> Shown(string values) =>
            await db.Load("PIC1") is var copy ? MatrixFigures.Find("picture")!.Show(copy, copy.Matrix.Find(values)!) : default;
        Task<Outcome> Type(string text) =>
            db.Use<MatrixCells, Outcome>(m => m.Write("PIC1", [new CellEdit(deepPine, "picture", text, null)], Database.Tester));
        Assert.Equal((("Pine", FigureSource.Value), ("Both", FigureSource.Product)), (await Shown(deepPine), await Shown(deepCedar)));

        Assert.Contains("There is no picture “Oak”", (await Type("Oak")).Faults[0].What, StringComparison.Ordinal);
        Assert.True((await Type("1")).Done);
        Assert.Equal(("Both", FigureSource.Own), await Shown(deepPine));
        var product = (await db.Load("PIC1")).Product;
        Assert.Equal([all, pine], product.PicturesFor(product.Variants.Single(v => v.Values.Text == deepPine)).Select(p => p.File));
        var written = DocumentWriter.Write(product, ListedVariants.Differing);
        Assert.Equal(all, written["variants"]!.AsArray().Single()!["picture"]!.ToString());
        Assert.Equal(
            all,
            DocumentReader
                .Read(JsonSerializer.SerializeToElement(written), Currency.Euro)
                .Product!.Variants.Single(v => v.Picture is not null)
                .Picture
        );

        written["variants"]![0]!["picture"] = "other.webp";
        Assert.Equal(
            "#/variants/0/picture",
            (
                await db.Use<PutProduct, (PutResult, IReadOnlyList<Fault> Faults)>(p =>
                    p.Run("PIC1", JsonSerializer.SerializeToElement(written), Database.Tester)
                )
            )
                .Faults.Single()
                .Where
        );
        Assert.True((await Type("")).Done);
        Assert.Equal(("Pine", FigureSource.Value), await Shown(deepPine));
    }

    [Fact]
    public async Task A_film_is_told_by_its_first_bytes_and_not_by_its_name()
    {
        byte[] mp4 = [0, 0, 0, 24, .. "ftypmp42"u8, 0, 0, 0, 0],
            webm = [0x1A, 0x45, 0xDF, 0xA3, 1, 2, 3];
        Assert.StartsWith(
            "/videos/setting-up-",
            (await db.Use<VideoStore, Read<string>>(v => v.Keep("Setting up.MOV", mp4))).Value,
            StringComparison.Ordinal
        );
        Assert.EndsWith(".webm", (await db.Use<VideoStore, Read<string>>(v => v.Keep("a.mp4", webm))).Value, StringComparison.Ordinal);
        Assert.Contains(
            "not a film",
            (await db.Use<VideoStore, Read<string>>(v => v.Keep("a.mp4", "<html>"u8.ToArray()))).Problem,
            StringComparison.Ordinal
        );
    }

    /// <summary>A picture of one colour is small as a file and 240 MB as pixels.</summary>
    [Fact]
    public async Task Large_pictures_sent_together_take_the_memory_of_one()
    {
        byte[] upload;
        using (var bitmap = new SKBitmap(7745, 7745, SKColorType.Gray8, SKAlphaType.Opaque))
        using (var image = SKImage.FromBitmap(bitmap))
        using (var png = image.Encode(SKEncodedImageFormat.Png, 100))
            upload = png.ToArray();
        Assert.InRange(upload.Length, 1, 1_000_000);
        var before = Environment.WorkingSet;
        var all = Task.WhenAll(
            Enumerable.Range(0, 5).Select(i => db.Use<PictureStore, Read<string>>(p => p.Keep($"large-{i}.png", [.. upload, (byte)i])))
        );
        var most = before;
        while (!all.IsCompleted)
        {
            most = Math.Max(most, Environment.WorkingSet);
            await Task.Delay(5);
        }
        Assert.All(await all, kept => Assert.Null(kept.Problem));
        // All at once would take five times 240 MB and more.
        Assert.InRange((most - before) / 1_000_000, 0, 900);
    }
}
