using System.Collections.Immutable;

namespace Unicus.Store;

/// <summary>What fills the slots of sets that take goods of a category, kept until the range may be another.</summary>
public sealed class SlotFills : IDisposable
{
    private const long MostBytes = 24L * 1024 * 1024;

    private readonly RangeStamps _stamps;
    private readonly ToldCache<FillKey, KeptFill> _fills;

    internal SlotFills(Telling telling, RangeStamps stamps)
    {
        _stamps = stamps;
        _fills = new ToldCache<FillKey, KeptFill>(telling, "what fills slots (under the stamps of lists and products)", MostBytes, f =>
            400 + 300L * f.Slots.Sum(s => s.Candidates.Length)
        );
    }

    /// <summary>What may fill slots hangs on any product that may be in a category, and on the categories.</summary>
    private readonly record struct FillKey(int ProductId, int Number, string Products, string Lists);

    private sealed record KeptFill(ImmutableArray<FilledSlot> Slots, string Text);

    internal IEnumerable<IKept> Kept => [_fills];

    /// <summary>An edition with its slots filled as the range is now; the very same where nothing else fills them.</summary>
    /// <param name="number">Of the edition, or what else tells its states apart.</param>
    /// <param name="filling">Looks into the range.</param>
    internal async Task<Edition> Fill(Edition edition, int number, SlotFilling filling)
    {
        var key = new FillKey(edition.ProductId, number, _stamps.Products, _stamps.Lists);
        var fill = (await _fills.Get(key, async () => await Fill(edition.Product, filling)))!;
        if (!edition.Product.Filled.IsDefault && TextOf(edition.Product.Filled) == fill.Text)
            return edition;
        return new Edition(
            edition.ProductId,
            edition.Number,
            edition.PublishedAt,
            edition.Product with
            {
                Filled = fill.Slots,
            },
            edition.Matrix
        )
        {
            Sets = edition.Sets,
        };
    }

    /// <inheritdoc/>
    public void Dispose() => _fills.Dispose();

    private static async Task<KeptFill?> Fill(Product product, SlotFilling filling)
    {
        var slots = await filling.Fill(product);
        return new KeptFill(slots, TextOf(slots));
    }

    private static string TextOf(ImmutableArray<FilledSlot> slots) =>
        string.Join(
            '\n',
            slots.SelectMany(s =>
                s.Candidates.Select(c => $"{s.Slot.Key} {c.Key} {c.Label} {c.Product} {string.Join(' ', (c.Counterparts ?? []).Order())}")
            )
        );
}
