using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.WebUtilities;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Workbench;

/// <summary>One stop of the spine.</summary>
public sealed record SpineStop(string Key, string Label, string Count, bool Holds, bool Look, bool Here);

/// <summary>One field as it stands on a chapter.</summary>
public sealed record FieldView(
    string Name,
    string Label,
    string Text,
    string Was,
    string? Problem,
    string Url,
    FieldBox Box,
    string Hint,
    string Class,
    IReadOnlyList<FieldChoice> Choices
);

/// <summary>What waits to be published.</summary>
public sealed record ChangesView(string Here, IReadOnlyList<FieldChange> Found);

/// <summary>A chapter of the workbench of one product: head, spine and proof around it, and what can be done from everywhere. Each
/// chapter's page, handlers and partials lie in its folder.</summary>
[RequestSizeLimit(Uploads.LongestRequest)]
public abstract class ChapterModel(Bench bench) : PageModel
{
    protected ShopReading Reading => bench.Reading;
    protected ProductReading Goods => bench.Goods;
    protected ChangeProduct Products => bench.Products;
    protected Visit Visit => bench.Visit;

    /// <summary>The product.</summary>
    public WorkingCopy Copy { get; private set; } = null!;

    /// <summary>Which chapter it is.</summary>
    public abstract Chapter Chapter { get; }

    /// <summary>Whether head and spine come with the reply to a change.</summary>
    public bool IsAround { get; private set; }
    public string? Problem { get; private set; }
    public IReadOnlyList<UnpublishedChange> Unpublished { get; private set; } = [];
    public IReadOnlyList<SpineStop> Stops { get; private set; } = [];
    public IReadOnlyList<(string Key, string Label)> ToAdd { get; private set; } = [];
    public string SavedWords { get; private set; } = "";
    public string OnSale { get; private set; } = "";

    /// <summary>Whether it is a draft without history, which may be deleted.</summary>
    public bool MayBeDeleted { get; private set; }

    public string Here => $"/office/products/{Copy.Code}/{Chapter.ToString().ToLowerInvariant()}";
    public string ChapterPartialName => $"/Workbench/{Chapter}/_{Chapter}.cshtml";

    protected string Code => (string)RouteData.Values["code"]!;

    public async Task<IActionResult> OnGet() => await Look() ? Page() : NotFound();

    public async Task<IActionResult> OnPostField([FromServices] ChangeField changeField, string field, string? value)
    {
        if (!ProductFields.All.ContainsKey(field))
            return NotFound();
        // Read from the form itself: an empty text is what the typist saw, not an absent one.
        var was = Request.Form.TryGetValue("was", out var seen) ? seen.ToString() : null;
        var outcome = await changeField.Run(Code, field, value ?? "", was, Visit.Actor);
        if (!await Look())
            return NotFound();
        var problem = outcome.Done ? null : outcome.Faults[0].What;
        if (!Visit.IsHtmx)
        {
            Problem = problem;
            return problem is null ? Redirect(Here) : Page();
        }
        var shown = Field(field) with { Problem = problem };
        return problem is null
            ? new PartialsResult(this, (await Around()).Prepend(new Piece("/Workbench/_Field.cshtml", shown)))
            : Partial("/Workbench/_Field.cshtml", shown with { Text = value ?? "" });
    }

    public async Task<IActionResult> OnPostPublish([FromServices] PublishEdition publish)
    {
        var outcome = await publish.Run(Code, Visit.Actor);
        if (!await Look())
            return NotFound();
        if (outcome.Done)
            return Redirect(Here);
        Problem = $"Not published: {string.Join(' ', outcome.Faults.Select(f => f.What))}";
        return Page();
    }

    /// <summary>Each field that differs from what is on sale.</summary>
    public async Task<IActionResult> OnGetChanges([FromServices] UnpublishedChanges differences) =>
        await LookAtGoods(VariantScope.None) && await differences.Of(Code) is { } found
            ? Partial("/Workbench/_Changes.cshtml", new ChangesView(Here, found))
            : NotFound();

    /// <summary>Takes one of them back.</summary>
    public async Task<IActionResult> OnPostTakeBack(
        [FromServices] UnpublishedChanges differences,
        List<string>? path,
        string? old,
        string? @new
    )
    {
        var shown = new FieldChange([.. path ?? []], "", old ?? "", @new ?? "");
        var outcome = shown.Path.IsEmpty ? Outcome.No("", "Nothing was named.") : await differences.TakeBack(Code, shown, Visit.Actor);
        return await Answer(outcome);
    }

    /// <summary>Deletes a draft without history.</summary>
    public async Task<IActionResult> OnPostDelete()
    {
        if (!await Look())
            return NotFound();
        var outcome = MayBeDeleted ? await Products.Delete(Code) : Outcome.No("", "It has history, so it is put away rather than deleted.");
        return outcome.Done ? Redirect("/office/range") : await Answer(outcome);
    }

