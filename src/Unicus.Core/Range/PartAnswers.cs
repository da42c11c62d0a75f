namespace Unicus.Core.Range;

using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>What was picked and answered for the parts of a set, by slot.</summary>
/// <param name="BySlot">A slot that is missing is left to its question and its usual picks; an empty list is deliberately none.</param>
public sealed record PartAnswers(ImmutableDictionary<Key, ImmutableArray<PartAnswer>> BySlot)
{
    /// <summary>Nothing was said.</summary>
    public static PartAnswers None { get; } = new(ImmutableDictionary<Key, ImmutableArray<PartAnswer>>.Empty);

    /// <summary>What was said of a candidate of a slot; null for nothing.</summary>
    public PartAnswer? Of(Key slot, Key candidate) =>
        !BySlot.IsEmpty && BySlot.TryGetValue(slot, out var said) ? said.FirstOrDefault(p => p.Candidate == candidate) : null;
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
        return EditionOf(candidate, range) is { } edition ? new PartOnSale(edition, null) : null;
    }

    /// <summary>The edition that a candidate is of; null where it is not on sale.</summary>
    public static Edition? EditionOf(Candidate candidate, PublishedRange range) =>
        candidate.Sku is { } sku ? range.Part(sku)?.Edition
        : candidate.Product is { } code && range.Product(code) is { } edition ? Narrow(edition, candidate.Entry.Variants)
        : null;

    private static Edition Narrow(Edition edition, ImmutableArray<Combination> variants) =>
        variants.IsEmpty
            ? edition
            : Narrowed
                .GetOrCreateValue(edition)
                .GetOrAdd(string.Join(';', variants.Select(v => v.Text)), _ => new Edition(
                    edition.ProductId,
                    edition.Number,
                    edition.PublishedAt,
                    edition.Product,
                    edition.Matrix.Narrowed(v => variants.Any(only => only.IsWithin(v)))
                )
                {
                    Sets = edition.Sets,
                });
}
