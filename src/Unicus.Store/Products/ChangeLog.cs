using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.ChangeTracking;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>What a working copy was before a change, so that the change can be undone.</summary>
public sealed record BeforeImage(Dictionary<string, string?> Product, List<Dictionary<string, string?>> Variants, List<string> Created, Dictionary<int, string> SkuCodes)
{
    private static readonly string[] ProductFields = [nameof(ProductRow.Name), nameof(ProductRow.Address), nameof(ProductRow.Definition), nameof(ProductRow.WeightUnit), nameof(ProductRow.LengthUnit)];

    /// <summary>Reads off the tracked changes what they would overwrite.</summary>
    public static BeforeImage Of(UnicusContext db)
    {
        db.ChangeTracker.DetectChanges();
        var entries = db.ChangeTracker.Entries().ToList();
        var product = entries.First(e => e.Entity is ProductRow);
        var variants = entries.Where(e => e.Entity is VariantRow).ToList();
        return new BeforeImage(
            ProductFields.ToDictionary(f => f, f => product.Property(f).OriginalValue?.ToString()),
            [.. variants.Where(e => e.State is EntityState.Modified or EntityState.Deleted).Select(Values)],
            [.. variants.Where(e => e.State == EntityState.Added).Select(e => ((VariantRow)e.Entity).Values)],
            entries.Where(e => e is { Entity: SkuRow, State: EntityState.Modified })
                .ToDictionary(e => ((SkuRow)e.Entity).Id, e => (string)e.Property(nameof(SkuRow.Code)).OriginalValue!));
    }

    private static Dictionary<string, string?> Values(EntityEntry entry) => entry.Properties.ToDictionary(
        p => p.Metadata.Name, p => p.OriginalValue is null ? null : Convert.ToString(p.OriginalValue, System.Globalization.CultureInfo.InvariantCulture));

    /// <summary>Writes the remembered values into a variant row.</summary>
    public static void Restore(EntityEntry entry, Dictionary<string, string?> values)
    {
        foreach (var property in entry.Properties.Where(p => !p.Metadata.IsPrimaryKey()))
        {
            var text = values.GetValueOrDefault(property.Metadata.Name);
            var type = Nullable.GetUnderlyingType(property.Metadata.ClrType) ?? property.Metadata.ClrType;
            property.CurrentValue = text is null ? null : Convert.ChangeType(text, type, System.Globalization.CultureInfo.InvariantCulture);
        }
    }
}

/// <summary>Takes the last change of a working copy back, and the one before with the next call.</summary>
public sealed class UndoChange(UnicusContext db, TimeProvider clock)
{
    /// <returns>What was undone, in words.</returns>
    public async Task<Outcome<string>> Run(string code, Actor by)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var copy = await WorkingCopy.Load(db, code, forChange: true);
        if (copy is null) return Outcome<string>.No("", $"There is no product {code}.");
        var change = await db.ProductChanges.Where(c => c.ProductId == copy.Row.Id && !c.Undone).OrderByDescending(c => c.Id).FirstOrDefaultAsync();
        if (change is null) return Outcome<string>.No("", "There is nothing to undo.");
        if (change.Before is null) return Outcome<string>.No("", $"“{change.Sentence}” cannot be undone: it moved stock or was published as it is.");
        var before = JsonSerializer.Deserialize<BeforeImage>(change.Before)!;

        // Two steps keep the unique index on (product, values) quiet while values move around.
        await db.Variants.Where(v => v.ProductId == copy.Row.Id).ExecuteUpdateAsync(u => u.SetProperty(v => v.Values, v => "moving-" + v.Id));
        foreach (var row in copy.Rows) db.Entry(row).Property(r => r.Values).IsModified = true;
        foreach (var values in before.Created)
        {
            var row = copy.Rows.FirstOrDefault(r => r.Values == values);
            if (row is null) continue;
            if (await db.Levels.AnyAsync(l => l.SkuId == row.SkuId && (l.OnHand != 0 || l.Allocated != 0)) && copy.Rows.Count(r => r.SkuId == row.SkuId) == 1)
                return Outcome<string>.No("", $"“{change.Sentence}” cannot be undone: {row.Sku!.Code} has stock by now.");
            db.Variants.Remove(row);
        }
        foreach (var (id, old) in before.SkuCodes)
        {
            var sku = await db.Skus.SingleAsync(s => s.Id == id);
            var key = old.ToUpperInvariant();
            var clash = await db.Skus.AnyAsync(s => s.CodeKey == key && s.Id != id);
            if (clash) return Outcome<string>.No("", $"“{change.Sentence}” cannot be undone: the SKU {old} belongs to another product by now.");
            (sku.Code, sku.CodeKey) = (old, key);
        }
        foreach (var values in before.Variants)
        {
            var id = int.Parse(values[nameof(VariantRow.Id)]!, System.Globalization.CultureInfo.InvariantCulture);
            var row = copy.Rows.FirstOrDefault(r => r.Id == id);
            if (row is null)
            {
                row = new VariantRow { Id = id, Values = values[nameof(VariantRow.Values)]! };
                db.Variants.Add(row);
            }
            BeforeImage.Restore(db.Entry(row), values);
        }
        copy.Row.Name = before.Product[nameof(ProductRow.Name)]!;
        copy.Row.Address = before.Product[nameof(ProductRow.Address)]!;
        copy.Row.Definition = before.Product[nameof(ProductRow.Definition)]!;
        copy.Row.WeightUnit = before.Product[nameof(ProductRow.WeightUnit)]!;
        copy.Row.LengthUnit = before.Product[nameof(ProductRow.LengthUnit)]!;
        copy.Row.Version++;
        copy.Row.ChangedAt = clock.GetUtcNow();
        change.Undone = true;
        await db.SaveChangesAsync();
        db.ChangeTracker.Clear();
        await WorkingCopies.Summarise(db, code);
        await transaction.CommitAsync();
        return Outcome<string>.Of(change.Sentence);
    }
}
