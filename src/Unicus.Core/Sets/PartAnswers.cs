using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Unicus.Core;

/// <summary>What was picked and answered for the parts of a set, by slot.</summary>
/// <param name="BySlot">A slot that is missing is left to its question and its usual picks; an empty list is deliberately none.</param>
public sealed record PartAnswers(ImmutableDictionary<Key, ImmutableArray<PartAnswer>> BySlot)
{
    /// <summary>Nothing was said.</summary>
    public static PartAnswers None { get; } = new(ImmutableDictionary<Key, ImmutableArray<PartAnswer>>.Empty);

    /// <summary>What was said of a candidate of a slot; null for nothing.</summary>
    public PartAnswer? Of(Key slot, Key candidate) =>
        BySlot.TryGetValue(slot, out var said) ? said.FirstOrDefault(p => p.Candidate == candidate) : null;

    /// <summary>Reads answers for parts.</summary>
    /// <param name="node">An object of slot and list of parts; what is not there says nothing.</param>
    /// <param name="edition">The set.</param>
    /// <param name="range">Where parts are looked up.</param>
    /// <param name="today">The day that dates are counted from.</param>
    public static PartAnswers Read(Node node, Edition edition, PublishedRange range, DateOnly today) =>
        Read(node, edition, range, today, 0);

    /// <summary>The answers with the picks of slots that stand among the parts; where both are given they must agree.</summary>
    /// <param name="node">Where faults are told.</param>
    public Configuration Picks(Edition edition, Configuration given, Node node)
    {
        foreach (var slot in edition.Product.Slots)
        {
            if (!BySlot.TryGetValue(slot.Slot.Key, out var said) || slot.Question is not { } question)
                continue;
            ImmutableArray<Key> keys = [.. said.Select(p => p.Candidate)];
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
            return None;
        var found = ImmutableDictionary.CreateBuilder<Key, ImmutableArray<PartAnswer>>();
        foreach (var (name, list) in node.Members())
        {
            if (edition.Product.Slots.FirstOrDefault(s => s.Slot.Key.Text == name) is not { } slot)
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
            return new PartAnswer(candidate.Key, Configuration.Empty, quantity, None);
        var answers = AnswerDocument.Read(node.At("answers"), part.Edition.Product.Questions, today);
        if (bySku is not null)
            foreach (var (option, value) in bySku.Variant.Values.Pairs)
                if (answers[option] is { } said && said != new Answer.Value(value))
                    node.At("answers").At(option.Text!).Fault("The SKU is another variant.");
                else
                    answers = answers.With(option, new Answer.Value(value));
        var inner = Read(node.At("parts"), part.Edition, range, today, level + 1);
        answers = inner.Picks(part.Edition, answers, node.At("parts"));
        return new PartAnswer(candidate.Key, answers, quantity, inner);
    }

    private static bool Names(Candidate candidate, string product, PublishedRange range) =>
        candidate.Product is { } code ? code == product : range.Sku(candidate.Sku!)?.Edition.Product.Code.Text == product;

    private static bool IsOf(Candidate candidate, VariantOnSale? variant, string? sku) =>
        candidate.Sku is { } own
            ? string.Equals(own, sku, StringComparison.OrdinalIgnoreCase)
                || string.Equals(own, variant?.Variant.Sku.Text, StringComparison.OrdinalIgnoreCase)
            : candidate.Product is { } code && variant?.Edition.Product.Code.Text == code;

    /// <summary>Writes answers for parts as they are read.</summary>
    public JsonObject Write(Edition edition, PublishedRange range)
    {
        var json = new JsonObject();
        foreach (var slot in edition.Product.Slots)
            if (BySlot.TryGetValue(slot.Slot.Key, out var said))
                json[slot.Slot.Key.Text] = new JsonArray([.. said.Select(p => (JsonNode)Write(p, slot.Find(p.Candidate), range))]);
        return json;
    }

    private static JsonObject Write(PartAnswer part, Candidate? candidate, PublishedRange range)
    {
        var json = candidate is { Sku: { } sku }
            ? new JsonObject { ["sku"] = sku }
            : new JsonObject { ["product"] = candidate?.Product ?? part.Candidate.Text };
        if (candidate is not null && PartOnSale.Of(candidate, range) is { } on)
        {
            if (!part.Answers.Given.IsEmpty)
                json["answers"] = AnswerDocument.Write(part.Answers, on.Edition.Product.Questions);
            if (!part.Inner.BySlot.IsEmpty)
                json["parts"] = part.Inner.Write(on.Edition, range);
        }
        if (part.Quantity is { } quantity)
            json["quantity"] = quantity;
        return json;
    }
}

/// <summary>What was said of one part.</summary>
/// <param name="Candidate">Its key.</param>
/// <param name="Answers">To its own questions.</param>
/// <param name="Quantity">Units for one set; null: not said.</param>
/// <param name="Inner">Of its own parts.</param>
public sealed record PartAnswer(Key Candidate, Configuration Answers, int? Quantity, PartAnswers Inner)
{
    /// <summary>Ticks of lists of which more are needed: no answers yet.</summary>
    public ImmutableArray<(Key Question, Answer.Ticks Ticks)> Partial { get; init; } = [];
}

/// <summary>A candidate as it is on sale.</summary>
/// <param name="Edition">With the variants on offer that may fill the slot.</param>
/// <param name="Only">The variant, where the candidate is one.</param>
public sealed record PartOnSale(Edition Edition, MatrixVariant? Only)
{
    private static readonly System.Runtime.CompilerServices.ConditionalWeakTable<Edition, NarrowedEditions> Narrowed = [];

    private sealed class NarrowedEditions : System.Collections.Concurrent.ConcurrentDictionary<string, Edition>;

    /// <summary>The candidate in the range; null where it is not on sale.</summary>
    public static PartOnSale? Of(Candidate candidate, PublishedRange range)
    {
        if (candidate.Sku is { } sku)
            return range.Part(sku) is { } part ? new PartOnSale(part.Edition, part.Variant) : null;
        if (candidate.Product is not { } code || range.Product(code) is not { } edition)
            return null;
        return new PartOnSale(Narrow(edition, candidate.Entry.Variants), null);
    }

    private static Edition Narrow(Edition edition, ImmutableArray<Combination> variants) =>
        variants.IsEmpty
            ? edition
            : Narrowed
                .GetOrCreateValue(edition)
                .GetOrAdd(
                    string.Join(';', variants.Select(v => v.Text)),
                    _ => new Edition(
                        edition.ProductId,
                        edition.Number,
                        edition.PublishedAt,
                        edition.Product,
                        edition.Matrix.Narrowed(v => variants.Any(only => only.IsWithin(v)))
                    )
                    {
                        Sets = edition.Sets,
                    }
                );
}
