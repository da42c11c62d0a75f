namespace Unicus.Core.Variants;

using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Rules;

/// <summary>What a variant has to lose when options change.</summary>
/// <param name="Variant">Which variant it is.</param>
/// <param name="OnHand">Units on hand over all locations.</param>
/// <param name="HasHistory">Whether it has a movement or stands in an order.</param>
public sealed record VariantStake(Variant Variant, int OnHand, bool HasHistory)
{
    /// <summary>Whether the variant holds nothing that anybody typed or counted.</summary>
    public bool IsBlank =>
        OnHand == 0
        && !HasHistory
        && Variant.Own.AreNone
        && Variant.Sku is null
        && Variant.Gtin is null
        && Variant.Note is null
        && Variant.Picture is null
        && Variant.Selling == Selling.Inherited;
}

/// <summary>Where stock goes that was counted before the first option was there.</summary>
public enum StockBeforeOptions
{
    /// <summary>It stays with the variant of the value taken.</summary>
    OneValue,

    /// <summary>It is split evenly over the new variants, the remainder with the first.</summary>
    SplitEvenly,

    /// <summary>It is counted down to 0 now, to be counted by variant later.</summary>
    CountLater,
}

/// <summary>The merchant's answers to what a change of options leaves open.</summary>
public sealed record OptionDecisions
{
    /// <summary>For an added option: the value that existing variants take; its first if not said.</summary>
    public ImmutableDictionary<Key, Key> Takes { get; init; } = ImmutableDictionary<Key, Key>.Empty;

    /// <summary>Values that become another one of their option, so that variants which then coincide are merged.</summary>
    public ImmutableDictionary<(Key Option, Key From), Key> Becomes { get; init; } = ImmutableDictionary<(Key Option, Key From), Key>.Empty;

    /// <summary>What becomes of stock that was counted before there were options.</summary>
    public StockBeforeOptions Stock { get; init; }

    /// <summary>For an option removed: the variant (by its old values) whose SKU and price stay; the first of those that merge if not
    /// said.</summary>
    public ImmutableHashSet<string> Survivors { get; init; } = [];

    /// <summary>Units on hand of a lost variant (its old values) go to this new combination; written off if not said.</summary>
    public ImmutableDictionary<string, Combination> MoveTo { get; init; } = ImmutableDictionary<string, Combination>.Empty;
}

/// <summary>A variant that stays, with its values before and after.</summary>
public sealed record KeptVariant(VariantStake Stake, Combination Values);

/// <summary>Variants that coincide once an option is gone.</summary>
public sealed record MergedVariant(Combination Values, VariantStake Survivor, ImmutableArray<VariantStake> Absorbed);

/// <summary>Variants that come to share the SKU and stock of the first.</summary>
public sealed record JoinedSku(KeptVariant Holder, ImmutableArray<KeptVariant> Joining);

/// <summary>Everything that a change of options does to the matrix, to be shown before it is applied.</summary>
public sealed record MatrixDifference(
    ImmutableArray<KeptVariant> Kept,
    ImmutableArray<Combination> New,
    ImmutableArray<VariantStake> Deleted,
    ImmutableArray<VariantStake> Retired,
    ImmutableArray<MergedVariant> Merged,
    ImmutableArray<Combination> NotMade
)
{
    /// <summary>Variants whose options come to share their SKU: their stock is added up under one.</summary>
    public ImmutableArray<JoinedSku> Joined { get; init; } = [];

    /// <summary>Variants whose options no longer share their SKU: they get one of their own; the stock stays with the first.</summary>
    public ImmutableArray<KeptVariant> Parted { get; init; } = [];

    /// <summary>Whether nothing that was typed, counted or sold is touched, so that nobody needs to be asked.</summary>
    public bool IsHarmless =>
        Retired.IsEmpty
        && Deleted.All(d => d.IsBlank)
        && Merged.All(m => m.Absorbed.All(a => a.IsBlank))
        && Joined.All(j => j.Joining.All(k => k.Stake is { OnHand: 0, HasHistory: false }))
        && Parted.All(k => k.Stake.OnHand == 0);

    /// <summary>Units on hand of variants that would be retired; whatever has units is not deleted.</summary>
    public int UnitsAtStake => Retired.Sum(r => r.OnHand);

    /// <summary>“+12 new, 0 lost, 3 to retire: 41 units on hand”.</summary>
    public string InWords()
    {
        var text = $"+{New.Length:N0} new, {Deleted.Length:N0} lost";
        if (!Merged.IsEmpty)
            text += $", {Merged.Sum(m => m.Absorbed.Length + 1):N0} merged into {Merged.Length:N0}";
        if (!Joined.IsEmpty)
            text += $", {Joined.Sum(j => j.Joining.Length + 1):N0} SKUs become {Joined.Length:N0}";
        if (!Parted.IsEmpty)
            text += $", {Parted.Length:N0} get SKUs of their own";
        if (!Retired.IsEmpty)
            text += $", {Retired.Length:N0} to retire: {UnitsAtStake:N0} {(UnitsAtStake == 1 ? "unit" : "units")} on hand";
        return text;
    }
}

