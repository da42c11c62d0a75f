using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>How a whole document was taken.</summary>
public enum PutResult
{
    Created,
    Replaced,
    Faulty,

    /// <summary>Variants with stock or history would be lost.</summary>
    WouldLose,

    /// <summary>The version asked for is not the one in force.</summary>
    Stale,
}

/// <summary>Creates or replaces a working copy from a whole document.</summary>
public sealed class PutProduct(UnicusContext db, TimeProvider clock)
{
    /// <param name="ifVersion">The version that must still be in force, or null.</param>
    /// <param name="retire">Whether variants with history or stock that the document does not match may be retired.</param>
    /// <param name="countStock">Whether <c>stock</c> of existing variants is taken as a count.</param>
    public async Task<(PutResult Result, IReadOnlyList<Fault> Faults)> Run(
        string code,
        JsonElement json,
        Actor by,
        int? ifVersion = null,
        bool retire = false,
        bool countStock = false
    )
    {
        var shop = await ShopSettings.Load(db);
        var (product, stock, faults) = DocumentReader.Read(json, shop.Currency, sets: await ExtraSets.Load(db));
        var all = faults.ToList();
        if (
            json.ValueKind == JsonValueKind.Object
            && json.TryGetProperty("code", out var c)
            && c.ValueKind == JsonValueKind.String
            && c.GetString() != code
        )
            all.Add(new Fault("#/code", $"The document is about {c.GetString()}, the address about {code}."));
        if (product is null || all.Count > 0)
            return (PutResult.Faulty, all);
        all.AddRange(await FaultsInShop(product, shop));
        if (all.Count > 0)
            return (PutResult.Faulty, all);

        await using var transaction = await db.Database.BeginTransactionAsync();
        await Locks.Product(db, code);
        var copy = await WorkingCopy.Load(db, code, forChange: true);
        if (ifVersion is { } version && copy?.Row.Version != version)
            return (PutResult.Stale, [new Fault("", "The product has changed since.")]);
        var newOnes = copy is null
            ? stock
            : stock.Where(s => copy.Matrix.Find(Combination.Parse(s.Key)) is null).ToDictionary(s => s.Key, s => s.Value);
        var (lost, moved) = copy is null ? ([], []) : await Lost(copy, product);
        if (lost.Count > 0 && !retire)
            return (PutResult.WouldLose, lost);
        var outcome = copy is null
            ? await new ChangeProduct(db, clock).Insert(product, $"Made {product.Name}", by, exactSkus: true)
            : await new WorkingCopies(db, clock).Write(
                copy,
                WithSkus(copy, product),
                "Replaced by a document",
                by,
                moved,
                undoable: false,
                exactSkus: true
            );
        if (!outcome.Done)
            return (PutResult.Faulty, outcome.Faults);
        await ReceiveStock(code, countStock ? stock : newOnes, isCount: countStock && copy is not null, by, newOnes);
        await Summaries.AfterChange(db, code);
        await transaction.CommitAsync();
        return (copy is null ? PutResult.Created : PutResult.Replaced, []);
    }

    /// <summary>What does not fit this shop: its tax classes, pictures, and what contains what.</summary>
    private async Task<IReadOnlyList<Fault>> FaultsInShop(Product product, ShopSettings shop)
    {
        var faults = TaxClassFaults(product, shop.Terms).ToList();
        if (product.Parts is { TaxClass: { } whole } && shop.Terms.TaxClasses.All(c => c.Key.Text != whole))
            faults.Add(new Fault("#/parts/taxClass", $"There is no tax class {whole}."));
        faults.AddRange(await new PartLoops(db, shop.Currency).Of(product, published: false));
        foreach (var (i, picture) in product.Pictures.Index())
            if (!await db.Pictures.AnyAsync(p => p.File == picture.File))
                faults.Add(new Fault($"#/pictures/{i}/file", $"There is no picture {picture.File}; upload it first."));
        foreach (var (i, variant) in product.Variants.Index())
            if (variant.Picture is { } file && product.Pictures.All(p => p.File != file))
                faults.Add(new Fault($"#/variants/{i}/picture", $"{file} is not one of the product's pictures."));
        return faults;
    }

