using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Unicus.Store;

/// <summary>A list without its order and page.</summary>
/// <param name="Query">Ready for the database; null where nothing is searched for.</param>
/// <param name="Coded">The products that have the SKU or GTIN that is searched for.</param>
public sealed record ListScope(string? Query, ImmutableArray<int> Coded, int? Category, ImmutableArray<string> Picks, bool Buyable)
{
    /// <summary>What is searched for as names are kept, so that what is off the shelf is found by its exact name.</summary>
    public string NameKey { get; init; } = "";

    /// <summary>Names it among all.</summary>
    public string Key => $"{Query}\n{NameKey}\n{string.Join(',', Coded)}\n{Category}\n{string.Join(',', Picks)}\n{Buyable}";
}

/// <summary>How many products a list has.</summary>
/// <param name="Picks">And how many it would have with a value besides.</param>
/// <param name="Held">The categories that hold any product at all.</param>
public sealed record ListSums(int Total, IReadOnlyDictionary<string, int> Picks, IReadOnlySet<int> Held);

/// <summary>The names that lists are filtered by: categories, and the library's options with their values.</summary>
public sealed record ListNames(IReadOnlyList<ShopCategory> Categories, IReadOnlyList<Option> Options)
{
    private const int MostValues = 24;

    /// <summary>Whether a pick names an option and a value of the library.</summary>
    public bool IsKnown(string pick) =>
        pick.IndexOf('=') is > 0 and var at
        && Key.TryParse(pick[(at + 1)..], out var value)
        && Options.FirstOrDefault(o => o.Key.Text == pick[..at])?.Find(value) is not null;

    /// <summary>The options that lists can be filtered by, with the values that some product has.</summary>
    public IReadOnlyList<ListFilter> Filters(IReadOnlyDictionary<string, int> counts, ImmutableArray<string> on) =>
        [
            .. Options
                .Select(o => new ListFilter(
                    o.Key.Text,
                    o.Label,
                    [
                        .. o
                            .Values.Where(v => !v.DoesNotApply)
                            .Select(v => ($"{o.Key}={v.Key}", v.Label))
                            .Select(v => new FilterValue(v.Item1, v.Label, counts.GetValueOrDefault(v.Item1), on.Contains(v.Item1)))
                            .Where(v => v.Count > 0 || v.IsOn)
                            .Take(MostValues),
                    ]
                ))
                .Where(f => f.Values.Count > 1 || f.Values.Any(v => v.IsOn)),
        ];
}

/// <summary>Keeps what was counted for lists as long as no list changed.</summary>
public sealed class FacetCounts : IDisposable
{
    private readonly MemoryCache _kept = new(new MemoryCacheOptions { SizeLimit = 2_000 });
    private volatile KeptNames? _names;

    private sealed record KeptNames(string Stamp, ListNames Names);

    /// <summary>What was counted for a list, or is counted now.</summary>
    public async Task<ListSums> Of(ListScope asked, Catalogue catalogue, Func<Task<ListSums>> count)
    {
        var stamp = catalogue.Stamps.Lists;
        var key = $"{stamp}\n{asked.Key}";
        if (catalogue.Stamps.AreTold && _kept.TryGetValue(key, out ListSums? kept))
            return kept!;
        var sums = await count();
        if (catalogue.Stamps.AreTold && catalogue.Stamps.Lists == stamp)
            _kept.Set(key, sums, new MemoryCacheEntryOptions { Size = 1, AbsoluteExpirationRelativeToNow = TimeSpan.FromMinutes(5) });
        return sums;
    }

    /// <summary>The names in force.</summary>
    public async Task<ListNames> Names(UnicusContext db, Catalogue catalogue)
    {
        var stamp = catalogue.Stamps.Lists;
        if (catalogue.Stamps.AreTold && _names is { } kept && kept.Stamp == stamp)
            return kept.Names;
        var categories = await db.Categories.AsNoTracking().OrderBy(c => c.Name).ToListAsync();
        var currency = (await catalogue.Terms.Settings(db)).Currency;
        var options = await OptionLibrary.Options(db, currency);
        var names = new ListNames([.. categories.Select(ShopCategory.Of)], options);
        _names = new KeptNames(stamp, names);
        return names;
    }

    /// <inheritdoc/>
    public void Dispose() => _kept.Dispose();
}
