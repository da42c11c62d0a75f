using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>Writes changed working copies: the one place where a product's rows change.</summary>
public sealed class WorkingCopies(UnicusContext db, TimeProvider clock)
{
    /// <summary>Writes a changed product within the caller's transaction.</summary>
    /// <param name="copy">As loaded for change.</param>
    /// <param name="after">With the variants listed that have something of their own, by their new values.</param>
    /// <param name="moved">For a change of options: old values to new ones of the variants that stay.</param>
    /// <param name="undoable">False where the change moves stock as well.</param>
    /// <param name="exactSkus">Whether a SKU made by the pattern that is taken is a fault; otherwise it gets a number behind.</param>
    /// <returns>The faults; then nothing is to be committed.</returns>
    public async Task<Outcome> Write(WorkingCopy copy, Product after, string sentence, Actor by, IReadOnlyDictionary<string, Combination>? moved = null, bool undoable = true, bool exactSkus = false)
    {
        var clash = await AddressClash(copy, after);
        if (clash is not null) return clash;
        copy.Row.Name = after.Name;
        copy.Row.Address = after.Address;
        copy.Row.Definition = DocumentWriter.Write(after, ListedVariants.None).ToJsonString();
        copy.Row.ChangedAt = clock.GetUtcNow();
        copy.Row.Version++;
        await MakeCategories(after);

        var rows = new Dictionary<string, VariantRow>();
        foreach (var row in copy.Rows)
        {
            if (moved is null) rows[row.Values] = row;
            else if (moved.TryGetValue(row.Values, out var target)) rows[target.Text] = row;
        }
        // Two steps keep the unique index on (product, values) quiet while values move around.
        if (moved is not null && moved.Any(m => m.Key != m.Value.Text))
            await db.Variants.Where(v => v.ProductId == copy.Row.Id).ExecuteUpdateAsync(u => u.SetProperty(v => v.Values, v => "moving-" + v.Id));
        var faults = await LayVariants(copy, after, rows, moved is not null, exactSkus);
        if (faults.Count > 0) return new Outcome(faults);

        var change = new ProductChange { ProductId = copy.Row.Id, Version = copy.Row.Version, Sentence = sentence, By = by.Name, At = clock.GetUtcNow() };
        if (undoable) change.Before = JsonSerializer.Serialize(BeforeImage.Of(db));
        db.ProductChanges.Add(change);
        await db.SaveChangesAsync();
        await Summarise(db, copy.Row.Code);
        return Outcome.Ok;
    }

    /// <summary>Brings the figures that lists show up to date.</summary>
    public static async Task Summarise(UnicusContext db, string code)
    {
        var copy = (await WorkingCopy.Load(db, code))!;
        var offered = copy.Matrix.Offered.ToList();
        var span = PriceSpan.Of(offered.Select(v => v.Price.Figure));
        var margins = offered.Select(v => Margins.Of(copy, v)?.Margin).OfType<decimal>().ToList();
        var row = await db.Products.SingleAsync(p => p.Code == copy.Row.Code);
        row.VariantCount = copy.Product.Options.IsEmpty ? 0 : offered.Count;
        row.NotMadeCount = copy.Matrix.NotMadeCount;
        (row.LowestPrice, row.HighestPrice) = (span?.Lowest.Amount, span?.Highest.Amount);
        row.LowestMargin = margins.Count == 0 ? null : decimal.Round(margins.Min(), 4);
        row.HighestMargin = margins.Count == 0 ? null : decimal.Round(margins.Max(), 4);
        var checks = copy.Checks;
        (row.StopCount, row.DoubtCount) = (checks.Count(c => c.Stops), checks.Count(c => !c.Stops));
        row.Counted = copy.Product.Selling.Counted != false;
        row.Picture = copy.Product.Pictures.FirstOrDefault()?.File;
        (row.Categories, row.Tags) = ([.. copy.Product.Categories], [.. copy.Product.Tags]);
        await db.SaveChangesAsync();
    }

    private async Task<List<Fault>> LayVariants(WorkingCopy copy, Product after, Dictionary<string, VariantRow> rows, bool optionsChanged, bool exactSkus)
    {
        var faults = new List<Fault>();
        var matrix = after.Matrix();
        var made = matrix.Variants.Select(v => v.Values.Text).ToHashSet();
        var stakes = await copy.Stakes(db);
        var history = copy.Rows.Zip(stakes).Where(p => p.Second.HasHistory || p.Second.OnHand > 0).Select(p => p.First).ToHashSet();
        foreach (var row in copy.Rows.Except(rows.Where(r => made.Contains(r.Key)).Select(r => r.Value)))
        {
            if (history.Contains(row)) row.Retired = true;
            else db.Variants.Remove(row);
            if (optionsChanged) db.Entry(row).Property(r => r.Values).IsModified = db.Entry(row).State != EntityState.Deleted;
        }

        var skus = new SkuRegister(db, copy.Row.Id, after);
        await skus.Load(matrix, copy.Rows, rows);
        foreach (var variant in matrix.Variants)
        {
            var row = rows.GetValueOrDefault(variant.Values.Text);
            if (row is null)
            {
                row = new VariantRow { ProductId = copy.Row.Id, Values = variant.Values.Text };
                var sku = skus.ForNew(variant, exactSkus, faults);
                if (sku is null) continue;
                row.Sku = sku;
                db.Variants.Add(row);
            }
            else
            {
                row.Values = variant.Values.Text;
                if (optionsChanged) db.Entry(row).Property(r => r.Values).IsModified = true;
                // A SKU that is left out is one that nobody has seen yet: it is made anew, and its former code is free again.
                if (variant.Sku.Text != row.Sku!.Code) await skus.Rename(row, variant.Sku, variant.Variant.Sku is null ? [] : faults, keepFormer: variant.Variant.Sku is not null);
            }
            WorkingCopy.ToRow(variant.Variant, row);
        }
        return faults;
    }

    private async Task<Outcome?> AddressClash(WorkingCopy copy, Product after)
    {
        if (after.Address == copy.Row.Address) return null;
        var owner = await db.Products.Where(p => p.Address == after.Address && p.Id != copy.Row.Id).Select(p => p.Name).FirstOrDefaultAsync();
        return owner is null ? null : Outcome.No("#/webAddress", $"Nothing was saved: the web address “{after.Address}” is already used by {owner}.");
    }

    private async Task MakeCategories(Product after)
    {
        foreach (var name in after.Categories)
        {
            var key = Slug.From(name, 60);
            if (key.Length == 0) key = "category";
            if (!await db.Categories.AnyAsync(c => c.Name == name || c.Key == key)) db.Categories.Add(new CategoryRow { Key = key, Name = name });
        }
    }
}

/// <summary>Profit and margin of variants with the tax of the shop's first destination.</summary>
public static class Margins
{
    /// <summary>Null where price or cost is missing.</summary>
    public static Profit? Of(WorkingCopy copy, MatrixVariant variant) =>
        variant.Price.Figure is { } price && variant.Cost.Figure is { } cost ? Profit.Of(price, cost, Rate(copy, variant), copy.Shop.Terms.PricesIncludeTax) : null;

    public static Percentage Rate(WorkingCopy copy, MatrixVariant? variant)
    {
        var own = variant is null ? copy.Product.Base.TaxClass : copy.Matrix.Figures.Resolve(variant.Variant.Own, variant.Values, f => f.TaxClass).Figure;
        return copy.Shop.Terms.Find(null)?.RateOf(own ?? copy.Shop.Terms.FirstTaxClass) ?? default;
    }
}
