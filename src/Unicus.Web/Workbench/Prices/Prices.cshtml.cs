using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Pricing;

namespace Unicus.Web.Workbench;

/// <summary>A price rule that reaches the product, as a line.</summary>
/// <param name="IsOwn">Whether it is the product's own; else it is the shop's.</param>
public sealed record ReachingLine(
    PriceRule Rule,
    RulePhase Phase,
    IReadOnlyList<Phrase> Sentence,
    bool IsOwn,
    CalendarBar? Bar,
    IReadOnlyList<CalendarGrip> Grips
)
{
    /// <summary>Where it is written.</summary>
    public string Url(string code) => IsOwn ? $"/office/products/{code}/prices?rule={Rule.Key}" : $"/office/pricing/{Rule.Key}";
}

/// <summary>The chapter Price rules: the product's own, which are written here, and the shop's that reach it; what it costs over
/// time.</summary>
public sealed class PricesChapter(Bench bench, RuleTrial trial, PriceRuleReading shopRules, TimeProvider clock) : ChapterModel(bench)
{
    public override Chapter Chapter => Chapter.Prices;

    private RuleSheet? _priceSheet;

    /// <summary>The rule that is open; null for none.</summary>
    public async Task<RuleSheet?> PriceSheet()
    {
        if (_priceSheet is not null || Request.Query["rule"].ToString() is not { Length: > 0 } key)
            return _priceSheet;
        if (OwnRule(key) is { } rule)
        {
            _priceSheet = await SheetOf(key, RuleFields.Of(rule, Copy.Shop.TimeZone), rule, []);
            await TryOwn(_priceSheet, rule);
        }
        else if (key == "new")
            _priceSheet = await SheetOf(key, new RuleFields { ["effect"] = "reduce", ["combine"] = "best" }, null, []);
        return _priceSheet;
    }

    public PriceCalendar PriceCalendar => new(clock.GetUtcNow(), Copy.Shop.TimeZone);

    /// <summary>What reaches it: running, then planned, drafts and what is over.</summary>
    public async Task<IReadOnlyList<ReachingLine>> PriceLines()
    {
        var buying = (await Visit.PublicTerms()).Buying;
        var reaching = buying.Book.Reaching(Draft).ToList();
        var words = await PriceWords(reaching);
        var calendar = PriceCalendar;
        ReachingLine Line(PriceRule r) =>
            new(
                r,
                r.PhaseAt(buying.At),
                words.Sentence(r),
                r.Owner is not null,
                calendar.BarOf(r, buying.At),
                r.Owner is null ? [] : [.. calendar.GripsOf(r)]
            );
        return
        [
            .. reaching
                .Select(Line)
                .OrderBy(l =>
                    l.Phase switch
                    {
                        RulePhase.Running => 0,
                        RulePhase.Planned => 1,
                        RulePhase.Draft => 2,
                        _ => 3,
                    }
                ),
        ];
    }

    /// <summary>What the first variant with a price costs over time; null where none has one.</summary>
    public async Task<ProductCalendar?> PricesOverTime()
    {
        var terms = await Visit.PublicTerms();
        var draft = Draft;
        if (draft.Matrix.Offered.FirstOrDefault(v => v.Price.Figure is not null) is not { } variant)
            return null;
        var words = await PriceWords([]);
        return ProductCalendar.Of(new VariantOnSale(draft, variant), terms, PriceCalendar, words, PublishedRange.Empty);
    }

    public async Task<IActionResult> OnPostPriceTry(string rule)
    {
        if (!await Look())
            return NotFound();
        var sheet = await ReadSheet(rule, RuleState.On);
        if (sheet.Rule is not null)
            await TryOwn(sheet, sheet.Rule);
        return Partial("/Pricing/_Rule.cshtml", sheet);
    }

    public async Task<IActionResult> OnPostPrice(string rule, string? then)
    {
        if (!await Look())
            return NotFound();
        var sheet = await ReadSheet(rule, then == "draft" ? RuleState.Draft : RuleState.On);
        if (sheet.Rule is not { } wanted)
            return Shown(sheet);
        var outcome = await OwnRules.Put(Products, Code, wanted, sheet.Version, Visit.Actor);
        return outcome.Done ? Redirect($"{Here}?rule={wanted.Key}") : Shown(await ReadSheet(rule, wanted.State, outcome.Faults));
    }

    public async Task<IActionResult> OnPostPriceOut(string rule)
    {
        if (!await Look())
            return NotFound();
        var outcome = await Products.Apply(Code, $"Price rule {rule} removed", Visit.Actor, copy =>
            Read<Product>.Of(copy.Product with { PriceRules = copy.Product.PriceRules.RemoveAll(r => r.Key.Text == rule) })
        );
        return outcome.Done ? Redirect(Here) : await Answer(outcome);
    }

