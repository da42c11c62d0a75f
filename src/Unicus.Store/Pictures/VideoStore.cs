using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>A film that is kept; its bytes are read in slices.</summary>
/// <param name="Length">In bytes.</param>
public sealed record KeptFilm(int Id, string ContentType, long Length);

/// <summary>Keeps films that are sent in: MP4 and WebM, told by their first bytes and never by their names.</summary>
public sealed class VideoStore(UnicusContext db)
{
    private static readonly byte[] Matroska = [0x1A, 0x45, 0xDF, 0xA3];
    public const int MostBytes = 60 * 1024 * 1024;

    /// <returns>The address of the film in this shop, or what is wrong with it.</returns>
    public async Task<Read<string>> Keep(string name, byte[] upload, CancellationToken stop = default)
    {
        if (upload.Length > MostBytes)
            return Read<string>.No($"“{name}” is larger than {MostBytes / 1024 / 1024} MB.");
        var kind =
            upload.AsSpan().StartsWith(Matroska) ? "webm"
            : upload.Length > 12 && upload.AsSpan(4, 4).SequenceEqual("ftyp"u8) ? "mp4"
            : null;
        if (kind is null)
            return Read<string>.No($"“{name}” is not a film that can be shown. Use MP4 or WebM.");
        var slug = Slug.From(Path.GetFileNameWithoutExtension(name), 40);
        var file = $"{slug}-{Convert.ToHexStringLower(SHA256.HashData(upload))[..12]}.{kind}".TrimStart('-');
        if (!await db.Videos.AnyAsync(v => v.File == file, stop))
        {
            db.Videos.Add(
                new VideoRow
                {
                    File = file,
                    ContentType = $"video/{kind}",
                    Content = upload,
                }
            );
            await db.SaveChangesAsync(stop);
        }
        return Read<string>.Of(ProductVideo.Kept + file);
    }

    public async Task<KeptFilm?> Find(string file, CancellationToken stop = default) =>
        await db
            .Videos.Where(v => v.File == file)
            .Select(v => new KeptFilm(v.Id, v.ContentType, v.Content.Length))
            .FirstOrDefaultAsync(stop);

    /// <summary>Reads a piece of a film; shorter at its end.</summary>
    public Task<byte[]> Slice(KeptFilm film, long from, int bytes, CancellationToken stop = default) =>
        db
            .Database.SqlQuery<byte[]>(
                $"select substring(content from {(int)from + 1} for {bytes}) as \"Value\" from videos where id = {film.Id}"
            )
            .SingleAsync(stop);
}
