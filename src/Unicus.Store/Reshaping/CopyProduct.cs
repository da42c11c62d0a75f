using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Makes a product like another: everything but stock and GTINs, SKUs from the pattern.</summary>
public sealed class CopyProduct(UnicusContext db, ChangeProduct products)
{
    /// <param name="address">Its web address; null or blank: made from the name.</param>
    /// <returns>The code of the copy.</returns>
    public async Task<Outcome<string>> Run(string code, string? name, string? address, Actor by)
    {
        var typed = (name ?? "").Trim();
        if (typed.Length is 0 or > Product.LongestName)
            return Outcome<string>.No("name", $"The copy needs a name of at most {Product.LongestName} characters.");
        var web = (address ?? "").Trim();
        if (web.Length > 0 && !Key.TryParse(web, out _))
            return Outcome<string>.No("address", $"A web address is {Key.Shape}: try {Slug.From(web, 60)}.");
        await using var transaction = await db.Database.BeginTransactionAsync();
        if (await WorkingCopy.Load(db, code) is not { } copy)
            return Outcome<string>.No("", $"There is no product {code}.");
        await Locks.NewCodes(db);
        var codes = (await db.Products.Select(p => p.Code).ToListAsync())
            .Concat(await db.Skus.Select(s => s.CodeKey).Where(k => k.Length <= 32).ToListAsync())
            .ToHashSet();
        var own = ProductCode.From(typed, c => codes.Contains(c.Text));
        var product = copy.Product with
        {
            Code = own,
            // A code may have been suggested before there was such a product.
            Companions = copy.Product.Companions.Remove(own),
            StepUps = copy.Product.StepUps.Remove(own),
            Name = typed,
            WebAddress = web.Length > 0 ? web : null,
            Variants = [.. copy.Product.Variants.Where(v => !v.Retired).Select(v => v with { Sku = null, Gtin = null, Former = null })],
        };
        var outcome = await products.Insert(product, $"Copied from {copy.Product.Name}", by);
        if (!outcome.Done)
            return new Outcome<string>(null, outcome.Faults);
        await transaction.CommitAsync();
        return Outcome<string>.Of(product.Code.Text);
    }
}
