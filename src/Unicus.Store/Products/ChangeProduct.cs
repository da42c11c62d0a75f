using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Makes products and changes their definition, each change one transaction and one line in the list of changes.</summary>
public sealed class ChangeProduct(UnicusContext db, TimeProvider clock)
{
    /// <summary>Makes a product from a name alone; the code is made from it.</summary>
    public async Task<Outcome<string>> Create(string? name, Actor by)
    {
        var typed = (name ?? "").Trim();
        if (typed.Length == 0)
            return Outcome<string>.No("name", "A product needs a name; nothing else.");
        if (typed.Length > Product.LongestName)
            return Outcome<string>.No("name", $"A name has at most {Product.LongestName} characters; this has {typed.Length}.");
        if (typed.Any(char.IsControl))
            return Outcome<string>.No("name", "A name holds no control characters.");
        await using var transaction = await db.Database.BeginTransactionAsync();
        await Locks.NewCodes(db);
        var codes = await db.Products.Select(p => p.Code).ToListAsync();
        var keys = await db.Skus.Select(s => s.CodeKey).Where(k => k.Length <= 32).ToListAsync();
        var taken = codes.Concat(keys).ToHashSet();
        var product = new Product(ProductCode.From(typed, c => taken.Contains(c.Text)), typed);
        if (await db.Products.AnyAsync(p => p.Address == product.Address))
            product = product with { WebAddress = $"{product.Address}-{product.Code.Text.ToLowerInvariant()}" };
        var outcome = await Insert(product, $"Made {typed}", by);
        if (!outcome.Done)
            return new Outcome<string>(null, outcome.Faults);
        await transaction.CommitAsync();
        return Outcome<string>.Of(product.Code.Text);
    }

    /// <summary>Inserts a whole product within the caller's transaction.</summary>
    public async Task<Outcome> Insert(Product product, string sentence, Actor by, bool exactSkus = false)
    {
        product = SafeHtml.Cleaned(product);
        var owner = await db.Products.Where(p => p.Address == product.Address).Select(p => p.Name).FirstOrDefaultAsync();
        if (owner is not null)
            return Outcome.No("#/webAddress", $"Nothing was saved: the web address “{product.Address}” is already used by {owner}.");
        await db.AddressAliases.Where(a => a.Address == product.Address).ExecuteDeleteAsync();
        var row = WorkingCopies.NewRow(product, clock.GetUtcNow());
        db.Products.Add(row);
        await db.SaveChangesAsync();
        var copy = (await WorkingCopy.Load(db, row.Code, forChange: true))!;
        return await new WorkingCopies(db, clock).Write(copy, product, sentence, by, undoable: false, exactSkus: exactSkus);
    }

    /// <summary>Applies a change of the definition or of variants' own figures.</summary>
    /// <param name="change">From the product as it is now to what it is to be, or the fault.</param>
    /// <param name="scope">The variants that the change looks at; null: none of a large product.</param>
    public async Task<Outcome> Apply(
        string code,
        string sentence,
        Actor by,
        Func<WorkingCopy, Read<Product>> change,
        string where = "",
        Func<Product, VariantScope>? scope = null
    )
    {
        await using var transaction = db.Database.CurrentTransaction is null ? await db.Database.BeginTransactionAsync() : null;
        var copy = await WorkingCopy.Load(db, code, forChange: true, scope ?? (_ => VariantScope.None));
        if (copy is null)
            return Outcome.No("", $"There is no product {code}.");
        var after = change(copy);
        if (!after.Ok)
            return Outcome.No(where, after.Problem!);
        if (after.Value == copy.Product)
            return Outcome.Ok;
        var outcome = await new WorkingCopies(db, clock).Write(copy, after.Value!, sentence, by);
        if (outcome.Done && transaction is not null)
            await transaction.CommitAsync();
        return outcome;
    }

    /// <summary>Deletes a product that has never been ordered and has no stock.</summary>
    public async Task<Outcome> Delete(string code)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var copy = await WorkingCopy.Load(db, code, forChange: true);
        if (copy is null)
            return Outcome.No("", $"There is no product {code}.");
        var stuck = (await copy.Stakes(db)).Where(s => s.HasHistory || s.OnHand > 0).ToList();
        if (stuck.Count > 0)
            return new Outcome([
                .. stuck
                    .Take(100)
                    .Select(s => new Fault(
                        "#/variants",
                        $"{s.Variant.Sku ?? copy.Matrix.Find(s.Variant.Values)?.Sku} has history or stock, so {copy.Row.Name} cannot "
                            + "be deleted."
                    )),
            ]);
        var id = copy.Row.Id;
        var holders = await db
            .RangeEntries.Where(e => e.PartProducts.Contains(id) && e.ProductId != id)
            .OrderBy(e => e.NameKey)
            .Select(e => e.Name)
            .Take(6)
            .ToListAsync();
        if (holders.Count > 0)
            return Outcome.No("", $"{copy.Row.Name} is a part of {string.Join(", ", holders)}, on sale. Take it out there first.");
        db.ChangeTracker.Clear();
        await new VariantTable(db).PlanAnew(copy.Rows.Count);
        await db.AddressAliases.Where(a => a.ProductId == id).ExecuteDeleteAsync();
        await db.Variants.Where(v => v.ProductId == id).ExecuteDeleteAsync();
        await db.SkuAliases.Where(a => db.Skus.Any(s => s.Id == a.SkuId && s.ProductId == id)).ExecuteDeleteAsync();
        await db.Levels.Where(l => db.Skus.Any(s => s.Id == l.SkuId && s.ProductId == id)).ExecuteDeleteAsync();
        await db.Skus.Where(s => s.ProductId == id).ExecuteDeleteAsync();
        await db.ProductChanges.Where(c => c.ProductId == id).ExecuteDeleteAsync();
        await db.Editions.Where(e => e.ProductId == id).ExecuteDeleteAsync();
        await db.Products.Where(p => p.Id == id).ExecuteDeleteAsync();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }
}
