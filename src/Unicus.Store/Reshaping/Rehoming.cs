using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NpgsqlTypes;

namespace Unicus.Store;

/// <summary>Moves rows of variants, with their SKUs, stock, ledger and orders, from one product to another.</summary>
internal sealed class Rehoming(UnicusContext db)
{
    private readonly VariantTable _table = new(db);

    /// <summary>Moves rows; each gets new values. Their SKUs keep code, levels and movements; order lines follow.</summary>
    public async Task Move(IReadOnlyList<(VariantRow Row, Combination Values)> rows, int to)
    {
        var ids = VariantTable.Parameter(NpgsqlDbType.Array | NpgsqlDbType.Integer, rows.Select(r => r.Row.Id).ToArray());
        var texts = VariantTable.Parameter(NpgsqlDbType.Array | NpgsqlDbType.Text, rows.Select(r => r.Values.Text).ToArray());
        await _table.Execute(
            "update variants v set product_id = $3, \"values\" = t.\"values\" from unnest($1, $2) as t(id, \"values\") where "
                + "v.id = t.id",
            ids,
            texts,
            VariantTable.Parameter(NpgsqlDbType.Integer, to)
        );
        var skus = rows.Select(r => r.Row.SkuId).Distinct().ToArray();
        await db.Skus.Where(s => skus.Contains(s.Id)).ExecuteUpdateAsync(u => u.SetProperty(s => s.ProductId, to));
        await db.Levels.Where(l => skus.Contains(l.SkuId)).ExecuteUpdateAsync(u => u.SetProperty(l => l.ProductId, to));
        await db.OrderLines.Where(l => skus.Contains(l.SkuId)).ExecuteUpdateAsync(u => u.SetProperty(l => l.ProductId, to));
        await db.OrderLeaves.Where(l => skus.Contains(l.SkuId)).ExecuteUpdateAsync(u => u.SetProperty(l => l.ProductId, to));
    }

    /// <summary>A variant as it is in its old product, for the new one: everything that the new one would not give it by itself becomes
    /// its own.</summary>
    public static Variant Resolved(WorkingCopy from, MatrixVariant variant, Combination values, VariantMatrix bare, Selling selling)
    {
        var now = from.Matrix.Figures;
        var then = bare.Figures;
        T? Struct<T>(Func<Figures, T?> f)
            where T : struct
        {
            var here = now.Resolve(variant.Variant.Own, variant.Values, f).Figure;
            return Equals(here, then.Resolve(Figures.None, values, f).Figure) ? null : here;
        }
        T? Class<T>(Func<Figures, T?> f)
            where T : class
        {
            var here = now.Resolve(variant.Variant.Own, variant.Values, f).Figure;
            return Equals(here, then.Resolve(Figures.None, values, f).Figure) ? null : here;
        }
        var price = variant.Price.Figure;
        return variant.Variant with
        {
            Values = values,
            Sku = variant.Sku,
            Own = new Figures
            {
                Price = price == then.Price(Figures.None, values).Figure ? null : price,
                Rrp = Struct(f => f.Rrp),
                Cost = Struct(f => f.Cost),
                WeightGrams = Struct(f => f.WeightGrams),
                SizeMm = Class(f => f.SizeMm),
                TaxClass = Class(f => f.TaxClass),
                LeadTimeDays = Struct(f => f.LeadTimeDays),
                LowLevel = Struct(f => f.LowLevel),
                NetContent = Class(f => f.NetContent),
                CustomsCode = Class(f => f.CustomsCode),
                Origin = Class(f => f.Origin),
            },
            Selling = variant.Selling == selling ? Selling.Inherited : variant.Selling,
        };
    }

    /// <summary>Leads every address that a product had to another one, with values picked.</summary>
    public async Task LeadAddresses(int from, int to, string values, string? except)
    {
        var addresses = await db.AddressAliases.Where(a => a.ProductId == from).Select(a => a.Address).ToListAsync();
        addresses.Add(await db.Products.Where(p => p.Id == from).Select(p => p.Address).SingleAsync());
        addresses.AddRange(await db.RangeEntries.Where(e => e.ProductId == from).Select(e => e.Address).ToListAsync());
        await db.AddressAliases.Where(a => a.ProductId == from).ExecuteDeleteAsync();
        foreach (var address in addresses.Distinct().Where(a => a != except))
            db.AddressAliases.Add(
                new AddressAlias
                {
                    Address = address,
                    ProductId = to,
                    Values = values,
                }
            );
    }

    /// <summary>The answers of a basket with the values of a variant as it is called now.</summary>
    public static JsonObject Answers(JsonObject answers, Combination before, Combination now)
    {
        var after = answers.DeepClone().AsObject();
        foreach (var (option, _) in before.Pairs)
            after.Remove(option.Text);
        foreach (var (option, value) in now.Pairs)
            after[option.Text] = value.Text;
        return after;
    }

    /// <summary>Deletes a product that has no variants any more.</summary>
    public async Task Empty(int product, int heir)
    {
        await db.Skus.Where(s => s.ProductId == product).ExecuteUpdateAsync(u => u.SetProperty(s => s.ProductId, heir));
        await db.Levels.Where(l => l.ProductId == product).ExecuteUpdateAsync(u => u.SetProperty(l => l.ProductId, heir));
        await db.OrderLines.Where(l => l.ProductId == product).ExecuteUpdateAsync(u => u.SetProperty(l => l.ProductId, heir));
        await db.OrderLeaves.Where(l => l.ProductId == product).ExecuteUpdateAsync(u => u.SetProperty(l => l.ProductId, heir));
        await db.ProductChanges.Where(c => c.ProductId == product).ExecuteDeleteAsync();
        await db.Editions.Where(e => e.ProductId == product).ExecuteDeleteAsync();
        await db.Products.Where(p => p.Id == product).ExecuteDeleteAsync();
    }
}
