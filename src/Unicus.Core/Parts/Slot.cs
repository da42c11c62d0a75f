namespace Unicus.Core.Parts;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Rules;

/// <summary>How the variant of a part is found.</summary>
public abstract record SlotPick
{
    private SlotPick() { }

    /// <summary>The goods name one variant.</summary>
    public sealed record Fixed : SlotPick;

    /// <summary>The shopper picks it.</summary>
    public sealed record Shopper : SlotPick;

    /// <summary>The part's option of this key takes the value of the set's.</summary>
    /// <param name="Option">The option that it is about.</param>
    /// <param name="Table">The part's value for a value of the set; null: equal keys.</param>
    public sealed record Follows(Key Option, ImmutableSortedDictionary<Key, Key>? Table) : SlotPick
    {
        /// <summary>The part's value where the set has this one; null where there is no counterpart.</summary>
        public Key? Counterpart(Key value) =>
            Table is null ? value
            : Table.TryGetValue(value, out var other) ? other
            : null;
    }
}

/// <summary>How many units of a pick one set takes.</summary>
/// <param name="Min">1 or more.</param>
/// <param name="Max">At least <paramref name="Min"/>.</param>
/// <param name="Default">Between them; null: open where they differ.</param>
public readonly record struct SlotQuantity(int Min, int Max, int? Default)
{
    /// <summary>Units at most.</summary>
    public const int Most = 10_000;

    /// <summary>One of it.</summary>
    public static SlotQuantity One { get; } = new(1, 1, null);

    /// <summary>The number where there is nothing to pick.</summary>
    public int? Decided => Default ?? (Min == Max ? Min : null);
}

/// <summary>Something that may fill a slot.</summary>
public abstract record PartEntry
{
    private PartEntry() { }

    /// <summary>Only these variants, each a combination of some values; empty: all.</summary>
    public ImmutableArray<Combination> Variants { get; init; } = [];

    /// <summary>On top of a fixed price for each unit picked; null for nothing.</summary>
    public Money? Extra { get; init; }

    /// <summary>A product.</summary>
    /// <param name="Code">In capitals.</param>
    public sealed record OfProduct(string Code) : PartEntry;

    /// <summary>One variant.</summary>
    /// <param name="Code">In capitals.</param>
    public sealed record OfSku(string Code) : PartEntry;

    /// <summary>Everything in a category.</summary>
    public sealed record OfCategory(string Name) : PartEntry;

    /// <summary>Everything with a tag.</summary>
    public sealed record OfTag(string Name) : PartEntry;
}

/// <summary>One place in a product to be filled by a part.</summary>
public sealed record Slot(Key Key, string Label)
{
    /// <summary>What may fill it, in order.</summary>
    public ImmutableArray<PartEntry> Of { get; init; } = [];

    /// <summary>How many different parts may be picked; null: one.</summary>
    public PickLimits? Picks { get; init; }

    /// <summary>How many units of each.</summary>
    public SlotQuantity Quantity { get; init; } = SlotQuantity.One;

    /// <summary>How the variant is found.</summary>
    public SlotPick Pick { get; init; } = new SlotPick.Shopper();

    /// <summary>Whether it may stay empty.</summary>
    public bool Optional { get; init; }

    /// <summary>What each unit is reduced by; null for nothing.</summary>
    public PartReduction? Reduce { get; init; }

    /// <summary>What a unit costs at most, answers on top; null: its list price.</summary>
    public Money? SetUnit { get; init; }

    /// <summary>Whether the part's list price is dropped, its answers not.</summary>
    public bool Included { get; init; }

    /// <summary>What its pieces show on the page of a group; null: what the page says of all.</summary>
    public PieceShows? Shows { get; init; }

    /// <summary>The keys of the candidates that are picked beforehand.</summary>
    public ImmutableArray<Key> Default { get; init; } = [];

