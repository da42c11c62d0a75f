using System.Collections.Concurrent;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>The shared sets of extras of the shop.</summary>
public static class ExtraSets
{
    /// <summary>For each database, the sets as last read, so that the same list is given while nothing changes.</summary>
    private static readonly ConcurrentDictionary<string, StampedSets> Last = new();

    private sealed record StampedSets(string Stamp, IReadOnlyList<ExtraSet> Sets);

    /// <summary>All sets by key. While none changes, the very same list.</summary>
    public static async Task<IReadOnlyList<ExtraSet>> Load(UnicusContext db)
    {
        var name = db.Database.GetConnectionString() ?? "";
        var versions = await db.ExtraSets.AsNoTracking().OrderBy(s => s.Key).Select(s => new { s.Id, s.Version }).ToListAsync();
        var stamp = string.Join(' ', versions.Select(v => $"{v.Id}.{v.Version}"));
        if (Last.TryGetValue(name, out var kept) && kept.Stamp == stamp)
            return kept.Sets;
        var currency = (await ShopSettings.Load(db)).Currency;
        var rows = await db.ExtraSets.AsNoTracking().OrderBy(s => s.Key).ToListAsync();
        IReadOnlyList<ExtraSet> sets = [.. rows.Select(r => Read(r.Definition, currency))];
        Last[name] = new StampedSets(string.Join(' ', rows.Select(r => $"{r.Id}.{r.Version}")), sets);
        return sets;
    }

    internal static ExtraSet Read(string definition, Currency currency)
    {
        using var json = JsonDocument.Parse(definition);
        var (set, faults) = ExtraSetDocument.Read(json.RootElement, currency, stored: true);
        return set ?? throw new InvalidOperationException($"A stored set of extras cannot be read: {faults[0].Where} {faults[0].What}");
    }
}
