using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Makes what a sheet names and the shop has not: products of its rows, and values of options.</summary>
public sealed class SheetProducts(UnicusContext db, TimeProvider clock, ChangeProduct products, ChangeOptions options)
{
    /// <summary>Rows of products that are there, and rows of those that are to be made.</summary>
    internal sealed record SortedRows(Dictionary<string, List<SheetRow>> Known, List<FreshRows> Fresh);

    /// <summary>Rows of a product that is to be made.</summary>
    /// <param name="Code">As typed; empty where none was.</param>
    internal sealed record FreshRows(string Code, string Name, List<SheetRow> Rows);

    /// <summary>Tells rows by the product that they name: by its code, else by its name.</summary>
    internal async Task<SortedRows> Sorted(string? code, IReadOnlyList<SheetRow> rows, int codeAt, int nameAt, List<SheetFault> faults)
    {
        if (code is not null)
            return new SortedRows(new() { [code] = [.. rows] }, []);
        var products = await db.Products.AsNoTracking().Select(p => new { p.Code, p.Name }).ToListAsync();
        var codes = products.Select(p => p.Code).ToHashSet();
        var byName = products.ToLookup(p => p.Name, p => p.Code, StringComparer.OrdinalIgnoreCase);
        var sorted = new SortedRows([], []);
        foreach (var group in rows.GroupBy(r => (Code: SheetCell.Text(r.Cells, codeAt).ToUpperInvariant(), Name: NameOf(r))))
        {
            var (typed, name) = (group.Key.Code, SheetMaking.First(group, nameAt));
            if (codes.Contains(typed) || (typed.Length == 0 && byName[name].Take(2).ToList() is [_]))
            {
                var known = typed.Length > 0 ? typed : byName[name].First();
                if (!sorted.Known.TryGetValue(known, out var list))
                    sorted.Known[known] = list = [];
                list.AddRange(group);
            }
            else if (typed.Length == 0 && name.Length > 0 && byName[name].Any())
                faults.AddRange(
                    group.Select(r => new SheetFault(r.Line, SheetColumns.Product, $"Several products are called {name}; give the code."))
                );
            else if (name.Length > 0)
                sorted.Fresh.Add(new FreshRows(typed, name, [.. group]));
            else
                faults.AddRange(
                    group.Select(r => new SheetFault(
                        r.Line,
                        SheetColumns.Code,
                        typed.Length == 0
                            ? "The row names no product."
                            : $"There is no product {typed}. To make it, give its name in the column “{SheetColumns.Product}”."
                    ))
                );
        }
        return sorted;

        // Rows with one code are one product, whatever else they say.
        string NameOf(SheetRow row) =>
            SheetCell.Text(row.Cells, codeAt).Length > 0 ? "" : SheetCell.Text(row.Cells, nameAt).ToUpperInvariant();
    }

    internal async Task<List<SheetDraft>> Drafts(
        List<FreshRows> fresh,
        IReadOnlyList<string> headings,
        List<string?> columns,
        List<SheetFault> faults,
        SheetProgress progress,
        CancellationToken stop
    )
    {
        if (fresh.Count == 0)
            return [];
        var shop = await ShopSettings.Load(db, stop);
        var library = (await db.LibraryOptions.AsNoTracking().ToListAsync(stop))
            .Select(r => OptionLibrary.Read(r, shop.Currency))
            .DistinctBy(o => o.Label.ToLowerInvariant())
            .ToDictionary(o => o.Label.ToLowerInvariant());
        var making = new SheetMaking(shop, headings, columns, library, faults);
        var taken = (await db.Products.Select(p => p.Code).ToListAsync(stop)).Concat(fresh.Select(f => f.Code)).ToHashSet();
        taken.UnionWith(await db.Skus.Select(s => s.CodeKey).Where(k => k.Length <= 32).ToListAsync(stop));
        var drafts = new List<SheetDraft>();
        foreach (var (typed, name, rows) in fresh)
        {
            stop.ThrowIfCancellationRequested();
            progress.Done += rows.Count;
            var code =
                typed.Length == 0 ? Read<ProductCode>.Of(ProductCode.From(name, c => taken.Contains(c.Text))) : ProductCode.Parse(typed);
            if (!code.Ok)
                faults.Add(new SheetFault(rows[0].Line, SheetColumns.Code, code.Problem!));
            else if (name.Length > Product.LongestName)
                faults.Add(new SheetFault(rows[0].Line, SheetColumns.Product, $"A name has at most {Product.LongestName} characters."));
            else if (making.Draft(name, code.Value, rows) is { } draft)
                drafts.Add(draft);
            if (code.Ok)
                taken.Add(code.Value.Text);
        }
        await LookForTaken(drafts, faults);
        return drafts;
    }

