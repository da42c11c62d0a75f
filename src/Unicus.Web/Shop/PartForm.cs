using System.Collections.Immutable;
using Microsoft.Extensions.Primitives;

namespace Unicus.Web.Shop;

/// <summary>What is picked of the parts of a set in forms and addresses: <c>p-suit.st.o-size=m</c> for an answer,
/// <c>p-suit.st.units=2</c> for the units; parts of parts stand behind one another.</summary>
public static class PartForm
{
    private const string Prefix = "p-";
    private const string Units = "units";

    /// <summary>How the fields of a part begin.</summary>
    /// <param name="within">Of the set that it is in; empty for the page's own.</param>
    public static string PrefixOf(string within, Key slot, Key candidate) => $"{within}{Prefix}{slot}.{candidate}.";

    /// <summary>The name of the field of a part's units.</summary>
    public static string UnitsName(string prefix) => prefix + Units;

    /// <summary>Reads what was sent of every part that may be picked; what cannot stand is left out.</summary>
    public static PartAnswers Read(
        Edition edition,
        IEnumerable<KeyValuePair<string, StringValues>> sent,
        PublishedRange range,
        DateOnly today,
        int level = 0
    )
    {
        var all = sent.Where(s => s.Key.StartsWith(Prefix, StringComparison.Ordinal)).ToList();
        if (all.Count == 0 || level > SetParts.MostLevels)
            return PartAnswers.None;
        var found = ImmutableDictionary.CreateBuilder<Key, ImmutableArray<PartAnswer>>();
        foreach (var slot in edition.Slots)
            found[slot.Slot.Key] = [.. slot.Candidates.Select(c => Read(slot.Slot, c, all, range, today, level)).OfType<PartAnswer>()];
        return new PartAnswers(found.ToImmutable());
    }

    private static PartAnswer? Read(
        Slot slot,
        Candidate candidate,
        List<KeyValuePair<string, StringValues>> all,
        PublishedRange range,
        DateOnly today,
        int level
    )
    {
        var prefix = PrefixOf("", slot.Key, candidate.Key);
        var own = all.Where(s => s.Key.StartsWith(prefix, StringComparison.Ordinal))
            .Select(s => KeyValuePair.Create(s.Key[prefix.Length..], s.Value))
            .ToList();
        if (own.Count == 0 || PartOnSale.Of(candidate, range) is not { } part)
            return null;
        var typed = own.Find(s => s.Key == Units).Value.ToString();
        var units = TypedNumbers.Whole(typed, slot.Quantity.Min, slot.Quantity.Max).Value;
        var answers = BuyForm.Read(part.Edition.Configurator, own, today);
        return new PartAnswer(candidate.Key, answers.Given, units, Read(part.Edition, own, range, today, level + 1))
        {
            Partial = [.. answers.Partial.Select(x => (x.Key, x.Value))],
        };
    }

    /// <summary>What was picked as it stands in an address.</summary>
    public static IEnumerable<(string Name, string Value)> Pairs(AssembledSet? set, string within = "")
    {
        foreach (var part in set?.Parts ?? [])
        {
            var prefix = PrefixOf(within, part.Slot.Slot.Key, part.Candidate.Key);
            if (part.Units is { } units && part.Slot.Slot.Quantity is var limits && limits.Min < limits.Max)
                yield return (UnitsName(prefix), units.ToString(System.Globalization.CultureInfo.InvariantCulture));
            foreach (var (question, answer) in part.Status?.Given.Given ?? [])
                foreach (var text in AnswerText.Write(answer).DefaultIfEmpty(""))
                    yield return ($"{prefix}{BuyForm.Prefix}{question}", text);
            foreach (var inner in Pairs(part.Status?.Assembled, prefix))
                yield return inner;
        }
    }
}
