using System.Text.Json;
using NpgsqlTypes;

namespace Unicus.Store;

/// <summary>A former address of the shop that leads to a product.</summary>
internal sealed class AddressAlias
{
    public required string Address { get; set; }
    public int ProductId { get; set; }

    /// <summary>The variant that it meant, by the canonical text of its values; empty for the product.</summary>
    public string Values { get; set; } = "";
}

/// <summary>The working copy of a product; its variants are rows of their own.</summary>
internal sealed class ProductRow
{
    public int Id { get; set; }
    public required string Code { get; set; }
    public required string Name { get; set; }

    /// <summary>The address of the working copy, unique in the shop.</summary>
    public required string Address { get; set; }

    /// <summary>The product document without variants.</summary>
    public required string Definition { get; set; }

    /// <summary>Counts up with every change; the entity tag of the HTTP interface.</summary>
    public int Version { get; set; }

    public DateTimeOffset ChangedAt { get; set; }
    public int? Edition { get; set; }
    public DateTimeOffset? PublishedAt { get; set; }

    /// <summary>The version that the newest edition was made from.</summary>
    public int? PublishedVersion { get; set; }

    /// <summary>Since when it is put away; null: it is not.</summary>
    public DateTimeOffset? PutAwayAt { get; set; }

    public string? PutAwayBy { get; set; }

    /// <summary>The edition that was on sale when it was put away, for when it is brought back.</summary>
    public int? AwayEdition { get; set; }

    /// <summary>The unit that a weight was last typed in.</summary>
    public string WeightUnit { get; set; } = "kg";

    /// <summary>The unit that a length was last typed in.</summary>
    public string LengthUnit { get; set; } = "cm";

    // A summary for lists: kept with every change, for very many variants when it is next asked for.

    /// <summary>The version that the summary is of.</summary>
    public int SummaryVersion { get; set; }

    public int VariantCount { get; set; }
    public int NotMadeCount { get; set; }

    /// <summary>Places for parts; 0 for a product without.</summary>
    public int SlotCount { get; set; }

    /// <summary>Whether its parts are sold separately.</summary>
    public bool IsGroup { get; set; }

    public decimal? LowestPrice { get; set; }
    public decimal? HighestPrice { get; set; }
    public decimal? LowestMargin { get; set; }
    public decimal? HighestMargin { get; set; }
    public int StopCount { get; set; }
    public int DoubtCount { get; set; }
    public bool Counted { get; set; } = true;

    /// <summary>Units available of all its SKUs, as they were when they were last added up.</summary>
    public long Available { get; set; }

    public string? Picture { get; set; }
    public string[] Categories { get; set; } = [];
    public string[] Tags { get; set; } = [];

    /// <summary>What a search looks at, folded by <see cref="SearchWords"/>.</summary>
    public string SearchText { get; set; } = "";

    /// <summary>The words of <see cref="SearchText"/>; made by the database.</summary>
    public NpgsqlTsVector Words { get; private set; } = null!;
}

/// <summary>One made variant, or a retired one whose values are gone.</summary>
internal sealed class VariantRow
{
    public int Id { get; set; }
    public int ProductId { get; set; }

    /// <summary>The canonical text of its combination.</summary>
    public required string Values { get; set; }

    public int SkuId { get; set; }

    /// <summary>The code of its SKU; not a column.</summary>
    public string SkuCode { get; set; } = "";

    public string? Gtin { get; set; }
    public decimal? Price { get; set; }
    public decimal? Rrp { get; set; }
    public decimal? Cost { get; set; }
    public int? WeightGrams { get; set; }
    public int? LengthMm { get; set; }
    public int? WidthMm { get; set; }
    public int? HeightMm { get; set; }
    public string? TaxClass { get; set; }
    public int? LeadTimeDays { get; set; }
    public int? LowLevel { get; set; }

    /// <summary>What one unit holds, with <see cref="NetUnit"/>.</summary>
    public decimal? NetQuantity { get; set; }

    public string? NetUnit { get; set; }
    public string? CustomsCode { get; set; }
    public string? Origin { get; set; }

    /// <summary>Its own terms of selling as JSON, or null.</summary>
    public string? Selling { get; set; }

    public bool Retired { get; set; }
    public string? Note { get; set; }
    public string? Picture { get; set; }

    /// <summary>The document of the product that it was before it was brought into this one, as JSON, or null.</summary>
    public string? Former { get; set; }

    public VariantRow Copy() => (VariantRow)MemberwiseClone();
}

/// <summary>A stock keeping unit. Never deleted while anything may still speak of it.</summary>
internal sealed class SkuRow
{
    public int Id { get; set; }
    public required string Code { get; set; }

    /// <summary>The code in capitals; unique.</summary>
    public required string CodeKey { get; set; }

    public int ProductId { get; set; }
}

/// <summary>A former code of a SKU, so that editions and orders still find it.</summary>
internal sealed class SkuAlias
{
    public required string CodeKey { get; set; }
    public required string Code { get; set; }
    public int SkuId { get; set; }
}

/// <summary>A published state of a product. Never changed.</summary>
internal sealed class EditionRow
{
    public int ProductId { get; set; }
    public int Number { get; set; }
    public required string Document { get; set; }
    public DateTimeOffset PublishedAt { get; set; }
    public required string PublishedBy { get; set; }
}

/// <summary>One change of a working copy, in words, with what is needed to undo it.</summary>
internal sealed class ProductChange
{
    public long Id { get; set; }
    public int ProductId { get; set; }

    /// <summary>The version that this change made.</summary>
    public int Version { get; set; }

    public required string Sentence { get; set; }
    public required string By { get; set; }
    public DateTimeOffset At { get; set; }

    /// <summary>What was before, as JSON; null where it cannot be undone.</summary>
    public string? Before { get; set; }

    /// <summary>What it had made, as JSON, once it is undone: to do it again.</summary>
    public string? After { get; set; }

    public bool Undone { get; set; }

    /// <summary>Whether it went on sale by itself, so that it does not wait to be published.</summary>
    public bool AtOnce { get; set; }

    /// <summary>Names the stay in a field in which it was typed, so that what is typed next there belongs to the same change; null
    /// otherwise.</summary>
    public string? Typing { get; set; }
}

/// <summary>A picture, re-encoded, in three sizes.</summary>
internal sealed class ExtraSetRow
{
    public int Id { get; set; }
    public required string Key { get; set; }

    /// <summary>Name, reach, extras and rules, as JSON.</summary>
    public required string Definition { get; set; }

    public int Version { get; set; }
}

/// <summary>What a shared set of extras was before a change, so that it can be taken back.</summary>
internal sealed class ExtraSetChange
{
    public int Id { get; set; }
    public required string Key { get; set; }
    public required string Name { get; set; }

    /// <summary>The definition that was overwritten or removed.</summary>
    public required string Before { get; set; }

    public bool Removed { get; set; }
    public required string By { get; set; }
    public DateTimeOffset At { get; set; }
}
