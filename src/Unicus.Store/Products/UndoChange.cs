using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Takes the last change of a working copy back, and the one before with the next call; and does what was taken back
/// again.</summary>
public sealed class UndoChange(UnicusContext db, TimeProvider clock)
{
    /// <returns>What was undone, in words.</returns>
    public Task<Outcome<string>> Run(string code) =>
        Within(
            code,
            async id =>
            {
                var change = await db
                    .ProductChanges.Where(c => c.ProductId == id && !c.Undone)
                    .OrderByDescending(c => c.Id)
                    .FirstOrDefaultAsync();
                if (change is null)
                    return (null, "There is nothing to undo.");
                return change.Before is null
                    ? (null, $"“{change.Sentence}” cannot be undone: it moved stock or was published as it is.")
                    : (change, null);
            },
            undo: true
        );

    /// <summary>Does again what was undone last, as long as nothing else was changed since.</summary>
    /// <returns>What was done again, in words.</returns>
    public Task<Outcome<string>> Again(string code) =>
        Within(
            code,
            async id =>
            {
                var last = await db.ProductChanges.Where(c => c.ProductId == id && !c.Undone).MaxAsync(c => (long?)c.Id) ?? 0;
                var change = await db
                    .ProductChanges.Where(c => c.ProductId == id && c.Undone && c.After != null && c.Id > last)
                    .OrderBy(c => c.Id)
                    .FirstOrDefaultAsync();
                return change is null ? (null, "There is nothing to do again.") : (change, null);
            },
            undo: false
        );

    private async Task<Outcome<string>> Within(string code, Func<int, Task<(ProductChange?, string?)>> find, bool undo)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var copy = await WorkingCopy.Load(db, code, forChange: true, _ => VariantScope.None);
        if (copy is null)
            return Outcome<string>.No("", $"There is no product {code}.");
        var (change, problem) = await find(copy.Row.Id);
        if (change is null)
            return Outcome<string>.No("", problem!);
        var image = JsonSerializer.Deserialize<ChangeImage>(undo ? change.Before! : change.After!)!;
        var done = await image.PutBack(new VariantTable(db), db.Entry(copy.Row));
        if (!done.Ok)
            return Outcome<string>.No("", $"“{change.Sentence}” cannot be {(undo ? "undone" : "done again")}: {done.Problem}.");
        var inverse = JsonSerializer.Serialize(done.Value);
        if (undo)
            change.After = inverse;
        else
            change.Before = inverse;
        change.Undone = undo;
        copy.Row.Version++;
        copy.Row.ChangedAt = clock.GetUtcNow();
        await db.SaveChangesAsync();
        db.ChangeTracker.Clear();
        await Summaries.AfterChange(db, code);
        await transaction.CommitAsync();
        return Outcome<string>.Of(change.Sentence);
    }
}
