using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>What was kept of a product when its figures in lists were last worked out from its document and its stock.</summary>
/// <param name="Until">The moment from which day or stock may say something else; null for none.</param>
/// <param name="None">What stands in place of a price where nothing can be bought.</param>
internal sealed record KeptBasis(ListBasis Basis, DateTimeOffset? Until, string None, bool IsListed, bool IsFound, bool IsFeatured);

/// <summary>Figures of lists worked out from what was kept, for products of which nothing but rules of prices changed: no documents and no
/// stock are read.</summary>
internal sealed class KeptBases(UnicusContext db, RunTerms terms, DateTimeOffset now)
{
    private Dictionary<int, IReadOnlySet<string>> _categories = [];
    private ILookup<int, string> _named = Array.Empty<NamedSku>().ToLookup(n => n.Product, n => n.CodeKey);

    private PriceBook Book => terms.Buying.Book;

    /// <summary>The figures of those products of which enough was kept.</summary>
    public async Task<List<ShownFigures>> FiguresOf(int[] products)
    {
        if (products.Length == 0)
            return [];
        var rows = await db.RangeBases.AsNoTracking().Where(b => products.Contains(b.ProductId)).ToListAsync();
        var kept = rows.ToDictionary(r => r.ProductId, r => JsonSerializer.Deserialize<KeptBasis>(r.Content)!);
        if (kept.Count > 0)
            await LookUp([.. kept.Keys]);
        return [.. kept.Where(k => !(k.Value.Until <= now)).Select(k => Shown(k.Key, k.Value)).OfType<ShownFigures>()];
    }

    /// <summary>Keeps, or forgets, what products start from whose figures were worked out in full.</summary>
    public static async Task Write(UnicusContext db, IEnumerable<ShownFigures> shown)
    {
        var worked = shown.Where(s => s.Offers is not null).ToDictionary(s => s.Product, s => s.Basis);
        int[] ids = [.. worked.Keys];
        if (ids.Length == 0)
            return;
        // Mostly it is as it was.
        var there = await db
            .RangeBases.AsNoTracking()
            .Where(b => ids.Contains(b.ProductId))
            .ToDictionaryAsync(b => b.ProductId, b => b.Content);
        int[] gone = [.. there.Keys.Where(id => worked[id] is null)];
        var changed = worked
            .Where(w => w.Value is not null)
            .Select(w => (Product: w.Key, Content: JsonSerializer.Serialize(w.Value)))
            .Where(w => there.GetValueOrDefault(w.Product) != w.Content)
            .ToList();
        int[] products = [.. changed.Select(c => c.Product)];
        string[] contents = [.. changed.Select(c => c.Content)];
        if (products.Length > 0)
            await db.Database.ExecuteSqlAsync(
                $"""
                insert into range_bases (product_id, content) select * from unnest({products}, {contents})
                on conflict (product_id) do update set content = excluded.content
                """
            );
        if (gone.Length > 0)
            await db.RangeBases.Where(b => gone.Contains(b.ProductId)).ExecuteDeleteAsync();
    }

    private ShownFigures? Shown(int product, KeptBasis kept)
    {
        var categories = _categories.GetValueOrDefault(product) ?? ImmutableHashSet<string>.Empty;
        if (kept.Basis.Figures(categories, rule => rule.NamedSkus.Any(_named[product].Contains), terms) is not var (figures, changes))
            return null;
        return new ShownFigures(product, figures, figures.From is null ? kept.None : "", Earlier(changes, kept.Until), null)
        {
            Badge = PriceRuleWords.Badges(figures.Acting, terms.Buying.Zone),
            IsListed = kept.IsListed,
            IsFound = kept.IsFound,
            IsFeatured = kept.IsFeatured,
        };
    }

    /// <summary>The earlier of two moments; null where there is neither.</summary>
    public static DateTimeOffset? Earlier(DateTimeOffset? one, DateTimeOffset? other) => one < other ? one : other ?? one;

    /// <summary>Finds what rules ask of products besides what was kept of them.</summary>
    private async Task LookUp(int[] products)
    {
        if (Book.Rules.Any(r => !r.Scope.Categories.IsEmpty))
        {
            var names = (await PriceBooks.Tree(db)).ToDictionary(c => c.Id, c => c.Name);
            var entries = await db
                .RangeEntries.Where(e => products.Contains(e.ProductId))
                .Select(e => new
                {
                    e.ProductId,
                    e.Categories,
                    e.Named,
                })
                .ToListAsync();
            _categories = entries.ToDictionary(
                e => e.ProductId,
                IReadOnlySet<string> (e) =>
                    e
                        .Categories.Where(names.ContainsKey)
                        .Select(id => names[id])
                        .Concat(e.Named)
                        .ToHashSet(StringComparer.OrdinalIgnoreCase)
            );
        }
        string[] named = [.. Book.Rules.Where(r => r.State == RuleState.On).SelectMany(r => r.NamedSkus).Distinct()];
        if (named.Length > 0)
            _named = (
                await db
                    .Database.SqlQuery<NamedSku>(
                        $"""
                        select product_id as "Product", code_key from skus
                        where product_id = any({products}) and code_key = any({named})
                        union select s.product_id, a.code_key from sku_aliases a join skus s on s.id = a.sku_id
                        where s.product_id = any({products}) and a.code_key = any({named})
                        """
                    )
                    .ToListAsync()
            ).ToLookup(n => n.Product, n => n.CodeKey);
    }

    private sealed record NamedSku(int Product, string CodeKey);
}