/// <summary>Works out what a change of options does; by keys alone, so that renaming and reordering change nothing else.</summary>
public static class OptionChange
{
    /// <summary>The difference between the variants as they are and the matrix that the new options make.</summary>
    /// <param name="before">The variant options now.</param>
    /// <param name="after">The variant options wanted.</param>
    /// <param name="notMade">What is not made now. What names a removed option or value falls away.</param>
    /// <param name="variants">Every variant now, the retired ones too.</param>
    /// <param name="decisions">What was decided about what is at stake.</param>
    /// <exception cref="ArgumentException">The new matrix is larger than can be held; ask <see cref="MadeSet.Size"/> first.</exception>
    public static MatrixDifference Work(
        IReadOnlyList<Option> before,
        IReadOnlyList<Option> after,
        IEnumerable<Combination> notMade,
        IEnumerable<VariantStake> variants,
        OptionDecisions decisions
    )
    {
        var stillNotMade = AsBecome(before, [.. notMade], decisions)
            .Where(n => n.Pairs.All(p => after.FirstOrDefault(o => o.Key == p.Option)?.Find(p.Value) is not null))
            .ToImmutableArray();
        var made = new MadeSet(after, stillNotMade);
        var added = after.Where(o => before.All(b => b.Key != o.Key)).ToList();
        var lost = new List<VariantStake>();
        var landed = new Dictionary<string, List<KeptVariant>>();
        foreach (var stake in variants)
        {
            var target = Target(stake.Variant.Values, after, added, decisions);
            if (target is null || made.NumberOf(target) is not { } number || !made.IsMade(number))
                lost.Add(stake);
            else if (landed.TryGetValue(target.Text, out var there))
                there.Add(new KeptVariant(stake, target));
            else
                landed[target.Text] = [new KeptVariant(stake, target)];
        }

        var kept = ImmutableArray.CreateBuilder<KeptVariant>();
        var merged = ImmutableArray.CreateBuilder<MergedVariant>();
        foreach (var group in landed.Values)
        {
            if (group.Count == 1)
            {
                kept.Add(group[0]);
                continue;
            }
            var survivor = group.Find(k => decisions.Survivors.Contains(k.Stake.Variant.Values.Text))
                ?? group
                    .OrderBy(k => k.Stake.Variant.Retired)
                    .ThenBy(k => k.Values != k.Stake.Variant.Values)
                    .ThenBy(k => PlaceIn(before, k.Stake.Variant.Values))
                    .First();
            merged.Add(new MergedVariant(survivor.Values, survivor.Stake, [.. group.Where(k => k != survivor).Select(k => k.Stake)]));
        }
        var fresh = made.Made().Select(made.At).Where(c => !landed.ContainsKey(c.Text)).ToImmutableArray();
        var gone = lost.Where(s => !s.Variant.Retired || s.OnHand > 0).ToLookup(s => s.HasHistory || s.OnHand > 0);
        var staying = kept.Concat(merged.Select(m => new KeptVariant(m.Survivor, m.Values)))
            .OrderBy(k => PlaceIn(after, k.Values))
            .ToList();
        return new MatrixDifference(kept.ToImmutable(), fresh, [.. gone[false]], [.. gone[true]], merged.ToImmutable(), stillNotMade)
        {
            Joined = [.. JoinedSkus(before, after, staying, decisions)],
            Parted = [.. PartedSkus(before, after, staying)],
        };
    }

    /// <summary>The values that tell the SKUs of a product apart: those of options that do not share them.</summary>
    public static Combination Apart(Combination values, IEnumerable<Option> options) =>
        options.Where(o => o.SharesSku).Aggregate(values, (c, o) => c.Without(o.Key));

    private static IEnumerable<JoinedSku> JoinedSkus(
        IReadOnlyList<Option> before,
        IReadOnlyList<Option> after,
        List<KeptVariant> staying,
        OptionDecisions decisions
    )
    {
        if (!after.Any(o => o.SharesSku))
            yield break;
        foreach (var group in staying.GroupBy(k => Apart(k.Values, after)))
        {
            var skus = group.DistinctBy(k => Apart(k.Stake.Variant.Values, before)).ToList();
            if (skus.Count < 2)
                continue;
            var holder = skus.Find(k => decisions.Survivors.Contains(k.Stake.Variant.Values.Text))
                ?? skus.OrderByDescending(k => k.Stake.OnHand > 0).ThenByDescending(k => k.Stake.HasHistory).First();
            yield return new JoinedSku(holder, [.. skus.Where(k => k != holder)]);
        }
    }