    public async Task<IActionResult> OnPostPutAway([FromServices] PutAway putAway) => await Answer(await putAway.Run(Code, Visit.Actor));

    public async Task<IActionResult> OnPostBringBack([FromServices] PutAway putAway) => await Answer(await putAway.BringBack(Code));

    public async Task<IActionResult> OnPostUndo([FromServices] UndoChange undo) => Told(await undo.Run(Code), "Taken back");

    public async Task<IActionResult> OnPostRedo([FromServices] UndoChange undo) => Told(await undo.Again(Code), "Done again");

    private ContentResult Told(Outcome<string> outcome, string how) =>
        outcome.Done ? Content($"{how}: {outcome.Result}") : new ContentResult { StatusCode = 409, Content = outcome.Faults[0].What };

    /// <summary>A field of the chapter as it stands now.</summary>
    public FieldView Field(string name)
    {
        var field = ProductFields.All[name];
        var (text, look) = (field.Show(Copy), field.Look);
        return new FieldView(
            name,
            look.Label?.Invoke(Copy) ?? field.Label,
            text,
            text,
            null,
            Here,
            look.Box,
            look.HintOf?.Invoke(Copy) ?? look.Hint,
            "f-" + name,
            look.Choices(Copy)
        );
    }

    /// <summary>After a change: the chapter alone for a script's request, a redirect for a plain one.</summary>
    protected async Task<IActionResult> Answer(Outcome outcome, string? said = null, bool canUndo = false)
    {
        if (!await Look())
            return NotFound();
        Problem = outcome.Done ? null : outcome.Faults[0].What;
        if (!Visit.IsHtmx)
            return outcome.Done ? Redirect(Here) : Page();
        if (!outcome.Done)
            return Partial(ChapterPartialName, this);
        return new PartialsResult(this, (await Around(said, canUndo)).Prepend(new Piece(ChapterPartialName, this)));
    }

    /// <summary>Head, spine and proof as they stand after a change, for the same reply. What a large product's proof shows takes longer,
    /// so it is asked for by itself.</summary>
    /// <param name="said">What is said at the foot of the page; null for nothing.</param>
    protected async Task<IEnumerable<Piece>> Around(string? said = null, bool canUndo = false)
    {
        IsAround = true;
        var pieces = new List<Piece> { new("/Workbench/_Title.cshtml", this), new("/Workbench/_Spine.cshtml", this) };
        if (Copy.IsWhole && await bench.Proofs.Look(Code, PicksOfProof(), Copy) is { } proof)
            pieces.Add(new Piece("/Workbench/Proof/_Proof.cshtml", proof with { BesideAChange = true }));
        var triggers = new JsonObject();
        if (said is not null)
            triggers["said"] = new JsonObject { ["text"] = said, ["undo"] = canUndo };
        if (pieces.Count == 2)
            triggers["changed"] = new JsonObject();
        if (triggers.Count > 0)
            Response.Headers["HX-Trigger"] = triggers.ToJsonString();
        return pieces;
    }

    /// <summary>What is picked in the proof, as the page sends it with each change.</summary>
    private QueryCollection PicksOfProof() =>
        new(QueryHelpers.ParseQuery(Request.HasFormContentType ? Request.Form["proof-picks"].ToString() : ""));

    /// <summary>Loads the product and what stands around it.</summary>
    /// <param name="only">The variants needed; null: what the chapter shows.</param>
    protected async Task<bool> Look(VariantScope? only = null)
    {
        // The first chapter is also what an address without one leads to; any other word leads nowhere.
        if (RouteData.Values["chapter"] is string named && !named.Equals(Chapter.ToString(), StringComparison.OrdinalIgnoreCase))
            return false;
        await Prepare();
        if (!await LookAtGoods(only))
            return false;
        var copy = Copy;
        Unpublished = await Goods.Unpublished(copy, 100);
        var count = Unpublished.Count;
        var unpublished = count > 0 ? $", {count:N0} {(count == 1 ? "change" : "changes")} not published" : "";
        OnSale =
            copy.Edition is { } edition ? $"Edition {edition} on sale since {await Visit.When(copy.PublishedAt!.Value)}{unpublished}"
            : copy.PutAwayAt is { } away ? $"Put away by {copy.PutAwayBy}, {await Visit.When(away)}"
            : "Draft, not on sale yet";
        MayBeDeleted = copy.Edition is null && await bench.PutAway.MayBeDeleted(copy);
        SavedWords = $"Saved {await Visit.When(copy.ChangedAt)}";
        MakeSpine();
        return true;
    }

