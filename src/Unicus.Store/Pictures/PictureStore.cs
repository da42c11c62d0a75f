using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;
using SkiaSharp;

namespace Unicus.Store;

/// <summary>A picture in one of its sizes.</summary>
public sealed record PictureBytes(string ContentType, byte[] Bytes);

/// <summary>A photograph with its size in pixels.</summary>
public sealed record PhotographSize(string File, int Width, int Height);

/// <summary>Takes uploads in: decodes, bounds and re-encodes them, so that nothing of the uploaded bytes is ever served.</summary>
public sealed class PictureStore(UnicusContext db)
{
    public const int MostBytes = 12 * 1024 * 1024;
    private const int MostPixels = 60_000_000;

    /// <summary>A pixel takes four bytes while it is worked on, and twice that while a picture is turned.</summary>
    private const int ManyPixels = 6_000_000;

    /// <summary>Whoever sends pictures at the same time waits here, so that all of them together take no more memory than one large and
    /// four small ones.</summary>
    private static readonly SemaphoreSlim Large = new(1);

    private static readonly SemaphoreSlim Small = new(4);

    /// <summary>Keeps an uploaded picture as WebP of at most 1600, 640 and 160 pixels a side.</summary>
    /// <returns>The file name in the store, or what is wrong with the upload.</returns>
    public async Task<Read<string>> Keep(string name, byte[] upload, CancellationToken stop = default)
    {
        if (upload.Length > MostBytes)
            return Read<string>.No($"“{name}” is larger than {MostBytes / 1024 / 1024} MB.");
        using var data = SKData.CreateCopy(upload);
        using var codec = SKCodec.Create(data);
        if (codec is null)
            return Read<string>.No($"“{name}” is not a picture that can be read. Use PNG, JPEG, WebP or GIF.");
        if ((long)codec.Info.Width * codec.Info.Height > MostPixels)
            return Read<string>.No($"“{name}” has more than {MostPixels / 1_000_000} million pixels.");
        var gate = (long)codec.Info.Width * codec.Info.Height > ManyPixels ? Large : Small;
        await gate.WaitAsync(stop);
        try
        {
            using var upright = Upright(SKBitmap.Decode(codec), codec.EncodedOrigin);
            return upright is null
                ? Read<string>.No($"“{name}” is damaged: it begins like a picture but cannot be read to its end.")
                : Read<string>.Of(await Add(name, upload, upright, stop));
        }
        finally
        {
            gate.Release();
        }
    }

    /// <summary>A picture in one of its sizes; null where it is not kept.</summary>
    /// <param name="size"><c>large</c>, <c>medium</c>, or any other word for small.</param>
    public async Task<PictureBytes?> Find(string file, string size, CancellationToken stop = default) =>
        await db
            .Pictures.Where(p => p.File == file)
            .Select(p => new PictureBytes(
                p.ContentType,
                size == "large" ? p.Large
                    : size == "medium" ? p.Medium
                    : p.Small
            ))
            .FirstOrDefaultAsync(stop);

    /// <summary>Those of some pictures that are photographs, not drawings, with their sizes in pixels.</summary>
    public Task<Dictionary<string, PhotographSize>> Photographs(IReadOnlyCollection<string> files) =>
        db
            .Pictures.Where(p => files.Contains(p.File) && p.ContentType == "image/webp")
            .Select(p => new PhotographSize(p.File, p.Width, p.Height))
            .ToDictionaryAsync(p => p.File);

