using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>A picture that a swatch can be cut from, as large as it is shown for that.</summary>
public sealed record CutPicture(string File, string Alt, int Width, int Height);

/// <summary>Cutting a swatch out of one of the product's pictures: a click into the picture is enough, with or without script.</summary>
public sealed partial class WorkbenchModel
{
    private const int WidthForCutting = 300;

    /// <summary>The value whose swatch is being cut, as <c>option=value</c>.</summary>
    public string Cutting => Request.Query["cut"].ToString();

    public async Task<IReadOnlyList<CutPicture>> CutPictures()
    {
        var files = Copy.Product.Pictures.Select(p => p.File).ToList();
        var sizes = await db.Pictures.Where(p => files.Contains(p.File) && p.ContentType == "image/webp").Select(p => new { p.File, p.Width, p.Height }).ToDictionaryAsync(p => p.File);
        return [.. Copy.Product.Pictures.Where(p => sizes.ContainsKey(p.File)).Select(p => new CutPicture(p.File, p.Alt, WidthForCutting, Math.Max(1, WidthForCutting * sizes[p.File].Height / Math.Max(1, sizes[p.File].Width))))];
    }

    /// <param name="left">Where the middle of the piece is, in per cent of the width; a click says it in pixels instead.</param>
    /// <param name="size">Its side in per cent of the shorter side.</param>
    public async Task<IActionResult> OnPostCut(string option, string value, string file, double left, double top, double size)
    {
        if (!await Look()) return NotFound();
        if ((await CutPictures()).FirstOrDefault(p => p.File == file) is not { } picture) return await Answer(Outcome.No("", "That picture was taken out meanwhile."));
        if (double.TryParse(Request.Form["at.x"], out var x) && double.TryParse(Request.Form["at.y"], out var y)) (left, top) = (100 * x / picture.Width, 100 * y / picture.Height);
        var piece = await pictures.Cut(file, left / 100, top / 100, size / 100);
        if (!piece.Ok) return await Answer(Outcome.No("", piece.Problem!));
        return await Edit("Swatch", options => WithOption(options, option, o => Key.TryParse(value, out var key) && o.Find(key) is { } v
            ? Read<Option?>.Of(o with { Values = o.Values.Replace(v, v with { Swatch = new Swatch.Picture(piece.Value!) }) })
            : Read<Option?>.No("That value was removed meanwhile.")));
    }
}
