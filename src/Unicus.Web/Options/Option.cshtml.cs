using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Options;

/// <summary>Two values that are about to be merged, with what that does.</summary>
public sealed record MergingValues(OptionValue From, OptionValue Into, IReadOnlyList<MergeEffect> Effects);

/// <summary>One option of the library.</summary>
[RequestSizeLimit(Uploads.LongestRequest)]
public sealed class OptionModel(ProductReading goods, OptionLibrary library, PictureStore pictures, Visit visit) : PageModel
{
    private const int MostProductsToCutFrom = 8;
    private const int MostPicturesToCutFrom = 12;

    public LibraryEntry Entry { get; private set; } = null!;
    public IReadOnlyList<LibraryEntry> Others { get; private set; } = [];
    public MergingValues? Merging { get; private set; }
    public string? Problem { get; private set; }
    public string? TypedValuesText { get; private set; }

    /// <summary>The option that this one would be merged into, or null.</summary>
    public Option? MergingInto { get; private set; }

    /// <summary>The value whose swatch is being cut, or null.</summary>
    public CutView? Cutting { get; private set; }

    private string Here => (string)RouteData.Values["key"]!;

    public string SwatchText(Swatch? swatch) => TypedSwatch.Write(swatch);

    /// <param name="cut">The value whose swatch is to be cut.</param>
    /// <param name="picture">A picture sent for that alone.</param>
    /// <param name="whole">The option that this one is to be merged into, shown before it is done.</param>
    public async Task<IActionResult> OnGet(string? from, string? into, string? cut, string? picture, string? whole)
    {
        if (!await Look())
            return NotFound();
        MergingInto = Others.FirstOrDefault(o => o.Option.Key.Text == whole)?.Option;
        if (Key.TryParse(cut ?? "", out var c) && Entry.Option.Find(c) is { } value)
            Cutting = new CutView(
                value,
                $"/office/options/{Here}?handler=Cut",
                $"/office/options/{Here}",
                $"/office/options/{Here}?handler=Picture",
                [("version", Entry.Version.ToString()), ("value", value.Key.Text)],
                await CutPictures(picture)
            );
        if (
            Key.TryParse(from ?? "", out var f)
            && Key.TryParse(into ?? "", out var i)
            && Entry.Option.Find(f) is { } gone
            && Entry.Option.Find(i) is { } stays
            && f != i
        )
            Merging = new MergingValues(gone, stays, await library.PreviewMerge(Here, f, i));
        return Page();
    }

