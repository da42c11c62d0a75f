using System.Linq.Expressions;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Pages, sorts and searches the back office's lists in the database.</summary>
public sealed class OfficeLists(UnicusContext db, Catalogue catalogue, OfficeSums sums, TimeProvider clock)
{
    /// <summary>Rows on a page.</summary>
    public const int PageSize = 50;

    /// <summary>So many products or SKUs are looked at whose code begins with what is searched for.</summary>
    private const int MostByCode = 2_000;

    /// <summary>A page of the range.</summary>
    public async Task<RangePage> Range(RangeQuery query)
    {
        await Summaries.RefreshAll(db);
        var all = await sums.Of("range", catalogue, CountRange);
        var fitting = await Fitting(query);
        var isWhole = query is { Search: "", Show: "", Category: "", Made: "" };
        var total = isWhole ? all.Products : await fitting.CountAsync();
        var pages = Math.Max(1, (total + PageSize - 1) / PageSize);
        var page = (int)Math.Clamp(query.Page, 1, pages);
        var rows = await Sorted(fitting, query.Sort).Skip((page - 1) * PageSize).Take(PageSize).Select(Listed).ToListAsync();
        var ids = rows.Select(r => r.Id).ToArray();
        var available = await db
            .Levels.Where(l => ids.Contains(l.ProductId))
            .GroupBy(l => l.ProductId)
            .Select(g => new { g.Key, Sum = g.Sum(l => (long)l.OnHand - l.Allocated - l.OnHold) })
            .ToDictionaryAsync(x => x.Key, x => x.Sum);
        return new RangePage(rows, available, await OnSale(rows), all, total, page, pages);
    }

    private async Task<Dictionary<int, SetOnSale>> OnSale(IReadOnlyList<ListedProduct> rows)
    {
        var found = new Dictionary<int, SetOnSale>();
        var now = clock.GetUtcNow();
        foreach (var row in rows.Where(r => r is { SlotCount: > 0, Edition: not null }))
            if (await catalogue.Editions.Latest(db, row.Id) is { } edition)
            {
                var range = await catalogue.Editions.Range(db, edition);
                var levels = await catalogue.Board.Stock(db, edition, range);
                var stock = new StockOutlook(levels.Of, (await catalogue.Terms.Settings(db)).DayAt(now));
                var terms = new ConfigurationTerms(range, stock, await catalogue.Terms.PublicTerms(db, now));
                var figures = ListFigures.Of(edition, terms);
                var sets = SetCounts.Of(ConfigurationStatus.Of(edition, Configuration.Empty, Filling.None, terms))?.Most;
                found[row.Id] = new SetOnSale(figures.From, figures.Varies, sets);
            }
        return found;
    }

    /// <summary>A page of SKUs that have moved.</summary>
    /// <param name="search">Words of a product, or the beginning of a SKU, or a GTIN; empty for all.</param>
    /// <param name="which">Which of them.</param>
    public async Task<StockPage> Stock(string search, StockFilter which, long page)
    {
        var (noneLeft, low) = (which == StockFilter.NoneLeft, which == StockFilter.Low);
        var moved = await sums.Of(
            "moved",
            catalogue,
            () => db.Database.SqlQuery<int>($"select count(distinct sku_id)::int as \"Value\" from levels").SingleAsync(),
            ofStock: true
        );
        var found = search.Length == 0 ? null : await Find(search);
        int[] products = found is null ? [] : [.. found.Products];
        int[] skus = found is null ? [] : [.. found.SkuIds];
        var at = (int)Math.Clamp(page, 1, 1_000_000);
        var ids = await db
            .Database.SqlQuery<int>(
                $"""
                select s.id as "Value" from skus s
                where exists (select 1 from levels l where l.sku_id = s.id)
                  and ({found is null} or s.product_id = any({products}) or s.id = any({skus}))
                  and (not {noneLeft} or (select sum(l.on_hand - l.allocated - l.on_hold) from levels l where l.sku_id = s.id) <= 0)
                  and (not {low} or (select sum(l.on_hand - l.allocated - l.on_hold) from levels l where l.sku_id = s.id)
                    <= (select w.low from low_levels w where w.sku_id = s.id))
                order by s.code_key limit {PageSize + 1} offset {(at - 1L) * PageSize}
                """
            )
            .ToListAsync();
        return new StockPage(await StockOf([.. ids.Take(PageSize)]), moved, at, ids.Count > PageSize);
    }

    /// <summary>The stock of one SKU; null where there is none.</summary>
    public async Task<SkuStock?> StockOf(int sku) => await StockOf([sku]) is [var one, ..] ? one : null;

