using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Keeps and changes shared sets of extras. A set reaches products at once, published ones too; so a change that would leave one
/// of them without any valid configuration is refused.</summary>
public sealed class ChangeExtraSets(UnicusContext db, ChangeProduct products, TimeProvider clock)
{
    /// <summary>All sets by key.</summary>
    public Task<IReadOnlyList<ExtraSet>> All() => ExtraSets.Load(db);

    /// <summary>Takes extras of a product, with those of its rules that are about them alone, out of it and keeps them as a set that the
    /// product takes.</summary>
    public async Task<Outcome> Keep(string code, string name, IReadOnlyCollection<string> extras, Actor by)
    {
        var typed = string.Join(' ', name.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        if (typed.Length is 0 or > 120)
            return Outcome.No("", "A set needs a name of at most 120 characters.");
        await using var transaction = await db.Database.BeginTransactionAsync();
        ExtraSet? made = null;
        var keys = (await ExtraSets.Load(db)).Select(s => s.Key).ToHashSet();
        var outcome = await products.Apply(code, $"Kept the set {typed}", by, copy =>
        {
            var kept = copy.Product.Extras.Where(e => extras.Contains(e.Key.Text)).ToImmutableArray();
            if (kept.IsEmpty)
                return Read<Product>.No("Tick at least one extra.");
            var inside = kept.Select(e => e.Key).ToHashSet();
            var rules = copy
                .Product.Rules.Where(r => r.When.Questions.Concat(r.Then.SelectMany(t => t.Targets)).All(inside.Contains))
                .ToImmutableArray();
            made = new ExtraSet(Key.From(typed, keys, "set"), typed, false, [], [.. kept.Select(e => e with { Behind = null })], rules);
            return Read<Product>.Of(
                copy.Product with
                {
                    Extras = copy.Product.Extras.RemoveRange(kept),
                    Rules = copy.Product.Rules.RemoveRange(rules),
                    ExtraSets = copy.Product.ExtraSets.Add(made.Key),
                }
            );
        });
        if (!outcome.Done)
            return outcome;
        db.ExtraSets.Add(new ExtraSetRow { Key = made!.Key.Text, Definition = ExtraSetDocument.Write(made).ToJsonString() });
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>Makes an empty set.</summary>
    public async Task<Outcome<string>> Create(string name)
    {
        var typed = string.Join(' ', name.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        if (typed.Length is 0 or > 120)
            return Outcome<string>.No("", "A set needs a name of at most 120 characters.");
        var key = Key.From(typed, (await ExtraSets.Load(db)).Select(s => s.Key).ToHashSet(), "set");
        await Put(new ExtraSet(key, typed, false, [], [], []));
        return Outcome<string>.Of(key.Text);
    }

    /// <summary>Changes a set; refused with the names of published products that would have no valid configuration left.</summary>
    /// <param name="version">The version that the change was made on; null: whichever there is.</param>
    public async Task<Outcome> Change(string key, int? version, Func<ExtraSet, Read<ExtraSet>> change, Actor by)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        if (await db.ExtraSets.FromSql($"select * from extra_sets where key = {key} for update").SingleOrDefaultAsync() is not { } row)
            return Outcome.No("", "That set is no longer there.");
        if (version is { } v && v != row.Version)
            return Outcome.No("", "The set was changed elsewhere meanwhile. Yours is not saved; load the page anew.");
        var sets = await ExtraSets.Load(db);
        var read = change(sets.First(s => s.Key.Text == key));
        if (!read.Ok)
            return Outcome.No("", read.Problem!);
        if (await Refusal(sets, read.Value!) is { } refusal)
            return refusal;
        await Remember(row, removed: false, by);
        (row.Definition, row.Version) = (ExtraSetDocument.Write(read.Value!).ToJsonString(), row.Version + 1);
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>Removes a set, unless a product names it.</summary>
    public async Task<Outcome> Remove(string key, Actor by)
    {
        var naming = await db
            .Products.FromSql($"select * from products where jsonb_exists(definition -> 'extraSets', {key})")
            .Select(p => p.Name)
            .ToListAsync();
        if (naming.Count > 0)
            return Outcome.No(
                "",
                $"Nothing was removed: {string.Join(", ", naming.Take(5))} {(naming.Count == 1 ? "takes" : "take")} it. Leave it out "
                    + "there first."
            );
        if (await db.ExtraSets.SingleOrDefaultAsync(s => s.Key == key) is not { } row)
            return Outcome.No("", "That set is no longer there.");
        await Remember(row, removed: true, by);
        db.ExtraSets.Remove(row);
        await db.SaveChangesAsync();
        return Outcome.Ok;
    }

    /// <summary>Takes the last change of a set back, or its removal, and the one before with the next call.</summary>
    /// <returns>The name of the set.</returns>
    public async Task<Outcome<string>> Undo(string key)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var row = await db.ExtraSets.FromSql($"select * from extra_sets where key = {key} for update").SingleOrDefaultAsync();
        var change = await db.ExtraSetChanges.Where(c => c.Key == key).OrderByDescending(c => c.Id).FirstOrDefaultAsync();
        if (change is null || change.Removed != row is null)
            return Outcome<string>.No("", "There is nothing to undo.");
        if (row is null)
            db.ExtraSets.Add(new ExtraSetRow { Key = key, Definition = change.Before });
        else
        {
            if (
                await Refusal(await ExtraSets.Load(db), ExtraSets.Read(change.Before, (await ShopSettings.Load(db)).Currency)) is
                { } refusal
            )
                return new Outcome<string>(null, refusal.Faults);
            (row.Definition, row.Version) = (change.Before, row.Version + 1);
        }
        db.ExtraSetChanges.Remove(change);
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return Outcome<string>.Of(change.Name);
    }

    /// <summary>The sets that were removed in the last days and can be taken back, the last first.</summary>
    public async Task<IReadOnlyList<(string Key, string Name)>> Removed()
    {
        var since = clock.GetUtcNow().AddDays(-30);
        var found = await db
            .ExtraSetChanges.Where(c => c.Removed && c.At > since && !db.ExtraSets.Any(s => s.Key == c.Key))
            .OrderByDescending(c => c.Id)
            .Select(c => new { c.Key, c.Name })
            .ToListAsync();
        return [.. found.Select(f => (f.Key, f.Name)).DistinctBy(f => f.Key)];
    }

    private async Task Remember(ExtraSetRow row, bool removed, Actor by) =>
        db.ExtraSetChanges.Add(
            new ExtraSetChange
            {
                Key = row.Key,
                Name = ExtraSets.Read(row.Definition, (await ShopSettings.Load(db)).Currency).Name,
                Before = row.Definition,
                Removed = removed,
                By = by.Name,
                At = clock.GetUtcNow(),
            }
        );

    private async Task<Outcome?> Refusal(IReadOnlyList<ExtraSet> sets, ExtraSet changed)
    {
        var harmed = await Harmed(sets, [.. sets.Select(s => s.Key == changed.Key ? changed : s)]);
        return harmed.Count == 0
            ? null
            : Outcome.No(
                "",
                "Nothing was saved: then nothing valid could be picked any more in "
                    + $"{string.Join(", ", harmed.Take(5))}{(harmed.Count > 5 ? $" and {harmed.Count - 5} more" : "")}."
            );
    }

    private async Task Put(ExtraSet set)
    {
        db.ExtraSets.Add(new ExtraSetRow { Key = set.Key.Text, Definition = ExtraSetDocument.Write(set).ToJsonString() });
        await db.SaveChangesAsync();
    }

    /// <summary>Published products that had a valid configuration and would have none.</summary>
    private async Task<IReadOnlyList<string>> Harmed(IReadOnlyList<ExtraSet> before, IReadOnlyList<ExtraSet> after)
    {
        var currency = (await ShopSettings.Load(db)).Currency;
        var harmed = new List<string>();
        var editions = await db
            .Editions.AsNoTracking()
            .Where(e => db.Products.Any(p => p.Id == e.ProductId && p.Edition == e.Number))
            .Select(e => e.Document)
            .ToListAsync();
        foreach (var document in editions)
        {
            var product = WorkingCopy.Read(document, currency);
            var (was, now) = (product.Taking(before), product.Taking(after));
            if (now.Rules.SequenceEqual(was.Rules) && now.Extras.SequenceEqual(was.Extras))
                continue;
            bool IsDead(Product p) => new Configurator(p, p.Matrix()) is var c && (!c.Faults.IsEmpty || c.Rules.IsEmpty);
            if (IsDead(now) && !IsDead(was))
                harmed.Add(product.Name);
        }
        return harmed;
    }
}
