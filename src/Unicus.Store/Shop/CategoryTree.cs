using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>A category with its place in the tree.</summary>
/// <param name="Depth">0 at the top.</param>
/// <param name="Products">How many products name it.</param>
public sealed record CategoryBranch(ShopCategory Category, int Depth, int Products);

/// <summary>The tree of categories: who is below whom, and which products are in which.</summary>
public sealed class CategoryTree(UnicusContext db, RangeEntries index, TimeProvider clock)
{
    /// <summary>Every category, each followed by those below it.</summary>
    public async Task<IReadOnlyList<CategoryBranch>> All()
    {
        var rows = await db.Categories.AsNoTracking().OrderBy(c => c.Name).ToListAsync();
        var named = (await db.Products.AsNoTracking().Select(p => p.Categories).ToListAsync())
            .SelectMany(c => c)
            .GroupBy(c => c, StringComparer.OrdinalIgnoreCase)
            .ToDictionary(g => g.Key, g => g.Count(), StringComparer.OrdinalIgnoreCase);
        var branches = new List<CategoryBranch>();
        void Add(int? parent, int depth)
        {
            foreach (var row in rows.Where(r => r.ParentId == parent))
            {
                branches.Add(new CategoryBranch(ShopCategory.Of(row), depth, named.GetValueOrDefault(row.Name)));
                Add(row.Id, depth + 1);
            }
        }
        Add(null, 0);
        return branches;
    }

    /// <summary>Their names, in their order.</summary>
    public async Task<IReadOnlyList<string>> Names() => await db.Categories.OrderBy(c => c.Name).Select(c => c.Name).ToListAsync();

    /// <summary>Those of some names that there are.</summary>
    public async Task<IReadOnlyList<ShopCategory>> Named(IReadOnlyCollection<string> names) =>
        [.. (await db.Categories.AsNoTracking().Where(c => names.Contains(c.Name)).ToListAsync()).Select(ShopCategory.Of)];

    /// <summary>The codes of the products that name a category.</summary>
    public async Task<IReadOnlyList<string>> ProductsIn(string category) =>
        await db.Products.Where(p => p.Categories.Contains(category)).Select(p => p.Code).ToListAsync();

    public async Task<Outcome> Create(string? name, int? parent)
    {
        var typed = (name ?? "").Trim();
        if (typed.Length is 0 or > 80 || typed.Contains(','))
            return Outcome.No("name", "A category needs a name of at most 80 characters, without commas.");
        await using var transaction = await db.Database.BeginTransactionAsync();
        await Locks.CategoryNames(db);
        if (await db.Categories.AnyAsync(c => EF.Functions.ILike(c.Name, typed)))
            return Outcome.No("name", $"There is a category {typed} already.");
        var key = Key.From(
            typed,
            (await db.Categories.Select(c => c.Key).ToListAsync()).Where(k => Key.TryParse(k, out _)).Select(Key.Of).ToHashSet(),
            "category"
        );
        db.Categories.Add(
            new CategoryRow
            {
                Key = key.Text,
                Name = typed,
                ParentId = parent,
            }
        );
        await db.SaveChangesAsync();
        await index.Recategorise();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>Changes a category; products that name it follow a new name.</summary>
    public async Task<Outcome> Change(
        int id,
        string? name,
        int? parent,
        string? search,
        ImmutableArray<string> options,
        ImmutableArray<string> specifications,
        Func<string, string, Task<Outcome>> rename
    )
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        await Locks.CategoryNames(db);
        var row = await db.Categories.SingleOrDefaultAsync(c => c.Id == id);
        if (row is null)
            return Outcome.No("", "That category is gone.");
        var typed = (name ?? "").Trim();
        if (typed.Length is 0 or > 80 || typed.Contains(','))
            return Outcome.No("name", "A category needs a name of at most 80 characters, without commas.");
        if (await db.Categories.AnyAsync(c => c.Id != id && EF.Functions.ILike(c.Name, typed)))
            return Outcome.No("name", $"There is a category {typed} already.");
        for (
            var above = parent;
            above is not null;
            above = await db.Categories.Where(c => c.Id == above).Select(c => c.ParentId).SingleOrDefaultAsync()
        )
            if (above == id)
                return Outcome.No("parent", $"{row.Name} cannot lie below itself.");
        if (search?.Length > 200)
            return Outcome.No("search", "A saved search has at most 200 characters.");
        var old = row.Name;
        (row.Name, row.ParentId, row.Search, row.Options, row.Specifications) = (
            typed,
            parent,
            string.IsNullOrWhiteSpace(search) ? null : search.Trim(),
            [.. options],
            [.. specifications]
        );
        await db.SaveChangesAsync();
        if (old != typed && await rename(old, typed) is { Done: false } refused)
            return refused;
        if (old != typed)
            await PriceBooks.FollowCategory(db, old, typed, clock.GetUtcNow());
        await index.Recategorise();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>Takes out a category that no product names; those below it move up.</summary>
    public async Task<Outcome> Remove(int id)
    {
        var row = await db.Categories.AsNoTracking().SingleOrDefaultAsync(c => c.Id == id);
        if (row is null)
            return Outcome.Ok;
        if (await db.Products.AnyAsync(p => p.Categories.Contains(row.Name)))
            return Outcome.No("", $"Products are in {row.Name}. Take it off them first.");
        await using var transaction = await db.Database.BeginTransactionAsync();
        await db.Categories.Where(c => c.ParentId == id).ExecuteUpdateAsync(u => u.SetProperty(c => c.ParentId, row.ParentId));
        await db.Categories.Where(c => c.Id == id).ExecuteDeleteAsync();
        await index.Recategorise();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }
}
