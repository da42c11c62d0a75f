using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Keeps the figures that lists show of a product.</summary>
public static class Summaries
{
    /// <summary>After a change, within its transaction: what is known without looking at variants. Prices, margins and checks follow when
    /// they are next asked for, or in the background.</summary>
    /// <param name="row">Of the working copy; the caller saves it.</param>
    /// <param name="after">The product as it is now.</param>
    internal static async Task AfterChange(UnicusContext db, ProductRow row, Product after)
    {
        var made = new MadeSet(after.Options, after.NotMade);
        row.NotMadeCount = made.Combinations - made.Count;
        row.VariantCount = after.Options.IsEmpty ? 0 : made.Count - await db.Variants.CountAsync(v => v.ProductId == row.Id && v.Retired);
        Count(row, after);
    }

    /// <inheritdoc cref="AfterChange(UnicusContext, ProductRow, Product)"/>
    public static async Task AfterChange(UnicusContext db, string code)
    {
        var key = code.ToUpperInvariant();
        var row = await db.Products.SingleAsync(p => p.Code == key);
        await AfterChange(db, row, WorkingCopy.Read(row.Definition, (await ShopSettings.Load(db)).Currency));
        await db.SaveChangesAsync();
    }

    /// <summary>Brings some summaries up to date that are not.</summary>
    /// <returns>How many were not.</returns>
    public static async Task<int> RefreshSome(UnicusContext db, int most)
    {
        var codes = await db
            .Products.Where(p => p.SummaryVersion != p.Version)
            .OrderBy(p => p.Id)
            .Select(p => p.Code)
            .Take(most)
            .ToListAsync();
        foreach (var code in codes)
        {
            await Refresh(db, code);
            db.ChangeTracker.Clear();
        }
        return codes.Count;
    }

    /// <summary>Brings the summary of a product that is loaded up to date if it is not.</summary>
    public static async Task Refresh(UnicusContext db, WorkingCopy copy)
    {
        if (copy.Row.SummaryVersion != copy.Row.Version)
            await Write(db, copy);
    }

    /// <summary>Brings the summary of a product up to date if it is not.</summary>
    public static async Task Refresh(UnicusContext db, string code)
    {
        if (
            await db.Products.AnyAsync(p => p.Code == code && p.SummaryVersion != p.Version) && await WorkingCopy.Load(db, code) is { } copy
        )
            await Write(db, copy);
    }

    /// <summary>Brings all summaries up to date that are not.</summary>
    public static async Task RefreshAll(UnicusContext db)
    {
        foreach (var code in await db.Products.Where(p => p.SummaryVersion != p.Version).Select(p => p.Code).ToListAsync())
            await Refresh(db, code);
    }

    private static async Task Write(UnicusContext db, WorkingCopy copy)
    {
        PriceSpan? span = null;
        decimal? lowest = null,
            highest = null;
        foreach (var v in copy.Matrix.Offered)
        {
            if (v.Price.Figure is { } price)
                span = PriceSpan.Of([span?.Lowest, span?.Highest, price]);
            if (Margins.Of(copy.Matrix, copy.Shop.Terms, v)?.Margin is { } m)
                (lowest, highest) = (Math.Min(lowest ?? m, m), Math.Max(highest ?? m, m));
        }
        var row = await db.Products.SingleAsync(p => p.Id == copy.Row.Id);
        Count(row, copy.Product);
        row.NotMadeCount = copy.Matrix.NotMadeCount;
        row.Available = copy.WholeStock.Available;
        row.VariantCount = copy.Product.Options.IsEmpty ? 0 : copy.Matrix.OfferedCount;
        (row.LowestPrice, row.HighestPrice) = (span?.Lowest.Amount, span?.Highest.Amount);
        (row.LowestMargin, row.HighestMargin) = (
            lowest is { } l ? decimal.Round(l, 4) : null,
            highest is { } h ? decimal.Round(h, 4) : null
        );
        (row.StopCount, row.DoubtCount) = copy.CheckCounts;
        row.SummaryVersion = copy.Row.Version;
        await SearchWords.Learn(db, row.SearchText);
        await db.SaveChangesAsync();
    }

    private static void Count(ProductRow row, Product product)
    {
        row.Counted = product.Selling.Counted != false;
        (row.SlotCount, row.IsGroup) = (product.Parts?.Slots.Length ?? 0, product.IsGroup);
        row.SearchText = SearchWords.TextOf(product);
        row.Picture = product.Pictures.FirstOrDefault()?.File;
        (row.Categories, row.Tags) = ([.. product.Categories], [.. product.Tags]);
    }
}