    /// <summary>Loads the product alone, for replies that show nothing around it.</summary>
    protected async Task<bool> LookAtGoods(VariantScope? only)
    {
        var scope = WorkingCopy.WholeIfSmall(p => only ?? Needed(p));
        if (await Goods.Copy(Code, scope, await Visit.Around()) is not { } copy)
            return false;
        if (copy.Product.Parts is not null)
            copy.FillSlots(await Reading.Filled(copy.Whole));
        Copy = copy;
        return true;
    }

    /// <summary>What is brought up to date before the chapter is loaded.</summary>
    protected virtual Task Prepare() => Task.CompletedTask;

    /// <summary>What the chapter shows of a product that is too large to be loaded whole.</summary>
    protected virtual VariantScope Needed(Product product) => VariantScope.None;

    private void MakeSpine()
    {
        var p = Copy.Product;
        var (stops, doubts) = Copy.CheckCounts;
        var onHand = Copy.WholeStock.OnHand;
        var spine = new List<SpineStop>();
        var toAdd = new List<(string, string)>();
        void Stop(Chapter c, string label, string count = "", bool holds = true, bool foldable = false)
        {
            var key = c.ToString().ToLowerInvariant();
            if (foldable && !holds && Chapter != c)
                toAdd.Add((key, label.ToLowerInvariant()));
            else
                spine.Add(new SpineStop(key, label, count, holds, c == Chapter.Checks && stops + doubts > 0, Chapter == c));
        }
        Stop(Chapter.Facts, "Facts");
        Stop(Chapter.Money, "Money & measure", "", p.Base.Price is not null || !p.Options.IsEmpty);
        Stop(Chapter.Options, "Options", p.Options.Length.ToString(), !p.Options.IsEmpty, foldable: true);
        if (!p.Options.IsEmpty)
            Stop(Chapter.Matrix, "Matrix", Copy.VariantCount.ToString("N0"));
        Stop(Chapter.Extras, "Extras", Copy.Whole.Extras.Length.ToString(), !Copy.Whole.Extras.IsEmpty, foldable: true);
        Stop(
            Chapter.Rules,
            "Rules",
            Copy.Whole.Rules.Length.ToString(),
            !Copy.Whole.Rules.IsEmpty,
            foldable: Copy.Whole.Questions.Length > 0
        );
        Stop(Chapter.Parts, "Parts", (p.Parts?.Slots.Length ?? 0).ToString(), p.Parts is not null, foldable: true);
        Stop(Chapter.Prices, "Price rules", p.PriceRules.IsEmpty ? "" : p.PriceRules.Length.ToString());
        if (p.IsGroup || p.Parts is { IsMadeUp: false, Slots.IsEmpty: false })
            Stop(Chapter.Stock, "Stock", "parts");
        else
            Stop(
                Chapter.Stock,
                "Stock",
                p.Selling.Counted == false ? "–" : onHand.ToString("N0"),
                onHand > 0 || p.Selling.Counted == false
            );
        Stop(Chapter.Shelf, "Shelf");
        Stop(Chapter.Checks, "Checks", stops + doubts > 0 ? (stops + doubts).ToString() : "");
        (Stops, ToAdd) = (spine, toAdd);
    }

    public string? CopyProblem { get; private set; }
    public string? TypedName { get; private set; }

    public async Task<IActionResult> OnPostCopy([FromServices] CopyProduct copies, string? name, string? address)
    {
        var outcome = await copies.Run(Code, name, address, Visit.Actor);
        if (outcome.Done)
            return Redirect($"/office/products/{outcome.Result}/facts");
        (CopyProblem, TypedName) = (outcome.Faults[0].What, name);
        return await Look() ? Page() : NotFound();
    }

    /// <summary>Asks for the name of the product that one variant becomes.</summary>
    public async Task<IActionResult> OnGetSplit(string values)
    {
        if (!await Look(new VariantScope([values])) || Copy.Matrix.Find(values) is not { } variant)
            return NotFound();
        return Partial(
            "/Workbench/Matrix/_Split.cshtml",
            (Here, Variant: variant.Values, Name: SplitOff.Suggest(Copy, variant.Values), Was: variant.Values.Name(Copy.Product.Options))
        );
    }

    public async Task<IActionResult> OnPostSplit([FromServices] SplitOff split, string which, string? name)
    {
        var outcome = await split.Run(Code, Combination.Parse(which), name, Visit.Actor);
        return outcome.Done ? Redirect($"/office/products/{outcome.Result}/facts") : await Answer(outcome);
    }

    /// <summary>Items in the order of keys that they were dragged to; what was added elsewhere meanwhile comes last.</summary>
    protected static ImmutableArray<T> InOrder<T>(ImmutableArray<T> items, Func<T, string> key, string[] keys) =>
        [.. items.OrderBy(i => Array.IndexOf(keys, key(i)) is >= 0 and var at ? at : int.MaxValue)];
}
