using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
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
    ShopReading reading,
    PriceRuleReading ruleReading,
    OptionLibrary optionLibrary,
    CategoryTree tree,
    ChangePriceRules rules,
    RuleTrial trial,
    ProveMargins proofs,
    RuleFindings findings,
    Visit visit,
    TimeProvider clock
) : PageModel
{
    /// <summary>While a rule is being typed, so many products are looked at; the others slice by slice where that is asked for.</summary>
    private const int MostTriedProducts = 200;

    private const int TriedAtOnce = 1000;
    private const int ProvenAtOnce = 200;

    private IReadOnlyList<Option> _options = [];
    private IReadOnlyList<StoredRule> _stored = [];

    public ShopSettings Shop { get; private set; } = null!;
    public PriceRuleWords Words { get; private set; } = null!;
    public PriceCalendar Calendar { get; private set; } = null!;
    public IReadOnlyList<RuleRow> Rows { get; private set; } = [];
    public IReadOnlyDictionary<RulePhase, int> Counts { get; private set; } = new Dictionary<RulePhase, int>();
    public IReadOnlyList<CustomerGroup> Groups { get; private set; } = [];
    public string Show { get; private set; } = "";
    public string Find { get; private set; } = "";

    /// <summary>What was just done and can be taken back; null for nothing.</summary>
    public string? Problem { get; private set; }

    /// <summary>The key of the rule that is open; empty for a new one, null where none is.</summary>
    public string? Open { get; private set; }

    public RuleSheet Sheet { get; private set; } = null!;

    /// <summary>The rule that is open as it is stored; null for a new one.</summary>
    private StoredRule? Stored => _stored.FirstOrDefault(r => r.Rule.Key.Text == Open);

    public async Task<IActionResult> OnGet(string? key, string? show, string? find, string? product)
    {
        (Show, Find) = (show ?? "", find?.Trim() ?? "");
        Open = key == "new" ? "" : key;
        await Look();
        var fields = new RuleFields { ["effect"] = "reduce", ["combine"] = "best" };
        if (product is not null)
            (fields["goods"], fields["which"]) = ("products", product);
        if (Open is not { Length: > 0 })
        {
            Sheet = SheetOf(fields, null, []);
            return Page();
        }
        if (Stored is not { } kept)
            return NotFound();
        Sheet = SheetOf(RuleFields.Of(kept.Rule, Shop.TimeZone), kept.Rule, []);
        await Try(Sheet, kept.Rule);
        return Page();
    }

    /// <summary>The sentence and its trial as they are typed; nothing is written.</summary>
    public async Task<IActionResult> OnPostTry(string? key)
    {
        if (!await LookAtSheet(key))
            return NotFound();
        Sheet = Read(RuleState.On);
        if (Sheet.Rule is not null)
            await Try(Sheet, Sheet.Rule);
        return Partial("_Rule", Sheet);
    }

    /// <summary>The next slice of the whole range under the rule as it is typed.</summary>
    /// <param name="state">What was found so far; empty to begin.</param>
    public async Task<IActionResult> OnPostTryAll(string? key, string? state)
    {
        if (!await LookAtSheet(key))
            return NotFound();
        Sheet = Read(RuleState.On);
        if (Sheet.Rule is not { } rule)
            return Partial("_Rule", Sheet);
        var sum = WholeTrial.Read(state);
        var part = new TrialPart(sum.Products, TriedAtOnce, WithOrders: false);
        sum.Add(await trial.Run(rule, againstWithout: IsAsItIs(rule), part: part));
        var order = Request.Form["order"].ToString();
        return Partial("_TryAll", new WholeTrialView(sum, Sheet, order));
    }

    /// <summary>What is doubtful about the rules.</summary>
    public async Task<IActionResult> OnGetFindings()
    {
        await Look();
        var found = await findings.Look();
        return Partial("_Findings", found.Select(f => (Rows.First(r => r.Rule.Id == f.Rule).Rule, f.Text)).ToList());
    }

    /// <summary>The next slice of the proof of the lowest margin, by the rules as they are.</summary>
    public async Task<IActionResult> OnGetProof(string? state)
    {
        await Look();
        return await Prove(state, await visit.PublicTerms(), "/office/pricing?handler=Proof", null);
    }

    /// <summary>The same with the rule as it is typed, from when on it would act.</summary>
    public async Task<IActionResult> OnPostProof(string? key, string? state)
    {
        if (!await LookAtSheet(key))
            return NotFound();
        Sheet = Read(RuleState.On);
        if (Sheet.Rule is not { } rule)
            return Partial("_Rule", Sheet);
        var none = await trial.Run(rule, part: new TrialPart(0, 0, WithOrders: false));
        return await Prove(state, none.Then, null, $"{Sheet.SaveUrl}?handler=Proof");
    }

    /// <summary>Keeps the rule as a draft, or switches it on: from its first moment, or at once.</summary>
    public async Task<IActionResult> OnPost(string? key, string? then)
    {
        if (!await LookAt(key))
            return NotFound();
        Sheet = Read(then == "draft" ? RuleState.Draft : RuleState.On);
        if (Sheet.Rule is not { } rule)
            return Page();
        var outcome = await rules.Put(rule, visit.Actor, Sheet.Version);
        if (outcome.Done)
            return Redirect($"/office/pricing/{rule.Key}");
        Sheet = Read(then == "draft" ? RuleState.Draft : RuleState.On, outcome.Faults);
        return Page();
    }

    /// <summary>Moves an end of a rule by days, as its bar is dragged or moved by keys.</summary>
    /// <param name="end"><c>from</c> or <c>until</c>.</param>
    /// <param name="version">The version that was seen.</param>
    public async Task<IActionResult> OnPostMove(string key, string end, int days, int version)
    {
        if (!IsKey(key))
            return NotFound();
        await Look();
        if (Rows.FirstOrDefault(r => r.Rule.Key.Text == key) is not { } row)
            return NotFound();
        var moved = RuleEnds.Moved(row.Rule, end, days, Shop.TimeZone);
        var outcome = moved.Ok ? await rules.Put(moved.Value!, visit.Actor, version) : Outcome<StoredRule>.No("", moved.Problem!);
        if (!outcome.Done)
            return new ContentResult { StatusCode = 409, Content = outcome.Faults[0].What };
        var sentence = $"{row.Rule.Name}: {RuleEnds.Words(moved.Value!, end, Words)}";
        return new JsonResult(new { said = sentence, version = outcome.Result!.Version });
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

    private static bool IsKey(string? key) => key is not null && Key.TryParse(key, out _);

    private async Task<bool> LookAt(string? key)
    {
        if (!IsKey(key))
            return false;
        Open = key == "new" ? "" : key;
        await Look();
        return true;
    }

    /// <summary>Looks at what the sheet of a rule shows while it is typed, without the list: no rule is read from the database.</summary>
    private async Task<bool> LookAtSheet(string? key)
    {
        if (!IsKey(key))
            return false;
        Open = key == "new" ? "" : key;
        _stored = await ruleReading.InMemory();
        await LookAround();
        var (typed, _) = RuleFields.Of(Request.Form).Read(FreeKey(""), Shop.Currency, Shop.TimeZone, RuleState.On);
        var names = await ruleReading.Names(typed is null ? [] : [typed]);
        Words = new PriceRuleWords(Shop.TimeZone, names.GetValueOrDefault, Groups);
        return true;
    }

    /// <summary>Looks at shop, groups and options, which every sheet shows.</summary>
    private async Task LookAround()
    {
        Shop = await visit.Shop();
        Groups = (await reading.Prices()).Groups;
        _options = await optionLibrary.Options(Shop.Currency);
    }

    private RuleSheet Read(RuleState state, IReadOnlyList<Fault>? refused = null)
    {
        var fields = RuleFields.Of(Request.Form);
        var key = Open is { Length: > 0 } known ? Key.Of(known) : FreeKey(fields["name"]);
        var (rule, faults) = fields.Read(key, Shop.Currency, Shop.TimeZone, state);
        return SheetOf(fields, rule, refused ?? faults);
    }

    private RuleSheet SheetOf(RuleFields fields, PriceRule? rule, IReadOnlyList<Fault> faults)
    {
        var url = Open is { Length: > 0 } ? $"/office/pricing/{Open}" : "/office/pricing/new";
        var kept = Stored;
        return new RuleSheet
        {
            SaveUrl = url,
            TryUrl = $"{url}?handler=Try",
            CopyUrl = kept is null ? null : $"{url}?handler=Copy",
            ArchiveUrl = kept is null ? null : $"{url}?handler=Archive&back={(kept.IsArchived ? "true" : "false")}",
            Shop = Shop,
            Words = Words,
            Groups = Groups,
            Fields = fields,
            Options = _options,
            Rule = rule,
            Faults = faults,
            Version = int.TryParse(Request.HasFormContentType ? Request.Form["version"] : "", out var seen) ? seen : kept?.Version ?? 0,
            Kept = kept?.Rule.PhaseAt(clock.GetUtcNow()),
            IsArchived = kept?.IsArchived == true,
        };
    }

    private Key FreeKey(string name) => Key.From(name.Length > 0 ? name : "rule", _stored.Select(r => r.Rule.Key).ToHashSet(), "rule");

    /// <summary>A rule that runs as it is shows what it does: against the shop without it.</summary>
    private bool IsAsItIs(PriceRule rule) =>
        Stored is { IsArchived: false } kept
        && PriceRuleWriter.Write(kept.Rule).ToJsonString() == PriceRuleWriter.Write(rule).ToJsonString();

    private async Task Try(RuleSheet sheet, PriceRule rule)
    {
        var tried = await trial.Run(rule, againstWithout: IsAsItIs(rule), part: new TrialPart(Take: MostTriedProducts));
        sheet.Take(tried, rule, rule.When.From > clock.GetUtcNow() ? $"as on {Words.Moment(rule.When.From.Value)}" : "as of now");
    }

    private async Task<IActionResult> Prove(string? state, RunTerms terms, string? getUrl, string? postUrl)
    {
        var sum = WholeProof.Read(state);
        var products = await proofs.Products();
        var slice = products.Skip(sum.Products).Take(ProvenAtOnce).ToList();
        sum.Add(await proofs.Of(slice, terms), slice.Count, products.Count);
        if (sum.Products < products.Count)
            return Partial("_Proof", new WholeProofView(sum, getUrl, postUrl));
        var lowest = sum.Lowest is { } low ? await Proven(low.Product, terms) : null;
        var free = sum.Free is { } product ? await Proven(product, terms) : null;
        return Partial(
            "_Proof",
            new WholeProofView(sum, getUrl, postUrl)
            {
                Proven = lowest?.Lowest,
                Working = lowest?.Lowest is { } sold ? await proofs.Working(sold, terms) : null,
                Sold = lowest?.Lowest?.InWords(Groups) ?? "",
                Free = free?.Free?.InWords(Groups),
            }
        );
    }

    private async Task<ProvenMargin?> Proven(int product, RunTerms terms) =>
        await reading.Latest(product) is { } edition ? await proofs.Of(edition, terms) : null;

    private async Task Look()
    {
        await LookAround();
        var now = clock.GetUtcNow();
        var categories = await tree.Names();
        _stored = await ruleReading.All();
        var names = await ruleReading.Names(_stored.Select(r => r.Rule));
        Words = new PriceRuleWords(Shop.TimeZone, names.GetValueOrDefault, Groups);
        Calendar = new PriceCalendar(now, Shop.TimeZone);
        var moved = await ruleReading.Given(days: 30);
        var all = _stored
            .Select(r => new RuleRow(
                r.Rule,
                r.Rule.PhaseAt(now),
                Words.Sentence(r.Rule),
                new Money(moved.GetValueOrDefault(r.Rule.Id), Shop.Currency),
                Calendar.BarOf(r.Rule, now),
                r.IsArchived,
                Gone(r.Rule.Scope, names.Keys, categories),
                r.Version
            ))
            .ToList();
        Counts = all.Where(r => !r.Archived).CountBy(r => r.Phase).ToDictionary();
        Rows = [.. all.OrderBy(r => Place(r.Phase)).ThenBy(r => r.Rule.When.From).ThenBy(r => r.Rule, PriceRule.Order)];
    }

    /// <summary>The rules of the list that the filter shows; the one that is open always.</summary>
    public IEnumerable<RuleRow> Shown =>
        Rows.Where(r =>
            r.Rule.Key.Text == Open
            || (
                IsFound(r)
                && (Show == "archived" ? r.Archived : !r.Archived && (Show.Length == 0 || r.Phase.ToString().ToLowerInvariant() == Show))
            )
        );

    private bool IsFound(RuleRow row) =>
        Find.Length == 0
        || row.Rule.Name.Contains(Find, StringComparison.OrdinalIgnoreCase)
        || row.Rule.Key.Text!.Contains(Find, StringComparison.OrdinalIgnoreCase)
        || string.Concat(row.Sentence.Select(p => p.Text)).Contains(Find, StringComparison.OrdinalIgnoreCase);

    private static string Gone(PriceScope scope, IEnumerable<string> codes, IReadOnlyList<string> categories)
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
