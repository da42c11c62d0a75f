namespace Unicus.Core.Assembling.Counts;

using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Products;
using Unicus.Core.Range;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>The largest number of sets over all mixes of open picks, as an integer program.</summary>
/// <remarks>
/// A variable says how many sets there are, one for each way to answer questions that rules tie together, and one for each way to fill
/// an open slot; the ways add up to the sets. A set made up ahead that may also come apart has a variable of what comes apart. Of several
/// picks none is taken more often than there are sets: then they can be dealt out so that no set has one twice.
/// </remarks>
internal sealed class MixOfPicks
{
    private const int MostVariants = 400;

    private readonly IntegerProgram _program = new();
    private readonly Dictionary<Sku, (VariantOnSale Goods, Dictionary<int, long> Taken)> _taken = [];
    private readonly Dictionary<Sku, int> _apart = [];
    private readonly ConfigurationTerms _terms;
    private bool _isWhole = true;

    private MixOfPicks(ConfigurationTerms terms) => _terms = terms;

    /// <summary>The number for a set as it stands.</summary>
    public static (long? Most, bool IsExact) Most(ConfigurationStatus status)
    {
        if (!status.Reply.Valid)
            return (0, true);
        var mix = new MixOfPicks(status.Terms);
        var sets = mix._program.Add();
        mix.Set(status.Edition, status.Answers, status.Parts, sets, 1, 0);
        foreach (var (sku, (goods, taken)) in mix._taken)
            if (status.Stock.CapacityOf(goods) is { } capacity)
            {
                if (mix._apart.TryGetValue(sku, out var apart))
                    taken[apart] = taken.GetValueOrDefault(apart) - 1;
                mix._program.AtMost(taken, capacity);
            }
        var (most, isExact) = mix._program.Largest(sets);
        return (most, isExact && mix._isWhole);
    }

    /// <summary>So many alike sets of a product for each of a variable.</summary>
    private void Set(Edition edition, Configuration given, PartAnswers said, int variable, long each, int level)
    {
        if (level > SetParts.MostLevels)
            return;
        var open = new OpenConfigurations(edition, q => q.Required && q.Values.Any(v => v.Part is not null));
        var ways = open.Of(given).DistinctBy(w => Kind(edition, w.Variant, w.Shown)).ToList();
        _isWhole &= open.IsWhole;
        if (ways.Count == 1)
        {
            Way(edition, ways[0].Variant, ways[0].Shown, said, variable, each, level);
            return;
        }
        var sum = new Dictionary<int, long> { [variable] = 1 };
        foreach (var (variant, shown) in ways)
        {
            var way = _program.Add();
            sum[way] = -1;
            Way(edition, variant, shown, said, way, each, level);
        }
        _program.AtMost(sum, 0);
    }

    /// <summary>What tells two ways apart as far as stock goes: an option that no slot follows does not.</summary>
    private static string Kind(Edition edition, MatrixVariant variant, Configuration shown)
    {
        var product = edition.Product;
        var followed = product.Slots.Select(s => (s.Slot.Pick as SlotPick.Follows)?.Option).OfType<Key>().ToHashSet();
        var telling = product.Questions.Where(q => followed.Contains(q.Key) || q.IsSlot || q.Values.Any(v => v.Part is not null));
        var own = product.Parts!.Stock == SetStock.Parts ? "" : variant.Sku.Text;
        return string.Join(
            ' ',
            telling
                .Select(q => shown[q.Key] is { } answer ? string.Join(',', AnswerText.Write(answer).Order(StringComparer.Ordinal)) : "?")
                .Append(own)
        );
    }

    private void Way(Edition edition, MatrixVariant variant, Configuration shown, PartAnswers said, int variable, long each, int level)
    {
        var goods = new VariantOnSale(edition, variant);
        var stock = edition.Product.Parts!.Stock;
        if (stock != SetStock.Parts)
        {
            Take(goods, variable, each);
            if (stock == SetStock.Own)
                return;
            // What its parts make of it is counted by a variable of its own, once for all places where it stands.
            if (_apart.ContainsKey(variant.Sku))
                return;
            (variable, each) = (_apart[variant.Sku] = _program.Add(), 1);
        }
        Brought(edition, shown, variable, each);
        var visibility = new Visibility(edition.Configurator.Book, shown);
        foreach (var slot in edition.Slots)
            if (slot.Question is null || visibility.IsShown(slot.Slot.Key))
                Fill(edition, slot, shown, said, variable, each, level);
    }

    private void Fill(Edition edition, FilledSlot slot, Configuration shown, PartAnswers said, int variable, long each, int level)
    {
        var picks = slot.Question is null ? slot.Candidates.Select(c => c.Key).ToList() : PicksOf(shown[slot.Slot.Key]);
        if (picks is not null)
        {
            foreach (var pick in picks)
                Choose([.. Ways(edition, slot, pick, shown, said)], 1, variable, each, level, distinct: false);
            if (picks.Count == 0 && slot.Question is null)
                Choose([], 1, variable, each, level, distinct: false);
            return;
        }
        var least = PickCounts.Of(slot.Slot, slot.Candidates.Length).Least;
        if (least > 0)
            Choose(
                [.. slot.Candidates.SelectMany(c => Ways(edition, slot, c.Key, shown, said))],
                least,
                variable,
                each,
                level,
                distinct: least > 1
            );
    }

