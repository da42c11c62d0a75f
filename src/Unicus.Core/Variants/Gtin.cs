namespace Unicus.Core.Variants;

using Unicus.Core.Money;

/// <summary>A global trade item number of 8, 12, 13 or 14 digits whose check digit is right.</summary>
/// <remarks>Source: GS1 General Specifications, section 7.9, from memory: weights 3 and 1 in turn from the right, the check digit fills up
/// to the next ten.</remarks>
public readonly record struct Gtin
{
    private Gtin(string text) => Text = text;

    /// <summary>The digits as typed.</summary>
    public string Text { get; }

    /// <summary>Reads a GTIN; blanks and hyphens between the digits are left out. Blank text is null.</summary>
    public static Read<Gtin?> Parse(string? text)
    {
        var typed = (text ?? "").Replace(" ", "").Replace("-", "");
        if (typed.Length == 0)
            return Read<Gtin?>.Of(null);
        if (!typed.All(char.IsAsciiDigit))
            return Read<Gtin?>.No("A GTIN is digits only.");
        if (typed.Length is not (8 or 12 or 13 or 14))
            return Read<Gtin?>.No($"A GTIN has 8, 12, 13 or 14 digits; this has {typed.Length}.");
        var check = CheckDigit(typed[..^1]);
        return typed[^1] - '0' == check
            ? Read<Gtin?>.Of(new Gtin(typed))
            : Read<Gtin?>.No($"The check digit of {typed} is wrong: {typed[^1]} should be {check}.");
    }

    /// <summary>The text with the leading zeros that a spreadsheet program drops where it takes digits for a number; as it is where that
    /// makes no GTIN.</summary>
    public static string WithLostZeros(string text) =>
        text.Length is > 0 and < 12 and not 8 && text.PadLeft(text.Length < 8 ? 8 : 12, '0') is var padded && Parse(padded).Ok
            ? padded
            : text;

    /// <exception cref="FormatException">The text is not a GTIN.</exception>
    public static Gtin Of(string text) =>
        Parse(text) is { Ok: true, Value: { } gtin } ? gtin : throw new FormatException($"“{text}” is not a GTIN.");

    /// <summary>The check digit that belongs behind these digits, 0 to 9.</summary>
    public static int CheckDigit(string digits)
    {
        var sum = 0;
        for (var i = 0; i < digits.Length; i++)
            sum += (digits[^(i + 1)] - '0') * (i % 2 == 0 ? 3 : 1);
        return (10 - sum % 10) % 10;
    }

    /// <summary>The same number with 14 digits, by which two GTINs are compared.</summary>
    public string Padded => (Text ?? "").PadLeft(14, '0');

    /// <summary>Every way to write the same number, with and without leading zeros.</summary>
    public IEnumerable<string> Spellings
    {
        get
        {
            var padded = Padded;
            return new[] { 8, 12, 13, 14 }.Where(n => padded[..(14 - n)].All(c => c == '0')).Select(n => padded[(14 - n)..]);
        }
    }

    /// <summary>Whether it is the same article; leading zeros do not count.</summary>
    public bool Equals(Gtin other) => Padded == other.Padded;

    /// <inheritdoc/>
    public override int GetHashCode() => Padded.GetHashCode(StringComparison.Ordinal);

    /// <inheritdoc/>
    public override string ToString() => Text ?? "";
}
