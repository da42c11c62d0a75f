using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>What the working copy of a product has that its edition on sale has not, field by field; single ones are taken
/// back.</summary>
public sealed class UnpublishedChanges(UnicusContext db, PutProduct put)
{
    /// <summary>So many are listed.</summary>
    public const int Most = 200;

    /// <summary>The differences; null where nothing is on sale.</summary>
    public async Task<IReadOnlyList<FieldChange>?> Of(string code) =>
        await Both(code) is { } both ? DocumentDifference.Between(both.OnSale, both.Working, Most) : null;

    /// <summary>Takes one difference back, if it still stands as it was shown.</summary>
    public async Task<Outcome> TakeBack(string code, FieldChange shown, Actor by)
    {
        if (await Both(code) is not { } both)
            return Outcome.No("", "Nothing of it is on sale.");
        var standing = DocumentDifference.Between(both.OnSale, both.Working, Most);
        if (!standing.Any(c => c.Path.SequenceEqual(shown.Path) && (c.Old, c.New) == (shown.Old, shown.New)))
            return Outcome.No("", "That was changed meanwhile; what stands here now is newer.");
        if (DocumentDifference.TakenBack(both.OnSale, both.Working, shown.Path) is not { } document)
            return Outcome.No("", "That cannot be taken back by itself.");
        using var json = JsonDocument.Parse(document.ToJsonString());
        var (result, faults) = await put.Run(code, json.RootElement, by, both.Version);
        return result switch
        {
            PutResult.Replaced => Outcome.Ok,
            PutResult.Stale => Outcome.No("", "Somebody else changed the product at the same moment. Look again."),
            _ => Outcome.No("", $"It cannot be taken back by itself: {string.Join(' ', faults.Take(3).Select(f => f.What))}"),
        };
    }

    private sealed record Documents(JsonObject OnSale, JsonObject Working, int Version);

    private async Task<Documents?> Both(string code)
    {
        if (await WorkingCopy.Load(db, code) is not { Row.Edition: { } number } copy)
            return null;
        var document = await db.Editions.Where(e => e.ProductId == copy.Row.Id && e.Number == number).Select(e => e.Document).SingleAsync();
        // Both are written anew, so that what is only spelled otherwise is no difference.
        var onSale = DocumentWriter.Write(WorkingCopy.Read(document, copy.Shop.Currency), ListedVariants.Differing);
        return new Documents(onSale, DocumentWriter.Write(copy.Product, ListedVariants.Differing), copy.Row.Version);
    }
}