    /// <summary>The stock of SKUs, in the order of their codes.</summary>
    private async Task<IReadOnlyList<SkuStock>> StockOf(int[] skus) =>
        await Named(
            await db
                .Database.SqlQuery<SkuStock>(
                    $"""
                    select s.code as sku, p.code, p.name as product, coalesce(v."values", '') as "values",
                      (select w.low from low_levels w where w.sku_id = s.id) as low,
                      '' as variant, coalesce(l.on_hand, 0) as on_hand, coalesce(l.allocated, 0) as allocated,
                      coalesce(l.on_hold, 0) as on_hold, coalesce(l.on_order, 0) as on_order
                    from skus s join products p on p.id = s.product_id
                    left join lateral (select v."values" from variants v where v.sku_id = s.id order by v.id limit 1) v on true
                    left join lateral (
                      select sum(on_hand)::int on_hand, sum(allocated)::int allocated, sum(on_hold)::int on_hold,
                        sum(on_order)::int on_order from levels where sku_id = s.id
                    ) l on true
                    where s.id = any({skus}) order by s.code_key
                    """
                )
                .ToListAsync()
        );

    /// <summary>The same with what their values are called.</summary>
    private async Task<IReadOnlyList<SkuStock>> Named(IReadOnlyList<SkuStock> rows)
    {
        string[] codes = [.. rows.Where(r => r.Values.Length > 0).Select(r => r.Code).Distinct()];
        var currency = (await catalogue.Terms.Settings(db)).Currency;
        var options = (
            await db.Products.AsNoTracking().Where(p => codes.Contains(p.Code)).Select(p => new { p.Code, p.Definition }).ToListAsync()
        ).ToDictionary(p => p.Code, p => WorkingCopy.Read(p.Definition, currency).Options);
        return
        [
            .. rows.Select(r => options.TryGetValue(r.Code, out var of) ? r with { Variant = Combination.Parse(r.Values).Name(of) } : r),
        ];
    }

    /// <summary>Finds products by their words, and SKUs by their beginning or their GTIN.</summary>
    public async Task<FoundGoods> Find(string search)
    {
        var ready = await SearchWords.Ready(db, search);
        var byWords =
            ready.Query.Length == 0
                ? []
                : await db
                    .Products.Where(p => p.Words.Matches(EF.Functions.ToTsQuery("simple", ready.Query)))
                    .OrderBy(p => p.Name.ToLower())
                    .Select(p => new NamedProduct(p.Id, p.Name, p.Code))
                    .Take(MostByCode)
                    .ToListAsync();
        var typed = SearchWords.Fold(search.Trim());
        return new FoundGoods([.. byWords.OrderBy(p => p.Fit(typed)).Select(p => p.Id)], await FindSkus(search), ready.Instead);
    }

    private sealed record NamedProduct(int Id, string Name, string Code)
    {
        /// <summary>What fits best is first: a name that begins so, a word of it, a code, then whatever else holds the words.</summary>
        public int Fit(string typed)
        {
            var name = SearchWords.Fold(Name);
            return name.StartsWith(typed, StringComparison.Ordinal) ? 0
                : name.Contains($" {typed}", StringComparison.Ordinal) ? 1
                : Code.StartsWith(typed, StringComparison.OrdinalIgnoreCase) ? 2
                : 3;
        }
    }

    /// <summary>SKUs by their beginning, and by their GTIN.</summary>
    private async Task<IReadOnlyList<FoundSku>> FindSkus(string search)
    {
        var code = search.Trim().ToUpperInvariant();
        var bySku = await db
            .Skus.Where(s => s.CodeKey.StartsWith(code))
            .OrderBy(s => s.CodeKey)
            .Take(MostByCode)
            .Select(s => new FoundSku(s.Id, s.Code, s.ProductId))
            .ToListAsync();
        if (code.Length >= 8 && code.All(char.IsAsciiDigit))
            bySku.AddRange(
                await db
                    .Variants.Where(v => v.Gtin == code)
                    .Join(db.Skus, v => v.SkuId, s => s.Id, (_, s) => new FoundSku(s.Id, s.Code, s.ProductId))
                    .ToListAsync()
            );
        return bySku;
    }

    private async Task<RangeSums> CountRange() =>
        await db
            .Products.GroupBy(p => 1)
            .Select(g => new RangeSums(
                g.Count(p => p.PutAwayAt == null),
                g.Sum(p =>
                    p.PutAwayAt != null ? 0L
                    : p.VariantCount < 1 ? 1L
                    : p.VariantCount
                ),
                g.Count(p => p.PutAwayAt == null && p.StopCount > 0),
                g.Count(p => p.PutAwayAt == null && p.StopCount == 0 && p.DoubtCount > 0),
                g.Count(p => p.Edition != null && p.PublishedVersion != p.Version),
                g.Count(p => p.PutAwayAt == null && p.Edition == null),
                g.Count(p => p.PutAwayAt != null)
            ))
            .SingleOrDefaultAsync()
        ?? new RangeSums(0, 0, 0, 0, 0, 0, 0);

