using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>Gives out SKUs for one change: unique in the shop, shared where an option shares them, free ones of the product used again.</summary>
internal sealed class SkuRegister(UnicusContext db, int productId, Product after)
{
    private readonly Dictionary<string, SkuRow> _known = [];
    private readonly Dictionary<string, string> _owners = [];
    private readonly Dictionary<string, SkuRow> _shared = [];
    private readonly HashSet<int> _inUse = [];

    /// <summary>Loads every row that has one of the codes in question.</summary>
    public async Task Load(VariantMatrix matrix, IReadOnlyList<VariantRow> all, Dictionary<string, VariantRow> staying)
    {
        foreach (var row in all)
        {
            _inUse.Add(row.SkuId);
            _known[row.Sku!.CodeKey] = row.Sku;
        }
        foreach (var variant in matrix.Variants)
            if (staying.TryGetValue(variant.Values.Text, out var row)) _shared.TryAdd(Apart(variant.Values), row.Sku!);
        var codes = matrix.Variants.Select(v => v.Sku.Text.ToUpperInvariant()).Distinct().ToArray();
        foreach (var chunk in codes.Chunk(5000))
            foreach (var sku in await db.Skus.Where(s => chunk.Contains(s.CodeKey)).ToListAsync())
            {
                _known.TryAdd(sku.CodeKey, sku);
                if (sku.ProductId != productId) _owners[sku.CodeKey] = await OwnerName(sku);
            }
    }

    /// <summary>The SKU row for a new variant. A clash of its own SKU is a fault; a clash of the pattern's gets a number behind unless it is to be exact.</summary>
    public SkuRow? ForNew(MatrixVariant variant, bool exact, List<Fault> faults)
    {
        var apart = Apart(variant.Values);
        if (variant.Variant.Sku is null && after.Options.Any(o => o.SharesSku) && _shared.TryGetValue(apart, out var sharing)) return sharing;
        var code = variant.Sku.Text;
        for (var n = 2; ; n++)
        {
            var key = code.ToUpperInvariant();
            var known = _known.GetValueOrDefault(key);
            if (known is null)
            {
                var made = new SkuRow { Code = code, CodeKey = key, ProductId = productId };
                _known[key] = _shared[apart] = made;
                db.Skus.Add(made);
                return made;
            }
            var isShared = _shared.TryGetValue(apart, out var own) && own == known;
            if (isShared || (known.ProductId == productId && known.Id != 0 && _inUse.Add(known.Id)))
            {
                _shared.TryAdd(apart, known);
                return known;
            }
            if (exact || variant.Variant.Sku is not null)
            {
                faults.Add(new Fault("#/variants", $"Nothing was saved: the SKU {code} is already used by {_owners.GetValueOrDefault(key, after.Name)}."));
                return null;
            }
            code = $"{variant.Sku.Text}-{n}";
        }
    }

    /// <summary>Gives a row's SKU another code; the former one stays known as an alias.</summary>
    public async Task Rename(VariantRow row, Sku wanted, List<Fault> faults, bool keepFormer)
    {
        var key = wanted.Text.ToUpperInvariant();
        var sku = row.Sku!;
        if (sku.CodeKey != key)
        {
            var holder = await db.Skus.FirstOrDefaultAsync(s => s.CodeKey == key) ?? _known.GetValueOrDefault(key);
            var former = await db.SkuAliases.FirstOrDefaultAsync(a => a.CodeKey == key);
            if (holder is not null && holder != sku)
            {
                faults.Add(new Fault("#/variants", $"Nothing was saved: the SKU {wanted} is already used by {await OwnerName(holder)}."));
                return;
            }
            if (former is not null && former.SkuId != sku.Id)
            {
                faults.Add(new Fault("#/variants", $"Nothing was saved: {wanted} is the former SKU of {await OwnerName(await db.Skus.SingleAsync(s => s.Id == former.SkuId))}, and editions still name it."));
                return;
            }
            if (former is not null) db.SkuAliases.Remove(former);
            if (keepFormer && await db.SkuAliases.FindAsync(sku.CodeKey) is null) db.SkuAliases.Add(new SkuAlias { CodeKey = sku.CodeKey, Code = sku.Code, SkuId = sku.Id });
            _known.Remove(sku.CodeKey);
            _known[key] = sku;
        }
        (sku.Code, sku.CodeKey) = (wanted.Text, key);
    }

    private string Apart(Combination values) => after.Options.Where(o => o.SharesSku).Aggregate(values, (c, o) => c.Without(o.Key)).Text;

    private async Task<string> OwnerName(SkuRow sku)
    {
        var owner = await db.Products.AsNoTracking().FirstOrDefaultAsync(p => p.Id == sku.ProductId);
        var values = await db.Variants.Where(v => v.SkuId == sku.Id).Select(v => v.Values).FirstOrDefaultAsync();
        if (owner is null) return "another product";
        var product = WorkingCopy.Read(owner.Definition, (await ShopSettings.Load(db)).Currency);
        return values is { Length: > 0 } ? PriceCalculator.Title(owner.Name, Combination.Parse(values), product.Options) : owner.Name;
    }
}
