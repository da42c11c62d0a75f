using System.Collections.Immutable;
using Microsoft.AspNetCore.Mvc;
using Unicus.Store;
using Unicus.Web.Options;

namespace Unicus.Web.Workbench;

/// <summary>Cutting a swatch, of an option or of an extra, out of one of the product's pictures or one that is sent for it.</summary>
public abstract class CuttingModel(Bench bench, PictureStore pictures) : ChapterModel(bench)
{
    private PictureStore Pictures => pictures;

    /// <summary>The cut of a value of this option or extra, if it is the one that is being made.</summary>
    public async Task<CutView?> Cut(Option option)
    {
        if (
            Request.Query["cut"].ToString().Split('=') is not [var of, var value]
            || of != option.Key.Text
            || !Key.TryParse(value, out var key)
            || option.Find(key) is not { } found
        )
            return null;
        return new CutView(
            found,
            $"{Here}?handler=Cut",
            Here,
            $"{Here}?handler=CutPicture",
            [("option", of), ("value", value)],
            await CutPictures(Request.Query["picture"])
        );
    }

    public async Task<IActionResult> OnPostCutPicture(string option, string value, IFormFile? upload)
    {
        if (!await Look())
            return NotFound();
        var kept = await SwatchCutting.Send(Pictures, upload);
        return kept.Ok
            ? Redirect($"{Here}?cut={option}={value}&picture={Uri.EscapeDataString(kept.Value!)}#cut")
            : await Answer(Outcome.No("", kept.Problem!));
    }

    public async Task<IActionResult> OnPostCut(string option, string value, string file)
    {
        if (!await Look())
            return NotFound();
        if ((await CutPictures(file)).FirstOrDefault(p => p.File == file) is not { } picture)
            return await Answer(Outcome.No("", "That picture is no longer kept."));
        var piece = await SwatchCutting.Cut(Pictures, picture, Request.Form);
        if (!piece.Ok)
            return await Answer(Outcome.No("", piece.Problem!));
        Read<Option?> With(Option o) =>
            Key.TryParse(value, out var key) && o.Find(key) is { } v
                ? Read<Option?>.Of(o with { Values = o.Values.Replace(v, v with { Swatch = piece.Value }) })
                : Read<Option?>.No("That value was removed meanwhile.");
        return await Put("Swatch", options => WithOption(options, option, With));
    }

    /// <summary>A picture sent for the cut, then those of the product.</summary>
    private Task<IReadOnlyList<CutPicture>> CutPictures(string? sent) =>
        SwatchCutting.Pictures(
            Pictures,
            [.. Copy.Product.Pictures.Select(p => (p.File, p.Alt)).Prepend((sent ?? "", "the picture sent")).DistinctBy(p => p.Item1)]
        );

    /// <summary>Changes the options, or extras, of the chapter.</summary>
    protected abstract Task<IActionResult> Put(string sentence, Func<ImmutableArray<Option>, Read<ImmutableArray<Option>>> change);

    protected static Read<ImmutableArray<Option>> WithOption(ImmutableArray<Option> options, string key, Func<Option, Read<Option?>> change)
    {
        var option = options.FirstOrDefault(o => o.Key.Text == key);
        if (option is null)
            return Read<ImmutableArray<Option>>.No("That option was removed meanwhile.");
        var changed = change(option);
        return !changed.Ok
            ? Read<ImmutableArray<Option>>.No(changed.Problem!)
            : Read<ImmutableArray<Option>>.Of(changed.Value is null ? options.Remove(option) : options.Replace(option, changed.Value));
    }
}
