using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>What making up or taking apart one set moves.</summary>
/// <param name="Set">Kept as one.</param>
/// <param name="Parts">What one is made of, each SKU once.</param>
public sealed record SetRecipe(VariantOnSale Set, ImmutableArray<LeafNeed> Parts);

/// <summary>Makes sets up ahead, and takes them apart again: the set and all its parts move in one transaction or not at all.</summary>
public sealed class MakeUpSets(UnicusContext db, Catalogue catalogue, TimeProvider clock)
{
    /// <summary>What one of a SKU is made of.</summary>
    /// <returns>The recipe, or why it cannot be made up ahead.</returns>
    public async Task<Read<SetRecipe>> Recipe(string sku)
    {
        if (await catalogue.Editions.OfSku(db, sku) is not { } set)
            return Read<SetRecipe>.No($"{sku} is not on sale.");
        if (set.Edition.Product.Parts is not { IsMadeUp: true })
            return Read<SetRecipe>.No($"{set.Figures.Name} is not made up ahead: its stock is that of its parts.");
        var shop = await catalogue.Terms.Settings(db);
        var range = await catalogue.Editions.Range(db, set.Edition);
        var stock = StockOutlook.Empty(shop.DayAt(clock.GetUtcNow()));
        var terms = new ConfigurationTerms(range, stock, await catalogue.Terms.PublicTerms(db, clock.GetUtcNow()));
        var status = ConfigurationStatus.Of(set.Edition, Configuration.Of(set.Variant.Values), Filling.Rest, terms);
        if (status.Assembled is { Problem: { } problem })
            return Read<SetRecipe>.No(problem);
        var parts = status.Assembled is { } assembled ? ComingApart.ToMakeUp(assembled) : [];
        return parts.IsEmpty
            ? Read<SetRecipe>.No($"{set.Figures.Name} leaves something to pick, so it cannot be made up ahead.")
            : Read<SetRecipe>.Of(new SetRecipe(set, parts));
    }

    /// <summary>Moves so many.</summary>
    /// <param name="kind">To make up or to take apart.</param>
    public async Task<Outcome> Run(SetRecipe recipe, MovementKind kind, int units, StockLocation location, Actor by, string? reason)
    {
        if (units is < 1 or > Movements.MostUnits)
            return Outcome.No("#/quantity", $"1 to {Movements.MostUnits:N0} units move at once.");
        await using var transaction = db.Database.CurrentTransaction is null ? await db.Database.BeginTransactionAsync() : null;
        var counted = recipe.Parts.Where(p => p.Goods.Variant.Selling.Counted != false).ToList();
        var skus = await SkuLookup.FindAll(db, [recipe.Set.Variant.Sku, .. counted.Select(p => p.Goods.Variant.Sku)]);
        var ledger = new StockLedger(db);
        var levels = await ledger.Lock(skus.Values, [location.Id]);
        var makes = kind == MovementKind.MakeUp;
        var moves = counted
            .Select(p => (p.Goods, Units: (makes ? -1L : 1L) * p.PerUnit * units))
            .Append((Goods: recipe.Set, Units: (makes ? 1L : -1L) * units))
            .ToList();
        var missing = moves
            .Select(m => (m.Goods, Wanted: -m.Units, Level: levels[(skus[m.Goods.Variant.Sku], location.Id)].Level))
            .Where(m => m.Wanted > m.Level.Available)
            .Select(m =>
                $"{m.Wanted:N0} of {m.Goods.Variant.Sku} are needed at {location.Name}, {Math.Max(0, m.Level.Available):N0} are free"
            )
            .ToList();
        if (missing.Count > 0)
            return Outcome.No("#/quantity", $"{string.Join("; ", missing)}. Nothing was moved.");
        if (moves.Exists(m => levels[(skus[m.Goods.Variant.Sku], location.Id)].OnHand + m.Units > Movements.MostOfLevel))
            return Outcome.No("#/quantity", $"A level holds at most {Movements.MostOfLevel:N0} units.");
        foreach (var (goods, moved) in moves)
            ledger.Shift(levels[(skus[goods.Variant.Sku], location.Id)], kind, (int)moved, by, clock.GetUtcNow(), reason);
        await db.SaveChangesAsync();
        if (transaction is not null)
            await transaction.CommitAsync();
        return Outcome.Ok;
    }
}
