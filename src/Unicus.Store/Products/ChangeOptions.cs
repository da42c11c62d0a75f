using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>Changes the variant options of a product: shows the difference first, then applies it with every unit of stock accounted
/// for.</summary>
public sealed class ChangeOptions(UnicusContext db, TimeProvider clock)
{
    /// <summary>What the change would do; nothing is written.</summary>
    public async Task<Outcome<MatrixDifference>> Preview(string code, ImmutableArray<Option> wanted, OptionDecisions decisions)
    {
        if (TooLarge(wanted) is { } problem)
            return Outcome<MatrixDifference>.No("", problem);
        var copy = await WorkingCopy.Load(db, code, scope: before => Scope(before, wanted));
        return copy is null
            ? Outcome<MatrixDifference>.No("", $"There is no product {code}.")
            : Outcome<MatrixDifference>.Of(await Work(copy, wanted, decisions));
    }

    /// <summary>Applies the change in one transaction.</summary>
    /// <param name="version">The version that the merchant saw the difference of; another one is refused.</param>
    public async Task<Outcome<MatrixDifference>> Run(
        string code,
        ImmutableArray<Option> wanted,
        OptionDecisions decisions,
        string sentence,
        Actor by,
        int? version = null
    )
    {
        await using var transaction = db.Database.CurrentTransaction is null ? await db.Database.BeginTransactionAsync() : null;
        if (TooLarge(wanted) is { } problem)
            return Outcome<MatrixDifference>.No("", problem);
        var copy = await WorkingCopy.Load(db, code, forChange: true, before => Scope(before, wanted));
        if (copy is null)
            return Outcome<MatrixDifference>.No("", $"There is no product {code}.");
        if (version is { } seen && seen != copy.Row.Version)
            return Outcome<MatrixDifference>.No(
                "",
                "Nothing was saved: this product was changed elsewhere meanwhile. The options below are as they are now; make your "
                    + "change again."
            );
        var difference = await Work(copy, wanted, decisions);
        var moved = copy.IsWhole ? Moved(difference) : null;
        var after = copy.Product with
        {
            Options = wanted,
            NotMade = difference.NotMade,
            SkuPattern = [.. copy.Product.SkuPattern.Where(p => p is not PatternPiece.OfOption o || wanted.Any(w => w.Key == o.Option))],
            Rules = [.. copy.Product.Rules.Select(r => Following(r, decisions))],
            Pictures =
            [
                .. copy
                    .Product.Pictures.Select(p =>
                        p.Shows is { } s && decisions.Becomes.TryGetValue((s.Option, s.Value), out var into)
                            ? p with
                            {
                                Shows = (s.Option, into),
                            }
                            : p
                    )
                    .Select(p =>
                        p.Shows is { } s && wanted.FirstOrDefault(o => o.Key == s.Option)?.Find(s.Value) is null
                            ? p with
                            {
                                Shows = null,
                            }
                            : p
                    ),
            ],
            Variants = [.. VariantsAfter(copy, wanted, difference, published: copy.Row.Edition is not null)],
        };
        var movesStock =
            difference.UnitsAtStake > 0
            || difference.Merged.Any(m => m.Absorbed.Any(a => a.OnHand > 0))
            || difference.Joined.Any(j => j.Joining.Any(k => k.Stake.OnHand > 0))
            || (decisions.Stock != StockBeforeOptions.OneValue && copy.Product.Options.IsEmpty && copy.WholeStock.OnHand > 0);
        var written = await new WorkingCopies(db, clock).Write(copy, after, sentence, by, moved, undoable: !movesStock);
        if (!written.Done)
            return new Outcome<MatrixDifference>(null, written.Faults);
        if (movesStock && await MoveUnits(copy, difference, decisions, by) is { } fault)
            return Outcome<MatrixDifference>.No("", fault);
        await db.SaveChangesAsync();
        if (movesStock)
            await Summaries.AfterChange(db, code);
        if (transaction is not null)
            await transaction.CommitAsync();
        return Outcome<MatrixDifference>.Of(difference);
    }

    /// <summary>A rule as it stands when values have been merged.</summary>
    public static SelectionRule Following(SelectionRule rule, OptionDecisions decisions) =>
        decisions.Becomes.Aggregate(rule, (r, b) => r.Following(b.Key.Option, b.Key.From, b.Value));

    private static string? TooLarge(ImmutableArray<Option> wanted)
    {
        var size = MadeSet.Size(wanted);
        return size > MadeSet.MostVariants
            ? $"That would make {size:N0} variants; a product holds at most {MadeSet.MostVariants:N0}. Leave values out, or make one "
                + "of the options an extra."
            : null;
    }

    /// <summary>A large product is loaded whole only where the change can touch variants that are there.</summary>
    private static VariantScope Scope(Product before, ImmutableArray<Option> wanted) =>
        MadeSet.Size(wanted) <= WorkingCopy.SmallEnough || wanted.Any(o => o.SharesSku) || !OptionChange.OnlyAdds(before.Options, wanted)
            ? VariantScope.All
            : VariantScope.Of(OptionChange.Added(before.Options, wanted, before.NotMade));

    private async Task<MatrixDifference> Work(WorkingCopy copy, ImmutableArray<Option> wanted, OptionDecisions decisions) =>
        copy.IsWhole
            ? OptionChange.Work(copy.Product.Options, wanted, copy.Product.NotMade, await copy.Stakes(db), decisions)
            : OptionChange.WorkAdding(copy.Product.Options, wanted, copy.Product.NotMade, await copy.Stakes(db));

    private static Dictionary<string, Combination> Moved(MatrixDifference difference)
    {
        var moved = difference.Kept.ToDictionary(k => k.Stake.Variant.Values.Text, k => k.Values);
        foreach (var merge in difference.Merged)
            moved[merge.Survivor.Variant.Values.Text] = merge.Values;
        return moved;
    }

