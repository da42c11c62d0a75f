using System.Collections.Immutable;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;
using Unicus.Web.Shell;
using Unicus.Web.Workbench;

namespace Unicus.Web.Options;

/// <summary>One shared set of extras: what it reaches, its extras, its rules.</summary>
[RequestSizeLimit(Uploads.LongestRequest)]
public sealed class ExtraSetModel(
    ShopReading reading,
    ProductReading goods,
    CategoryTree tree,
    ChangeExtraSets sets,
    PictureStore pictures,
    Visit visit
) : PageModel
{
    public ExtraSet Set { get; private set; } = null!;
    public string? Problem { get; private set; }
    public (string Extra, IFormCollection Form)? Refused { get; private set; }
    public IReadOnlyList<string> Categories { get; private set; } = [];
    public string Products { get; private set; } = "";
    public string Edited =>
        Request.HasFormContentType && Request.Form["act"].ToString() is not "out" ? Request.Form["rule"].ToString() : "";
    public string Reach =>
        Set.Everything ? "everything"
        : Set.Categories.IsEmpty ? "products that take it"
        : string.Join(", ", Set.Categories);
    public string Here => $"/office/extras/{Key}";

    /// <summary>Whether what stands around the chapter goes with it.</summary>
    public bool IsAround { get; private set; }

    /// <summary>A rule of the set, in words and to be changed.</summary>
    public sealed record RuleLine(SelectionRule Rule, string Words, RuleView Builder);

    public IEnumerable<RuleLine> Lines
    {
        get
        {
            var words = new RuleWords(new RuleBook(Set.Extras, Set.Rules));
            return Set.Rules.Select(r => new RuleLine(r, words.Sentence(r), RuleForm.Of(Here, r, Set.Extras, words)));
        }
    }

    private string Key => (string)RouteData.Values["key"]!;

    public async Task<IActionResult> OnGet() => await Look() ? Page() : NotFound();

    public Task<IActionResult> OnPostReach(string? name, string? everything, string? categories) =>
        Change(s =>
        {
            var typed = string.Join(' ', (name ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
            if (typed.Length is 0 or > 120)
                return Read<ExtraSet>.No("A set needs a name of at most 120 characters.");
            var named = categories is null
                ? s.Categories
                :
                [
                    .. categories
                        .Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                        .Where(c => c.Length <= 80)
                        .Distinct(StringComparer.OrdinalIgnoreCase),
                ];
            return Read<ExtraSet>.Of(s with { Name = typed, Everything = everything == "yes", Categories = named });
        });

    public async Task<IActionResult> OnPostNewExtra()
    {
        var (all, shop) = (await All(), await reading.SettingsAfresh());
        return await Change(s =>
            ExtraForm.Add(s.Extras, Request.Form, all.SelectMany(x => x.Extras), shop.Currency) is var read && read.Ok
                ? Read<ExtraSet>.Of(s with { Extras = read.Value })
                : Read<ExtraSet>.No(read.Problem!)
        );
    }

    public async Task<IActionResult> OnPostExtra(string extra, string? act)
    {
        var shop = await reading.SettingsAfresh();
        return await Change(s =>
        {
            var read = ExtraForm.Edit(s.Extras, Request.Form, act, shop.Currency, s.Extras);
            if (!read.Ok)
                Refused = (extra, Request.Form);
            return read.Ok ? Read<ExtraSet>.Of(s with { Extras = read.Value }) : Read<ExtraSet>.No(read.Problem!);
        });
    }

    /// <summary>Takes the extras in the order they were dragged to.</summary>
    public Task<IActionResult> OnPostOrder(string[] keys) =>
        Change(s =>
            Read<ExtraSet>.Of(
                s with
                {
                    Extras = [.. s.Extras.OrderBy(e => Array.IndexOf(keys, e.Key.Text) is >= 0 and var at ? at : int.MaxValue)],
                }
            )
        );

    public async Task<IActionResult> OnPostCutPicture(string option, string value, IFormFile? upload)
    {
        var kept = await SwatchCutting.Send(pictures, upload);
        if (kept.Ok)
            return Redirect($"{Here}?cut={option}={value}&picture={Uri.EscapeDataString(kept.Value!)}#cut");
        Problem = kept.Problem;
        return await Look() ? Page() : NotFound();
    }

    public async Task<IActionResult> OnPostCut(string option, string value, string file)
    {
        var piece = await SwatchCutting.Pictures(pictures, [(file, "")]) is [var picture, ..]
            ? await SwatchCutting.Cut(pictures, picture, Request.Form)
            : Read<Swatch>.No("That picture is no longer kept.");
        return await Change(s =>
            !piece.Ok ? Read<ExtraSet>.No(piece.Problem!)
            : s.Extras.FirstOrDefault(e => e.Key.Text == option) is { } extra
            && Unicus.Core.Options.Key.TryParse(value, out var key)
            && extra.Find(key) is { } v
                ? Read<ExtraSet>.Of(
                    s with
                    {
                        Extras = s.Extras.Replace(extra, extra with { Values = extra.Values.Replace(v, v with { Swatch = piece.Value }) }),
                    }
                )
            : Read<ExtraSet>.No("That value was removed meanwhile.")
        );
    }

    public async Task<IActionResult> OnPostUndo()
    {
        var outcome = await sets.Undo(Key);
        return outcome.Done ? Content("Taken back") : new ContentResult { StatusCode = 409, Content = outcome.Faults[0].What };
    }

    public async Task<IActionResult> OnPostDraft() =>
        await Look() ? Partial("/Workbench/Rules/_Builder.cshtml", RuleForm.Read(Here, Request.Form, Set.Extras)) : NotFound();

    public Task<IActionResult> OnPostNewRule() =>
        Change(s =>
        {
            var view = RuleForm.Read(Here, Request.Form, s.Extras);
            return view.Problem is not null
                ? Read<ExtraSet>.No(view.Problem)
                : Sound(s with { Rules = s.Rules.Add(RuleForm.ToRule(view, RuleForm.NewKey(view, s.Rules))) });
        });

    public Task<IActionResult> OnPostRule(string rule, string? act) =>
        Change(s =>
        {
            if (s.Rules.FirstOrDefault(r => r.Key.Text == rule) is not { } old)
                return Read<ExtraSet>.No("That rule was removed meanwhile.");
            if (act == "out")
                return Read<ExtraSet>.Of(s with { Rules = s.Rules.Remove(old) });
            if (act is "off" or "on")
                return Sound(s with { Rules = s.Rules.Replace(old, old with { Off = act == "off" }) });
            var view = RuleForm.Read(Here, Request.Form, s.Extras);
            return view.Problem is not null
                ? Read<ExtraSet>.No(view.Problem)
                : Sound(s with { Rules = s.Rules.Replace(old, RuleForm.ToRule(view, old.Key, old.Off)) });
        });

    public async Task<IActionResult> OnPostRemove()
    {
        var outcome = await sets.Remove(Key, visit.Actor);
        if (outcome.Done)
            return Redirect("/office/extras");
        Problem = outcome.Faults[0].What;
        return await Look() ? Page() : NotFound();
    }

    private static Read<ExtraSet> Sound(ExtraSet set) =>
        new RuleBook(set.Extras, set.Rules).Loops is [var loop, ..]
            ? Read<ExtraSet>.No($"Nothing was saved: {CompiledRules.LoopInWords(loop)}")
            : Read<ExtraSet>.Of(set);

    private Task<IReadOnlyList<ExtraSet>> All() => sets.All();

    private async Task<IActionResult> Change(Func<ExtraSet, Read<ExtraSet>> change)
    {
        var outcome = await sets.Change(Key, null, change, visit.Actor);
        Problem = outcome.Done ? null : outcome.Faults[0].What;
        if (!await Look())
            return NotFound();
        if (!visit.IsHtmx)
            return outcome.Done ? Redirect(Here) : Page();
        if (outcome.Done && $"{Request.Query["act"]}{Request.Form["act"]}".StartsWith("out", StringComparison.Ordinal))
            Response.Headers["HX-Trigger"] = """{"said":{"text":"Taken out","undo":true}}""";
        IsAround = true;
        return Partial("_ExtraSet", this);
    }

    /// <summary>The cut of a value's swatch, if it is of this extra: from a picture sent for it.</summary>
    public async Task<CutView?> Cut(Option extra)
    {
        if (
            Request.Query["cut"].ToString().Split('=') is not [var of, var value]
            || of != extra.Key.Text
            || !Unicus.Core.Options.Key.TryParse(value, out var key)
            || extra.Find(key) is not { } found
        )
            return null;
        var sent = Request.Query["picture"].ToString();
        return new CutView(
            found,
            $"{Here}?handler=Cut",
            Here,
            $"{Here}?handler=CutPicture",
            [("option", of), ("value", value)],
            await SwatchCutting.Pictures(pictures, [(sent, "the picture sent")])
        );
    }

    private async Task<bool> Look()
    {
        if ((await All()).FirstOrDefault(s => s.Key.Text == Key) is not { } set)
            return false;
        Set = set;
        Categories = await tree.Names();
        var count = set.Everything ? await goods.Count() : 0;
        Products =
            set.Everything ? $"all {count:N0} products"
            : set.Categories.IsEmpty ? "the products that take it"
            : $"every product in {string.Join(" and ", set.Categories)}";
        return true;
    }
}
