using Unicus.Store;

namespace Unicus.Web.Shop;

/// <summary>A set or group as the page of a product in it offers it.</summary>
/// <param name="Saving">What it costs less than its parts one by one; null where that is open, or nothing.</param>
/// <param name="IsWhole">Whether it can be bought without being asked anything.</param>
/// <param name="Query">The picks that its page begins with.</param>
public sealed record SetShown(ShownProduct Entry, Money? Saving, bool IsWhole, string Query)
{
    /// <summary>How its page takes the product.</summary>
    public string How =>
        IsGroup ? "On the page"
        : IsSet ? "In the set"
        : "To be had with";

    /// <summary>Whether its parts are sold together; otherwise it may only be picked there.</summary>
    public bool IsSet { get; private init; }

    /// <summary>Whether its pieces are each bought by themselves.</summary>
    public bool IsGroup { get; private init; }

    /// <summary>Looks at a set with a product picked for the slots that may hold it.</summary>
    public static SetShown Of(ShownProduct entry, Edition set, Edition product, ConfigurationTerms terms)
    {
        if (!set.Product.IsSet)
            return new SetShown(entry, null, false, "") { IsGroup = set.Product.IsGroup };
        var picked = Configuration.Empty;
        foreach (var slot in set.Slots)
            if (
                slot.Question is { Ask: Ask.One } question
                && slot.Candidates.FirstOrDefault(c => c.Product == product.Product.Code.Text) is { } own
            )
                picked = picked.With(question.Key, new Answer.Value(own.Key));
        var status = ConfigurationStatus.Of(set, picked, Filling.Rest, terms);
        var isWhole = status is { Reply.Complete: true, IsWhole: true, Available: { } available } && available.CanSell(1);
        var saving = status is { PartsAlone: { } alone, Price.Working.Unit: var unit } && alone > unit ? alone - unit : (Money?)null;
        return new SetShown(entry, saving, isWhole && picked.Given.IsEmpty, BuyForm.Query(picked)) { IsSet = true };
    }
}
