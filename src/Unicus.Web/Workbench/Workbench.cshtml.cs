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
    string Look = "",
    string Hint = "",
    string Class = "",
    IReadOnlyList<(string Key, string Label)>? Choice = null
)
{
    public IReadOnlyList<(string Key, string Label)> Choices => Choice ?? [];
}

/// <summary>What waits to be published.</summary>
public sealed record ChangesView(string Here, IReadOnlyList<FieldChange> Found);

/// <summary>The workbench of one product. Each chapter's handlers lie in the chapter's folder.</summary>
[RequestSizeLimit(Uploads.LongestRequest)]
public sealed partial class WorkbenchModel(
    ShopReading reading,
    ProductReading goods,
    StockReading stockReading,
    PriceRuleReading ruleReading,
    OrderReading orders,
    CategoryTree categories,
    Visit visit,
    ChangeField changeField,
    ChangeProduct changeProduct,
    ChangeOptions changeOptions,
    ChangeParts changeParts,
    MatrixCells cells,
    BulkChange bulk,
    UndoChange undo,
    PublishEdition publish,
    PutAway putAway,
    UnpublishedChanges differences,
    PictureStore pictures,
    OptionLibrary library,
    RewriteSkus rewrite,
    ChangeExtraSets extraSets,
    RuleTrial trial,
    ReadPricesBack readBack,
    MakeUpSets makeUp,
    Proofs proofs,
    TimeProvider clock
) : PageModel
{
    public WorkingCopy Copy { get; private set; } = null!;
    public Chapter Chapter { get; private set; }

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

    private string Code => (string)RouteData.Values["code"]!;

    public async Task<IActionResult> OnGet() => await Look() ? Page() : NotFound();

    public async Task<IActionResult> OnPostField(string field, string? value)
    {
        if (!ProductFields.All.ContainsKey(field))
            return NotFound();
        // Read from the form itself: an empty text is what the typist saw, not an absent one.
        var was = Request.Form.TryGetValue("was", out var seen) ? seen.ToString() : null;
        var outcome = await changeField.Run(Code, field, value ?? "", was, visit.Actor);
        if (!await Look())
            return NotFound();
        var problem = outcome.Done ? null : outcome.Faults[0].What;
        if (!visit.IsHtmx)
        {
            Problem = problem;
            return problem is null ? Redirect(Here) : Page();
        }
        var shown = Field(field) with { Problem = problem };
        return problem is null
            ? new PartialsResult(this, (await Around()).Prepend(new Piece("/Workbench/_Field.cshtml", shown)))
            : Partial("_Field", shown with { Text = value ?? "" });
    }

    public async Task<IActionResult> OnPostPublish()
    {
        var outcome = await publish.Run(Code, visit.Actor);
        if (!await Look())
            return NotFound();
        if (outcome.Done)
            return Redirect(Here);
        Problem = $"Not published: {string.Join(' ', outcome.Faults.Select(f => f.What))}";
        return Page();
    }

    /// <summary>Each field that differs from what is on sale.</summary>
    public async Task<IActionResult> OnGetChanges() =>
        await LookAtGoods(Chapter.Facts, VariantScope.None) && await differences.Of(Code) is { } found
            ? Partial("_Changes", new ChangesView($"/office/products/{Copy.Code}/{RouteData.Values["chapter"]}", found))
            : NotFound();

    /// <summary>Takes one of them back.</summary>
    public async Task<IActionResult> OnPostTakeBack(List<string>? path, string? old, string? @new)
    {
        var shown = new FieldChange([.. path ?? []], "", old ?? "", @new ?? "");
        var outcome = shown.Path.IsEmpty ? Outcome.No("", "Nothing was named.") : await differences.TakeBack(Code, shown, visit.Actor);
        return await Answer(outcome);
    }

    /// <summary>Deletes a draft without history.</summary>
    public async Task<IActionResult> OnPostDelete()
    {
        if (!await Look())
            return NotFound();
        var outcome = MayBeDeleted
            ? await changeProduct.Delete(Code)
            : Outcome.No("", "It has history, so it is put away rather than deleted.");
        return outcome.Done ? Redirect("/office/range") : await Answer(outcome);
    }

    public async Task<IActionResult> OnPostPutAway() => await Answer(await putAway.Run(Code, visit.Actor));

    public async Task<IActionResult> OnPostBringBack() => await Answer(await putAway.BringBack(Code));

    public async Task<IActionResult> OnPostUndo() => Told(await undo.Run(Code), "Taken back");

    public async Task<IActionResult> OnPostRedo() => Told(await undo.Again(Code), "Done again");

    private ContentResult Told(Outcome<string> outcome, string how) =>
        outcome.Done ? Content($"{how}: {outcome.Result}") : new ContentResult { StatusCode = 409, Content = outcome.Faults[0].What };

    /// <summary>A field of the chapter as it stands now.</summary>
    public FieldView Field(string name, string look = "", string hint = "", IReadOnlyList<(string, string)>? choice = null)
    {
        var field = ProductFields.All[name];
        var text = field.Show(Copy);
        var made = FieldLooks.For(name, Copy);
        return new FieldView(
            name,
            made.Label ?? field.Label,
            text,
            text,
            null,
            Here,
            look.Length > 0 ? look : made.Look,
            hint.Length > 0 ? hint : made.Hint,
            "f-" + name,
            choice ?? made.Choice
        );
    }

    /// <summary>After a change: the chapter alone for a script's request, a redirect for a plain one.</summary>
    private async Task<IActionResult> Answer(Outcome outcome, string? said = null, bool canUndo = false)
    {
        if (!await Look())
            return NotFound();
        Problem = outcome.Done ? null : outcome.Faults[0].What;
        if (!visit.IsHtmx)
            return outcome.Done ? Redirect(Here) : Page();
        if (!outcome.Done)
            return Partial(ChapterPartialName, this);
        return new PartialsResult(this, (await Around(said, canUndo)).Prepend(new Piece(ChapterPartialName, this)));
    }

    /// <summary>Head, spine and proof as they stand after a change, for the same reply. What a large product's proof shows takes longer,
    /// so it is asked for by itself.</summary>
    /// <param name="said">What is said at the foot of the page; null for nothing.</param>
    private async Task<IEnumerable<Piece>> Around(string? said = null, bool canUndo = false)
    {
        IsAround = true;
        var pieces = new List<Piece> { new("/Workbench/_Title.cshtml", this), new("/Workbench/_Spine.cshtml", this) };
        if (Copy.IsWhole && await proofs.Look(Code, PicksOfProof(), Copy) is { } proof)
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
    private async Task<bool> Look(VariantScope? only = null)
    {
        if (Named.Choice<Chapter>((string?)RouteData.Values["chapter"]) is not { } chapter)
            return false;
        if (chapter == Chapter.Checks)
            await goods.RefreshSummary(Code);
        if (!await LookAtGoods(chapter, only))
            return false;
        var copy = Copy;
        Unpublished = await goods.Unpublished(copy, 100);
        var count = Unpublished.Count;
        var unpublished = count > 0 ? $", {count:N0} {(count == 1 ? "change" : "changes")} not published" : "";
        OnSale =
            copy.Edition is { } edition ? $"Edition {edition} on sale since {await visit.When(copy.PublishedAt!.Value)}{unpublished}"
            : copy.PutAwayAt is { } away ? $"Put away by {copy.PutAwayBy}, {await visit.When(away)}"
            : "Draft, not on sale yet";
        MayBeDeleted = copy.Edition is null && await putAway.MayBeDeleted(copy);
        SavedWords = $"Saved {await visit.When(copy.ChangedAt)}";
        MakeSpine();
        return true;
    }

    /// <summary>Loads the product alone, for replies that show nothing around it.</summary>
    private async Task<bool> LookAtGoods(Chapter chapter, VariantScope? only)
    {
        var scope = WorkingCopy.WholeIfSmall(p => only ?? Needed(chapter, p));
        if (await goods.Copy(Code, scope, await visit.Around()) is not { } copy)
            return false;
        if (copy.Product.Parts is not null)
            copy.FillSlots(await reading.Filled(copy.Whole));
        _matrix = null;
        (Copy, Chapter) = (copy, chapter);
        return true;
    }

    /// <summary>What a chapter shows of a product that is too large to be loaded whole.</summary>
    private VariantScope Needed(Chapter chapter, Product product) =>
        chapter switch
        {
            Chapter.Matrix => MatrixView.Scope(product, MatrixLook.Read(Request)),
            Chapter.Stock => VariantScope.Of(FirstForStock(product)),
            Chapter.Checks => VariantScope.All,
            _ => VariantScope.None,
        };

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
}
