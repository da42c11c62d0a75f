using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Writes changed working copies: the one place where a product's rows change.</summary>
public sealed class WorkingCopies(UnicusContext db, TimeProvider clock)
{
    /// <summary>Writes a changed product within the caller's transaction.</summary>
    /// <param name="copy">As loaded for change. What is not loaded of it stays as it is.</param>
    /// <param name="after">With the variants listed that have something of their own, by their new values.</param>
    /// <param name="moved">For a change of options: old values to new ones of the variants that stay.</param>
    /// <param name="undoable">False where the change moves stock as well.</param>
    /// <param name="exactSkus">Whether a SKU made by the pattern that is taken is a fault; otherwise it gets a number behind.</param>
    /// <returns>The faults; then nothing is to be committed.</returns>
    public async Task<Outcome> Write(
        WorkingCopy copy,
        Product after,
        string sentence,
        Actor by,
        IReadOnlyDictionary<string, Combination>? moved = null,
        bool undoable = true,
        bool exactSkus = false
    )
    {
        var clash = await AddressClash(copy, after);
        if (clash is not null)
            return clash;
        after = WithRulesFollowing(copy, after);
        after = await WithCategories(SafeHtml.Cleaned(after, copy.Product).WithPicturesOfWhatIsThere());
        // Where only variants changed the definition is not written, and need not be read again.
        var definition = IsSameDefinition(after, copy.Product)
            ? copy.Row.Definition
            : DocumentWriter.Write(after, ListedVariants.None).ToJsonString();
        // Nothing is kept that could not be read again.
        if (definition != copy.Row.Definition && WorkingCopy.WhatIsUnreadable(definition, copy.Shop.Currency) is { } unreadable)
            return Outcome.No("", $"Nothing was saved: {unreadable}");
        var image = ChangeImage.OfProduct(db.Entry(copy.Row));
        copy.Row.Name = after.Name;
        copy.Row.Address = after.Address;
        copy.Row.Definition = definition;
        copy.Row.ChangedAt = clock.GetUtcNow();
        copy.Row.Version++;
        var table = new VariantTable(db);
        var laying = new VariantLaying(db, copy, after, moved);
        await laying.Work();
        var skus = new SkuRegister(db, table, copy.Row, after.Options, exactSkus);
        await skus.Assign(
            laying.Staying.Where(r => r.SkuId != 0).OrderBy(r => r.Retired),
            laying.Renames,
            [.. laying.Parted, .. laying.Fresh]
        );
        var faults = skus.Faults.Concat(await GtinFaults(copy, laying)).ToList();
        if (faults.Count > 0)
            return new Outcome(faults);
        await WriteVariants(table, laying, image, skus);

        var (isAtOnce, isUpToDate) = (
            await new OffAtOnce(db, clock).Follow(copy, copy.Product, after, by),
            copy.Row.PublishedVersion == copy.Row.Version - 1
        );
        if (isAtOnce && isUpToDate)
            copy.Row.PublishedVersion = copy.Row.Version;
        if (!undoable || !await GoesOn(copy, image, sentence, by))
            db.ProductChanges.Add(LineOf(copy.Row, sentence, by, undoable ? image : null, isAtOnce));
        await Summaries.AfterChange(db, copy.Row, after);
        await db.SaveChangesAsync();
        return Outcome.Ok;
    }

    private static async Task WriteVariants(VariantTable table, VariantLaying laying, ChangeImage image, SkuRegister skus)
    {
        var inserted = laying.Fresh.Select(f => f.Row).ToList();
        var ids = inserted.Count == 0 ? [] : await table.NewIds("variants", inserted.Count);
        for (var i = 0; i < ids.Length; i++)
            inserted[i].Id = ids[i];
        image.Take(laying.Before, laying.Updated, laying.Changed, laying.Deleted, ids, skus.Renamed);
        await table.Delete([.. laying.Deleted.Select(r => r.Id)]);
        await table.Update(laying.Updated, image.Changed);
        await table.Insert(inserted);
    }

    /// <summary>Where SKUs are changed, the product's own price rules name them by their new ones.</summary>
    private static Product WithRulesFollowing(WorkingCopy copy, Product after)
    {
        if (after.PriceRules.All(r => !r.NamedSkus.Any()) || !after.PriceRules.SequenceEqual(copy.Product.PriceRules))
            return after;
        var renamed = new Dictionary<string, string>();
        foreach (var variant in after.Variants)
            if (variant.Sku is { } sku && copy.RowOf(variant.Values) is { SkuCode: var old } && old != sku.Text)
                renamed[old.ToUpperInvariant()] = sku.Text.ToUpperInvariant();
        return renamed.Count == 0
            ? after
            : after with
            {
                PriceRules = [.. after.PriceRules.Select(r => r.Naming(sku => [renamed.GetValueOrDefault(sku, sku)]))],
            };
    }

    /// <summary>The row of a product that is made now; its variants are written afterwards.</summary>
    internal static ProductRow NewRow(Product made, DateTimeOffset at) =>
        new()
        {
            Code = made.Code.Text,
            Name = made.Name,
            Address = made.Address,
            Definition = DocumentWriter.Write(made with { Variants = [] }, ListedVariants.None).ToJsonString(),
            ChangedAt = at,
        };

    /// <summary>A line in the list of changes.</summary>
    /// <param name="image">What undoing needs; null where it cannot be undone.</param>
    private ProductChange LineOf(ProductRow row, string sentence, Actor by, ChangeImage? image, bool isAtOnce) =>
        new()
        {
            ProductId = row.Id,
            Version = row.Version,
            Sentence = sentence,
            By = by.Name,
            At = clock.GetUtcNow(),
            Before = image is null ? null : JsonSerializer.Serialize(image),
            Typing = by.Typing,
            AtOnce = isAtOnce,
        };