    public async Task<IActionResult> OnPostPriceCopy(string rule)
    {
        if (!await Look())
            return NotFound();
        if (OwnRule(rule) is not { } of)
            return NotFound();
        var copy = of with { Key = OwnRules.FreeKey(Copy.Product, of.Name), Name = $"{of.Name} 2", State = RuleState.Draft };
        await OwnRules.Put(Products, Code, copy, Copy.Version, Visit.Actor);
        return Redirect($"{Here}?rule={copy.Key}");
    }

    /// <summary>Moves an end of the product's own rule by days, as its bar is dragged or moved by keys.</summary>
    public async Task<IActionResult> OnPostPriceMove(string rule, string end, int days, int version)
    {
        if (!await Look())
            return NotFound();
        if (OwnRule(rule) is not { } of)
            return NotFound();
        var moved = RuleEnds.Moved(of, end, days, Copy.Shop.TimeZone);
        var outcome = moved.Ok ? await OwnRules.Put(Products, Code, moved.Value!, version, Visit.Actor) : Outcome.No("", moved.Problem!);
        if (!outcome.Done)
            return new ContentResult { StatusCode = 409, Content = outcome.Faults[0].What };
        await Look();
        var words = await PriceWords([]);
        return new JsonResult(new { said = $"{of.Name}: {RuleEnds.Words(moved.Value!, end, words)}", version = Copy.Version });
    }

    private Edition Draft => new(Copy.Id, 0, Copy.ChangedAt, Copy.Whole, Copy.Matrix) { Sets = Copy.Sets };

    private PriceRule? OwnRule(string key) => Copy.Product.PriceRules.FirstOrDefault(r => r.Key.Text == key);

    private async Task<PriceRuleWords> PriceWords(IReadOnlyList<PriceRule> rules)
    {
        var buying = (await Visit.PublicTerms()).Buying;
        var names = await shopRules.Names(rules);
        return new PriceRuleWords(buying.Zone, c => c == Copy.Code ? Copy.Product.Name : names.GetValueOrDefault(c), buying.Book.Groups);
    }

    private PageResult Shown(RuleSheet sheet)
    {
        _priceSheet = sheet;
        return Page();
    }

    private async Task<RuleSheet> ReadSheet(string key, RuleState state, IReadOnlyList<Fault>? refused = null)
    {
        var fields = RuleFields.Of(Request.Form);
        var own = OwnRule(key)?.Key ?? OwnRules.FreeKey(Copy.Product, fields["name"]);
        var (rule, faults) = fields.Read(own, Copy.Shop.Currency, Copy.Shop.TimeZone, state);
        return await SheetOf(key, fields, rule is null ? null : rule with { Owner = Code.ToUpperInvariant() }, refused ?? faults);
    }

    private async Task<RuleSheet> SheetOf(string key, RuleFields fields, PriceRule? rule, IReadOnlyList<Fault> faults)
    {
        var (kept, buying) = (OwnRule(key), (await Visit.PublicTerms()).Buying);
        string Url(string handler) => $"{Here}?handler={handler}&rule={Uri.EscapeDataString(key)}";
        return new RuleSheet
        {
            SaveUrl = Url("Price"),
            TryUrl = Url("PriceTry"),
            CopyUrl = kept is null ? null : Url("PriceCopy"),
            RemoveUrl = kept is null ? null : Url("PriceOut"),
            Shop = Copy.Shop,
            Words = await PriceWords([]),
            Groups = buying.Book.Groups,
            Fields = fields,
            Options = [.. Copy.Product.Options],
            Rule = rule,
            Faults = faults,
            Version = int.TryParse(Request.HasFormContentType ? Request.Form["version"] : "", out var seen) ? seen : Copy.Version,
            Kept = kept?.PhaseAt(buying.At),
            IsOwn = true,
        };
    }

    private static string Written(PriceRule rule) => PriceRuleWriter.Write(rule).ToJsonString();

    private async Task TryOwn(RuleSheet sheet, PriceRule rule)
    {
        var draft = Draft;
        var isAsItIs = OwnRule(rule.Key.Text!) is { } kept && Written(kept) == Written(rule);
        var tried = await trial.Own(draft, rule with { Owner = Code.ToUpperInvariant() }, isAsItIs);
        var later = rule.When.From > clock.GetUtcNow();
        sheet.Take(tried, rule, later ? $"as on {sheet.Words.Moment(rule.When.From!.Value)}" : "as of now");
    }
}
