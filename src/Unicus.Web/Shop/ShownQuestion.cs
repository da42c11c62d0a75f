using Unicus.Store;

namespace Unicus.Web.Shop;

/// <summary>A value as the shopper sees it.</summary>
/// <param name="Why">Why it cannot be picked; null when it can.</param>
/// <param name="Change">What would have to change for it, and the address with that changed; null where it can be picked or nothing
/// helps.</param>
/// <param name="Adds">What it adds to the price, as people read it; empty where it adds nothing.</param>
public sealed record ShownValue(OptionValue Value, bool Picked, string? Why, (string Words, string Query)? Change, string Adds);

/// <summary>A question as the shopper sees it.</summary>
/// <param name="IsFact">Whether only one value is left, so that it answers itself.</param>
/// <param name="CanBeNone">Whether it may be left without an answer.</param>
/// <param name="Typed">What stands in its box.</param>
/// <param name="Problem">What is wrong with what was typed; null if nothing is.</param>
public sealed record ShownQuestion(
    Option Option,
    Answer? Answer,
    IReadOnlyList<ShownValue> Values,
    bool IsFact,
    bool Required,
    bool CanBeNone,
    string Typed,
    string? Problem
)
{
    /// <summary>How the names of its part's fields begin; empty for the product's own.</summary>
    public string Within { get; init; } = "";

    public string Name => Within + BuyForm.Prefix + Option.Key.Text;
    public bool IsNone => Answer is Answer.None;
}

/// <summary>A part of a set as the shopper sees it.</summary>
/// <param name="Picked">What fills the slot.</param>
/// <param name="Prefix">How the names of its fields begin.</param>
/// <param name="Questions">Its own, as far as they are shown.</param>
/// <param name="Parts">What is in it.</param>
public sealed record ShownPart(PickedPart Picked, string Prefix, IReadOnlyList<ShownQuestion> Questions, IReadOnlyList<ShownPart> Parts)
{
    /// <summary>Whether the units can be chosen.</summary>
    public bool HasUnits => Picked.Slot.Slot.Quantity is var limits && limits.Min < limits.Max;

    /// <summary>The questions that must be answered; the others stand folded behind them.</summary>
    public IEnumerable<ShownQuestion> Direct => Questions.Where(q => q.Option.Role == OptionRole.Variant || q.Option.IsSlot || q.Required);

    /// <summary>What may be asked for besides.</summary>
    public IEnumerable<ShownQuestion> Further => Questions.Except(Direct);

    /// <summary>The address of its own page; null where it has none.</summary>
    public string? Page =>
        Picked.Status?.Edition.Product is { Shelf: { Listed: true, Alone: true } } product ? $"/p/{product.Address}" : null;

    /// <summary>Its leading picture; null for none.</summary>
    public string? Picture => Picked.Status?.Edition.Product.PicturesFor(Picked.Status.Answers) is [var first, ..] ? first.File : null;
}