    /// <summary>Whether the two differ at most in their variants.</summary>
    private static bool IsSameDefinition(Product one, Product other) => one with { Variants = [] } == other with { Variants = [] };

    /// <summary>Whether this goes on with the last change, since it is typed during the same stay in a field; then that one stands for
    /// both.</summary>
    private async Task<bool> GoesOn(WorkingCopy copy, ChangeImage image, string sentence, Actor by)
    {
        if (by.Typing is null)
            return false;
        var last = await db.ProductChanges.Where(c => c.ProductId == copy.Row.Id).OrderByDescending(c => c.Id).FirstOrDefaultAsync();
        if (last is not { Undone: false, Before: { } before } || last.Typing != by.Typing || last.Version != copy.Row.Version - 1)
            return false;
        if (last.Version <= copy.Row.PublishedVersion || !JsonSerializer.Deserialize<ChangeImage>(before)!.Covers(image))
            return false;
        (last.Version, last.Sentence, last.At) = (copy.Row.Version, sentence, clock.GetUtcNow());
        return true;
    }

    /// <summary>GTINs that another variant of the shop has.</summary>
    private async Task<List<Fault>> GtinFaults(WorkingCopy copy, VariantLaying laying)
    {
        var faults = new List<Fault>();
        var set = laying
            .Updated.Where(u => u.Gtin is not null && u.Gtin != laying.Before[u.Id].Gtin)
            .Concat(laying.Fresh.Select(f => f.Row).Where(r => r.Gtin is not null))
            .ToList();
        if (set.Count == 0)
            return faults;
        foreach (var twice in set.GroupBy(r => Gtin.Of(r.Gtin!)).Where(g => g.Skip(1).Any()))
            faults.Add(
                new Fault(
                    new CellPlace(twice.Last().Values, "gtin").ToString(),
                    $"Nothing was saved: the GTIN {twice.Key} stands here {twice.Count()} times."
                )
            );
        var spellings = set.SelectMany(r => Gtin.Of(r.Gtin!).Spellings).Distinct().ToArray();
        var changing = laying.Updated.Select(u => u.Id).Concat(laying.Deleted.Select(d => d.Id)).ToHashSet();
        var holders = await (
            from v in db.Variants
            join p in db.Products on v.ProductId equals p.Id
            where v.Gtin != null && spellings.Contains(v.Gtin)
            select new
            {
                v.Id,
                v.Gtin,
                v.Values,
                p.Name,
            }
        ).ToListAsync();
        foreach (var holder in holders.Where(h => !changing.Contains(h.Id)))
            foreach (var row in set.Where(r => Gtin.Of(r.Gtin!) == Gtin.Of(holder.Gtin!)))
                faults.Add(
                    new Fault(
                        new CellPlace(row.Values, "gtin").ToString(),
                        $"Nothing was saved: the GTIN {row.Gtin} is already used by "
                            + $"{holder.Name}{(holder.Values.Length > 0 ? $" ({holder.Values.Replace(",", ", ")})" : "")}."
                    )
                );
        return faults;
    }

    private async Task<Outcome?> AddressClash(WorkingCopy copy, Product after)
    {
        if (after.Address == copy.Row.Address)
            return null;
        var owner = await db
            .Products.Where(p => p.Address == after.Address && p.Id != copy.Row.Id)
            .Select(p => p.Name)
            .FirstOrDefaultAsync();
        return owner is null
            ? null
            : Outcome.No("#/webAddress", $"Nothing was saved: the web address “{after.Address}” is already used by {owner}.");
    }

    /// <summary>Makes the categories that it names and the shop has not; “Hats > Felt” lies in the first by the second.</summary>
    private async Task<Product> WithCategories(Product after)
    {
        foreach (var path in after.Categories.Order(StringComparer.Ordinal))
        {
            var names = Path(path);
            foreach (var name in names)
                await MakeCategory(name);
            foreach (var (above, below) in names.Zip(names.Skip(1)))
                // Where it lies elsewhere already it stays there, and never below itself.
                await db.Database.ExecuteSqlAsync(
                    $"""
                    update categories c set parent_id = a.id from categories a
                    where a.name = {above} and c.name = {below} and c.parent_id is null and a.id <> c.id
                      and not exists (
                        with recursive up as (
                          select id, parent_id from categories where id = a.id
                          union select o.id, o.parent_id from categories o join up on o.id = up.parent_id
                        )
                        select 1 from up where up.id = c.id
                      )
                    """
                );
        }
        var leaves = after.Categories.Select(c => Path(c)[^1]).Distinct(StringComparer.OrdinalIgnoreCase).ToImmutableArray();
        return leaves.SequenceEqual(after.Categories) ? after : after with { Categories = leaves };
    }

    private static string[] Path(string name) =>
        name.Split('>', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries) is { Length: > 0 } names ? names : [name];

    /// <summary>Two who do so at the same time both find it made.</summary>
    private async Task MakeCategory(string name)
    {
        var key = Slug.From(name, 60);
        if (key.Length == 0)
            key = "category";
        if (await db.Categories.AnyAsync(c => c.Name == name || c.Key == key))
            return;
        await db.Database.ExecuteSqlAsync(
            $"""
            insert into categories (key, name, options, specifications) values ({key}, {name}, array[]::text[], array[]::text[])
            on conflict do nothing
            """
        );
    }
}