    /// <summary>SKUs and GTINs that stand twice in the sheet, or that others have.</summary>
    private async Task LookForTaken(List<SheetDraft> drafts, List<SheetFault> faults)
    {
        var skus = drafts.SelectMany(d => d.Skus()).ToList();
        var keys = skus.Select(s => s.Sku.ToUpperInvariant()).ToArray();
        var held = (await db.Skus.Where(s => keys.Contains(s.CodeKey)).Select(s => s.CodeKey).ToListAsync()).ToHashSet();
        foreach (var sku in skus.Where(s => held.Contains(s.Sku.ToUpperInvariant())))
            faults.Add(new SheetFault(sku.Line, "SKU", $"The SKU {sku.Sku} is used already."));
        foreach (var twice in skus.GroupBy(s => s.Sku, StringComparer.OrdinalIgnoreCase).Where(g => g.Skip(1).Any()))
            faults.Add(new SheetFault(twice.Last().Line, "SKU", $"The SKU {twice.Key} stands here {twice.Count()} times."));
        var gtins = (
            from draft in drafts
            from variant in draft.Product.Variants
            where variant.Gtin is not null
            select (Gtin: variant.Gtin!.Value, Line: draft.LineOf[variant.Values.Text])
        ).ToList();
        var spellings = gtins.SelectMany(g => g.Gtin.Spellings).Distinct().ToArray();
        var used = (await db.Variants.Where(v => spellings.Contains(v.Gtin!)).Select(v => v.Gtin!).ToListAsync()).ToHashSet();
        foreach (var gtin in gtins.Where(g => g.Gtin.Spellings.Any(used.Contains)))
            faults.Add(new SheetFault(gtin.Line, "GTIN", $"The GTIN {gtin.Gtin} is used already."));
        foreach (var twice in gtins.GroupBy(g => g.Gtin).Where(g => g.Skip(1).Any()))
            faults.Add(new SheetFault(twice.Last().Line, "GTIN", $"The GTIN {twice.Key} stands here {twice.Count()} times."));
    }

    internal async Task Insert(List<SheetDraft> drafts, List<SheetFault> faults, Actor by, CancellationToken stop)
    {
        if (drafts.Count == 0)
            return;
        await Locks.NewCodes(db);
        foreach (var draft in drafts)
        {
            stop.ThrowIfCancellationRequested();
            var product = draft.Product;
            if (await db.Products.AnyAsync(p => p.Address == product.Address, stop))
                product = product with { WebAddress = $"{product.Address}-{product.Code.Text.ToLowerInvariant()}" };
            var outcome = await products.Insert(product, $"Made {product.Name} from a sheet", by);
            faults.AddRange(
                outcome.Faults.Select(f => new SheetFault(
                    draft.LineOf.GetValueOrDefault(CellPlace.Parse(f.Where).Values, draft.Line),
                    "",
                    f.What
                ))
            );
            if (!outcome.Done)
                return;
            if (draft.Counts.Count > 0)
                faults.AddRange(
                    (await new MatrixCells(db, products, clock).Count(product.Code.Text, draft.Counts, by)).Select(f => new SheetFault(
                        draft.LineOf.GetValueOrDefault(CellPlace.Parse(f.Where).Values, draft.Line),
                        "on hand",
                        f.What
                    ))
                );
            db.ChangeTracker.Clear();
        }
    }

