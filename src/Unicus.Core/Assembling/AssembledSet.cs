namespace Unicus.Core.Assembling;

using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Range;
using Unicus.Core.Rules;

/// <summary>A part that was picked for a slot.</summary>
/// <param name="Slot">The slot.</param>
/// <param name="Candidate">What fills the slot.</param>
/// <param name="Units">For one set; null while that is open.</param>
/// <param name="Status">How its own answers stand; null where it is not on sale.</param>
/// <param name="Problem">Why it cannot be had; null where it can.</param>
public sealed record PickedPart(FilledSlot Slot, Candidate Candidate, int? Units, ConfigurationStatus? Status, string? Problem)
{
    /// <summary>Whether variant and units are decided, and those of its own parts.</summary>
    public bool IsDecided => Units is not null && Status is { Variant: not null, Assembled: null or { IsDecided: true } };

    /// <summary>Whether something of it is still to be picked or answered before it can be ordered.</summary>
    public bool IsOpen => !IsDecided || Status is { IsOpen: true };

    /// <summary>The keys of its questions and slots that are open.</summary>
    public IEnumerable<string> OpenKeys =>
        Status is null ? [] : Status.Open.Select(o => o.Key.Text).Concat(Status.Assembled?.OpenKeys ?? []);

    /// <summary>What of it is open, as shoppers read it.</summary>
    public IEnumerable<string> OpenLabels =>
        Status is null
            ? []
            : Status
                .Edition.Configurator.Questions.Where(q =>
                    q.Role == OptionRole.Variant && Status.Variant is null && Status.Shown[q.Key] is null
                )
                .Concat(Status.Open.Where(q => q.Role == OptionRole.Extra))
                .Select(q => q.Label)
                .Concat(Status.Assembled?.OpenLabels ?? []);

    /// <summary>What it is called.</summary>
    public string Name => Status is { Variant: { } v } s ? s.Edition.Title(v) : Status?.Edition.Product.Name ?? Candidate.Label;
}

/// <summary>The sets that something is looked at in, from the inside out, so that none is entered twice.</summary>
internal sealed record EnteredSets(int Product, EnteredSets? Around = null)
{
    /// <summary>How many they are.</summary>
    public int Levels { get; } = 1 + (Around?.Levels ?? 0);

    /// <summary>Whether a product is one of them.</summary>
    public bool Contains(int product) => Product == product || Around?.Contains(product) == true;
}

/// <summary>A set with its slots filled as far as answers say.</summary>
/// <param name="Parts">In the order of the slots, several picks in the order of the candidates.</param>
/// <param name="Open">The slots of which candidate, quantity or variant is undecided.</param>
/// <param name="Problem">Why it cannot be put together; null where it can.</param>
public sealed record AssembledSet(ImmutableArray<PickedPart> Parts, ImmutableArray<Slot> Open, string? Problem)
{
    /// <summary>Whether nothing is open and nothing stands in the way.</summary>
    public bool IsDecided => Open.IsEmpty && Problem is null;

    /// <summary>Whether something is still to be picked, or answered of parts, before it can be ordered.</summary>
    public bool IsOpen => !Open.IsEmpty || Parts.Any(p => p is { Problem: null, IsOpen: true });

    /// <summary>The keys of what is open, those of parts' own questions and slots behind the slot: <c>suit/size</c>.</summary>
    public IEnumerable<string> OpenKeys =>
        Open.Where(s => Parts.All(p => p.Slot.Slot != s))
            .Select(s => s.Key.Text)
            .Concat(
                from part in Parts
                where part.IsOpen
                let slot = part.Slot.Slot.Key.Text
                from key in part.OpenKeys.DefaultIfEmpty("")
                select key.Length == 0 ? slot : $"{slot}/{key}"
            );

