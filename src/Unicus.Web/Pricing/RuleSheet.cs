using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Pricing;

/// <summary>A rule as it is being written: its sentence as a form, and what it would do.</summary>
public sealed class RuleSheet
{
    /// <summary>So many tried prices are shown.</summary>
    public const int MostTriedRows = 100;

    /// <summary>Where it is saved.</summary>
    public required string SaveUrl { get; init; }

    /// <summary>Where it is tried while it is typed.</summary>
    public required string TryUrl { get; init; }

    /// <summary>Where it is copied, archived, or taken out; null where it is not kept yet, or cannot be.</summary>
    public string? CopyUrl { get; init; }

    /// <inheritdoc cref="CopyUrl"/>
    public string? ArchiveUrl { get; init; }

    /// <inheritdoc cref="CopyUrl"/>
    public string? RemoveUrl { get; init; }

    public required ShopSettings Shop { get; init; }
    public required PriceRuleWords Words { get; init; }
    public required IReadOnlyList<CustomerGroup> Groups { get; init; }
    public required RuleFields Fields { get; init; }
    public IReadOnlyList<Option> Options { get; init; } = [];
    public PriceRule? Rule { get; init; }
    public IReadOnlyList<Fault> Faults { get; init; } = [];

    /// <summary>The version that was seen, which goes along with a change; 0 for a new one.</summary>
    public int Version { get; init; }

    /// <summary>Where the rule that is kept stands; null for a new one.</summary>
    public RulePhase? Kept { get; init; }

    public bool IsArchived { get; init; }

    /// <summary>Whether it is a product's own.</summary>
    public bool IsOwn { get; init; }

    public TrialFound? Tried { get; set; }
    public string TriedAt { get; set; } = "";
    public QuantityChart? Chart { get; set; }
    public IEnumerable<TriedPrice> TriedRows => Tried?.Prices.Take(MostTriedRows) ?? [];

    /// <summary>The day on which it starts, where that is to come; null: it acts at once.</summary>
    public string? Planned => Rule?.When.From is { } from && TriedAt.StartsWith("as on") ? Words.Moment(from).Split(',')[0] : null;

    /// <summary>What is said beneath a field; null where nothing is wrong.</summary>
    public string? Problem(string pointer) => Faults.FirstOrDefault(f => f.Where.StartsWith(pointer, StringComparison.Ordinal))?.What;

    public string Amount(long minor) => MinorUnits.ToMoney(minor, Shop.Currency).ForPeople();
}