    /// <summary>Variants with history or stock that a document does not match; and what the others become.</summary>
    private async Task<(IReadOnlyList<Fault> Lost, Dictionary<string, Combination> Moved)> Lost(WorkingCopy copy, Product product)
    {
        var difference = OptionChange.Work(
            copy.Product.Options,
            product.Options,
            product.NotMade,
            await copy.Stakes(db),
            new OptionDecisions()
        );
        var lost = difference
            .Retired.Concat(difference.Merged.SelectMany(m => m.Absorbed.Append(m.Survivor)))
            .Concat(Shifted(difference))
            .Where(s => (s.OnHand > 0 || s.HasHistory) && !s.Variant.Retired)
            .Select(s => new Fault(
                "#/options",
                $"{SkuOf(copy, s)} has {(s.OnHand > 0 ? $"{s.OnHand} on hand" : "history")} and would not be matched."
            ))
            .ToList();
        var kept = difference.Kept.Where(k => k.Stake.Variant.Values == k.Values);
        return (lost, kept.ToDictionary(k => k.Values.Text, k => k.Values));
    }

    private static IEnumerable<VariantStake> Shifted(MatrixDifference difference) =>
        difference.Kept.Where(k => k.Stake.Variant.Values != k.Values).Select(k => k.Stake);

    private static Sku SkuOf(WorkingCopy copy, VariantStake stake) => Sku.Of(copy.RowOf(stake.Variant.Values)!.SkuCode);

    /// <summary>Every variant takes the SKU that the document gives it, its own or the pattern's.</summary>
    private static Product WithSkus(WorkingCopy copy, Product product) =>
        product with
        {
            Variants =
            [
                .. product
                    .Matrix()
                    .Variants.Select(v =>
                        copy.RowOf(v.Values) is { } row ? v.Variant with { Sku = v.Sku, Former = row.Former } : v.Variant
                    ),
            ],
        };

    private static IEnumerable<Fault> TaxClassFaults(Product product, TradeTerms terms)
    {
        bool Unknown(string? c) => c is not null && terms.TaxClasses.All(t => t.Key.Text != c);
        if (Unknown(product.Base.TaxClass))
            yield return new Fault("#/base/taxClass", $"There is no tax class {product.Base.TaxClass}.");
        for (var o = 0; o < product.Options.Length; o++)
            for (var v = 0; v < product.Options[o].Values.Length; v++)
                if (Unknown(product.Options[o].Values[v].Figures.TaxClass))
                    yield return new Fault($"#/options/{o}/values/{v}/figures/taxClass", "There is no such tax class.");
        for (var i = 0; i < product.Variants.Length; i++)
            if (Unknown(product.Variants[i].Own.TaxClass))
                yield return new Fault($"#/variants/{i}/taxClass", "There is no such tax class.");
    }

    private async Task ReceiveStock(
        string code,
        IReadOnlyDictionary<string, int> stock,
        bool isCount,
        Actor by,
        IReadOnlyDictionary<string, int> fresh
    )
    {
        if (stock.Count == 0)
            return;
        var skus = await (
            from v in db.Variants
            join p in db.Products on v.ProductId equals p.Id
            join s in db.Skus on v.SkuId equals s.Id
            where p.Code == code
            select new { v.Values, s.Id }
        ).ToDictionaryAsync(x => x.Values, x => x.Id);
        var location = await db.Locations.OrderBy(l => l.Position).FirstAsync();
        var ledger = new StockLedger(db);
        var levels = await ledger.LockExisting(stock.Keys.Select(k => skus[k]), location.Id);
        var moves = new Dictionary<int, BulkMove>();
        foreach (var (values, units) in stock)
        {
            var sku = skus[values];
            var kind = isCount && !fresh.ContainsKey(values) ? MovementKind.Count : MovementKind.Receipt;
            if (kind == MovementKind.Receipt && units == 0)
                continue;
            var (level, moved) = (levels.GetValueOrDefault(sku), moves.GetValueOrDefault(sku)?.OnHand ?? 0);
            if (Movements.Effect(kind, units, level.After(new StockDelta(OnHand: moved))) is { Ok: true, Value: var effect })
                moves[sku] = new BulkMove(sku, kind, effect.OnHand + moved);
        }
        await ledger.WriteAll(moves.Values, location.Id, by, clock.GetUtcNow(), "From a document");
        db.ChangeTracker.Clear();
    }
}
