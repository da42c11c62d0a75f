namespace Unicus.Store;

/// <summary>The range as asked for in the back office.</summary>
/// <param name="Search">Words in any order, or a code, SKU or GTIN; empty for all.</param>
/// <param name="Show">mend, doubt, changed, draft, away (put away), or empty.</param>
/// <param name="Category">A name; empty for all.</param>
/// <param name="Made">variants, plain, sets, groups, or empty.</param>
/// <param name="Sort">A column, with a minus before it for the other way; empty for what changed last.</param>
/// <param name="Page">From 1; one beyond the last is the last.</param>
public sealed record RangeQuery(string Search, string Show, string Category, string Made, string Sort, long Page);

/// <summary>How many products there are, and in which states.</summary>
public sealed record RangeSums(int Products, long Variants, int ToMend, int Doubtful, int Changed, int Drafts, int Away);

/// <summary>A product as lists show it; its document is not read.</summary>
public sealed record ListedProduct(
    int Id,
    string Code,
    string Name,
    string? Picture,
    int Version,
    int? Edition,
    int? PublishedVersion,
    int VariantCount,
    int NotMadeCount,
    int SlotCount,
    bool IsGroup,
    decimal? LowestPrice,
    decimal? HighestPrice,
    decimal? LowestMargin,
    decimal? HighestMargin,
    int StopCount,
    int DoubtCount,
    bool Counted,
    string[] Categories,
    bool IsAway
)
{
    /// <summary>Whether it was changed since its newest edition.</summary>
    public bool IsChanged => Edition is not null && PublishedVersion != Version;
}

/// <summary>A page of the range.</summary>
/// <param name="Available">Units available by product, exact.</param>
/// <param name="OnSale">Of sets and groups that are on sale, what the shop says of them.</param>
public sealed record RangePage(
    IReadOnlyList<ListedProduct> Rows,
    IReadOnlyDictionary<int, long> Available,
    IReadOnlyDictionary<int, SetOnSale> OnSale,
    RangeSums Sums,
    int Total,
    int Page,
    int Pages
);

/// <summary>What the shop says of a set or group.</summary>
/// <param name="From">The lowest price of what can be bought now; null where nothing can.</param>
/// <param name="Varies">Whether anything costs more than that.</param>
/// <param name="Sets">How many can be sold over all mixes; null for a group, and where nothing limits them.</param>
public sealed record SetOnSale(Money? From, bool Varies, long? Sets);
