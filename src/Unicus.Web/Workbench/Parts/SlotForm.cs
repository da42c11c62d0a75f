namespace Unicus.Web.Workbench;

/// <summary>A slot as its form shows it.</summary>
/// <param name="Place">From 0.</param>
/// <param name="Count">Slots in all.</param>
public sealed record SlotForm(Slot Slot, int Place, int Count, bool Together, PartsChapter Bench)
{
    /// <summary>What may fill it, a line each.</summary>
    public string Entries => string.Join('\n', Slot.Of.Select(PartWords.Of));

    /// <summary>The options of the product that a part's can follow.</summary>
    public IEnumerable<Option> Followable => Bench.Copy.Whole.Options.Concat(Bench.Copy.Whole.Extras).Where(q => q.Ask == Ask.One);

    /// <summary>The option that its part follows, with the part's values; null where it follows none, or none of its parts has
    /// it.</summary>
    public async Task<(Option Option, SlotPick.Follows Pick, IReadOnlyList<(Key Key, string Label)> Values)?> Followed() =>
        Slot.Pick is SlotPick.Follows follows
        && Followable.FirstOrDefault(o => o.Key == follows.Option) is { } option
        && await Bench.ValuesToFollow(Slot) is { Count: > 0 } values
            ? (option, follows, values)
            : null;

    /// <summary>What stands in a field: as it was typed where it was refused, else as it is.</summary>
    public string Typed(string field, string now) =>
        Bench.RefusedSlot is { } refused && refused.Slot == Slot.Key.Text && refused.Form.TryGetValue(field, out var typed)
            ? typed.ToString()
            : now;
}
