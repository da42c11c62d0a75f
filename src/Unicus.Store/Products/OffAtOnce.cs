using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Takes goods off for now, and back on, in the shop at once: a new edition that differs from the newest in just that. Other
/// changes of the working copy wait to be published.</summary>
internal sealed class OffAtOnce(UnicusContext db, TimeProvider clock)
{
    /// <summary>Acts where a change that is being written took something off or on.</summary>
    /// <returns>Whether that was all that changed, so that nothing of it waits to be published.</returns>
    public async Task<bool> Follow(WorkingCopy copy, Product before, Product after, Actor by)
    {
        if (copy.Row.Edition is not { } number)
            return false;
        var offs = before.Variants.ToDictionary(v => v.Values.Text, v => v.Selling.OffForNow);
        var turned = after
            .Variants.Where(v =>
                offs.TryGetValue(v.Values.Text, out var was) ? was != v.Selling.OffForNow : v.Selling.OffForNow is not null
            )
            .ToDictionary(v => v.Values.Text, v => v.Selling.OffForNow);
        if (before.Selling.OffForNow == after.Selling.OffForNow && turned.Count == 0)
            return false;
        var row = await db.Editions.AsNoTracking().SingleAsync(e => e.ProductId == copy.Row.Id && e.Number == number);
        var onSale = WorkingCopy.Read(row.Document, copy.Shop.Currency);
        db.Editions.Add(
            new EditionRow
            {
                ProductId = row.ProductId,
                Number = number + 1,
                Document = DocumentWriter.Write(Turned(onSale, after, turned), ListedVariants.Differing).ToJsonString(),
                PublishedAt = clock.GetUtcNow(),
                PublishedBy = by.Name,
            }
        );
        (copy.Row.Edition, copy.Row.PublishedAt) = (number + 1, clock.GetUtcNow());
        await DueMarks.Mark(db, copy.Id);
        return Without(before, turned) == Without(after, turned);
    }

    /// <summary>What is on sale, off and on as the working copy has it.</summary>
    private static Product Turned(Product onSale, Product after, Dictionary<string, OffForNow?> turned)
    {
        var listed = onSale.Variants.Select(v => v.Values.Text).ToHashSet();
        return onSale with
        {
            Selling = onSale.Selling with { OffForNow = after.Selling.OffForNow },
            Variants =
            [
                .. onSale.Variants.Select(v =>
                    turned.TryGetValue(v.Values.Text, out var off) ? v with { Selling = v.Selling with { OffForNow = off } } : v
                ),
                .. from t in turned
                where t.Value is not null && !listed.Contains(t.Key)
                let values = Combination.Parse(t.Key)
                where onSale.Matrix().Find(values) is not null
                select new Variant(values) { Selling = new Selling { OffForNow = t.Value } },
            ],
        };
    }

    /// <summary>The rest of a product.</summary>
    private static Product Without(Product product, Dictionary<string, OffForNow?> turned) =>
        product with
        {
            Selling = product.Selling with { OffForNow = null },
            Variants =
            [
                .. product.Variants.Select(v =>
                    turned.ContainsKey(v.Values.Text) ? v with { Selling = v.Selling with { OffForNow = null } } : v
                ),
            ],
        };
}
