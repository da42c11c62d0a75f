using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Looks up what may fill the slots of a product now: what parts are called, which of their variants have a counterpart, and
/// what lies in categories and has tags.</summary>
/// <param name="bare">The newest edition of a product by its code, or by one of its SKUs, its own slots left as they are.</param>
internal sealed class SlotFilling(UnicusContext db, Func<string, Task<Edition?>> bare, Func<string, Task<VariantOnSale?>> sku)
{
    /// <summary>Goods that a category or tag brings at most.</summary>
    private const int MostGoods = 500;

    /// <summary>The slots with their candidates.</summary>
    public async Task<ImmutableArray<FilledSlot>> Fill(Product product)
    {
        var slots = ImmutableArray.CreateBuilder<FilledSlot>();
        foreach (var slot in product.Parts!.Slots)
        {
            var candidates = new List<Candidate>();
            foreach (var entry in slot.Of)
                await foreach (var candidate in Of(entry, slot, product))
                    if (candidates.TrueForAll(c => c.Key != candidate.Key))
                        candidates.Add(candidate);
            slots.Add(new FilledSlot(slot, [.. candidates]));
        }
        return slots.ToImmutable();
    }

    private async IAsyncEnumerable<Candidate> Of(PartEntry entry, Slot slot, Product product)
    {
        switch (entry)
        {
            case PartEntry.OfProduct p when Slot.KeyOf(p.Code) is { } key:
                var edition = await bare(p.Code);
                // A product that became a variant of another is still found by its SKU.
                if (edition is null && await sku(p.Code) is { } became)
                {
                    yield return new Candidate(key, became.Figures.Name, became.Edition.Product.Code.Text, p.Code, entry);
                    break;
                }
                yield return new Candidate(key, edition?.Product.Name ?? p.Code, p.Code, null, entry)
                {
                    Counterparts = edition is null ? null : Counterparts(slot, entry, product, edition),
                };
                break;
            case PartEntry.OfSku s when Slot.KeyOf(s.Code) is { } key:
                var found = await sku(s.Code);
                yield return new Candidate(key, found?.Figures.Name ?? s.Code, found?.Edition.Product.Code.Text, s.Code, entry);
                break;
            case PartEntry.OfCategory or PartEntry.OfTag:
                foreach (var code in await Codes(entry))
                    if (
                        Slot.KeyOf(code) is { } key
                        && code != product.Code.Text
                        && await bare(code) is { Product.IsGroup: false } goods
                        && !await Contains(goods, product.Code.Text, [])
                    )
                        yield return new Candidate(key, goods.Product.Name, code, null, entry)
                        {
                            Counterparts = Counterparts(slot, entry, product, goods),
                        };
                break;
        }
    }

    /// <summary>Whether a product contains another at any depth.</summary>
    private async Task<bool> Contains(Edition edition, string code, HashSet<string> seen)
    {
        if (edition.Product.Parts is not { } parts || !seen.Add(edition.Product.Code.Text))
            return false;
        foreach (var entry in parts.Slots.SelectMany(s => s.Of))
        {
            var inner = entry switch
            {
                PartEntry.OfProduct p => await bare(p.Code),
                PartEntry.OfSku s => (await sku(s.Code))?.Edition,
                _ => null,
            };
            if (inner is not null && (inner.Product.Code.Text == code || await Contains(inner, code, seen)))
                return true;
        }
        return false;
    }

    /// <summary>The goods of a category or with a tag, in the order of lists.</summary>
    private async Task<List<string>> Codes(PartEntry entry) =>
        await Named(entry, await PriceBooks.Tree(db))
            .OrderBy(e => e.Position)
            .ThenBy(e => e.NameKey)
            .ThenBy(e => e.ProductId)
            .Take(MostGoods)
            .Select(e => e.Code)
            .ToListAsync();

    private IQueryable<RangeEntryRow> Named(PartEntry entry, IReadOnlyList<Category> tree)
    {
        if (entry is PartEntry.OfTag tag)
        {
            var wanted = tag.Name.ToLowerInvariant();
            return db
                .Products.Where(p => p.Edition != null && p.Tags.Any(t => t.ToLower() == wanted))
                .Join(db.RangeEntries, p => p.Id, e => e.ProductId, (_, e) => e);
        }
        var name = ((PartEntry.OfCategory)entry).Name;
        var category = tree.FirstOrDefault(c => string.Equals(c.Name, name, StringComparison.OrdinalIgnoreCase))?.Id ?? 0;
        return db.RangeEntries.Where(e => e.Categories.Contains(category));
    }

    /// <summary>The values of the option that a slot follows which some variant on offer of the part has a counterpart for; null where
    /// the part has no such option.</summary>
    private static ImmutableHashSet<Key>? Counterparts(Slot slot, PartEntry entry, Product product, Edition part)
    {
        if (slot.Pick is not SlotPick.Follows follows)
            return null;
        var own = product.Options.Concat(product.Extras).FirstOrDefault(o => o.Key == follows.Option);
        var question = part.Product.Questions.FirstOrDefault(q => q.Key == follows.Option);
        if (own is null || question is null)
            return null;
        var offered =
            question.Role == OptionRole.Variant
                ? part
                    .Matrix.Offered.Where(v => entry.Variants.IsEmpty || entry.Variants.Any(only => only.IsWithin(v.Values)))
                    .Select(v => v.Values[question.Key])
                    .OfType<Key>()
                    .ToHashSet()
                : [.. question.Values.Select(v => v.Key)];
        return [.. own.Values.Select(v => v.Key).Where(v => follows.Counterpart(v) is { } other && offered.Contains(other))];
    }
}
