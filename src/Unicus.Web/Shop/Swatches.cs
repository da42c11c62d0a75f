using System.Text;
using Microsoft.AspNetCore.Html;

namespace Unicus.Web.Shop;

/// <summary>Draws swatches as small SVGs; colours were checked to be #rrggbb when they were read.</summary>
public static class Swatches
{
    public static IHtmlContent Draw(Swatch? swatch) =>
        swatch switch
        {
            Swatch.Colour c => new HtmlString(
                "<svg class=\"chip\" viewBox=\"0 0 12 12\" aria-hidden=\"true\"><rect width=\"12\" height=\"12\" "
                    + $"fill=\"{c.Hex}\"/></svg>"
            ),
            Swatch.Stripes s => new HtmlString(Striped(s)),
            Swatch.Picture p => new HtmlString(
                $"<img class=\"chip\" src=\"/pictures/small/{Uri.EscapeDataString(p.File)}\" alt=\"\" width=\"14\" height=\"14\">"
            ),
            _ => HtmlString.Empty,
        };

    private static string Striped(Swatch.Stripes stripes)
    {
        var text = new StringBuilder(
            $"<svg class=\"chip\" viewBox=\"0 0 {stripes.Hexes.Length * 6} 12\" preserveAspectRatio=\"none\" aria-hidden=\"true\">"
        );
        for (var i = 0; i < stripes.Hexes.Length; i++)
            text.Append($"<rect x=\"{i * 6}\" width=\"6\" height=\"12\" fill=\"{stripes.Hexes[i]}\"/>");
        return text.Append("</svg>").ToString();
    }
}
