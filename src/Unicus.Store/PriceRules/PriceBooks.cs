using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Reads the shop's price rules and customer groups as one book.</summary>
public static class PriceBooks
{
    /// <summary>The book as it is now, without what is archived.</summary>
    public static async Task<PriceBook> Load(UnicusContext db, Currency currency)
    {
        var rules = await db.PriceRules.AsNoTracking().Where(r => !r.Archived).OrderBy(r => r.Key).ToListAsync();
        var groups = await db.CustomerGroups.AsNoTracking().OrderBy(g => g.Key).ToListAsync();
        return new PriceBook(await WithEveryName(db, [.. rules.Select(r => Read(r.Document, currency))]), await Tree(db))
        {
            Groups = [.. groups.Select(g => new CustomerGroup(Key.Of(g.Key), g.Label, g.Code))],
        };
    }

    /// <summary>Every rule as it is stored, by key, those kept aside among them.</summary>
    public static async Task<IReadOnlyList<StoredRule>> Stored(UnicusContext db, Currency currency)
    {
        var rows = await db.PriceRules.AsNoTracking().OrderBy(r => r.Key).ToListAsync();
        return [.. rows.Select(r => new StoredRule(Read(r.Document, currency), r.Version, r.Archived))];
    }

    /// <summary>The rules with the SKUs that they name under every name that these have or had: a working copy may have another than
    /// the edition on sale.</summary>
    private static async Task<IReadOnlyList<PriceRule>> WithEveryName(UnicusContext db, IReadOnlyList<PriceRule> rules)
    {
        var named = rules.SelectMany(r => r.NamedSkus).Distinct().ToArray();
        if (named.Length == 0)
            return rules;
        var other = await db
            .Database.SqlQuery<OtherName>(
                $"""
                with named as (
                    select code_key, id from skus where code_key = any({named})
                    union all select code_key, sku_id from sku_aliases where code_key = any({named}))
                select n.code_key as "Named", s.code_key as "Other" from named n join skus s on s.id = n.id and s.code_key <> n.code_key
                union all
                select n.code_key, a.code_key from named n join sku_aliases a on a.sku_id = n.id and a.code_key <> n.code_key
                """
            )
            .ToListAsync();
        if (other.Count == 0)
            return rules;
        var names = other.ToLookup(n => n.Named, n => n.Other);
        return [.. rules.Select(r => r.NamedSkus.Any(names.Contains) ? r.Naming(sku => names[sku].Prepend(sku)) : r)];
    }

    private sealed record OtherName(string Named, string Other);

    /// <summary>Reads a stored rule.</summary>
    /// <exception cref="InvalidOperationException">It is damaged.</exception>
    public static PriceRule Read(string document, Currency currency)
    {
        using var json = JsonDocument.Parse(document);
        var faults = new List<Fault>();
        return new PriceRuleReader(currency).Rule(new Node(json.RootElement, "#", faults)) is { } rule && faults.Count == 0
            ? rule
            : throw new InvalidOperationException($"A stored price rule cannot be read: {faults[0].Where} {faults[0].What}");
    }

    /// <summary>The names of the products that rules name, by their codes; those that are gone are missing.</summary>
    public static async Task<Dictionary<string, string>> Names(UnicusContext db, IEnumerable<PriceRule> rules)
    {
        var codes = rules
            .SelectMany(r => r.Scope.Products.Append(r.Scope.Through ?? "").Append(r.Owner ?? ""))
            .Where(c => c.Length > 0)
            .Distinct()
            .ToArray();
        return await db.Products.AsNoTracking().Where(p => codes.Contains(p.Code)).ToDictionaryAsync(p => p.Code, p => p.Name);
    }

    /// <summary>Lets the rules that name a category follow its new name, within the caller's transaction.</summary>
    public static async Task FollowCategory(UnicusContext db, string from, string into, DateTimeOffset at)
    {
        var currency = (await ShopSettings.Load(db)).Currency;
        foreach (var row in await db.PriceRules.ToListAsync())
        {
            var rule = Read(row.Document, currency);
            var categories = rule.Scope.Categories;
            if (!categories.Contains(from, StringComparer.OrdinalIgnoreCase))
                continue;
            var named = categories.Select(c => string.Equals(c, from, StringComparison.OrdinalIgnoreCase) ? into : c);
            row.Document = PriceRuleWriter.Write(rule with { Scope = rule.Scope with { Categories = [.. named] } }).ToJsonString();
            row.Version++;
        }
        await db.SaveChangesAsync();
        await PriceHistory.Note(db, at);
    }

    /// <summary>All categories.</summary>
    public static async Task<IReadOnlyList<Category>> Tree(UnicusContext db) =>
        await db.Categories.AsNoTracking().Select(c => new Category(c.Id, c.Name, c.ParentId, c.Search)).ToListAsync();
}
