using System.Text.Json;
using NpgsqlTypes;

namespace Unicus.Store;

/// <summary>The shop: one row.</summary>
internal sealed class ShopRow
{
    public int Id { get; set; } = 1;
    public string Name { get; set; } = "";
    public string TimeZone { get; set; } = "Europe/Dublin";

    /// <summary>Currency, tax mode, classes and destinations, as JSON.</summary>
    public string Terms { get; set; } = "{}";

    /// <summary>Whether the sign-in page offers the demo account.</summary>
    public bool OffersDemoAccount { get; set; }

    /// <summary>The hosts that films may come from, besides this shop.</summary>
    public string[] VideoHosts { get; set; } = [];

    /// <summary>SHA-256 of the one-time code that the first account needs; null where nobody was asked for one.</summary>
    public string? FirstCodeHash { get; set; }

    /// <summary>The language and country by which amounts are written for shoppers (BCP 47).</summary>
    public string Locale { get; set; } = PriceForm.UsualLocale;

    /// <summary>After so many months names and addresses are erased from orders that have ended; null: never by itself.</summary>
    public int? BuyersKeptMonths { get; set; }

    public int Version { get; set; }

    /// <summary>When the shop was ready to be served; null while it is being made, so that what was left half made is made
    /// anew.</summary>
    public DateTimeOffset? FoundedAt { get; set; }

    /// <summary>The version that served it last, so that backups tell; null before there were any.</summary>
    public string? ServedBy { get; set; }
}

/// <summary>A place where stock lies.</summary>
internal sealed class LocationRow
{
    public int Id { get; set; }
    public required string Key { get; set; }
    public required string Name { get; set; }
    public int Position { get; set; }
}

/// <summary>A category of goods, in a tree.</summary>
internal sealed class CategoryRow
{
    public int Id { get; set; }
    public required string Key { get; set; }
    public required string Name { get; set; }
    public int? ParentId { get; set; }

    /// <summary>A saved search whose products belong to it besides those that name it; null for none.</summary>
    public string? Search { get; set; }

    /// <summary>Keys of the library's options that its products usually have.</summary>
    public string[] Options { get; set; } = [];

    /// <summary>Labels of the specifications that its products usually have.</summary>
    public string[] Specifications { get; set; } = [];
}

/// <summary>An option kept once for the whole shop.</summary>
internal sealed class LibraryOptionRow
{
    public int Id { get; set; }
    public required string Key { get; set; }
    public required string Label { get; set; }

    /// <summary>The option with its values, as in documents.</summary>
    public required string Document { get; set; }

    public int Version { get; set; }
}

/// <summary>A reply kept under its idempotency key.</summary>
internal sealed class KeptReply
{
    public required string Key { get; set; }
    public required string BodyHash { get; set; }
    public int Status { get; set; }
    public string Body { get; set; } = "";
    public DateTimeOffset At { get; set; }
}

/// <summary>A message that the shop would send: the simulated stand-in for mail.</summary>
internal sealed class OutboxMessage
{
    public int Id { get; set; }
    public DateTimeOffset At { get; set; }
    public required string To { get; set; }
    public required string Subject { get; set; }
    public required string Body { get; set; }

    /// <summary>Whether it holds a link that opens an account: only owners read it in the back office.</summary>
    public bool IsPrivate { get; set; }

    /// <summary>When the stand-in for mail took it; null while it waits.</summary>
    public DateTimeOffset? SentAt { get; set; }
}