    /// <summary>The key of a candidate: its code in small letters, every run of other signs a hyphen, none at the ends.</summary>
    public static Key? KeyOf(string code)
    {
        var text = string.Join(
            '-',
            string.Concat(code.ToLowerInvariant().Select(c => char.IsAsciiLetterOrDigit(c) ? c : ' '))
                .Split(' ', StringSplitOptions.RemoveEmptyEntries)
        );
        return Key.TryParse(text, out var key) ? key : null;
    }
}

/// <summary>A part that may fill a slot, as it is in the range now.</summary>
/// <param name="Key">By which answers and rules name it.</param>
/// <param name="Label">What it is called.</param>
/// <param name="Product">The code of its product in capitals; null where that is not known.</param>
/// <param name="Sku">Where it is one variant.</param>
/// <param name="Entry">What brought it.</param>
public sealed record Candidate(Key Key, string Label, string? Product, string? Sku, PartEntry Entry)
{
    /// <summary>The set's values of the option that it follows that have a counterpart; null: all have.</summary>
    public ImmutableHashSet<Key>? Counterparts { get; init; }
}

/// <summary>A slot with what may fill it now.</summary>
public sealed record FilledSlot(Slot Slot, ImmutableArray<Candidate> Candidates)
{
    private readonly Lazy<Option?> _question = new(() => Ask(Slot, Candidates), LazyThreadSafetyMode.PublicationOnly);

    /// <summary>The slot as its document has it; what is in categories or has tags is not known.</summary>
    public static FilledSlot Of(Slot slot) => new(slot, [.. slot.Of.Select(Named).OfType<Candidate>().DistinctBy(c => c.Key)]);

    /// <summary>The candidate with this key; null where there is none.</summary>
    public Candidate? Find(Key key) => Candidates.FirstOrDefault(c => c.Key == key);

    /// <summary>The question that it is; null where there is nothing to choose.</summary>
    public Option? Question => _question.Value;

    private static Option? Ask(Slot slot, ImmutableArray<Candidate> candidates)
    {
        if (candidates.IsEmpty || (candidates.Length == 1 && !slot.Optional))
            return null;
        bool MayFill(Key key) => candidates.Any(c => c.Key == key);
        var isSeveral = slot.Picks is not null;
        return new Option(slot.Key, slot.Label, OptionRole.Extra)
        {
            IsSlot = true,
            Ask = isSeveral ? Options.Ask.Several : Options.Ask.One,
            Picks = slot.Picks ?? default,
            Required = !slot.Optional,
            Default = !isSeveral && slot.Default is [var only] && MayFill(only) ? only : null,
            Preset = isSeveral ? [.. slot.Default.Where(MayFill).Select(d => d.Text)] : [],
            Values = [.. candidates.Select(c => new OptionValue(c.Key, c.Label))],
        };
    }

    /// <summary>Where the part has no counterpart for a value of the set, that value cannot be had with it.</summary>
    /// <param name="option">The set's option that it follows, with its values.</param>
    public IEnumerable<SelectionRule> Rules(Option option)
    {
        var lacking = option
            .Values.Select(v =>
                (v.Key, Without: Candidates.Where(c => c.Counterparts?.Contains(v.Key) == false).Select(c => c.Key).ToList())
            )
            .Where(v => v.Without.Count > 0);
        foreach (var (value, without) in lacking)
        {
            var isQuestion = Question is not null;
            var then = new Effect.Forbid(isQuestion ? Slot.Key : option.Key, isQuestion ? [.. without] : [value]);
            var when = isQuestion ? new Condition.Is(option.Key, [value]) : Condition.Always;
            yield return new SelectionRule(Slot.Key, when, [then]) { IsNotMade = true };
        }
    }

    private static Candidate? Named(PartEntry entry) =>
        entry switch
        {
            PartEntry.OfProduct p when Slot.KeyOf(p.Code) is { } key => new Candidate(key, p.Code, p.Code, null, entry),
            PartEntry.OfSku s when Slot.KeyOf(s.Code) is { } key => new Candidate(key, s.Code, null, s.Code, entry),
            _ => null,
        };
}
