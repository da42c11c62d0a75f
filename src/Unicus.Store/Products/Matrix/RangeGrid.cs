using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Which variants of the whole range are meant.</summary>
/// <param name="Text">A piece of a product's name or code, or of a SKU.</param>
/// <param name="State">own (has a price of its own), no-gtin, retired, or empty.</param>
public sealed record RangeFilter(string Text, string Category, string State)
{
    public static IReadOnlyList<(string Key, string Label)> States { get; } =
    [("", "all"), ("own", "own price"), ("no-gtin", "no GTIN"), ("retired", "retired")];
}

/// <summary>Some variants of one product, loaded.</summary>
public sealed record RangeBlock(WorkingCopy Copy, ImmutableArray<MatrixVariant> Variants);

/// <summary>Some rows of the sheet over the whole range.</summary>
/// <param name="Total">Rows of the whole sheet.</param>
public sealed record RangeWindow(int Total, IReadOnlyList<RangeBlock> Blocks);

/// <summary>The matrix over the whole range: all products and variants as rows, typed and changed in bulk in one transaction.</summary>
/// <remarks>A variant is named <c>CODE|values</c>.</remarks>
public sealed class RangeGrid(UnicusContext db, MatrixCells cells, BulkChange bulk, OfficeLists lists, OfficeSums sums, Catalogue catalogue)
{
    /// <summary>Some rows of the sheet, and how many it has.</summary>
    public async Task<RangeWindow> Window(RangeFilter filter, int from, int count)
    {
        var found = await Query(filter);
        var total = await sums.Of($"variants {filter.Text}\n{filter.Category}\n{filter.State}", catalogue, () => found.CountAsync());
        var window = await found.OrderBy(x => x.NameKey).ThenBy(x => x.Code).ThenBy(x => x.Id).Skip(from).Take(count).ToListAsync();
        return new RangeWindow(total, await Load([.. window.Select(w => (w.Code, w.Values))]));
    }

    /// <summary>The names of all variants meant.</summary>
    public async Task<IReadOnlyList<string>> Names(RangeFilter filter) =>
        [
            .. (await (await Query(filter)).OrderBy(x => x.NameKey).ThenBy(x => x.Code).ThenBy(x => x.Id).ToListAsync()).Select(x =>
                $"{x.Code}|{x.Values}"
            ),
        ];

    /// <summary>The variants named, product by product in the order of the names.</summary>
    public async Task<IReadOnlyList<RangeBlock>> Load(IReadOnlyList<(string Code, string Values)> named)
    {
        var blocks = new List<RangeBlock>();
        foreach (var product in named.GroupBy(n => n.Code))
        {
            var values = product.Select(p => p.Values).ToHashSet();
            if (await WorkingCopy.Load(db, product.Key, scope: _ => new VariantScope(values)) is not { } copy)
                continue;
            blocks.Add(new RangeBlock(copy, [.. product.Select(p => copy.Matrix.Find(p.Values)).OfType<MatrixVariant>()]));
        }
        return blocks;
    }

    /// <summary>Writes typed cells of any products, all or none.</summary>
    /// <param name="tryOnly">Whether only the faults are wanted.</param>
    public async Task<Outcome> Write(IReadOnlyList<CellEdit> edits, Actor by, bool tryOnly = false)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var faults = new List<Fault>();
        foreach (var product in edits.GroupBy(e => Split(e.Values).Code).OrderBy(g => g.Key, StringComparer.Ordinal))
        {
            var outcome = await cells.Write(product.Key, [.. product.Select(e => e with { Values = Split(e.Values).Values })], by);
            faults.AddRange(outcome.Faults.Select(f => f with { Where = $"{product.Key}|{f.Where}" }));
            db.ChangeTracker.Clear();
        }
        if (faults.Count == 0 && !tryOnly)
            await transaction.CommitAsync();
        return new Outcome(faults);
    }

    /// <summary>Old and new of a bulk change, the first rows of each product.</summary>
    public async Task<BulkPreview> Preview(BulkRequest request)
    {
        var (count, rows, problem) = (0, ImmutableArray.CreateBuilder<BulkRow>(), (string?)null);
        Func<decimal, string> text = n => n.ToString("0.00");
        foreach (var product in request.Values.GroupBy(v => Split(v).Code))
        {
            if (
                await bulk.Preview(product.Key, request with { Values = [.. product.Select(v => Split(v).Values)], Filter = null })
                is not { } preview
            )
                continue;
            (count, text, problem) = (count + preview.Count, preview.Text, problem ?? preview.Problem);
            rows.AddRange(preview.Rows);
        }
        return new BulkPreview(count, rows.ToImmutable(), text, problem);
    }

    /// <summary>Applies a bulk change to variants of any products, all or none.</summary>
    public async Task<Outcome<int>> Apply(BulkRequest request, Actor by)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var count = 0;
        foreach (var product in request.Values.GroupBy(v => Split(v).Code).OrderBy(g => g.Key, StringComparer.Ordinal))
        {
            var outcome = await bulk.Apply(
                product.Key,
                request with
                {
                    Values = [.. product.Select(v => Split(v).Values)],
                    Filter = null,
                },
                by
            );
            if (!outcome.Done)
                return outcome with { Faults = [.. outcome.Faults.Select(f => f with { What = $"{product.Key}: {f.What}" })] };
            count += outcome.Result;
            db.ChangeTracker.Clear();
        }
        await transaction.CommitAsync();
        return Outcome<int>.Of(count);
    }

    public static (string Code, string Values) Split(string name) =>
        name.IndexOf('|') is >= 0 and var at ? (name[..at], name[(at + 1)..]) : ("", name);

    private sealed class VariantFound
    {
        public int Id { get; init; }
        public required string Code { get; init; }
        public required string NameKey { get; init; }
        public required string Values { get; init; }
    }

    private async Task<IQueryable<VariantFound>> Query(RangeFilter filter)
    {
        var variants = db.Variants.AsQueryable();
        if (filter.Text.Length > 0)
        {
            var found = await lists.Find(filter.Text);
            int[] products = [.. found.Products];
            int[] skus = [.. found.SkuIds];
            variants = variants.Where(v => products.Contains(v.ProductId) || skus.Contains(v.SkuId));
        }
        variants = filter.State switch
        {
            "own" => variants.Where(v => !v.Retired && v.Price != null),
            "no-gtin" => variants.Where(v => !v.Retired && v.Gtin == null),
            "retired" => variants.Where(v => v.Retired),
            _ => variants.Where(v => !v.Retired),
        };
        return from v in variants
               join p in db.Products on v.ProductId equals p.Id
               where p.PutAwayAt == null
               where filter.Category == "" || p.Categories.Any(c => c == filter.Category)
               select new VariantFound
               {
                   Id = v.Id,
                   Code = p.Code,
                   NameKey = p.Name.ToLower(),
                   Values = v.Values,
               };
    }
}
