using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using ZXing.OneD;

namespace Unicus.Web.Workbench;

/// <summary>A linear barcode as a row of modules, dark and light.</summary>
/// <param name="Modules">True is dark; without the quiet zones.</param>
/// <param name="Words">What stands below it for people.</param>
/// <param name="Quiet">The quiet zone on either side that the symbol asks for, in modules (GS1 General Specifications, section 5, and
/// ISO/IEC 15417, from memory).</param>
public sealed record Barcode(IReadOnlyList<bool> Modules, string Words, int Quiet)
{
    /// <summary>The symbol of a GTIN: EAN-8, UPC-A, EAN-13, or ITF-14.</summary>
    public static Barcode Of(Gtin gtin) =>
        gtin.Text.Length switch
        {
            8 => new(new EAN8Writer().encode(gtin.Text), gtin.Text, 7),
            // A UPC-A is the EAN-13 of the same number with a nought before it.
            12 => new(new EAN13Writer().encode("0" + gtin.Text), gtin.Text, 9),
            13 => new(new EAN13Writer().encode(gtin.Text), gtin.Text, 11),
            _ => new(new ITFWriter().encode(gtin.Text), gtin.Text, 10),
        };

    /// <summary>Code 128 of a text.</summary>
    /// <exception cref="ArgumentException">The text is empty, too long, or holds other than visible ASCII and blanks.</exception>
    public static Barcode Code128(string text) =>
        text.Length > 0 && text.All(c => c is >= ' ' and <= '~')
            ? new(new Code128Writer().encode(text), text, 10)
            : throw new ArgumentException("Code 128 takes visible ASCII.", nameof(text));

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
        var words = HtmlEncoder.Default.Encode(Words);
        return $"""
            <svg xmlns="http://www.w3.org/2000/svg" class="barcode" viewBox="0 0 {width} {height + 12}"
              shape-rendering="crispEdges" role="img" aria-label="Barcode {words}">
            <rect width="{width}" height="{height + 12}" fill="#fff"/><path d="{path}" fill="#000"/>
            <text x="{width / 2}" y="{height + 10}" text-anchor="middle" font-size="10" fill="#000">{words}</text></svg>
            """;
    }
}
