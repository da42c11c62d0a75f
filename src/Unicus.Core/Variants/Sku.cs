namespace Unicus.Core.Variants;

using Unicus.Core.Money;
using Unicus.Core.Options;

/// <summary>A stock keeping unit's code, unique in the shop (letter case ignored).</summary>
public readonly record struct Sku
{
    /// <summary>Characters of a SKU at most.</summary>
    public const int Longest = 64;

    private Sku(string text) => Text = text;

    /// <summary>The code itself.</summary>
    public string Text { get; }

    /// <summary>Reads a SKU: 1 to 64 visible characters, with no blank inside and none of <c>, ; " &lt; &gt;</c>.</summary>
    public static Read<Sku> Parse(string? text)
    {
        var typed = (text ?? "").Trim();
        if (typed.Length == 0)
            return Read<Sku>.No("A SKU is not empty.");
        if (typed.Length > Longest)
            return Read<Sku>.No($"A SKU has at most {Longest} characters; this has {typed.Length}.");
        return !IsVisible(typed)
            ? Read<Sku>.No("A SKU holds no blanks, commas, semicolons, quotes or angle brackets.")
            : Read<Sku>.Of(new Sku(typed));
    }

    private static bool IsVisible(string text)
    {
        foreach (var c in text)
            if (c is ',' or ';' or '"' or '<' or '>' || char.IsWhiteSpace(c) || char.IsControl(c))
                return false;
        return true;
    }

    /// <exception cref="FormatException">The text is not a SKU.</exception>
    public static Sku Of(string text) =>
        Parse(text) is { Ok: true } read ? read.Value : throw new FormatException($"“{text}” is not a SKU.");

    /// <summary>Whether it is the same SKU; letter case is ignored.</summary>
    public bool Equals(Sku other) => string.Equals(Text, other.Text, StringComparison.OrdinalIgnoreCase);

    /// <inheritdoc/>
    public override int GetHashCode() => StringComparer.OrdinalIgnoreCase.GetHashCode(Text ?? "");

    /// <inheritdoc/>
    public override string ToString() => Text ?? "";
}

/// <summary>The merchant's own code of a product: capitals and digits joined by hyphens, such as GH1.</summary>
public readonly record struct ProductCode
{
    private ProductCode(string text) => Text = text;

    /// <summary>The code itself.</summary>
    public string Text { get; }

    /// <summary>Reads a product code: 1 to 32 letters and digits, hyphens, points or underscores between; small letters become
    /// capitals.</summary>
    public static Read<ProductCode> Parse(string? text)
    {
        var typed = (text ?? "").Trim().ToUpperInvariant();
        if (typed.Length == 0)
            return Read<ProductCode>.No("A product code is not empty.");
        var fits =
            typed.Length <= 32
            && typed.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '.' or '_')
            && char.IsAsciiLetterOrDigit(typed[0])
            && char.IsAsciiLetterOrDigit(typed[^1]);
        return fits
            ? Read<ProductCode>.Of(new ProductCode(typed))
            : Read<ProductCode>.No(
                "A product code is letters and digits, at most 32, with hyphens, points or underscores between; no blanks."
            );
    }

    /// <exception cref="FormatException">The text is not a product code.</exception>
    public static ProductCode Of(string text) =>
        Parse(text) is { Ok: true } read ? read.Value : throw new FormatException($"“{text}” is not a product code.");

    /// <summary>Makes a code from a name that is not taken: the first letters of its words, or of the word, then with a
    /// number.</summary>
    public static ProductCode From(string name, Func<ProductCode, bool> taken)
    {
        var words = Slug.From(name, 80).ToUpperInvariant().Split('-', StringSplitOptions.RemoveEmptyEntries);
        var stem = words.Length switch
        {
            0 => "P",
            1 => words[0][..Math.Min(4, words[0].Length)],
            _ => string.Concat(words.Take(4).Select(w => char.IsAsciiDigit(w[0]) ? w[..Math.Min(4, w.Length)] : w[..1])),
        };
        var code = new ProductCode(stem);
        for (var n = 2; taken(code); n++)
            code = new ProductCode($"{stem}{n}");
        return code;
    }

    /// <inheritdoc/>
    public override string ToString() => Text ?? "";
}
