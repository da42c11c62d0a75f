using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

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
        var after = After(copy, wanted, decisions, difference);
        var movesStock = OptionStockPlan.MovesUnits(copy.Product.Options, difference, decisions, copy.WholeStock.OnHand);
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

    /// <summary>The product as it is then: what names its options and values follows them.</summary>
    private static Product After(WorkingCopy copy, ImmutableArray<Option> wanted, OptionDecisions decisions, MatrixDifference difference) =>
        copy.Product with
        {
            Options = wanted,
            NotMade = difference.NotMade,
            SkuPattern = [.. copy.Product.SkuPattern.Where(p => p is not PatternPiece.OfOption o || wanted.Any(w => w.Key == o.Option))],
            Rules = [.. copy.Product.Rules.Select(r => Following(r, decisions))],
            PriceRules =
            [
                .. copy.Product.PriceRules.Select(r =>
                    decisions.Becomes.Aggregate(r, (x, b) => x.Following(b.Key.Option, b.Key.From, b.Value))
                ),
            ],
            Pictures =
            [
                .. copy.Product.Pictures.Select(p =>
                    p.Shows is { } s && decisions.Becomes.TryGetValue((s.Option, s.Value), out var into)
                        ? p with
                        {
                            Shows = (s.Option, into),
                        }
                        : p
                ),
            ],
            Variants = [.. VariantsAfter(copy, wanted, difference, published: copy.Row.Edition is not null)],
        };

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

    /// <summary>Carries out the plan for the stock; what stops it is a sentence.</summary>
    private async Task<string?> MoveUnits(WorkingCopy copy, MatrixDifference difference, OptionDecisions decisions, Actor by)
    {
        var skus = await db.Variants.Where(v => v.ProductId == copy.Row.Id).ToDictionaryAsync(v => v.Values, v => v.SkuId);
        var ledger = new StockLedger(db);
        var locations = await db.Locations.Select(l => l.Id).ToListAsync();
        var levels = await ledger.Lock(copy.Rows.Select(r => r.SkuId).Concat(skus.Values), locations);
        var at = clock.GetUtcNow();
        foreach (var step in OptionStockPlan.Of(copy.Product.Options, difference, decisions))
        {
            var row = copy.RowOf(step.From.Variant.Values)!;
            var to = step.To.Select(c => skus.GetValueOrDefault(c.Text)).Where(id => id != 0).Distinct().ToList();
            foreach (var location in locations)
            {
                var level = levels[(row.SkuId, location)];
                if (step.MustBeFree && level.Allocated > 0)
                    return $"{row.SkuCode} has {level.Allocated} units allocated to orders. Dispatch or cancel those first.";
                if (level.OnHand > 0)
                    Carry(level, step, [.. to.Select(id => levels[(id, location)])]);
            }
        }
        return null;

        void Carry(LevelRow from, StockStep step, List<LevelRow> to)
        {
            switch (step.Fate)
            {
                case StockFate.Move when to.Count > 0:
                    Transfer(from, to[0], from.OnHand, step.Why);
                    break;
                case StockFate.SplitEvenly:
                    var shares = Allocation.SplitEvenly(from.OnHand, to.Count);
                    for (var i = 1; i < to.Count; i++)
                        Transfer(from, to[i], (int)shares[i], step.Why);
                    break;
                case StockFate.CountLater:
                    ledger.Write(from, MovementKind.Count, 0, by, at, $"{from.OnHand} units to be counted by variant");
                    break;
                default:
                    ledger.Write(from, MovementKind.WriteOff, from.OnHand, by, at, step.Why);
                    break;
            }
        }

        void Transfer(LevelRow from, LevelRow to, int units, string why)
        {
            if (units == 0 || from.SkuId == to.SkuId)
                return;
            ledger.Write(from, MovementKind.Transfer, units, by, at, why);
            ledger.Take(to, units, by, at, why);
        }
    }
}