    private async Task<IQueryable<ProductRow>> Fitting(RangeQuery query)
    {
        var products = db.Products.AsNoTracking().Where(p => p.PutAwayAt != null == (query.Show == "away"));
        products = query.Show switch
        {
            "mend" => products.Where(p => p.StopCount > 0),
            "doubt" => products.Where(p => p.StopCount == 0 && p.DoubtCount > 0),
            "changed" => products.Where(p => p.Edition != null && p.PublishedVersion != p.Version),
            "draft" => products.Where(p => p.Edition == null),
            _ => products,
        };
        products = query.Made switch
        {
            "variants" => products.Where(p => p.VariantCount > 0),
            "plain" => products.Where(p => p.VariantCount == 0 && p.SlotCount == 0),
            "sets" => products.Where(p => p.SlotCount > 0 && !p.IsGroup),
            "groups" => products.Where(p => p.IsGroup),
            _ => products,
        };
        if (query.Category.Length > 0)
            products = products.Where(p => p.Categories.Any(c => c == query.Category));
        if (query.Search.Length == 0)
            return products;
        var words = (await SearchWords.Ready(db, query.Search)).Query;
        int[] ids = [.. (await FindSkus(query.Search)).Select(s => s.ProductId).Distinct()];
        if (words.Length == 0)
            return products.Where(p => ids.Contains(p.Id));
        return ids.Length == 0
            ? products.Where(p => p.Words.Matches(EF.Functions.ToTsQuery("simple", words)))
            : products.Where(p => p.Words.Matches(EF.Functions.ToTsQuery("simple", words)) || ids.Contains(p.Id));
    }

    private static Expression<Func<ProductRow, ListedProduct>> Listed { get; } =
        p => new ListedProduct(
            p.Id,
            p.Code,
            p.Name,
            p.Picture,
            p.Version,
            p.Edition,
            p.PublishedVersion,
            p.VariantCount,
            p.NotMadeCount,
            p.SlotCount,
            p.IsGroup,
            p.LowestPrice,
            p.HighestPrice,
            p.LowestMargin,
            p.HighestMargin,
            p.StopCount,
            p.DoubtCount,
            p.Counted,
            p.Categories,
            p.PutAwayAt != null
        );

    private static IQueryable<ProductRow> Sorted(IQueryable<ProductRow> products, string sort) =>
        sort switch
        {
            "name" => products.OrderBy(p => p.Name.ToLower()).ThenBy(p => p.Id),
            "-name" => products.OrderByDescending(p => p.Name.ToLower()).ThenByDescending(p => p.Id),
            "made" => products.OrderBy(p => p.VariantCount).ThenBy(p => p.Id),
            "-made" => products.OrderByDescending(p => p.VariantCount).ThenByDescending(p => p.Id),
            "price" => products.OrderBy(p => p.LowestPrice).ThenBy(p => p.Id),
            "-price" => products.OrderByDescending(p => p.LowestPrice).ThenByDescending(p => p.Id),
            "margin" => products.OrderBy(p => p.LowestMargin).ThenBy(p => p.Id),
            "-margin" => products.OrderByDescending(p => p.LowestMargin).ThenByDescending(p => p.Id),
            "available" => products.OrderBy(p => p.Available).ThenBy(p => p.Id),
            "-available" => products.OrderByDescending(p => p.Available).ThenByDescending(p => p.Id),
            "category" => products.OrderBy(p => p.Categories).ThenBy(p => p.Id),
            "-category" => products.OrderByDescending(p => p.Categories).ThenByDescending(p => p.Id),
            "state" => products.OrderByDescending(p => p.StopCount).ThenByDescending(p => p.DoubtCount).ThenBy(p => p.Id),
            "-state" => products.OrderBy(p => p.StopCount).ThenBy(p => p.DoubtCount).ThenByDescending(p => p.Id),
            "-" => products.OrderBy(p => p.ChangedAt).ThenBy(p => p.Id),
            _ => products.OrderByDescending(p => p.ChangedAt).ThenByDescending(p => p.Id),
        };
}

/// <summary>A SKU that a search found.</summary>
public sealed record FoundSku(int Id, string Code, int ProductId);

/// <summary>What a search found.</summary>
/// <param name="Products">By their words, in the order of their names.</param>
/// <param name="BySku">By their beginning, in order; then by their GTIN.</param>
/// <param name="Instead">The words that were searched for in place of a slip of typing; null where there was none.</param>
public sealed record FoundGoods(IReadOnlyList<int> Products, IReadOnlyList<FoundSku> BySku, string? Instead)
{
    /// <summary>The numbers of the SKUs.</summary>
    public IEnumerable<int> SkuIds => BySku.Select(s => s.Id);
}