    /// <summary>The kept variants by their new values, with their SKUs; a SKU that nobody has seen yet is made anew by the
    /// pattern.</summary>
    private static IEnumerable<Variant> VariantsAfter(
        WorkingCopy copy,
        ImmutableArray<Option> wanted,
        MatrixDifference difference,
        bool published
    )
    {
        var before = copy.Matrix;
        var shared = difference.Joined.ToDictionary(
            j => OptionChange.Apart(j.Holder.Values, wanted),
            j => Sku.Of(copy.RowOf(j.Holder.Stake.Variant.Values)!.SkuCode)
        );
        var parted = difference.Parted.Select(k => OptionChange.Apart(k.Values, wanted)).ToHashSet();
        foreach (
            var (stake, values) in difference
                .Kept.Select(k => (k.Stake, k.Values))
                .Concat(difference.Merged.Select(m => (Stake: m.Survivor, m.Values)))
        )
        {
            var apart = OptionChange.Apart(values, wanted);
            var sku = Sku.Of(copy.RowOf(stake.Variant.Values)!.SkuCode);
            var unseen = stake.Variant.Sku is null && !stake.HasHistory && !published && values != stake.Variant.Values;
            var back = stake.Variant.Retired && before.Find(stake.Variant.Values) is null;
            yield return stake.Variant with
            {
                Values = values,
                Sku =
                    shared.TryGetValue(apart, out var holder) ? holder
                    : unseen || parted.Contains(apart) ? null
                    : sku,
                Retired = stake.Variant.Retired && !back,
            };
        }
    }

    private async Task<string?> MoveUnits(WorkingCopy copy, MatrixDifference difference, OptionDecisions decisions, Actor by)
    {
        var skus = await db.Variants.Where(v => v.ProductId == copy.Row.Id).ToDictionaryAsync(v => v.Values, v => v.SkuId);
        int SkuBefore(VariantStake stake) => copy.RowOf(stake.Variant.Values)!.SkuId;
        var ledger = new StockLedger(db);
        var locations = await db.Locations.Select(l => l.Id).ToListAsync();
        var levels = await ledger.Lock(copy.Rows.Select(r => r.SkuId).Concat(skus.Values), locations);
        var at = clock.GetUtcNow();

        void Transfer(int from, int to, int location, int units, string why)
        {
            if (units == 0 || from == to)
                return;
            ledger.Write(levels[(from, location)], MovementKind.Transfer, units, by, at, why);
            ledger.Take(levels[(to, location)], units, by, at, why);
        }

        foreach (var stake in difference.Retired.Concat(difference.Deleted).Where(s => s.OnHand > 0))
        {
            var from = SkuBefore(stake);
            var target = decisions.MoveTo.TryGetValue(stake.Variant.Values.Text, out var to) ? skus.GetValueOrDefault(to.Text) : 0;
            foreach (var location in locations)
            {
                var level = levels[(from, location)];
                if (level.Allocated > 0)
                    return $"{copy.Rows.First(r => r.SkuId == from).SkuCode} has {level.Allocated} units allocated to orders. "
                        + "Dispatch or cancel those first.";
                if (target != 0)
                    Transfer(from, target, location, level.OnHand, "A value was removed");
                else if (level.OnHand > 0)
                    ledger.Write(level, MovementKind.WriteOff, level.OnHand, by, at, "A value was removed");
            }
        }
        foreach (var merge in difference.Merged)
            foreach (var absorbed in merge.Absorbed)
                foreach (var location in locations)
                    Transfer(
                        SkuBefore(absorbed),
                        skus[merge.Values.Text],
                        location,
                        levels[(SkuBefore(absorbed), location)].OnHand,
                        "Variants were merged"
                    );
        foreach (var join in difference.Joined)
            foreach (var joining in join.Joining)
                foreach (var location in locations)
                {
                    var level = levels[(SkuBefore(joining.Stake), location)];
                    if (level.Allocated > 0)
                        return $"{copy.RowOf(joining.Stake.Variant.Values)!.SkuCode} has {level.Allocated} units allocated to orders. "
                            + "Dispatch or cancel those first.";
                    Transfer(level.SkuId, SkuBefore(join.Holder.Stake), location, level.OnHand, "Variants share one SKU");
                }
        if (copy.Product.Options.IsEmpty && difference.Kept.Length == 1)
            ShareOut(difference, decisions, skus, locations, levels, ledger, by, at, Transfer);
        return null;
    }

    private static void ShareOut(
        MatrixDifference difference,
        OptionDecisions decisions,
        Dictionary<string, int> skus,
        List<int> locations,
        Dictionary<(int, int), LevelRow> levels,
        StockLedger ledger,
        Actor by,
        DateTimeOffset at,
        Action<int, int, int, int, string> transfer
    )
    {
        var holder = skus[difference.Kept[0].Values.Text];
        var all = difference.New.Select(n => skus[n.Text]).Prepend(holder).Distinct().ToList();
        foreach (var location in locations)
        {
            var units = levels[(holder, location)].OnHand;
            if (units == 0)
                continue;
            if (decisions.Stock == StockBeforeOptions.CountLater)
            {
                ledger.Write(levels[(holder, location)], MovementKind.Count, 0, by, at, $"{units} units to be counted by variant");
                continue;
            }
            if (decisions.Stock != StockBeforeOptions.SplitEvenly)
                continue;
            var shares = Allocation.SplitEvenly(units, all.Count);
            for (var i = 1; i < all.Count; i++)
                transfer(holder, all[i], location, (int)shares[i], "Stock was split evenly over the variants");
        }
    }
}
