using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Pricing;

/// <summary>One rule as a line of the list.</summary>
/// <param name="Moved">What it took off in the last 30 days; 0 or less.</param>
/// <param name="Trouble">What it names and the shop does not have; empty where nothing is wrong.</param>
public sealed record RuleRow(
    PriceRule Rule,
    RulePhase Phase,
    IReadOnlyList<Phrase> Sentence,
    Money Moved,
    CalendarBar? Bar,
    bool Archived,
    string Trouble,
    int Version
);

/// <summary>The price rules of the shop: list, calendar, sentence and trial.</summary>
public sealed class PricingModel(
    UnicusContext db,
    Catalogue catalogue,
    ChangePriceRules rules,
    RuleTrial trial,
    Visit visit,
    TimeProvider clock
) : PageModel
{
    private const int MostTriedRows = 100;

    /// <summary>While a rule is being typed, so many products are looked at; the HTTP interface looks at all.</summary>
    private const int MostTriedProducts = 200;

    public ShopSettings Shop { get; private set; } = null!;
    public PriceRuleWords Words { get; private set; } = null!;
    public PriceCalendar Calendar { get; private set; } = null!;
    public IReadOnlyList<RuleRow> Rows { get; private set; } = [];
    public IReadOnlyDictionary<RulePhase, int> Counts { get; private set; } = new Dictionary<RulePhase, int>();
    public IReadOnlyList<CustomerGroup> Groups { get; private set; } = [];
    public string Show { get; private set; } = "";

    /// <summary>The key of the rule that is open; empty for a new one, null where none is.</summary>
    public string? Open { get; private set; }

    public RuleFields Fields { get; private set; } = new() { ["effect"] = "reduce", ["combine"] = "best" };
    public PriceRule? Rule { get; private set; }
    public IReadOnlyList<Fault> Faults { get; private set; } = [];
    public TrialFound? Tried { get; private set; }
    public string TriedAt { get; private set; } = "";
    public IEnumerable<TriedPrice> TriedRows => Tried?.Prices.Take(MostTriedRows) ?? [];

    /// <summary>The rule as it stands in the list; null for a new one.</summary>
    public RuleRow? Kept => Rows.FirstOrDefault(r => r.Rule.Key.Text == Open);

    public async Task<IActionResult> OnGet(string? key, string? show, string? product)
    {
        Show = show ?? "";
        Open = key == "new" ? "" : key;
        await Look();
        if (product is not null)
            (Fields["goods"], Fields["which"]) = ("products", product);
        if (Open is not { Length: > 0 })
            return Page();
        if (Kept is not { } kept)
            return NotFound();
        (Fields, Rule) = (RuleFields.Of(kept.Rule, Shop.TimeZone), kept.Rule);
        await Try(kept.Rule);
        return Page();
    }

    /// <summary>The sentence and its trial as they are typed; nothing is written.</summary>
    public async Task<IActionResult> OnPostTry(string? key)
    {
        if (!IsKey(key))
            return NotFound();
        Open = key == "new" ? "" : key;
        await Look();
        Read(RuleState.On);
        if (Rule is not null)
            await Try(Rule);
        return Partial("_Rule", this);
    }

    /// <summary>Keeps the rule as a draft, or switches it on: from its first moment, or at once.</summary>
    /// <param name="version">Of the rule that was seen; 0 for a new one.</param>
    public async Task<IActionResult> OnPost(string? key, string? then, int version)
    {
        if (!IsKey(key))
            return NotFound();
        Open = key == "new" ? "" : key;
        await Look();
        Read(then == "draft" ? RuleState.Draft : RuleState.On);
        if (Rule is null)
            return Page();
        var outcome = await rules.Put(Rule, visit.Actor, version);
        if (outcome.Done)
            return Redirect($"/office/pricing/{Rule.Key}");
        Faults = outcome.Faults;
        return Page();
    }

    public async Task<IActionResult> OnPostArchive(string key, bool back)
    {
        await rules.Archive(key, !back);
        return Redirect(back ? $"/office/pricing/{key}" : "/office/pricing");
    }

    public async Task<IActionResult> OnPostCopy(string key)
    {
        await Look();
        if (Rows.FirstOrDefault(r => r.Rule.Key.Text == key) is not { } row)
            return NotFound();
        var copy = row.Rule with { Key = FreeKey(row.Rule.Name), Name = $"{row.Rule.Name} 2", State = RuleState.Draft };
        await rules.Put(copy, visit.Actor);
        return Redirect($"/office/pricing/{copy.Key}");
    }

    /// <summary>The version of the rule that is shown, which goes along with a change; 0 for a new one.</summary>
    public int Version => int.TryParse(Request.HasFormContentType ? Request.Form["version"] : "", out var seen) ? seen : Kept?.Version ?? 0;

    /// <summary>What is said beneath a field; null where nothing is wrong.</summary>
    public string? Problem(string pointer) => Faults.FirstOrDefault(f => f.Where.StartsWith(pointer, StringComparison.Ordinal))?.What;

    public string Amount(long minor) => MinorUnits.ToMoney(minor, Shop.Currency).ForPeople();

    private static bool IsKey(string? key) => key is not null && Key.TryParse(key, out _);

    private void Read(RuleState state)
    {
        Fields = RuleFields.Of(Request.Form);
        var key = Open is { Length: > 0 } known ? Key.Of(known) : FreeKey(Fields["name"]);
        (Rule, Faults) = Fields.Read(key, Shop.Currency, Shop.TimeZone, state);
    }

    private Key FreeKey(string name) => Key.From(name.Length > 0 ? name : "rule", Rows.Select(r => r.Rule.Key).ToHashSet(), "rule");

    private async Task Try(PriceRule rule)
    {
        // A rule that runs as it is shows what it does: against the shop without it.
        var isAsItIs =
            Kept is { Archived: false } kept
            && PriceRuleWriter.Write(kept.Rule).ToJsonString() == PriceRuleWriter.Write(rule).ToJsonString();
        Tried = await trial.Run(rule, againstWithout: isAsItIs, mostProducts: MostTriedProducts);
        TriedAt = rule.When.From > clock.GetUtcNow() ? $"as on {Words.Moment(rule.When.From.Value)}" : "as of now";
    }

    private async Task Look()
    {
        Shop = await visit.Shop();
        Groups = (await catalogue.Prices(db)).Groups;
        var now = clock.GetUtcNow();
        var categories = await db.Categories.AsNoTracking().Select(c => c.Name).ToListAsync();
        var stored = (await db.PriceRules.AsNoTracking().ToListAsync())
            .Select(r => (Row: r, Rule: PriceBooks.Read(r.Document, Shop.Currency)))
            .ToList();
        var names = await PriceBooks.Names(db, stored.Select(r => r.Rule));
        Words = new PriceRuleWords(Shop.TimeZone, names.GetValueOrDefault, Groups);
        Calendar = new PriceCalendar(now, Shop.TimeZone);
        var since = now.AddDays(-30);
        var moved = await db
            .RuleUses.Where(u => !u.GivenBack && u.At >= since)
            .GroupBy(u => u.Rule)
            .Select(g => new { g.Key, Sum = g.Sum(u => u.Amount) })
            .ToDictionaryAsync(x => x.Key, x => x.Sum);
        var all = stored
            .Select(r => new RuleRow(
                r.Rule,
                r.Rule.PhaseAt(now),
                Words.Sentence(r.Rule),
                new Money(moved.GetValueOrDefault(r.Rule.Id), Shop.Currency),
                Calendar.BarOf(r.Rule, now),
                r.Row.Archived,
                Gone(r.Rule.Scope, names.Keys, categories),
                r.Row.Version
            ))
            .ToList();
        Counts = all.Where(r => !r.Archived).CountBy(r => r.Phase).ToDictionary();
        Rows = [.. all.OrderBy(r => Place(r.Phase)).ThenBy(r => r.Rule.When.From).ThenBy(r => r.Rule, PriceRule.Order)];
    }

    /// <summary>The rules of the list that the filter shows; the one that is open always.</summary>
    public IEnumerable<RuleRow> Shown =>
        Rows.Where(r =>
            r.Rule.Key.Text == Open
            || (Show == "archived" ? r.Archived : !r.Archived && (Show.Length == 0 || r.Phase.ToString().ToLowerInvariant() == Show))
        );

    private static string Gone(PriceScope scope, IEnumerable<string> codes, IReadOnlyCollection<string> categories)
    {
        var products = scope.Products.Except(codes).Select(c => $"product {c}");
        var gone = products
            .Concat(scope.Categories.Except(categories, StringComparer.OrdinalIgnoreCase).Select(c => $"category {c}"))
            .ToList();
        return gone.Count == 0 ? "" : $"There is no {string.Join(", no ", gone)}.";
    }

    private static int Place(RulePhase phase) =>
        phase switch
        {
            RulePhase.Running => 0,
            RulePhase.Planned => 1,
            RulePhase.Draft => 2,
            _ => 3,
        };
}