    private static IEnumerable<KeptVariant> PartedSkus(
        IReadOnlyList<Option> before,
        IReadOnlyList<Option> after,
        List<KeptVariant> staying
    ) =>
        !before.Any(o => o.SharesSku)
            ? []
            : staying
                .GroupBy(k => Apart(k.Stake.Variant.Values, before))
                .SelectMany(g => g.DistinctBy(k => Apart(k.Values, after)).Skip(1));

    /// <summary>Whether a change of options only adds, renames and reorders, so that no variant that is there is touched.</summary>
    public static bool OnlyAdds(IReadOnlyList<Option> before, IReadOnlyList<Option> after) =>
        before.Count == after.Count
        && before.All(b =>
            after.FirstOrDefault(a => a.Key == b.Key) is { } a && a.SharesSku == b.SharesSku && b.Values.All(v => a.Find(v.Key) is not null)
        );

    /// <summary>The combinations that a change which <see cref="OnlyAdds"/> brings; the cost grows with them, not with what is
    /// there.</summary>
    public static IEnumerable<Combination> Added(
        IReadOnlyList<Option> before,
        IReadOnlyList<Option> after,
        IReadOnlyList<Combination> notMade
    )
    {
        var made = new MadeSet(after, notMade);
        var isNew = after.Select(o => o.Values.Select(v => before.First(b => b.Key == o.Key).Find(v.Key) is null).ToArray()).ToArray();
        foreach (var number in made.Made())
        {
            var any = false;
            for (var i = 0; i < isNew.Length && !any; i++)
                any = isNew[i][made.ValueAt(number, i)];
            if (any)
                yield return made.At(number);
        }
    }

    /// <summary>The difference of a change which <see cref="OnlyAdds"/>.</summary>
    /// <param name="before">As they are.</param>
    /// <param name="after">As they would be.</param>
    /// <param name="notMade">The combinations that are not made.</param>
    /// <param name="returning">Retired variants that the change makes again.</param>
    public static MatrixDifference WorkAdding(
        IReadOnlyList<Option> before,
        IReadOnlyList<Option> after,
        ImmutableArray<Combination> notMade,
        IEnumerable<VariantStake> returning
    )
    {
        var kept = returning.Select(r => new KeptVariant(r, r.Variant.Values)).ToImmutableArray();
        var there = kept.Select(k => k.Values).ToHashSet();
        return new MatrixDifference(kept, [.. Added(before, after, notMade).Where(c => !there.Contains(c))], [], [], [], notMade);
    }

    /// <summary>
    /// What is not made once values have become others. Where both values were there, a combination stays not made only if neither was
    /// made; otherwise what was made of the other would be lost.
    /// </summary>
    private static IEnumerable<Combination> AsBecome(
        IReadOnlyList<Option> before,
        ImmutableArray<Combination> notMade,
        OptionDecisions decisions
    )
    {
        if (decisions.Becomes.IsEmpty)
            return notMade;
        var all = notMade.ToHashSet();
        var kept = new List<Combination>();
        foreach (var combination in notMade)
        {
            var now = Combination.Of(
                combination.Pairs.Select(p => (p.Option, decisions.Becomes.TryGetValue(p, out var other) ? other : p.Value))
            );
            if (now == combination)
            {
                // Stays only if everything that becomes it is not made either.
                var sources = decisions.Becomes.Where(b =>
                    combination[b.Key.Option] == b.Value && before.FirstOrDefault(o => o.Key == b.Key.Option)?.Find(b.Key.From) is not null
                );
                if (sources.All(b => all.Contains(combination.With(b.Key.Option, b.Key.From))))
                    kept.Add(combination);
            }
            else if (
                combination.Pairs.All(p =>
                    !decisions.Becomes.TryGetValue(p, out var other) || before.First(o => o.Key == p.Option).Find(other) is null
                )
            )
                kept.Add(now);
        }
        return kept.Distinct();
    }

    private static Combination? Target(Combination values, IReadOnlyList<Option> after, List<Option> added, OptionDecisions decisions)
    {
        var pairs = new List<(Key, Key)>(after.Count);
        foreach (var (option, value) in values.Pairs)
        {
            var stays = after.FirstOrDefault(o => o.Key == option);
            if (stays is null)
                continue;
            var now = decisions.Becomes.TryGetValue((option, value), out var other) ? other : value;
            if (stays.Find(now) is null)
                return null;
            pairs.Add((option, now));
        }
        foreach (var option in added.Where(o => values[o.Key] is null))
        {
            if (option.Values.IsEmpty)
                return null;
            pairs.Add(
                (option.Key, decisions.Takes.TryGetValue(option.Key, out var v) && option.Find(v) is not null ? v : option.Values[0].Key)
            );
        }
        return pairs.Count == after.Count ? Combination.Of(pairs) : null;
    }

    private static long PlaceIn(IReadOnlyList<Option> options, Combination values) =>
        options.Aggregate(0L, (place, o) => place * (o.Values.Length + 1) + (values[o.Key] is { } v ? o.PlaceOf(v) + 1 : 0));
}
