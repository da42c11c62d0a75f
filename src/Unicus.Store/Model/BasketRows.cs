namespace Unicus.Store;

/// <summary>A shopper's basket.</summary>
internal sealed class BasketRow
{
    public Guid Id { get; set; }

    /// <summary>The lines as JSON.</summary>
    public string Lines { get; set; } = "[]";

    public DateTimeOffset ChangedAt { get; set; }

    /// <summary>Counts up with every change, so that what is ordered is what was looked at.</summary>
    public int Version { get; set; }

    /// <summary>Where it goes, as the shopper said; null while they have not.</summary>
    public string? Destination { get; set; }

    /// <summary>The coupons that the shopper typed.</summary>
    public string[] Coupons { get; set; } = [];

    /// <summary>The code of a customer group that the shopper typed; null for none.</summary>
    public string? GroupCode { get; set; }

    /// <summary>The version that became the newest order made of this basket; null while there is none.</summary>
    public int? OrderedVersion { get; set; }

    /// <summary>The address piece of that order.</summary>
    public string? OrderToken { get; set; }
}