    /// <summary>What is open, as shoppers read it.</summary>
    public IEnumerable<string> OpenLabels =>
        Open.Where(s => Parts.All(p => p.Slot.Slot != s))
            .Select(s => s.Label)
            .Concat(
                from part in Parts
                where part is { Problem: null, IsOpen: true }
                from label in part.OpenLabels.DefaultIfEmpty("units")
                select $"{part.Slot.Slot.Label}: {Wording.LowerFirst(label)}"
            );

    /// <summary>The answers to extras of parts as people read them: “Plate, name: Ida”. What fills slots is not among them.</summary>
    public IEnumerable<(string Label, string Answer)> Extras =>
        from part in Parts
        let status = part.Status
        where status is not null
        let place = Parts.Count(p => p.Slot == part.Slot) > 1 ? part.Name : part.Slot.Slot.Label
        let own = AnswerText.Extras(status.Edition.Questions.Where(q => !q.IsSlot), status.Shown)
        from extra in own.Concat(status.Assembled?.Extras ?? [])
        select ($"{place}, {Wording.LowerFirst(extra.Label)}", extra.Answer);

    /// <summary>Fills the slots.</summary>
    /// <param name="edition">The set.</param>
    /// <param name="shown">Answers that count.</param>
    /// <param name="said">What was said of parts.</param>
    /// <param name="filling">How far what was left open is filled in.</param>
    /// <param name="terms">By what it is reckoned.</param>
    /// <param name="within">The sets that it stands in, itself included.</param>
    internal static AssembledSet Of(
        Edition edition,
        Configuration shown,
        PartAnswers said,
        Filling filling,
        ConfigurationTerms terms,
        EnteredSets within
    )
    {
        var parts = ImmutableArray.CreateBuilder<PickedPart>();
        var open = ImmutableArray.CreateBuilder<Slot>();
        string? problem = null;
        var visibility = new Visibility(edition.Configurator.Book, shown);
        foreach (var slot in edition.Slots)
        {
            if (slot.Question is { } question && !visibility.IsShown(question.Key))
                continue;
            if (Picked(slot, shown) is not { } picked)
            {
                if (slot.Slot.Optional && filling != Filling.None)
                    continue;
                open.Add(slot.Slot);
                continue;
            }
            if (picked.Count == 0 && slot.Question is null)
                problem ??= $"{slot.Slot.Label}: nothing is there to fill it.";
            foreach (var candidate in picked)
            {
                var part = Part(slot, candidate, edition, shown, said, filling, terms, within);
                parts.Add(part);
                problem ??= part.Problem;
                if (part is { Problem: null, IsDecided: false } && !open.Contains(slot.Slot))
                    open.Add(slot.Slot);
            }
        }
        return new AssembledSet(parts.ToImmutable(), open.ToImmutable(), problem);
    }

    /// <summary>The candidates that are picked; null while that is open.</summary>
    private static List<Candidate>? Picked(FilledSlot slot, Configuration shown)
    {
        if (slot.Question is not { } question)
            return slot.Slot.Optional ? [] : [.. slot.Candidates];
        return shown[question.Key] switch
        {
            Answer.None => [],
            Answer.Value v => slot.Find(v.Key) is { } one ? [one] : null,
            Answer.Ticks t => [.. slot.Candidates.Where(c => t.Keys.Contains(c.Key))],
            _ => null,
        };
    }

