using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Makes a numbered edition of the working copy. Until then nothing changes in the shop.</summary>
public sealed class PublishEdition(UnicusContext db, Catalogue catalogue, RangeEntries index, TimeProvider clock)
{
    /// <returns>The number of the edition, or the checks that stand in the way.</returns>
    public async Task<Outcome<int>> Run(string code, Actor by)
    {
        await using var transaction = db.Database.CurrentTransaction is null ? await db.Database.BeginTransactionAsync() : null;
        var copy = await WorkingCopy.Load(db, code, forChange: true);
        if (copy is null)
            return Outcome<int>.No("", $"There is no product {code}.");
        if (copy.Row.PutAwayAt is not null)
            return Outcome<int>.No("", $"{copy.Row.Name} is put away. Bring it back first.");
        var stops = copy.Checks.Where(c => c.Stops).ToList();
        if (stops.Count > 0)
            return new Outcome<int>(
                0,
                [.. stops.Select(s => new Fault($"#/{(s.Mend == Chapter.Money ? "base" : s.Mend.ToString().ToLowerInvariant())}", s.Text))]
            );
        var number = (copy.Row.Edition ?? 0) + 1;
        var edition = new Edition(copy.Row.Id, number, clock.GetUtcNow(), copy.Whole, copy.Matrix) { Sets = copy.Sets };
        var range = await catalogue.Editions.Range(db, edition);
        foreach (var question in copy.Whole.Extras)
            foreach (var value in question.Values)
                if (value.Part is { } part && range.Part(part.Sku) is null)
                    return Outcome<int>.No("#/extras", $"{question.Label}, {value.Label} takes the part {part.Sku}, which is not on sale.");
        if (await PartFaults(copy, range) is { Count: > 0 } faults)
            return new Outcome<int>(0, faults);
        Add(copy.Row, number, copy.Product, by);
        copy.Row.PublishedVersion = copy.Row.Version;
        await db.SaveChangesAsync();
        await Summaries.Refresh(db, copy);
        await index.Publish(edition);
        if (transaction is not null)
            await transaction.CommitAsync();
        return Outcome<int>.Of(number);
    }

    /// <summary>Puts another state of a product on sale than its working copy, within the caller's transaction.</summary>
    /// <param name="isUpToDate">Whether it says the same as the working copy.</param>
    /// <returns>The number of the edition.</returns>
    internal async Task<int> Replace(ProductRow row, Product product, IReadOnlyList<ExtraSet> sets, bool isUpToDate, Actor by)
    {
        var number = row.Edition!.Value + 1;
        Add(row, number, product, by);
        if (isUpToDate)
            row.PublishedVersion = row.Version;
        await db.SaveChangesAsync();
        var whole = product.Taking(sets);
        await index.Publish(new Edition(row.Id, number, row.PublishedAt!.Value, whole, whole.Matrix()) { Sets = sets });
        return number;
    }

    private void Add(ProductRow row, int number, Product product, Actor by)
    {
        var now = clock.GetUtcNow();
        db.Editions.Add(
            new EditionRow
            {
                ProductId = row.Id,
                Number = number,
                Document = DocumentWriter.Write(product, ListedVariants.Differing).ToJsonString(),
                PublishedAt = now,
                PublishedBy = by.Name,
            }
        );
        (row.Edition, row.PublishedAt) = (number, now);
    }

    /// <summary>Why a set would come apart into too many leaves, itself or one on sale that it is in; null where none does.</summary>
    private async Task<string?> TooManyPositions(WorkingCopy copy, PublishedRange range)
    {
        if (!copy.Product.IsSet)
            return null;
        var own = SetPositions.Of(await catalogue.Editions.Filled(db, copy.Whole), range);
        if (own > SetPositions.Most)
            return $"With every slot filled it comes apart into {own:N0} leaves; at most {SetPositions.Most:N0} are sold as one.";
        if (copy.Row.Edition is null)
            return null;
        var before = await catalogue.Editions.Latest(db, copy.Row.Id) is { } now
            ? SetPositions.Of(now.Product, await catalogue.Editions.Range(db, now))
            : 1;
        foreach (
            var holder in await db.RangeEntries.Where(e => e.PartProducts.Contains(copy.Row.Id)).Select(e => e.ProductId).ToListAsync()
        )
            if (own > before && await catalogue.Editions.Latest(db, holder) is { Product.IsSet: true } set)
            {
                // It stands in each place as often as before: what each gets more is at least what one does.
                var with = SetPositions.Of(set.Product, await catalogue.Editions.Range(db, set)) + own - before;
                if (with > SetPositions.Most)
                    return $"{set.Product.Name}, on sale, would come apart into {with:N0} leaves; at most {SetPositions.Most:N0} are sold.";
            }
        return null;
    }

    /// <summary>Parts that are not on sale or cannot be parts, and loops through what is published.</summary>
    private async Task<List<Fault>> PartFaults(WorkingCopy copy, PublishedRange range)
    {
        var faults = new List<Fault>();
        foreach (var (i, slot) in (copy.Product.Parts?.Slots ?? []).Index())
            foreach (var (j, entry) in slot.Of.Index())
            {
                var part = entry switch
                {
                    PartEntry.OfProduct p => range.Product(p.Code) ?? (await catalogue.Editions.OfSku(db, p.Code))?.Edition,
                    PartEntry.OfSku s => range.Part(s.Code)?.Edition,
                    _ => null,
                };
                var name = (entry as PartEntry.OfProduct)?.Code ?? (entry as PartEntry.OfSku)?.Code;
                if (name is not null && part is null)
                    faults.Add(new Fault($"#/parts/slots/{i}/of/{j}", $"{slot.Label}: {name} is not on sale. Publish it first."));
                else if (part is { Product.IsGroup: true } && copy.Product.IsSet)
                    faults.Add(new Fault($"#/parts/slots/{i}/of/{j}", $"{slot.Label}: {part.Product.Name} is a group, which is no part."));
            }
        faults.AddRange(await new PartLoops(db, copy.Shop.Currency).Of(copy.Whole, published: true));
        if (faults.Count == 0 && await TooManyPositions(copy, range) is { } tooMany)
            faults.Add(new Fault("#/parts", tooMany));
        return faults;
    }
}
