using System.Globalization;
using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore.ChangeTracking;

namespace Unicus.Store;

/// <summary>What a change overwrote, column by column, so that it can be undone; undoing makes the image by which it is done
/// again.</summary>
internal sealed class ChangeImage
{
    private static readonly string[] ProductFields =
    [
        nameof(ProductRow.Name),
        nameof(ProductRow.Address),
        nameof(ProductRow.Definition),
        nameof(ProductRow.WeightUnit),
        nameof(ProductRow.LengthUnit),
    ];

    public Dictionary<string, string?> Product { get; set; } = [];

    /// <summary>The rows that were changed.</summary>
    public int[] Ids { get; set; } = [];

    /// <summary>The former values of the columns that were changed, one for each of <see cref="Ids"/>.</summary>
    public Dictionary<string, string?[]> Columns { get; set; } = [];

    /// <summary>The rows that were made.</summary>
    public int[] Made { get; set; } = [];

    /// <summary>The rows that were deleted, whole.</summary>
    public List<Dictionary<string, string?>> Rows { get; set; } = [];

    /// <summary>The former codes of SKUs.</summary>
    public Dictionary<int, string> SkuCodes { get; set; } = [];

    /// <summary>The columns that any row changes in.</summary>
    [JsonIgnore]
    public IReadOnlyList<VariantColumn> Changed => [.. VariantTable.Columns.Where(c => Columns.ContainsKey(c.Name))];

    public static ChangeImage OfProduct(EntityEntry<ProductRow> product) =>
        new() { Product = ProductFields.ToDictionary(f => f, f => product.Property(f).OriginalValue?.ToString()) };

    /// <summary>Takes in the rows that a change is about to overwrite.</summary>
    /// <param name="changed">The columns that any updated row changes in.</param>
    public void Take(
        Dictionary<int, VariantRow> before,
        IReadOnlyList<VariantRow> updated,
        IEnumerable<VariantColumn> changed,
        IReadOnlyList<VariantRow> deleted,
        int[] made,
        IReadOnlyList<RenamedSku> renamed
    )
    {
        Ids = [.. updated.Select(u => u.Id)];
        foreach (var column in changed)
            Columns[column.Name] = [.. updated.Select(u => column.Text(before[u.Id]))];
        Rows = [.. deleted.Select(Whole)];
        Made = made;
        foreach (var (id, from, _) in renamed)
            SkuCodes[id] = from;
    }

    /// <summary>Whether putting this back puts back what a later change overwrote as well: the same figures of the same rows, and nothing
    /// made or deleted.</summary>
    public bool Covers(ChangeImage later) =>
        later is { Made.Length: 0, Rows.Count: 0, SkuCodes.Count: 0 }
        && Rows.Count == 0
        && SkuCodes.Count == 0
        && later.Ids.All(Ids.Contains)
        && later.Columns.Keys.All(Columns.ContainsKey);

    /// <summary>Puts back what was overwritten, within the caller's transaction.</summary>
    /// <param name="product">Tracked, to be saved by the caller.</param>
    /// <returns>The image that undoes this, or why it cannot be.</returns>
    public async Task<Read<ChangeImage>> PutBack(VariantTable table, EntityEntry<ProductRow> product)
    {
        var row = product.Entity;
        var inverse = OfProduct(product);
        var made = await table.Load(row.Id, Made);
        var changed = await table.Load(row.Id, Ids);
        var stocked = await table.HeldSkus(made);
        if (stocked is not null)
            return Read<ChangeImage>.No($"{stocked} has stock by now");
        var clash = (await table.SkusCalled([.. SkuCodes.Values.Select(c => c.ToUpperInvariant())])).FirstOrDefault(s =>
            !SkuCodes.ContainsKey(s.Sku.Id)
        );
        if (clash.Sku is { } taken)
            return Read<ChangeImage>.No($"the SKU {taken.Code} belongs to another product by now");

        var now = changed.ToDictionary(r => r.Id);
        var back = new List<VariantRow>();
        for (var i = 0; i < Ids.Length; i++)
        {
            if (!now.TryGetValue(Ids[i], out var current))
                return Read<ChangeImage>.No("a variant is gone by now");
            var former = current.Copy();
            foreach (var column in Changed)
                column.Set(former, Columns[column.Name][i]);
            back.Add(former);
        }
        var put = Rows.Select(r => FromWhole(row.Id, r)).ToList();
        var codes = await table.CodesOf(SkuCodes.Keys);
        inverse.Take(
            now,
            back,
            Changed,
            made,
            [.. put.Select(r => r.Id)],
            [.. codes.Select(c => new RenamedSku(c.Key, c.Value, SkuCodes[c.Key]))]
        );
        await table.RenameSkus([.. SkuCodes.Select(s => (s.Key, s.Value))]);
        await table.Delete(Made);
        await table.Update(back, Changed);
        await table.Insert(put);
        foreach (var field in ProductFields)
            product.Property(field).CurrentValue = Product[field];
        return Read<ChangeImage>.Of(inverse);
    }

    private static Dictionary<string, string?> Whole(VariantRow row)
    {
        var whole = VariantTable.Columns.ToDictionary(c => c.Name, c => c.Text(row));
        whole["id"] = row.Id.ToString(CultureInfo.InvariantCulture);
        return whole;
    }

    private static VariantRow FromWhole(int product, Dictionary<string, string?> whole)
    {
        var row = new VariantRow
        {
            Id = int.Parse(whole["id"]!, CultureInfo.InvariantCulture),
            ProductId = product,
            Values = "",
        };
        foreach (var column in VariantTable.Columns)
            column.Set(row, whole[column.Name]);
        return row;
    }
}
