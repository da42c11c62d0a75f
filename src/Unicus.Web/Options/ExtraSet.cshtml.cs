using System.Collections.Immutable;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;
using Unicus.Store;
using Unicus.Web.Shell;
using Unicus.Web.Workbench;

namespace Unicus.Web.Options;

/// <summary>One shared set of extras: what it reaches, its extras, its rules.</summary>
public sealed class ExtraSetModel(UnicusContext db, ChangeExtraSets sets, Visit visit) : PageModel
{
    public ExtraSet Set { get; private set; } = null!;
    public string? Problem { get; private set; }
    public (string Extra, IFormCollection Form)? Refused { get; private set; }
    public IReadOnlyList<string> Categories { get; private set; } = [];
    public string Products { get; private set; } = "";
    public string Edited => Request.HasFormContentType && Request.Form["act"].ToString() is not "out" ? Request.Form["rule"].ToString() : "";
    public string Reach => Set.Everything ? "everything" : Set.Categories.IsEmpty ? "products that take it" : string.Join(", ", Set.Categories);
    public string Here => $"/office/extras/{Key}";

    public IEnumerable<(SelectionRule Rule, string Words, RuleView Builder)> Lines
    {
        get
        {
            var words = new RuleWords(new RuleBook(Set.Extras, Set.Rules));
            return Set.Rules.Select(r => (r, words.Sentence(r), RuleForm.Of(Here, r, Set.Extras, words)));
        }
    }

    private string Key => (string)RouteData.Values["key"]!;

    public async Task<IActionResult> OnGet() => await Look() ? Page() : NotFound();

    public Task<IActionResult> OnPostReach(string? name, string? everything, string? categories) => Change(s =>
    {
        var typed = string.Join(' ', (name ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        if (typed.Length is 0 or > 120) return Read<ExtraSet>.No("A set needs a name of at most 120 characters.");
        var named = categories is null ? s.Categories : [.. categories.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Where(c => c.Length <= 80).Distinct(StringComparer.OrdinalIgnoreCase)];
        return Read<ExtraSet>.Of(s with { Name = typed, Everything = everything == "yes", Categories = named });
    });

    public async Task<IActionResult> OnPostNewExtra()
    {
        var all = await All();
        return await Change(s => ExtraForm.Add(s.Extras, Request.Form, all.SelectMany(x => x.Extras)) is var read && read.Ok ? Read<ExtraSet>.Of(s with { Extras = read.Value }) : Read<ExtraSet>.No(read.Problem!));
    }

    public async Task<IActionResult> OnPostExtra(string extra, string? act)
    {
        var shop = await ShopSettings.Load(db);
        return await Change(s =>
        {
            var read = ExtraForm.Edit(s.Extras, Request.Form, act, shop.Currency, s.Extras);
            if (!read.Ok) Refused = (extra, Request.Form);
            return read.Ok ? Read<ExtraSet>.Of(s with { Extras = read.Value }) : Read<ExtraSet>.No(read.Problem!);
        });
    }

    public async Task<IActionResult> OnPostDraft() => await Look() ? Partial("/Workbench/Rules/_Builder.cshtml", RuleForm.Read(Here, Request.Form, Set.Extras)) : NotFound();

    public Task<IActionResult> OnPostNewRule() => Change(s =>
    {
        var view = RuleForm.Read(Here, Request.Form, s.Extras);
        return view.Problem is not null ? Read<ExtraSet>.No(view.Problem) : Sound(s with { Rules = s.Rules.Add(RuleForm.ToRule(view, RuleForm.NewKey(view, s.Rules))) });
    });

    public Task<IActionResult> OnPostRule(string rule, string? act) => Change(s =>
    {
        if (s.Rules.FirstOrDefault(r => r.Key.Text == rule) is not { } old) return Read<ExtraSet>.No("That rule was taken out meanwhile.");
        if (act == "out") return Read<ExtraSet>.Of(s with { Rules = s.Rules.Remove(old) });
        var view = RuleForm.Read(Here, Request.Form, s.Extras);
        return view.Problem is not null ? Read<ExtraSet>.No(view.Problem) : Sound(s with { Rules = s.Rules.Replace(old, RuleForm.ToRule(view, old.Key, old.Off)) });
    });

    public async Task<IActionResult> OnPostRemove()
    {
        var outcome = await sets.Remove(Key);
        if (outcome.Done) return Redirect("/office/extras");
        Problem = outcome.Faults[0].What;
        return await Look() ? Page() : NotFound();
    }

    private static Read<ExtraSet> Sound(ExtraSet set) => new RuleBook(set.Extras, set.Rules).Loops is [var loop, ..] ? Read<ExtraSet>.No($"Nothing was saved: {CompiledRules.LoopInWords(loop)}") : Read<ExtraSet>.Of(set);

    private Task<IReadOnlyList<ExtraSet>> All() => ExtraSets.Load(db);

    private async Task<IActionResult> Change(Func<ExtraSet, Read<ExtraSet>> change)
    {
        var outcome = await sets.Change(Key, null, change);
        Problem = outcome.Done ? null : outcome.Faults[0].What;
        db.ChangeTracker.Clear();
        if (!await Look()) return NotFound();
        if (!visit.IsHtmx) return outcome.Done ? Redirect(Here) : Page();
        return Partial("_ExtraSet", this);
    }

    private async Task<bool> Look()
    {
        if ((await All()).FirstOrDefault(s => s.Key.Text == Key) is not { } set) return false;
        Set = set;
        Categories = await db.Categories.OrderBy(c => c.Name).Select(c => c.Name).ToListAsync();
        var count = set.Everything ? await db.Products.CountAsync() : 0;
        Products = set.Everything ? $"all {count:N0} products" : set.Categories.IsEmpty ? "the products that take it" : $"every product in {string.Join(" and ", set.Categories)}";
        return true;
    }
}
