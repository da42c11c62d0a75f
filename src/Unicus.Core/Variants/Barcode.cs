namespace Unicus.Core.Variants;

using System.Globalization;
using System.Text;

/// <summary>A linear barcode as a row of modules, dark and light.</summary>
/// <param name="Modules">True is dark; without the quiet zones.</param>
/// <param name="Words">What stands below it for people.</param>
/// <param name="Quiet">The quiet zone on either side that the symbol asks for, in modules.</param>
/// <remarks>Source: GS1 General Specifications, section 5 (EAN/UPC), and ISO/IEC 15417 (Code 128), from memory.</remarks>
public sealed record Barcode(IReadOnlyList<bool> Modules, string Words, int Quiet)
{
    private const string Left = "0001101 0011001 0010011 0111101 0100011 0110001 0101111 0111011 0110111 0001011";
    private static readonly string[] OddLeft = Left.Split(' ');

    /// <summary>Which of the six left digits of EAN-13 have even parity, by the first digit.</summary>
    private static readonly string[] Parities =
    [
        "LLLLLL",
        "LLGLGG",
        "LLGGLG",
        "LLGGGL",
        "LGLLGG",
        "LGGLLG",
        "LGGGLL",
        "LGLGLG",
        "LGLGGL",
        "LGGLGL",
    ];

    /// <summary>The widths of bars and spaces of Code 128, symbols 0 to 106.</summary>
    private static readonly string[] Widths = (
        "212222 222122 222221 121223 121322 131222 122213 122312 132212 221213 221312 231212 112232 122132 122231 113222 123122 "
        + "123221 223211 221132 221231 213212 223112 312131 311222 321122 321221 312212 322112 322211 "
        + "212123 212321 232121 111323 131123 131321 112313 132113 132311 211313 231113 231311 112133 112331 132131 113123 113321 "
        + "133121 313121 211331 231131 213113 213311 213131 311123 311321 331121 312113 312311 332111 "
        + "314111 221411 431111 111224 111422 121124 121421 141122 141221 112214 112412 122114 122411 142112 142211 241211 221114 "
        + "413111 241112 134111 111242 121142 121241 114212 124112 124211 411212 421112 421211 212141 "
        + "214121 412121 111143 111341 131141 114113 114311 411113 411311 113141 114131 311141 411131 211412 211214 211232 2331112"
    ).Split(' ');

    /// <summary>The symbol of a GTIN: EAN-8, UPC-A, EAN-13; Code 128 for 14 digits.</summary>
    public static Barcode Of(Gtin gtin) =>
        gtin.Text.Length switch
        {
            8 => Ean8(gtin.Text),
            12 => Ean13("0" + gtin.Text) with { Words = gtin.Text, Quiet = 9 },
            13 => Ean13(gtin.Text),
            _ => Code128(gtin.Text),
        };

    /// <summary>Code 128 of a text; digits are packed in pairs where that is all there is.</summary>
    /// <exception cref="ArgumentException">The text is empty or holds other than visible ASCII and blanks.</exception>
    public static Barcode Code128(string text)
    {
        if (text.Length == 0 || text.Any(c => c is < ' ' or > '~'))
            throw new ArgumentException("Code 128 takes visible ASCII.", nameof(text));
        var pairs = text.Length % 2 == 0 && text.All(char.IsAsciiDigit);
        List<int> symbols = pairs
            ? [105, .. Enumerable.Range(0, text.Length / 2).Select(i => int.Parse(text.AsSpan(i * 2, 2), CultureInfo.InvariantCulture))]
            : [104, .. text.Select(c => c - ' ')];
        symbols.Add(symbols.Select((s, i) => s * Math.Max(1, i)).Sum() % 103);
        symbols.Add(106);
        var modules = new List<bool>();
        foreach (var widths in symbols.Select(s => Widths[s]))
            for (var i = 0; i < widths.Length; i++)
                modules.AddRange(Enumerable.Repeat(i % 2 == 0, widths[i] - '0'));
        return new Barcode(modules, text, 10);
    }

    /// <summary>The symbol as SVG, one unit a module wide, with the words below.</summary>
    /// <param name="height">Of the bars, in modules.</param>
    public string Svg(int height)
    {
        var width = Modules.Count + 2 * Quiet;
        var path = new StringBuilder();
        for (var i = 0; i < Modules.Count; i++)
        {
            if (!Modules[i])
                continue;
            var start = i;
            while (i + 1 < Modules.Count && Modules[i + 1])
                i++;
            path.Append(CultureInfo.InvariantCulture, $"M{start + Quiet} 0h{i + 1 - start}v{height}h-{i + 1 - start}z");
        }
        var words = Words.Replace("&", "&amp;").Replace("<", "&lt;");
        return $"""
            <svg xmlns="http://www.w3.org/2000/svg" class="barcode" viewBox="0 0 {width} {height + 12}"
              shape-rendering="crispEdges" role="img" aria-label="Barcode {words.Replace("\"", "&quot;")}">
            <rect width="{width}" height="{height + 12}" fill="#fff"/><path d="{path}" fill="#000"/>
            <text x="{width / 2}" y="{height + 10}" text-anchor="middle" font-size="10" fill="#000">{words}</text></svg>
            """;
    }

    private static Barcode Ean13(string digits)
    {
        var parity = Parities[digits[0] - '0'];
        var text =
            "101"
            + string.Concat(Enumerable.Range(0, 6).Select(i => Digit(digits[i + 1], parity[i])))
            + "01010"
            + string.Concat(digits[7..].Select(d => Digit(d, 'R')))
            + "101";
        return new Barcode([.. text.Select(c => c == '1')], digits, 11);
    }

    private static Barcode Ean8(string digits)
    {
        var text =
            "101"
            + string.Concat(digits[..4].Select(d => Digit(d, 'L')))
            + "01010"
            + string.Concat(digits[4..].Select(d => Digit(d, 'R')))
            + "101";
        return new Barcode([.. text.Select(c => c == '1')], digits, 7);
    }

    /// <summary>Right digits are the left ones inverted; even left ones are the right ones mirrored.</summary>
    private static string Digit(char digit, char set)
    {
        var left = OddLeft[digit - '0'];
        var right = string.Concat(left.Select(c => c == '0' ? '1' : '0'));
        return set switch
        {
            'L' => left,
            'R' => right,
            _ => new string([.. right.Reverse()]),
        };
    }
}
