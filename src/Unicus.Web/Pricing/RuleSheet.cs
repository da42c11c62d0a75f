using Unicus.Store;

namespace Unicus.Web.Pricing;

/// <summary>A rule as it is being written: its sentence as a form, and what it would do.</summary>
public sealed class RuleSheet
{
    private const int MostExamples = 3;

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

    /// <summary>The options that are offered for “where”: a product's own, or those of the library.</summary>
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

    public TrialFound? Tried { get; private set; }
    public string TriedAt { get; private set; } = "";
    public QuantityChart? Chart { get; private set; }

    /// <summary>The first prices that would change, with how each would come about.</summary>
    public IReadOnlyList<TriedExample> Examples { get; private set; } = [];

    /// <summary>Takes what a trial found.</summary>
    public void Take(TrialFound tried, PriceRule rule, string at)
    {
        (Tried, TriedAt) = (tried, at);
        Chart = QuantityChart.Of(rule, tried.Prices.Select(p => p.Goods).FirstOrDefault(), tried.Then);
        Examples =
        [
            .. tried
                .Prices.Take(MostExamples)
                .Select(p => (p.Goods.Figures.Name, Working: WorkingOf(p, tried, rule)))
                .Where(e => e.Working is not null)
                .Select(e => new TriedExample(e.Name, e.Working!)),
        ];
    }

    private static PriceWorking? WorkingOf(TriedPrice price, TrialFound tried, PriceRule rule)
    {
        var page = rule.Scope.Through ?? price.Goods.Edition.Product.Code.Text;
        var line = new RunLine(price.Goods, Configuration.Empty, price.Quantity, [], page);
        return LineWorking.Of(line, tried.Then, PublishedRange.Empty);
    }

    public IEnumerable<TriedPrice> TriedRows => Tried?.Prices.Take(MostTriedRows) ?? [];

    /// <summary>The day on which it starts, where that is to come; null: it acts at once.</summary>
    public string? Planned => Rule?.When.From is { } from && TriedAt.StartsWith("as on") ? Words.Moment(from).Split(',')[0] : null;

    /// <summary>What is said beneath a field; null where nothing is wrong.</summary>
    public string? Problem(string pointer) => Faults.FirstOrDefault(f => f.Where.StartsWith(pointer, StringComparison.Ordinal))?.What;

    public string Amount(long minor) => MinorUnits.ToMoney(minor, Shop.Currency).ForPeople();
}

/// <summary>A price that would change, with its working.</summary>
public sealed record TriedExample(string Goods, PriceWorking Working);