    /// <summary>Adds the values that rows name and a product has not; of the new combinations those are made that stand in the
    /// sheet.</summary>
    internal async Task<List<SheetMade>> MakeValues(
        string code,
        List<SheetRow> rows,
        List<string?> columns,
        List<SheetFault> faults,
        Actor by
    )
    {
        if (!columns.Exists(c => c?.StartsWith(SheetColumns.OptionPrefix, StringComparison.Ordinal) == true))
            return [];
        if (await WorkingCopy.Load(db, code, scope: _ => VariantScope.None) is not { } copy)
            return [];
        var (made, wanted, fresh) = (new List<SheetMade>(), copy.Product.Options, new HashSet<string>());
        foreach (var option in copy.Product.Options)
        {
            if (OptionColumn(columns, option) is not (>= 0 and var at))
                continue;
            var lacking = rows.Where(r => SheetCell.Text(r.Cells, at).Length > 0 && ValueOf(option, SheetCell.Text(r.Cells, at)) is null)
                .DistinctBy(r => SheetCell.Text(r.Cells, at).ToLowerInvariant())
                .ToList();
            if (lacking.Count == 0)
                continue;
            var values = TypedValues.Make(lacking.Select(r => SheetCell.Text(r.Cells, at)), option.Values);
            wanted = wanted.Replace(option, option with { Values = [.. option.Values, .. values] });
            fresh.UnionWith(values.Select(v => $"{option.Key}={v.Key}"));
            made.AddRange(
                lacking
                    .Zip(values)
                    .Select(p => new SheetMade(p.First.Line, copy.Row.Code, copy.Row.Name, $"the value {p.Second.Label} of {option.Label}"))
            );
        }
        if (made.Count == 0)
            return made;
        var outcome = await options.Run(code, wanted, new OptionDecisions(), "Values from a sheet", by);
        faults.AddRange(outcome.Faults.Select(f => new SheetFault(made[0].Line, "", f.What)));
        if (outcome.Done)
            await LeaveUnmade(code, rows, columns, wanted, fresh, by);
        db.ChangeTracker.Clear();
        return made;
    }

    private async Task LeaveUnmade(
        string code,
        List<SheetRow> rows,
        List<string?> columns,
        ImmutableArray<Option> wanted,
        HashSet<string> fresh,
        Actor by
    )
    {
        var named = rows.Select(r => ValuesOf(r, columns, wanted)).OfType<Combination>().Select(c => c.Text).ToHashSet();
        var all = new MadeSet(wanted, []);
        var unnamed = Enumerable
            .Range(0, all.Combinations)
            .Select(n => all.At(n).Text)
            .Where(t => !named.Contains(t) && t.Split(',').Any(fresh.Contains))
            .ToList();
        if (unnamed.Count > 0)
            await new MatrixCells(db, products, clock).MarkMade(code, unnamed, made: false, by);
    }

    private static Combination? ValuesOf(SheetRow row, List<string?> columns, ImmutableArray<Option> options)
    {
        var pairs = options
            .Select(o => (o.Key, Value: ValueOf(o, SheetCell.Text(row.Cells, OptionColumn(columns, o)))?.Key))
            .Where(p => p.Value is not null)
            .Select(p => (p.Key, p.Value!.Value))
            .ToList();
        return pairs.Count == options.Length ? Combination.Of(pairs) : null;
    }

    internal static int OptionColumn(List<string?> columns, Option option) =>
        columns.FindIndex(h =>
            string.Equals(h, SheetColumns.OptionPrefix + option.Label, StringComparison.OrdinalIgnoreCase)
            || string.Equals(h, SheetColumns.OptionPrefix + option.Key, StringComparison.OrdinalIgnoreCase)
        );

    internal static OptionValue? ValueOf(Option option, string typed) =>
        option.Values.FirstOrDefault(v => string.Equals(v.Label, typed, StringComparison.OrdinalIgnoreCase))
        ?? option.Values.FirstOrDefault(v => v.Key.Text == typed);
}
