using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Core;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Options;

/// <summary>Two values that are about to be merged, with what that does.</summary>
public sealed record MergingValues(OptionValue From, OptionValue Into, IReadOnlyList<MergeEffect> Effects);

/// <summary>One option of the library.</summary>
public sealed class OptionModel(OptionLibrary library, Visit visit) : PageModel
{
    public LibraryEntry Entry { get; private set; } = null!;
    public IReadOnlyList<LibraryEntry> Others { get; private set; } = [];
    public MergingValues? Merging { get; private set; }
    public string? Problem { get; private set; }
    public string? TypedValuesText { get; private set; }

    private string Here => (string)RouteData.Values["key"]!;

    public string SwatchText(Swatch? swatch) => TypedSwatch.Write(swatch);

    public async Task<IActionResult> OnGet(string? from, string? into)
    {
        if (!await Look()) return NotFound();
        if (Key.TryParse(from ?? "", out var f) && Key.TryParse(into ?? "", out var i) && Entry.Option.Find(f) is { } gone && Entry.Option.Find(i) is { } stays && f != i)
            Merging = new MergingValues(gone, stays, await library.PreviewMerge(Here, f, i));
        return Page();
    }

    public Task<IActionResult> OnPostName(int version, string? label) => Change(version, o =>
    {
        var name = string.Join(' ', (label ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        return name.Length is 0 or > TypedValues.LongestLabel ? Read<Option>.No("An option needs a name of at most 120 characters.") : Read<Option>.Of(o with { Label = name });
    });

    public Task<IActionResult> OnPostValues(int version, string? typed)
    {
        TypedValuesText = typed;
        return Change(version, o =>
        {
            var (labels, problems) = TypedValues.Split(typed ?? "", o.Values.Select(v => v.Label));
            return problems.Count > 0 ? Read<Option>.No(string.Join(' ', problems)) : labels.Count == 0 ? Read<Option>.No("Type at least one value.") : Read<Option>.Of(o with { Values = [.. o.Values, .. TypedValues.Make(labels, o.Values)] });
        });
    }

    public Task<IActionResult> OnPostValue(int version, string value, string? label, string? sku, string? colour, string? act) => Change(version, o =>
    {
        var at = Key.TryParse(value, out var key) ? o.PlaceOf(key) : -1;
        if (at < 0) return Read<Option>.No("That value was removed meanwhile.");
        if (act == "up" && at > 0) return Read<Option>.Of(o with { Values = o.Values.RemoveAt(at).Insert(at - 1, o.Values[at]) });
        if (act == "out") return o.Values.Length == 1 ? Read<Option>.No($"{o.Values[0].Label} is the last value.") : Read<Option>.Of(o with { Values = o.Values.RemoveAt(at) });
        var read = TypedSwatch.Value(o, o.Values[at], label, sku, colour);
        return read.Ok ? Read<Option>.Of(o with { Values = o.Values.SetItem(at, read.Value!) }) : Read<Option>.No(read.Problem!);
    });

    public async Task<IActionResult> OnPostMerge(int version, string from, string into) =>
        await Told(Key.TryParse(from, out var f) && Key.TryParse(into, out var i) ? await library.Merge(Here, version, f, i, visit.Actor) : Outcome.No("", "Choose two values."));

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

    private async Task<IActionResult> Change(int version, Func<Option, Read<Option>> change) => await Told(await library.Change(Here, version, change, visit.Actor));

    private async Task<IActionResult> Told(Outcome outcome)
    {
        if (outcome.Done) return Redirect($"/office/options/{Here}");
        Problem = outcome.Faults[0].What;
        return await Look() ? Page() : NotFound();
    }

    private async Task<bool> Look()
    {
        var all = await library.All();
        if (all.FirstOrDefault(e => e.Option.Key.Text == Here) is not { } entry) return false;
        (Entry, Others) = (entry, [.. all.Where(e => e != entry)]);
        return true;
    }
}