    private static List<Key>? PicksOf(Answer? answer) =>
        answer switch
        {
            Answer.Value v => [v.Key],
            Answer.Ticks t => [.. t.Keys],
            Answer.None => [],
            _ => null,
        };

    /// <summary>One way to fill a slot.</summary>
    /// <param name="Candidate">What fills the slot.</param>
    /// <param name="Status">How its answers stand; null where it is goods without any.</param>
    /// <param name="Goods">What it is.</param>
    /// <param name="Units">How many.</param>
    private sealed record PartWay(Key Candidate, ConfigurationStatus? Status, VariantOnSale Goods, int Units);

    private IEnumerable<PartWay> Ways(Edition edition, FilledSlot slot, Key candidate, Configuration shown, PartAnswers said)
    {
        if (slot.Find(candidate) is not { } found)
            yield break;
        if (AssembledSet.Unanswered(slot, found, edition, shown, said, _terms.Range) is { } plain)
        {
            foreach (var span in plain)
                yield return new PartWay(candidate, null, span.Goods, slot.Slot.Quantity.Decided ?? slot.Slot.Quantity.Min);
            yield break;
        }
        var part = AssembledSet.Part(slot, found, edition, shown, said, Filling.None, _terms, new EnteredSets(edition.ProductId));
        if (part is not { Problem: null, Status: { } status })
            yield break;
        var variants = status.Variant is { } one ? [one] : status.Edition.Configurator.Offered(status.Answers).ToList();
        if (variants.Count > MostVariants)
        {
            // Of very many those of which there is most: what is said is then a bound from below.
            variants =
            [
                .. variants
                    .OrderByDescending(v => _terms.Stock.CapacityOf(new VariantOnSale(status.Edition, v)) ?? long.MaxValue)
                    .Take(MostVariants),
            ];
            _isWhole = false;
        }
        foreach (var goods in variants.Select(v => new VariantOnSale(status.Edition, v)))
            yield return new PartWay(candidate, status, goods, part.Units ?? slot.Slot.Quantity.Min);
    }

    /// <summary>So many picks for each set out of some ways.</summary>
    private void Choose(IReadOnlyList<PartWay> ways, int picks, int variable, long each, int level, bool distinct)
    {
        if (ways.Count == 1 && picks == 1)
        {
            Use(ways[0], variable, each, level);
            return;
        }
        // Units of one pick are alike, so a way stands for all units that one set takes of it.
        var sum = new Dictionary<int, long> { [variable] = picks };
        foreach (var same in ways.GroupBy(w => w.Candidate))
        {
            var ofCandidate = new Dictionary<int, long> { [variable] = -1 };
            foreach (var way in same)
            {
                var chosen = _program.Add();
                sum[chosen] = -1;
                ofCandidate[chosen] = 1;
                Use(way, chosen, each, level);
            }
            if (distinct)
                _program.AtMost(ofCandidate, 0);
        }
        _program.AtMost(sum, 0);
    }

    private void Use(PartWay way, int variable, long each, int level)
    {
        var units = each * way.Units;
        if (way.Status is null)
        {
            Take(way.Goods, variable, units);
            return;
        }
        var edition = way.Status.Edition;
        var given = way.Goods.Variant.Values.Pairs.Aggregate(way.Status.Answers, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));
        if (edition.Product.IsSet)
        {
            Set(edition, given, way.Status.Parts, variable, units, level + 1);
            return;
        }
        Take(way.Goods, variable, units);
        Brought(edition, edition.Configurator.Shown(given), variable, units);
    }

    /// <summary>What comes with answers.</summary>
    private void Brought(Edition edition, Configuration shown, int variable, long each)
    {
        var brought = BroughtPart.Of(edition, shown, _terms.Range);
        foreach (var part in brought.Ok ? brought.Value : [])
            foreach (var need in part.Needs)
                Take(need, variable, each);
    }

    private void Take(LeafNeed need, int variable, long each)
    {
        var sku = need.Goods.Variant.Sku;
        Take(need.Goods, variable, each * need.PerUnit);
        if (!need.ComesApart || _apart.ContainsKey(sku))
            return;
        var apart = _apart[sku] = _program.Add();
        foreach (var part in need.Apart)
            Take(part, apart, 1);
    }

    private void Take(VariantOnSale goods, int variable, long units)
    {
        if (!_taken.TryGetValue(goods.Variant.Sku, out var taken))
            _taken[goods.Variant.Sku] = taken = (goods, []);
        taken.Taken[variable] = taken.Taken.GetValueOrDefault(variable) + units;
    }
}
