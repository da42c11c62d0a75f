using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>A set that is made up ahead and of which no more are available than its low level.</summary>
/// <param name="Available">Made up and free.</param>
/// <param name="Level">Its low level.</param>
/// <param name="Makeable">How many more its parts allow, each set by itself.</param>
public sealed record SetToMakeUp(VariantOnSale Set, int Available, int Level, long Makeable)
{
    /// <summary>Units to its level and one above, where it is no longer low.</summary>
    public int Missing => Level + 1 - Available;
}

/// <summary>Which sets to make up, so that none is low.</summary>
public sealed class SetsToMakeUp(UnicusContext db, Catalogue catalogue, MakeUpSets makeUp)
{
    /// <summary>So many products are looked at.</summary>
    private const int MostProducts = 500;

    /// <summary>So many variants of one product.</summary>
    private const int MostVariants = 2_000;

    /// <summary>So many sets are listed.</summary>
    public const int MostListed = 100;

    /// <summary>The sets on sale that are low, those that lack most first.</summary>
    public async Task<IReadOnlyList<SetToMakeUp>> List()
    {
        var codes = await db
            .Products.FromSql($"select * from products where definition->'parts'->>'stock' in ('own', 'own-then-parts')")
            .Where(p => p.Edition != null && p.PutAwayAt == null)
            .OrderBy(p => p.Code)
            .Select(p => p.Code)
            .Take(MostProducts)
            .ToListAsync();
        var found = new List<SetToMakeUp>();
        foreach (var code in codes.TakeWhile(_ => found.Count < MostListed))
            if (await catalogue.Editions.Latest(db, code) is { } edition)
                foreach (var low in (await Low(edition)).Take(MostListed - found.Count))
                    if (await WithParts(low) is { } set)
                        found.Add(set);
        return [.. found.OrderByDescending(f => f.Missing).ThenBy(f => f.Set.Variant.Sku.Text, StringComparer.Ordinal)];
    }

    /// <summary>The variants that are low; their parts are not looked at yet.</summary>
    private async Task<IEnumerable<SetToMakeUp>> Low(Edition edition)
    {
        var stock = await catalogue.Board.StockOf(db, edition.ProductId);
        return from variant in edition.Matrix.Offered.Take(MostVariants)
               let set = new VariantOnSale(edition, variant)
               where set.LowLevel is not null
               let available = stock.Levels.GetValueOrDefault(variant.Sku).Available
               where available <= set.LowLevel
               select new SetToMakeUp(set, available, set.LowLevel!.Value, 0);
    }

    /// <summary>With what its parts allow; null where it leaves something to pick.</summary>
    private async Task<SetToMakeUp?> WithParts(SetToMakeUp low)
    {
        if (await makeUp.Recipe(low.Set.Variant.Sku.Text) is not { Ok: true, Value: { } recipe })
            return null;
        var parts = await catalogue.Board.Stock(db, recipe.Parts);
        var makeable = SetDemand.Most(recipe.Parts, part =>
            part.Variant.Selling.Counted == false ? null : Math.Max(0, parts.Of(part.Variant.Sku).Available)
        );
        return low with { Makeable = makeable ?? Movements.MostUnits };
    }
}
