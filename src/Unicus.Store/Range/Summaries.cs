using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>Keeps the figures that lists show of a product.</summary>
public static class Summaries
{
    /// <summary>After a change: at once for a small product; a large one is left for when it is next asked for.</summary>
    public static async Task AfterChange(UnicusContext db, string code)
    {
        var copy = (await WorkingCopy.Load(db, code, scope: WorkingCopy.WholeIfSmall()))!;
        if (copy.IsWhole)
            await Write(db, copy);
        else
            await WriteCounts(db, copy);
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
            if (Margins.Of(copy, v)?.Margin is { } m)
                (lowest, highest) = (Math.Min(lowest ?? m, m), Math.Max(highest ?? m, m));
        }
        var row = await db.Products.SingleAsync(p => p.Id == copy.Row.Id);
        Count(row, copy);
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

    private static async Task WriteCounts(UnicusContext db, WorkingCopy copy)
    {
        var row = await db.Products.SingleAsync(p => p.Id == copy.Row.Id);
        Count(row, copy);
        row.VariantCount = copy.Matrix.Made.Count - await db.Variants.CountAsync(v => v.ProductId == row.Id && v.Retired);
        await db.SaveChangesAsync();
    }

    private static void Count(ProductRow row, WorkingCopy copy)
    {
        row.NotMadeCount = copy.Matrix.NotMadeCount;
        row.Counted = copy.Product.Selling.Counted != false;
        row.SearchText = SearchWords.TextOf(copy.Product, []);
        row.Available = copy.WholeStock.Available;
        row.Picture = copy.Product.Pictures.FirstOrDefault()?.File;
        (row.Categories, row.Tags) = ([.. copy.Product.Categories], [.. copy.Product.Tags]);
    }
}
