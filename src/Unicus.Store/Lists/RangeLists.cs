using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace Unicus.Store;

/// <summary>The order of a list.</summary>
public enum ListOrder
{
    /// <summary>As the merchant placed them.</summary>
    Position,

    /// <summary>By name.</summary>
    Name,

    /// <summary>The lowest price first.</summary>
    Price,

    /// <summary>What came last on sale first.</summary>
    Newest,
}

/// <summary>A list of the shop as asked for.</summary>
/// <param name="Search">As typed; empty for everything that is listed.</param>
/// <param name="Category">The key of a category; null for all.</param>
/// <param name="Picks">Values of the library's options, as <c>option=value</c>; of each option at most one counts.</param>
/// <param name="Buyable">Whether only what can be bought now is wanted.</param>
/// <param name="Page">From 1; one beyond the last is the last.</param>
public sealed record ListQuery(string Search, string? Category, ImmutableArray<string> Picks, bool Buyable, ListOrder Order, long Page);

/// <summary>A value that a list can be filtered by.</summary>
/// <param name="Count">How many products the list would have with it.</param>
/// <param name="IsOn">Whether it is.</param>
public sealed record FilterValue(string Pick, string Label, int Count, bool IsOn);

/// <summary>An option that a list can be filtered by.</summary>
public sealed record ListFilter(string Option, string Label, IReadOnlyList<FilterValue> Values);

/// <summary>A page of a list.</summary>
/// <param name="Category">The category that it is of; null for none.</param>
/// <param name="Categories">Those to choose from, none empty.</param>
/// <param name="Total">Products on all pages.</param>
/// <param name="Page">The page that this is, from 1.</param>
/// <param name="Instead">The words that were searched for in place of a slip of typing; null where there was none.</param>
public sealed record ListPage(
    IReadOnlyList<ShownProduct> Items,
    ShopCategory? Category,
    IReadOnlyList<ShopCategory> Categories,
    IReadOnlyList<ListFilter> Filters,
    int Total,
    int Page,
    int Pages,
    string? Instead
);

/// <summary>Reads the shop's lists from the index, page by page.</summary>
public sealed class RangeLists(UnicusContext db, FiguresOfNow now, FacetCounts counts, Catalogue catalogue)
{
    /// <summary>Products on a page.</summary>
    public const int PageSize = 24;

    /// <summary>Reads a page of a list. What is unknown in the query is left aside.</summary>
    public async Task<ListPage> Read(ListQuery query)
    {
        var names = await counts.Names(db, catalogue);
        var category = names.Categories.FirstOrDefault(c => c.Key == query.Category);
        var picks = query.Picks.Where(names.IsKnown).DistinctBy(OptionOf).Order(StringComparer.Ordinal).ToImmutableArray();
        var search = query.Search.Length > 0 ? await SearchWords.Ready(db, query.Search) : null;
        var coded = search is null ? [] : await WithCode(query.Search);
        var asked = new ListScope(search?.Query, coded, category?.Id, picks, query.Buyable)
        {
            NameKey = SearchWords.Fold(query.Search.Trim()),
        };
        var sums = await counts.Of(asked, catalogue, () => Count(asked));
        var pages = Math.Max(1, (sums.Total + PageSize - 1) / PageSize);
        var page = (int)Math.Clamp(query.Page, 1, pages);
        var items = await now.In(await Items(asked, query.Order, page));
        if (query.Order == ListOrder.Price)
            items = [.. items.OrderBy(i => i.Figures.FromPrice ?? decimal.MaxValue).ThenBy(i => i.NameKey, StringComparer.Ordinal)];
        return new ListPage(
            [.. items.Select(ShownProduct.Of)],
            category,
            Branches(names.Categories, category, sums.Held),
            names.Filters(sums.Picks, picks),
            sums.Total,
            page,
            pages,
            search?.Instead
        );
    }

    /// <summary>A category by its name with those above it, from the top; empty where there is none.</summary>
    public async Task<IReadOnlyList<ShopCategory>> Trail(string? category)
    {
        var all = (await counts.Names(db, catalogue)).Categories;
        var trail = new List<ShopCategory>();
        var at = all.FirstOrDefault(c => string.Equals(c.Name, category, StringComparison.OrdinalIgnoreCase));
        for (; at is not null && !trail.Contains(at); at = all.FirstOrDefault(c => c.Id == trail[0].ParentId))
            trail.Insert(0, at);
        return trail;
    }

    /// <summary>What the start page leads with now.</summary>
    public async Task<IReadOnlyList<ShownProduct>> Featured()
    {
        var found = await db
            .RangeEntries.AsNoTracking()
            .Include(e => e.Figures)
            .Where(e => e.Featured && e.Figures.FromPrice != null)
            .OrderBy(e => e.Position)
            .ThenBy(e => e.NameKey)
            .Take(MostFeatured)
            .ToListAsync();
        return [.. (await now.In(found)).Select(ShownProduct.Of)];
    }

    private const int MostFeatured = 6;

    /// <summary>The products with just this SKU or GTIN.</summary>
    private async Task<ImmutableArray<int>> WithCode(string typed)
    {
        var code = typed.Trim().ToUpperInvariant();
        var bySku = db.Skus.Where(s => s.CodeKey == code).Select(s => s.ProductId);
        return [.. await bySku.Union(db.Variants.Where(v => v.Gtin == code).Select(v => v.ProductId)).ToListAsync()];
    }

    private static string OptionOf(string pick) => pick[..pick.IndexOf('=')];

    /// <summary>Those at the top, and those below the one that is open; none that would be empty.</summary>
    private static List<ShopCategory> Branches(IReadOnlyList<ShopCategory> all, ShopCategory? open, IReadOnlySet<int> held) =>
        [.. all.Where(c => (c.ParentId is null || c.ParentId == open?.Id || c.Id == open?.Id) && held.Contains(c.Id))];

