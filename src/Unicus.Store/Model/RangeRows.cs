using System.Text.Json;
using NpgsqlTypes;

namespace Unicus.Store;

/// <summary>A published product in the index that the shop's lists are read from.</summary>
internal sealed class RangeEntryRow
{
    public int ProductId { get; set; }
    public required string Code { get; set; }

    /// <summary>The address of its page.</summary>
    public required string Address { get; set; }

    public required string Name { get; set; }

    /// <summary>The name as lists order it.</summary>
    public required string NameKey { get; set; }

    public string? Summary { get; set; }
    public string? Picture { get; set; }

    /// <summary>Its place in lists; those without one have the last.</summary>
    public int Position { get; set; }

    public bool Listed { get; set; }
    public bool Searchable { get; set; }

    /// <summary>Since when it is on sale, by its first edition.</summary>
    public DateTimeOffset Since { get; set; }

    /// <summary>The categories that hold it, with those above them.</summary>
    public int[] Categories { get; set; } = [];

    /// <summary>The products of the parts that its extras name.</summary>
    public int[] PartProducts { get; set; } = [];

    /// <summary>The categories that it names.</summary>
    public string[] Named { get; set; } = [];

    /// <summary>What saved searches of categories look at.</summary>
    public string Description { get; set; } = "";

    public string SearchText { get; set; } = "";
    public NpgsqlTsVector Words { get; private set; } = null!;

    /// <summary>The product's own words on its picture; empty for none.</summary>
    public string OwnBadge { get; set; } = "";

    /// <summary>Whether the start page leads with it now.</summary>
    public bool Featured { get; set; }

    /// <summary>What hangs on prices, stock and day.</summary>
    public RangeFiguresRow Figures { get; set; } = null!;
}

/// <summary>What lists show of a product that hangs on prices, stock and day. A row of its own, since a rule that starts changes those of
/// the whole range at once, and the indexes over words and categories need not be written with them.</summary>
internal sealed class RangeFiguresRow
{
    public int ProductId { get; set; }

    /// <summary>The name as lists order it among equal prices.</summary>
    public required string NameKey { get; set; }

    /// <summary>The exact lowest price of what can be bought now; null where nothing can.</summary>
    public decimal? FromPrice { get; set; }

    /// <summary>Whether anything costs more than that.</summary>
    public bool Varies { get; set; }

    /// <summary>What needed answers add once for a line; null where they add nothing.</summary>
    public decimal? Once { get; set; }

    /// <summary>What the rules that bring the price down are called, with their last day; empty where none does.</summary>
    public string Badge { get; set; } = "";

    /// <summary>What stands in place of a price where nothing can be bought.</summary>
    public string NoneWords { get; set; } = "";

    /// <summary>The next moment at which the price or what can be had changes by itself; null where none is known.</summary>
    public DateTimeOffset? ChangesAt { get; set; }
}

/// <summary>What the figures of a product in lists start from, so that its document need not be read where only rules of prices
/// change.</summary>
internal sealed class RangeBasisRow
{
    public int ProductId { get; set; }

    /// <summary>As JSON; written and read by nobody else.</summary>
    public required string Content { get; set; }
}

/// <summary>A combination of values of the library's options that variants of a published product have.</summary>
internal sealed class RangeOfferRow
{
    public int ProductId { get; set; }
    public int Place { get; set; }

    /// <summary>Option and value, joined by an equals sign.</summary>
    public string[] Picks { get; set; } = [];

    /// <summary>Whether a variant with them can be bought now.</summary>
    public bool Buyable { get; set; }
}

/// <summary>A product whose figures in lists are to be worked out anew, since its stock moved or other rules are in force.</summary>
internal sealed class RangeDueRow
{
    public long Id { get; set; }
    public int ProductId { get; set; }

    /// <summary>Whether nothing but rules of prices changed.</summary>
    public bool PricesOnly { get; set; }
}

/// <summary>A word that stands in some product, so that slips of typing find it.</summary>
internal sealed class SearchWordRow
{
    public required string Word { get; set; }
}

/// <summary>Products that were bought together more often than by chance.</summary>
internal sealed class BoughtTogetherRow
{
    public int ProductId { get; set; }
    public int OtherId { get; set; }

    /// <summary>Orders that hold both.</summary>
    public int Orders { get; set; }

    /// <summary>How many times as often as by chance.</summary>
    public double Lift { get; set; }
}
