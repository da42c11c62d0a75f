using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Puts kept pictures together into one: those of the parts of a set that has none of its own.</summary>
public sealed class PicturesTogether(UnicusContext db)
{
    /// <summary>Pictures of one at most.</summary>
    public const int Most = 6;

    private const int Width = 1200;
    private const int Height = 900;
    private const int Gap = 24;

    /// <summary>Keeps a drawing with the pictures in rows of two or three, each within its field.</summary>
    /// <returns>The file name in the store; null where none of the pictures is kept.</returns>
    public async Task<string?> Put(IReadOnlyList<string> files, CancellationToken stop = default)
    {
        var wanted = files.Distinct().Take(Most).ToList();
        var found = await db
            .Pictures.AsNoTracking()
            .Where(p => wanted.Contains(p.File))
            .Select(p => new
            {
                p.File,
                p.ContentType,
                p.Medium,
            })
            .ToListAsync(stop);
        if (found.Count == 0)
            return null;
        var ordered = found.OrderBy(p => wanted.IndexOf(p.File)).ToList();
        var columns = ordered.Count > 4 ? 3 : Math.Min(ordered.Count, 2);
        var rows = (ordered.Count + columns - 1) / columns;
        var (wide, high) = ((Width - Gap * (columns + 1)) / columns, (Height - Gap * (rows + 1)) / rows);
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture, $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {Width} {Height}\" ");
        svg.Append(
            CultureInfo.InvariantCulture,
            $"width=\"{Width}\" height=\"{Height}\"><rect width=\"100%\" height=\"100%\" fill=\"#f4efe3\"/>"
        );
        foreach (var (i, picture) in ordered.Index())
        {
            var (x, y) = (Gap + i % columns * (wide + Gap), Gap + i / columns * (high + Gap));
            svg.Append(CultureInfo.InvariantCulture, $"<image x=\"{x}\" y=\"{y}\" width=\"{wide}\" height=\"{high}\" ");
            svg.Append(
                CultureInfo.InvariantCulture,
                $"href=\"data:{picture.ContentType};base64,{Convert.ToBase64String(picture.Medium)}\"/>"
            );
        }
        svg.Append("</svg>");
        return await Keep(Encoding.UTF8.GetBytes(svg.ToString()), stop);
    }

    private async Task<string> Keep(byte[] bytes, CancellationToken stop)
    {
        var file = $"parts-{Convert.ToHexStringLower(SHA256.HashData(bytes))[..12]}.svg";
        if (await db.Pictures.AnyAsync(p => p.File == file, stop))
            return file;
        db.Pictures.Add(
            new PictureRow
            {
                File = file,
                ContentType = "image/svg+xml",
                Width = Width,
                Height = Height,
                Large = bytes,
                Medium = bytes,
                Small = bytes,
            }
        );
        await db.SaveChangesAsync(stop);
        return file;
    }
}