    private async Task<IReadOnlyList<RangeEntryRow>> Items(ListScope asked, ListOrder order, int page)
    {
        var by = order switch
        {
            ListOrder.Name => "e.name_key, e.product_id",
            ListOrder.Price => "f.from_price nulls last, f.name_key, f.product_id",
            ListOrder.Newest => "e.since desc, e.product_id desc",
            _ => "e.position, e.name_key, e.product_id",
        };
        var where = new Conditions(asked, asked.Picks);
        if (order == ListOrder.Position && asked.NameKey.Length > 0)
            by = $"{Fit(where.Add(asked.NameKey), where.Add(asked.Coded.ToArray()))}, {by}";
        var sql = $"""
            select e.* from range_entries e join range_figures f on f.product_id = e.product_id
            where {where.Sql} order by {by} limit {PageSize} offset {(page - 1) * PageSize}
            """;
        var items = await db.RangeEntries.FromSqlRaw(sql, [.. where.Parameters]).AsNoTracking().ToListAsync();
        int[] ids = [.. items.Select(i => i.ProductId)];
        var figures = await db.RangeFigures.AsNoTracking().Where(f => ids.Contains(f.ProductId)).ToDictionaryAsync(f => f.ProductId);
        // What was put away between the two has none.
        items.RemoveAll(i => !figures.ContainsKey(i.ProductId));
        foreach (var item in items)
            item.Figures = figures[item.ProductId];
        return items;
    }

    /// <summary>What fits best is first: a name that begins so, a word of it, a code, then whatever else holds the words.</summary>
    private static string Fit(string name, string coded) =>
        $"""
            case when starts_with(e.name_key, {name}) then 0 when e.product_id = any({coded}) then 1
              when position(' ' || {name} in e.name_key) > 0 then 2 when starts_with(lower(e.code), {name}) then 3 else 4 end
            """;

    /// <summary>How many products a list has, and how many it would have with each value besides.</summary>
    private async Task<ListSums> Count(ListScope asked)
    {
        var all = new Conditions(asked, asked.Picks);
        var counting = $"select count(*)::int as \"Value\" from range_entries e where {all.Sql}";
        var total = await db.Database.SqlQueryRaw<int>(counting, [.. all.Parameters]).SingleAsync();
        var found = new Dictionary<string, int>();
        // An option that is filtered by is counted without its own filter, so that another of its values can be chosen.
        foreach (var own in asked.Picks.Select(p => (string?)OptionOf(p)).Append(null))
        {
            var others = asked.Picks.Where(p => own is null || OptionOf(p) != own).ToImmutableArray();
            foreach (var pick in await CountPicks(asked, others, own, asked.Picks))
                found[pick.Pick] = pick.Count;
        }
        var held = await db
            .Database.SqlQuery<int>(
                $"""
                select c.id as "Value" from categories c
                where exists (select 1 from range_entries e where e.listed and e.categories @> array[c.id])
                """
            )
            .ToListAsync();
        return new ListSums(total, found, held.ToHashSet());
    }

    private async Task<List<CountedPick>> CountPicks(
        ListScope asked,
        ImmutableArray<string> others,
        string? own,
        ImmutableArray<string> all
    )
    {
        var where = new Conditions(asked, []);
        string[] leftOut = [.. all.Select(p => OptionOf(p) + "=")];
        var which = own is null
            ? "not exists (select 1 from unnest({0}) x where p like x || '%')".Replace("{0}", where.Add(leftOut))
            : $"p like {where.Add(own + "=%")}";
        var sql = $"""
            select p as "Pick", count(distinct o.product_id)::int as "Count"
            from range_offers o join range_entries e on e.product_id = o.product_id cross join unnest(o.picks) p
            where {where.Sql} and o.buyable and o.picks @> {where.Add(others.ToArray())} and {which} group by p
            """;
        return await db.Database.SqlQueryRaw<CountedPick>(sql, [.. where.Parameters]).ToListAsync();
    }

    private sealed record CountedPick(string Pick, int Count);

    /// <summary>What entries have to fulfil, as SQL with its parameters.</summary>
    private sealed class Conditions
    {
        public Conditions(ListScope asked, ImmutableArray<string> picks)
        {
            var all = new List<string>();
            if (asked.Query is { } words)
            {
                var found = words.Length == 0 ? "false" : $"e.words @@ to_tsquery('simple', {Add(words)})";
                all.Add(
                    $"e.searchable and (e.listed or e.name_key = {Add(asked.NameKey)} or e.product_id = any({Add(asked.Coded.ToArray())}))"
                );
                all.Add(asked.Coded.IsEmpty ? found : $"({found} or e.product_id = any({Add(asked.Coded.ToArray())}))");
            }
            else
                all.Add("e.listed");
            if (asked.Category is { } category)
                all.Add($"e.categories @> array[{Add(category)}]");
            if (asked.Buyable)
                all.Add("exists (select 1 from range_figures b where b.product_id = e.product_id and b.from_price is not null)");
            if (!picks.IsEmpty)
                all.Add(
                    "exists (select 1 from range_offers o where o.product_id = e.product_id and o.buyable "
                        + $"and o.picks @> {Add(picks.ToArray())})"
                );
            Sql = string.Join(" and ", all);
        }

        public string Sql { get; }
        public List<NpgsqlParameter> Parameters { get; } = [];

        public string Add(object value)
        {
            Parameters.Add(new NpgsqlParameter($"c{Parameters.Count}", value));
            return $"@c{Parameters.Count - 1}";
        }
    }
}
