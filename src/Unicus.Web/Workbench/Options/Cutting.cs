using Microsoft.AspNetCore.Mvc;
using Unicus.Core;
using Unicus.Store;
using Unicus.Web.Options;

namespace Unicus.Web.Workbench;

/// <summary>Cutting a swatch out of one of the product's pictures.</summary>
public sealed partial class WorkbenchModel
{
    /// <summary>The value whose swatch is being cut, as <c>option=value</c>.</summary>
    public string Cutting => Request.Query["cut"].ToString();

    public async Task<CutView> Cut(Option option, OptionValue value) =>
        new(value, $"{Here}?handler=Cut", Here, [("option", option.Key.Text), ("value", value.Key.Text)], await CutPictures(), "There is no photograph to cut from yet. Add one in Facts.");

    public async Task<IActionResult> OnPostCut(string option, string value, string file)
    {
        if (!await Look()) return NotFound();
        if ((await CutPictures()).FirstOrDefault(p => p.File == file) is not { } picture) return await Answer(Outcome.No("", "That picture was taken out meanwhile."));
        var piece = await SwatchCutting.Cut(pictures, picture, Request.Form);
        if (!piece.Ok) return await Answer(Outcome.No("", piece.Problem!));
        return await Edit("Swatch", options => WithOption(options, option, o => Key.TryParse(value, out var key) && o.Find(key) is { } v
            ? Read<Option?>.Of(o with { Values = o.Values.Replace(v, v with { Swatch = piece.Value }) })
            : Read<Option?>.No("That value was removed meanwhile.")));
    }

    private Task<IReadOnlyList<CutPicture>> CutPictures() => SwatchCutting.Pictures(db, [.. Copy.Product.Pictures.Select(p => (p.File, p.Alt))]);
}
