using System.Globalization;

namespace Unicus.Store;

/// <summary>How one variant is sold, in the words that people read and type in a cell: several are separated by commas.</summary>
/// <remarks><c>on</c>, <c>off</c>, <c>off till 3 May 2027</c>, <c>not counted</c>, <c>to order</c> (against what is on order), <c>5
/// beyond</c>, <c>without end</c>. Nothing typed means: as the product.</remarks>
public static class SellingWords
{
    private static readonly CultureInfo British = CultureInfo.GetCultureInfo("en-GB");

    public static string Show(Selling selling)
    {
        if (selling.OffForNow is { } off)
            return off.Back is { } day ? $"off till {day.ToString("d MMM yyyy", British)}" : "off";
        var words = new List<string>();
        if (selling.Counted == false)
            words.Add("not counted");
        if (selling.Beyond is not null and not SellBeyond.Nothing)
            words.Add(
                selling.Beyond switch
                {
                    SellBeyond.OnOrder => "to order",
                    SellBeyond.Unlimited => "without end",
                    SellBeyond.Units(var n) => $"{n} beyond",
                    _ => "",
                }
            );
        return words.Count == 0 ? "on" : string.Join(", ", words);
    }

    public static Read<Selling> Read(string typed)
    {
        var selling = Selling.Inherited;
        foreach (
            var word in typed
                .Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                .Select(w => w.ToLowerInvariant())
        )
        {
            if (word is "on")
                selling = selling with { Counted = true, Beyond = new SellBeyond.Nothing() };
            else if (word is "off" or "off for now")
                selling = selling with { OffForNow = new OffForNow(null) };
            else if (word.StartsWith("off till ", StringComparison.Ordinal) && DateOnly.TryParse(word[9..], British, out var day))
                selling = selling with { OffForNow = new OffForNow(day) };
            else if (word is "not counted")
                selling = selling with { Counted = false };
            else if (word is "to order")
                selling = selling with { Beyond = new SellBeyond.OnOrder() };
            else if (word is "without end")
                selling = selling with { Beyond = new SellBeyond.Unlimited() };
            else if (
                word.EndsWith(" beyond", StringComparison.Ordinal)
                && TypedNumbers.Whole(word[..^7], 0, 1_000_000) is { Ok: true, Value: { } n }
            )
                selling = selling with { Beyond = new SellBeyond.Units(n) };
            else
                return Read<Selling>.No(
                    $"“{word}” is not understood. Type on, off, off till 3 May 2027, not counted, to order, 5 beyond or without end; "
                        + "nothing means as the product."
                );
        }
        return Read<Selling>.Of(selling);
    }
}
