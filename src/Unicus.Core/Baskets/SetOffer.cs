namespace Unicus.Core.Baskets;

using System.Collections.Immutable;
using Unicus.Core.Assembling;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Range;
using Unicus.Core.Rules;

/// <summary>A set whose parts lie in a basket already.</summary>
/// <param name="Set">The set.</param>
/// <param name="Answers">To the set's questions, picks of its slots among them.</param>
/// <param name="Assembled">With its slots filled.</param>
/// <param name="Used">Units of each line that one set takes, in the order of the lines.</param>
public sealed record SetOffer(Edition Set, Configuration Answers, AssembledSet Assembled, ImmutableArray<int> Used)
{
    private const int MostSteps = 5_000;

    /// <summary>Looks whether lines fill every slot of a set that must be filled, each line with the answers that it has.</summary>
    /// <returns>Null where they do not, or where the set could not be ordered like this without being asked.</returns>
    public static SetOffer? Find(Edition set, IReadOnlyList<RunLine> lines, ConfigurationTerms terms) =>
        set.Product.IsSet && lines.All(l => l.Goods.Edition.ProductId != set.ProductId) ? new SlotFiller(set, lines, terms).Find() : null;

    /// <summary>A pick of a slot, and the line that brings it.</summary>
    private sealed record FilledFrom(Candidate Candidate, RunLine Line, int Units);

    /// <summary>Fills one slot after the other from what is left of the lines.</summary>
    private sealed class SlotFiller(Edition set, IReadOnlyList<RunLine> lines, ConfigurationTerms terms)
    {
        private readonly int[] _used = new int[lines.Count];
        private readonly Dictionary<Key, List<FilledFrom>> _picked = [];
        private Configuration _answers = Configuration.Empty;
        private int _steps;

        public SetOffer? Find() => Slot(0);

        private SetOffer? Slot(int at)
        {
            if (_steps++ > MostSteps)
                return null;
            if (at == set.Slots.Length)
                return Offer();
            var slot = set.Slots[at];
            _picked[slot.Slot.Key] = [];
            var all = slot.Candidates.Length;
            var least = slot.Question is null ? all : PickCounts.Of(slot.Slot, all).Fewest;
            if (Pick(slot, at, least, 0) is { } found)
                return found;
            return slot.Slot.Optional ? Slot(at + 1) : null;
        }

        private SetOffer? Pick(FilledSlot slot, int at, int left, int from)
        {
            if (left == 0)
                return Slot(at + 1);
            var units = slot.Slot.Quantity.Decided ?? slot.Slot.Quantity.Min;
            for (var c = from; c < slot.Candidates.Length; c++)
                for (var l = 0; l < lines.Count; l++)
                {
                    if (!Fills(slot.Candidates[c], lines[l]) || lines[l].Quantity - _used[l] < units)
                        continue;
                    var before = _answers;
                    if (!Follows(slot.Slot, lines[l]))
                        continue;
                    _used[l] += units;
                    _picked[slot.Slot.Key].Add(new FilledFrom(slot.Candidates[c], lines[l], units));
                    if (Pick(slot, at, left - 1, c + 1) is { } found)
                        return found;
                    _picked[slot.Slot.Key].RemoveAt(_picked[slot.Slot.Key].Count - 1);
                    _used[l] -= units;
                    _answers = before;
                }
            return null;
        }

        private static bool Fills(Candidate candidate, RunLine line) =>
            !line.IsOfGroup
            && line.AskedParts is null
            && (
                candidate.Sku is { } sku
                    ? line.Goods.Variant.Sku.Text == sku
                    : candidate.Product == line.Goods.Edition.Product.Code.Text
                        && (candidate.Entry.Variants.IsEmpty || candidate.Entry.Variants.Any(v => v.IsWithin(line.Goods.Variant.Values)))
            );

        /// <summary>Answers the option of the set that a part follows, so that it becomes this one; false where it cannot.</summary>
        private bool Follows(Slot slot, RunLine line)
        {
            if (slot.Pick is not SlotPick.Follows follows || line.Goods.Variant.Values[follows.Option] is not { } wanted)
                return true;
            var option = set.Questions.FirstOrDefault(q => q.Key == follows.Option);
            if (option?.Values.FirstOrDefault(v => follows.Counterpart(v.Key) == wanted) is not { } value)
                return false;
            var answer = new Answer.Value(value.Key);
            if (_answers[option.Key] is { } other && other != answer)
                return false;
            _answers = _answers.With(option.Key, answer);
            return true;
        }

        private SetOffer? Offer()
        {
            var (answers, parts) = (_answers, ImmutableDictionary.CreateBuilder<Key, ImmutableArray<PartAnswer>>());
            foreach (var slot in set.Slots)
            {
                var picked = _picked[slot.Slot.Key];
                if (slot.Question is { } question)
                    answers = answers.With(question.Key, Answered(question, picked.ConvertAll(p => p.Candidate.Key)));
                parts[slot.Slot.Key] =
                [
                    .. picked.Select(p => new PartAnswer(p.Candidate.Key, AnswersOf(p.Line), p.Units, PartAnswers.None)),
                ];
            }
            var said = new PartAnswers(parts.ToImmutable());
            var status = ConfigurationStatus.Of(set, answers, Filling.Rest, terms, said);
            return status.IsWhole && status.Available?.CanSell(1) == true
                ? new SetOffer(set, status.Shown, status.Assembled!, [.. _used])
                : null;
        }

        private static Configuration AnswersOf(RunLine line) =>
            line.Goods.Variant.Values.Pairs.Aggregate(line.Answers, (a, p) => a.With(p.Option, new Answer.Value(p.Value)));

        private static Answer Answered(Option question, List<Key> picks) =>
            picks.Count == 0 ? new Answer.None()
            : question.Ask == Ask.Several ? new Answer.Ticks([.. picks])
            : new Answer.Value(picks[0]);
    }
}