    /// <summary>A candidate as it fills a slot.</summary>
    internal static PickedPart Part(
        FilledSlot slot,
        Candidate candidate,
        Edition set,
        Configuration shown,
        PartAnswers said,
        Filling filling,
        ConfigurationTerms terms,
        EnteredSets within
    )
    {
        var answer = said.Of(slot.Slot.Key, candidate.Key);
        var units = answer?.Quantity ?? slot.Slot.Quantity.Decided;
        PickedPart No(string why) => new(slot, candidate, units, null, why);
        if (PartOnSale.Of(candidate, terms.Range) is not { } part)
            return No($"{slot.Slot.Label}: {candidate.Label} is not on sale.");
        if (part.Edition.Product.IsGroup)
            return No($"{slot.Slot.Label}: {candidate.Label} is a group, which is no part.");
        if (within.Contains(part.Edition.ProductId) || within.Levels > SetParts.MostLevels)
            return No($"{slot.Slot.Label}: {candidate.Label} contains {set.Product.Name}.");
        if (AnswersOf(slot.Slot, part, answer?.Answers ?? Configuration.Empty, set, shown) is not { } following)
            return No($"{slot.Slot.Label}: {candidate.Label} has no such {((SlotPick.Follows)slot.Slot.Pick).Option}.");
        var quantity = Math.Max(1, units ?? slot.Slot.Quantity.Min) * terms.Quantity;
        ConfigurationStatus Find() =>
            ConfigurationStatus.Within(
                part.Edition,
                following,
                answer?.Inner ?? PartAnswers.None,
                filling,
                terms with
                {
                    Quantity = quantity,
                    Through = null,
                },
                new EnteredSets(part.Edition.ProductId, within)
            );
        var status = answer is null && slot.Slot.Pick is not SlotPick.Follows ? terms.Known.Of(part, filling, quantity, Find) : Find();
        var problem =
            !status.Reply.Valid ? $"{slot.Slot.Label}: {candidate.Label} cannot be had with these answers."
            : status.Assembled is { Problem: { } inner } ? $"{slot.Slot.Label}: {inner}"
            : status.Needs is { Ok: false, Problem: { } need } ? $"{slot.Slot.Label}: {need}"
            : status.Assembled is null && status.Variant is { Price.Figure: null } ? $"{slot.Slot.Label}: {candidate.Label} has no price."
            : null;
        return new PickedPart(slot, candidate, units, status, problem);
    }

    /// <summary>The variants that goods may have of whose answers nothing was said, from what is kept of them; null where they have to
    /// be looked at.</summary>
    internal static List<UnitSpan>? Unanswered(
        FilledSlot slot,
        Candidate candidate,
        Edition set,
        Configuration shown,
        PartAnswers said,
        PublishedRange range
    )
    {
        if (
            said.Of(slot.Slot.Key, candidate.Key) is not null
            || PartOnSale.Of(candidate, range) is not { } part
            || part.Edition.Product is { IsSet: true } or { IsGroup: true }
            || UnitSpan.Of(part.Edition) is not { } spans
            || AnswersOf(slot.Slot, part, Configuration.Empty, set, shown) is not { } given
        )
            return null;
        var units = spans.Where(s => given.Given.All(g => g.Answer is Answer.Value v && s.Goods.Variant.Values[g.Question] == v.Key));
        return units.ToList() is { Count: > 0 } found ? found : null;
    }

    /// <summary>The answers of a part: those given, those of its variant, and the one that follows the set's; null where there is no
    /// counterpart.</summary>
    internal static Configuration? AnswersOf(Slot slot, PartOnSale part, Configuration given, Edition set, Configuration shown) =>
        Follow(
            slot,
            part.Edition,
            set,
            shown,
            part.Only is { } only ? only.Values.Pairs.Aggregate(given, (g, p) => g.With(p.Option, new Answer.Value(p.Value))) : given
        );

    private static Configuration? Follow(Slot slot, Edition part, Edition set, Configuration shown, Configuration given)
    {
        if (
            slot.Pick is not SlotPick.Follows follows
            || part.Product.Questions.FirstOrDefault(q => q.Key == follows.Option) is not { } option
        )
            return given;
        if (ValueOf(set, shown, follows.Option) is not { } value)
            return given;
        return follows.Counterpart(value) is { } counterpart && option.Find(counterpart) is not null
            ? given.With(option.Key, new Answer.Value(counterpart))
            : null;
    }

    private static Key? ValueOf(Edition set, Configuration shown, Key option) =>
        shown[option] is Answer.Value v ? v.Key
        : set.Product.Options.FirstOrDefault(o => o.Key == option) is { Values: [var only] } ? only.Key
        : null;
}
