using System.Globalization;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Web.Options;

/// <summary>A picture that a swatch can be cut from, as large as it is shown for that.</summary>
public sealed record CutPicture(string File, string Alt, int Width, int Height);

/// <summary>The place where a swatch is cut.</summary>
/// <param name="Action">Where a cut is posted to.</param>
/// <param name="Fields">What goes with it, besides the file and the place in it.</param>
/// <param name="Send">Where another photograph is sent to.</param>
public sealed record CutView(
    OptionValue Value,
    string Action,
    string Close,
    string Send,
    IReadOnlyList<(string Name, string Value)> Fields,
    IReadOnlyList<CutPicture> Pictures
);

/// <summary>Cutting a swatch out of a picture: a click into the picture is enough, with or without script.</summary>
public static class SwatchCutting
{
    private const int Width = 300;

    /// <summary>Takes a photograph in, only to cut from it.</summary>
    /// <returns>Its file.</returns>
    public static async Task<Read<string>> Send(PictureStore store, IFormFile? upload)
    {
        if (upload is null)
            return Read<string>.No("Choose a picture first.");
        if (upload.Length > PictureStore.MostBytes)
            return Read<string>.No($"“{upload.FileName}” is larger than {PictureStore.MostBytes / 1024 / 1024} MB.");
        using var bytes = new MemoryStream();
        await upload.CopyToAsync(bytes);
        return await store.Keep(upload.FileName, bytes.ToArray());
    }

    /// <summary>Those of these pictures that can be cut: photographs, not drawings.</summary>
    public static async Task<IReadOnlyList<CutPicture>> Pictures(PictureStore store, IReadOnlyList<(string File, string Alt)> pictures)
    {
        var sizes = await store.Photographs([.. pictures.Select(p => p.File)]);
        return
        [
            .. pictures
                .Where(p => sizes.ContainsKey(p.File))
                .Select(p => new CutPicture(
                    p.File,
                    p.Alt,
                    Width,
                    Math.Max(1, Width * sizes[p.File].Height / Math.Max(1, sizes[p.File].Width))
                )),
        ];
    }

    /// <summary>Cuts where the form says: at the click in pixels, else by its per cents.</summary>
    public static async Task<Read<Swatch>> Cut(PictureStore store, CutPicture picture, IFormCollection form)
    {
        double Of(string name) => double.TryParse(form[name], CultureInfo.InvariantCulture, out var n) ? n : double.NaN;
        var clicked = !double.IsNaN(Of("at.x"));
        var piece = await store.Cut(
            picture.File,
            clicked ? Of("at.x") / picture.Width : Of("left") / 100,
            clicked ? Of("at.y") / picture.Height : Of("top") / 100,
            Of("size") / 100
        );
        return piece.Ok ? Read<Swatch>.Of(new Swatch.Picture(piece.Value!)) : Read<Swatch>.No(piece.Problem!);
    }
}