    public Task<IActionResult> OnPostName(int version, string? label) => Change(version, o =>
        {
            var name = string.Join(' ', (label ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
            return name.Length is 0 or > TypedValues.LongestLabel
                ? Read<Option>.No("An option needs a name of at most 120 characters.")
                : Read<Option>.Of(o with { Label = name });
        });

    public Task<IActionResult> OnPostValues(int version, string? typed)
    {
        TypedValuesText = typed;
        return Change(version, o =>
        {
            var (labels, problems) = TypedValues.Split(typed ?? "", o.Values.Select(v => v.Label));
            return problems.Count > 0 ? Read<Option>.No(string.Join(' ', problems))
                : labels.Count == 0 ? Read<Option>.No("Type at least one value.")
                : Read<Option>.Of(o with { Values = [.. o.Values, .. TypedValues.Make(labels, o.Values)] });
        });
    }

    public Task<IActionResult> OnPostValue(
        int version,
        string value,
        string? label,
        string? sku,
        string? colour,
        string? propose,
        string? act
    ) => Change(version, o =>
        {
            var at = Key.TryParse(value, out var key) ? o.PlaceOf(key) : -1;
            if (at < 0)
                return Read<Option>.No("That value was removed meanwhile.");
            if (act == "up" && at > 0)
                return Read<Option>.Of(o with { Values = o.Values.RemoveAt(at).Insert(at - 1, o.Values[at]) });
            if (act == "out")
                return o.Values.Length == 1
                    ? Read<Option>.No($"{o.Values[0].Label} is the last value.")
                    : Read<Option>.Of(o with { Values = o.Values.RemoveAt(at) });
            var read = TypedSwatch.Value(o, o.Values[at], label, sku, propose ?? colour);
            return read.Ok ? Read<Option>.Of(o with { Values = o.Values.SetItem(at, read.Value!) }) : Read<Option>.No(read.Problem!);
        });

    /// <summary>Takes a photograph in, only to cut from it.</summary>
    public async Task<IActionResult> OnPostPicture(string value, IFormFile? upload)
    {
        var kept = await SwatchCutting.Send(pictures, upload);
        return kept.Ok
            ? Redirect($"/office/options/{Here}?cut={value}&picture={Uri.EscapeDataString(kept.Value!)}#cut")
            : await Told(Outcome.No("", kept.Problem!));
    }

    public async Task<IActionResult> OnPostCut(int version, string value, string file)
    {
        if (!await Look())
            return NotFound();
        if ((await CutPictures(file)).FirstOrDefault(p => p.File == file) is not { } picture)
            return await Told(Outcome.No("", "That picture is no longer kept."));
        var piece = await SwatchCutting.Cut(pictures, picture, Request.Form);
        if (!piece.Ok)
            return await Told(Outcome.No("", piece.Problem!));
        return await Change(version, o =>
            Key.TryParse(value, out var key) && o.Find(key) is { } v
                ? Read<Option>.Of(o with { Values = o.Values.Replace(v, v with { Swatch = piece.Value }) })
                : Read<Option>.No("That value was removed meanwhile.")
        );
    }

    public async Task<IActionResult> OnPostMerge(int version, string from, string into) =>
        await Told(
            Key.TryParse(from, out var f) && Key.TryParse(into, out var i)
                ? await library.Merge(Here, version, f, i, visit.Actor)
                : Outcome.No("", "Choose two values.")
        );

    public async Task<IActionResult> OnPostMergeOption(string into)
    {
        var outcome = await library.MergeOptions(Here, into, visit.Actor);
        return outcome.Done ? Redirect($"/office/options/{into}") : await Told(outcome);
    }

    public async Task<IActionResult> OnPostRemove()
    {
        var outcome = await library.Remove(Here);
        return outcome.Done ? Redirect("/office/options") : await Told(outcome);
    }

    private async Task<IActionResult> Change(int version, Func<Option, Read<Option>> change) =>
        await Told(await library.Change(Here, version, change, visit.Actor));

    private async Task<IActionResult> Told(Outcome outcome)
    {
        if (outcome.Done)
            return Redirect($"/office/options/{Here}");
        Problem = outcome.Faults[0].What;
        return await Look() ? Page() : NotFound();
    }

    /// <summary>A picture sent for the cut, then those of the products that use the option.</summary>
    private async Task<IReadOnlyList<CutPicture>> CutPictures(string? sent)
    {
        var found = new List<(string, string)>();
        if (!string.IsNullOrEmpty(sent))
            found.Add((sent, "the picture sent"));
        foreach (var (code, name) in Entry.UsedBy.Take(MostProductsToCutFrom))
            if (await goods.Copy(code, _ => VariantScope.None) is { } copy)
                found.AddRange(copy.Product.Pictures.Select(p => (p.File, p.Alt.Length > 0 ? p.Alt : name)));
        return await SwatchCutting.Pictures(pictures, [.. found.DistinctBy(f => f.Item1).Take(MostPicturesToCutFrom)]);
    }

    private async Task<bool> Look()
    {
        var all = await library.All();
        if (all.FirstOrDefault(e => e.Option.Key.Text == Here) is not { } entry)
            return false;
        (Entry, Others) = (entry, [.. all.Where(e => e != entry)]);
        return true;
    }
}
