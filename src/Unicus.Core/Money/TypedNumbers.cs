namespace Unicus.Core.Money;

using System.Globalization;
using System.Text;

/// <summary>Reads amounts and measures as people type them: <c>86</c>, <c>86,50</c>, <c>1,340.50</c>, <c>1 340</c>, <c> €86 </c>, <c>12
/// oz</c>.</summary>
public static class TypedNumbers
{
    private const decimal LargestAmount = 999_999_999_999m;

    /// <summary>Reads an amount of money. Blank text is null: no price (0 is a price).</summary>
    /// <remarks>
    /// A separator that stands before the last one groups thousands. One lone comma before exactly three digits groups thousands; a
    /// lone point before more digits than the currency has decimals is refused, as it could be meant either way.
    /// </remarks>
    public static Read<Money?> Amount(string? text, Currency currency, bool mayBeNegative = false)
    {
        var typed = (text ?? "").Trim();
        if (typed.Length == 0)
            return Read<Money?>.Of(null);
        var bare = typed
            .Replace(currency.Sign, "", StringComparison.OrdinalIgnoreCase)
            .Replace(currency.Code, "", StringComparison.OrdinalIgnoreCase);
        var number = Number(bare, currency.MinorUnits);
        if (!number.Ok)
            return Read<Money?>.No(number.Problem!);
        var value = number.Value;
        if (value < 0 && !mayBeNegative)
            return Read<Money?>.No("A price is not negative.");
        if (Math.Abs(value) > LargestAmount)
            return Read<Money?>.No("That is more than 999,999,999,999.");
        if (decimal.Round(value, currency.MinorUnits) != value)
            return Read<Money?>.No($"{currency.Code} has {currency.MinorUnits} decimals; “{typed}” has more.");
        return Read<Money?>.Of(new Money(value, currency));
    }

    /// <summary>Reads a percentage such as <c>8</c>, <c>-12,5</c> or <c>8 %</c>, from −100 to 1000.</summary>
    public static Read<Percentage?> Percent(string? text)
    {
        var typed = (text ?? "").Replace("%", "").Trim();
        if (typed.Length == 0)
            return Read<Percentage?>.Of(null);
        var number = Number(typed, 4);
        if (!number.Ok)
            return Read<Percentage?>.No(number.Problem!);
        return number.Value is < -100 or > 1000
            ? Read<Percentage?>.No("A percentage lies between −100 and 1000.")
            : Read<Percentage?>.Of(new Percentage(number.Value));
    }

    /// <summary>Reads a whole number between the bounds, both inclusive. Blank text is null.</summary>
    public static Read<int?> Whole(string? text, int least, int most)
    {
        var typed = (text ?? "").Trim();
        if (typed.Length == 0)
            return Read<int?>.Of(null);
        var number = Number(typed, 0);
        if (!number.Ok)
            return Read<int?>.No(number.Problem!);
        if (decimal.Truncate(number.Value) != number.Value)
            return Read<int?>.No($"“{typed}” is not a whole number. Type it like 12 or 1,200.");
        return number.Value < least || number.Value > most
            ? Read<int?>.No($"A whole number from {least:N0} to {most:N0} is needed.")
            : Read<int?>.Of((int)number.Value);
    }

    /// <summary>Reads any number: signs, one decimal separator, thousands by comma, point, blank or apostrophe.</summary>
    /// <param name="text">As typed.</param>
    /// <param name="decimals">How many decimals make sense here; it settles what a lone comma or point before three digits
    /// means.</param>
    public static Read<decimal> Number(string text, int decimals)
    {
        var typed = text.Trim();
        var no = Read<decimal>.No($"“{typed}” is not a number. Type it like 86 or 1,340.50.");
        var negative = typed.StartsWith('-') || typed.StartsWith('−');
        var body = typed.TrimStart('-', '−', '+').Trim();
        var plain = new StringBuilder();
        foreach (var c in body)
            if (!char.IsWhiteSpace(c) && c is not ('\'' or '’'))
                plain.Append(c);
        body = plain.ToString();
        if (body.Length is 0 or > 20 || body.Any(c => !char.IsAsciiDigit(c) && c is not (',' or '.')))
            return no;

        var lastComma = body.LastIndexOf(',');
        var lastPoint = body.LastIndexOf('.');
        var mark = Math.Max(lastComma, lastPoint);
        var whole = body;
        var fraction = "";
        if (mark >= 0)
        {
            var same = body.Count(c => c == body[mark]);
            var both = lastComma >= 0 && lastPoint >= 0;
            var digitsAfter = body.Length - mark - 1;
            var groups = !both && (same > 1 || (body[mark] == ',' && digitsAfter == 3 && mark > 0 && decimals != 3));
            if (both && same > 1)
                return no;
            if (!groups && !both && digitsAfter == 3 && decimals < 3 && mark > 0)
                return Read<decimal>.No(
                    $"“{typed}” can be read two ways. Type {body.Replace(".", "").Replace(",", "")} or {body[..(mark + 3)]}."
                );
            if (!groups)
            {
                whole = body[..mark];
                fraction = body[(mark + 1)..];
            }
            if (!GroupsOfThree(whole))
                return no;
        }
        whole = whole.Replace(",", "").Replace(".", "");
        if (whole.Length == 0 && fraction.Length == 0)
            return no;
        var value = decimal.Parse(
            (whole.Length == 0 ? "0" : whole) + (fraction.Length == 0 ? "" : "." + fraction),
            CultureInfo.InvariantCulture
        );
        return Read<decimal>.Of(negative ? -value : value);
    }

    private static bool GroupsOfThree(string whole)
    {
        var groups = whole.Split(',', '.');
        return groups.Length == 1 || (groups[0].Length is > 0 and <= 3 && groups.Skip(1).All(g => g.Length == 3));
    }
}
