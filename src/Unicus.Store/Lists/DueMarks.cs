using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Marks products of which lists show figures that are to be worked out anew (<c>range_due</c>); <see cref="RangeFigures"/> works
/// them out. Triggers mark what rules, terms and shared sets reach.</summary>
internal static class DueMarks
{
    /// <summary>Marks a product; of the sets that take it as a part the figures are worked out with its own.</summary>
    public static Task Mark(UnicusContext db, int product) =>
        db.Database.ExecuteSqlAsync($"insert into range_due (product_id) values ({product})");

    /// <summary>Marks what takes a product as a part, and not itself.</summary>
    public static Task MarkWhatTakes(UnicusContext db, int product) =>
        db.Database.ExecuteSqlAsync(
            $"insert into range_due (product_id) select product_id from range_entries where part_products @> array[{product}]"
        );
}