    /// <summary>Cuts a square piece out of a kept picture, as a swatch.</summary>
    /// <param name="x">The middle of the piece from the left, as a share of the width, 0 to 1.</param>
    /// <param name="y">The middle from the top, as a share of the height.</param>
    /// <param name="size">The side of the piece as a share of the shorter side, 0.02 to 1.</param>
    /// <returns>The file of the piece, or why there is none.</returns>
    public async Task<Read<string>> Cut(string file, double x, double y, double size, CancellationToken stop = default)
    {
        var bytes = await db.Pictures.Where(p => p.File == file).Select(p => p.Large).FirstOrDefaultAsync(stop);
        if (bytes is null)
            return Read<string>.No("That picture is no longer kept.");
        if (!(x is >= 0 and <= 1 && y is >= 0 and <= 1 && size is >= 0.02 and <= 1))
            return Read<string>.No("The piece lies outside the picture.");
        using var whole = SKBitmap.Decode(bytes);
        if (whole is null)
            return Read<string>.No("A piece can be cut from a photograph, not from a drawing.");
        var side = Math.Max(1, (int)(size * Math.Min(whole.Width, whole.Height)));
        var left = Math.Clamp((int)(x * whole.Width) - side / 2, 0, whole.Width - side);
        var top = Math.Clamp((int)(y * whole.Height) - side / 2, 0, whole.Height - side);
        using var piece = new SKBitmap();
        if (!whole.ExtractSubset(piece, SKRectI.Create(left, top, side, side)))
            return Read<string>.No("The piece lies outside the picture.");
        using var own = piece.Copy();
        return Read<string>.Of(
            await Add(
                $"piece-{file}",
                [.. bytes, (byte)left, (byte)(left >> 8), (byte)top, (byte)(top >> 8), (byte)side, (byte)(side >> 8)],
                own,
                stop
            )
        );
    }

    /// <summary>Keeps a decoded picture in its three sizes, once for the same source.</summary>
    private async Task<string> Add(string name, byte[] source, SKBitmap upright, CancellationToken stop)
    {
        var slug = Slug.From(Path.GetFileNameWithoutExtension(name), 40);
        var file = $"{slug}-{Convert.ToHexStringLower(SHA256.HashData(source))[..12]}.webp".TrimStart('-');
        if (await db.Pictures.AnyAsync(p => p.File == file, stop))
            return file;
        db.Pictures.Add(
            new PictureRow
            {
                File = file,
                ContentType = "image/webp",
                Width = upright.Width,
                Height = upright.Height,
                Large = Encode(upright, 1600),
                Medium = Encode(upright, 640),
                Small = Encode(upright, 160),
            }
        );
        await db.SaveChangesAsync(stop);
        return file;
    }

    private static byte[] Encode(SKBitmap bitmap, int longest)
    {
        var scale = Math.Min(1f, (float)longest / Math.Max(bitmap.Width, bitmap.Height));
        using var small = bitmap.Resize(
            new SKImageInfo(Math.Max(1, (int)(bitmap.Width * scale)), Math.Max(1, (int)(bitmap.Height * scale))),
            new SKSamplingOptions(SKCubicResampler.Mitchell)
        );
        using var image = SKImage.FromBitmap(small);
        using var data = image.Encode(SKEncodedImageFormat.Webp, 82);
        return data.ToArray();
    }

    /// <summary>The bitmap as it is meant to be looked at; it takes the place of the one that is given.</summary>
    private static SKBitmap? Upright(SKBitmap? bitmap, SKEncodedOrigin origin)
    {
        if (bitmap is null)
            return null;
        var turns = origin switch
        {
            SKEncodedOrigin.RightTop => 90,
            SKEncodedOrigin.BottomRight => 180,
            SKEncodedOrigin.LeftBottom => 270,
            _ => 0,
        };
        if (turns == 0)
            return bitmap;
        using var _ = bitmap;
        var sideways = turns != 180;
        var turned = new SKBitmap(sideways ? bitmap.Height : bitmap.Width, sideways ? bitmap.Width : bitmap.Height);
        using var canvas = new SKCanvas(turned);
        canvas.Translate(turned.Width / 2f, turned.Height / 2f);
        canvas.RotateDegrees(turns);
        using var image = SKImage.FromBitmap(bitmap);
        canvas.DrawImage(image, -bitmap.Width / 2f, -bitmap.Height / 2f, new SKSamplingOptions(SKFilterMode.Nearest));
        return turned;
    }
}
