namespace Unicus.Core.Documents.Baskets;

using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;
using Unicus.Core.Assembling;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Range;
using Unicus.Core.Rules;

/// <summary>Answers for the parts of a set as requests and kept baskets write them: an object of slot and list of parts.</summary>
public static class PartAnswersDocument
{
    /// <summary>Reads answers for parts.</summary>
    /// <param name="node">An object of slot and list of parts; what is not there says nothing.</param>
    /// <param name="edition">The set.</param>
    /// <param name="range">Where parts are looked up.</param>
    /// <param name="today">The day that dates are counted from.</param>
    public static PartAnswers Read(Node node, Edition edition, PublishedRange range, DateOnly today) =>
        Read(node, edition, range, today, 0);

    /// <summary>The answers with the picks of slots that stand among the parts; where both are given they must agree.</summary>
    /// <param name="said">What was said of the parts.</param>
    /// <param name="edition">The product.</param>
    /// <param name="given">The answers as they came.</param>
    /// <param name="node">Where faults are told.</param>
    public static Configuration Picks(PartAnswers said, Edition edition, Configuration given, Node node)
    {
        foreach (var slot in edition.Slots)
        {
            if (!said.BySlot.TryGetValue(slot.Slot.Key, out var picks) || slot.Question is not { } question)
                continue;
            ImmutableArray<Key> keys = [.. picks.Select(p => p.Candidate)];
            Answer picked =
                keys.IsEmpty ? new Answer.None()
                : question.Ask == Ask.Several ? new Answer.Ticks(keys)
                : new Answer.Value(keys[0]);
            if (given[question.Key] is { } answer && answer != picked)
                node.At(question.Key.Text).Fault($"The answer to {question.Key} picks other parts.");
            else if (keys.Length > 1 && question.Ask == Ask.One)
                node.At(question.Key.Text).Fault($"{question.Label} takes one part.");
            else
                given = given.With(question.Key, picked);
        }
        return given;
    }

    private static PartAnswers Read(Node node, Edition edition, PublishedRange range, DateOnly today, int level)
    {
        if (!node.Exists || !node.IsObject("an object of slots and their parts") || level > SetParts.MostLevels)
            return PartAnswers.None;
        var found = ImmutableDictionary.CreateBuilder<Key, ImmutableArray<PartAnswer>>();
        foreach (var (name, list) in node.Members())
        {
            if (edition.Slots.FirstOrDefault(s => s.Slot.Key.Text == name) is not { } slot)
            {
                list.Fault($"There is no slot {name}.");
                continue;
            }
            if (list.Kind != JsonValueKind.Array)
            {
                list.Fault("A list of parts is needed.");
                continue;
            }
            var parts = list.Elements().Select(n => ReadPart(n, slot, range, today, level)).OfType<PartAnswer>().ToImmutableArray();
            if (parts.Select(p => p.Candidate).Distinct().Count() < parts.Length)
                list.Fault($"A part stands twice in {name}.");
            if (slot.Question is null && parts.IsEmpty && list.Kind == JsonValueKind.Array && !list.Elements().Any())
                list.Fault($"{slot.Slot.Label} cannot be left out.");
            found[slot.Slot.Key] = parts;
        }
        return new PartAnswers(found.ToImmutable());
    }

    private static PartAnswer? ReadPart(Node node, FilledSlot slot, PublishedRange range, DateOnly today, int level)
    {
        if (!node.IsObject("a part"))
            return null;
        node.Only("product", "sku", "answers", "quantity", "parts");
        if (node.Has("product") == node.Has("sku"))
        {
            node.Fault("A part names a product or a sku.");
            return null;
        }
        var product = node.Text("product", 100)?.ToUpperInvariant();
        var bySku = node.Text("sku", 100) is { } sku ? range.Sku(sku) : null;
        var candidate = slot.Candidates.FirstOrDefault(c =>
            product is not null ? Names(c, product, range) : IsOf(c, bySku, node.Text("sku", 100))
        );
        if (candidate is null)
        {
            node.Fault($"{product ?? node.Text("sku", 100)} is no part of {slot.Slot.Label}.");
            return null;
        }
        var limits = slot.Slot.Quantity;
        var quantity = node.Has("quantity") ? node.Whole("quantity", limits.Min, limits.Max) : null;
        if (PartOnSale.Of(candidate, range) is not { } part)
            return new PartAnswer(candidate.Key, Configuration.Empty, quantity, PartAnswers.None);
        var answers = AnswerDocument.Read(node.At("answers"), part.Edition.Questions, today);
        if (bySku is not null)
            foreach (var (option, value) in bySku.Variant.Values.Pairs)
                if (answers[option] is { } said && said != new Answer.Value(value))
                    node.At("answers").At(option.Text!).Fault("The SKU is another variant.");
                else
                    answers = answers.With(option, new Answer.Value(value));
        var inner = Read(node.At("parts"), part.Edition, range, today, level + 1);
        answers = Picks(inner, part.Edition, answers, node.At("parts"));
        return new PartAnswer(candidate.Key, answers, quantity, inner);
    }

    private static bool Names(Candidate candidate, string product, PublishedRange range) =>
        candidate.Entry is PartEntry.OfProduct named && named.Code == product
        // A product that became a variant of another is still asked for by its code.
        || candidate.Key == Slot.KeyOf(product)
        || (candidate.Product is { } code ? code == product : range.Sku(candidate.Sku!)?.Edition.Product.Code.Text == product);

    private static bool IsOf(Candidate candidate, VariantOnSale? variant, string? sku) =>
        candidate.Sku is { } own
            ? string.Equals(own, sku, StringComparison.OrdinalIgnoreCase)
                || string.Equals(own, variant?.Variant.Sku.Text, StringComparison.OrdinalIgnoreCase)
            : candidate.Product is { } code && variant?.Edition.Product.Code.Text == code;

    /// <summary>Writes the picks of a set as a line asks for them.</summary>
    public static JsonObject Write(AssembledSet set)
    {
        var json = new JsonObject();
        foreach (var slot in set.Parts.GroupBy(p => p.Slot.Slot.Key))
            json[slot.Key.Text] = new JsonArray([.. slot.Select(p => (JsonNode)Write(p))]);
        return json;
    }

    private static JsonObject Write(PickedPart part)
    {
        var json = part.Candidate.Sku is { } sku
            ? new JsonObject { ["sku"] = sku }
            : new JsonObject { ["product"] = part.Candidate.Product };
        if (part.Units is { } units)
            json["quantity"] = units;
        if (part.Status is not { } status)
            return json;
        json["answers"] = AnswerDocument.Write(status.Shown, status.Edition.Configurator.Questions);
        if (status.Assembled is { } inner)
            json["parts"] = Write(inner);
        return json;
    }
}
