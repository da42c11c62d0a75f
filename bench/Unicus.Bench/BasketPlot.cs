using System.Text;

namespace Unicus.Bench;

/// <summary>Draws how the price of a basket grows with its lines as an SVG: a point a size, and the straight line from the first to the
/// last.</summary>
internal static class BasketPlot
{
    private const int Left = 56;
    private const int Bottom = 230;
    private const int Width = 420;
    private const int Height = 200;

    /// <param name="points">Lines and microseconds, with rising lines.</param>
    public static string Draw(IReadOnlyList<(int Lines, double Microseconds)> points)
    {
        var (lines, time) = (points[^1].Lines, points.Max(p => p.Microseconds));
        double X(double at) => Left + Width * at / lines;
        double Y(double at) => Bottom - Height * at / time;
        var svg = new StringBuilder(
            $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {Left + Width + 40} {Bottom + 50}\" font-family=\"sans-serif\" "
                + "font-size=\"11\" fill=\"#22303c\"><title>Microseconds to price a basket by its number of lines</title>\n"
                + $"<path d=\"M{Left} {Bottom - Height}V{Bottom}H{Left + Width}\" fill=\"none\" stroke=\"#22303c\"/>\n"
                + $"<text x=\"{Left}\" y=\"14\">microseconds</text>"
                + $"<text x=\"{Left + Width}\" y=\"{Bottom + 38}\" text-anchor=\"end\">lines</text>\n"
        );
        var (first, last) = (points[0], points[^1]);
        svg.Append(
            $"<path d=\"M{X(first.Lines):0.#} {Y(first.Microseconds):0.#}L{X(last.Lines):0.#} {Y(last.Microseconds):0.#}\" "
                + "stroke=\"#9aa7b2\" stroke-dasharray=\"4 4\"/>\n"
        );
        foreach (var (count, took) in points)
        {
            svg.Append($"<circle cx=\"{X(count):0.#}\" cy=\"{Y(took):0.#}\" r=\"4\" fill=\"#2c5f8a\"/>");
            // Small baskets stand too close for a number each.
            if (count * 10 < lines)
                continue;
            svg.Append($"<text x=\"{X(count):0.#}\" y=\"{Bottom + 16}\" text-anchor=\"middle\">{count:N0}</text>");
            svg.Append($"<text x=\"{X(count) - 8:0.#}\" y=\"{Y(took) - 8:0.#}\" text-anchor=\"end\">{took:0}</text>\n");
        }
        return svg.Append("</svg>\n").ToString();
    }
}
