using System.Text;

namespace Unicus.Bench;

/// <summary>Draws how diagrams grow as one SVG: a panel a series, nodes as bars with their number, compile time below.</summary>
internal static class GrowthPlot
{
    private const int PanelWidth = 300;
    private const int PanelHeight = 170;
    private const int BarWidth = 34;

    public static string Draw(IReadOnlyList<(string Label, List<(int X, int Nodes, double Ms)> Points)> series)
    {
        var svg = new StringBuilder(
            $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {series.Count * PanelWidth} {PanelHeight + 70}\" "
                + "font-family=\"sans-serif\" font-size=\"11\" fill=\"#22303c\"><title>Nodes of the diagram, and milliseconds to "
                + "compile it</title>\n"
        );
        for (var panel = 0; panel < series.Count; panel++)
        {
            var (label, points) = series[panel];
            var (left, most) = (panel * PanelWidth + 16, points.Max(p => p.Nodes));
            svg.Append(
                $"<text x=\"{left}\" y=\"14\" font-weight=\"600\">{label}</text><path d=\"M{left} "
                    + $"{PanelHeight + 20}h{PanelWidth - 32}\" stroke=\"#22303c\"/>\n"
            );
            for (var i = 0; i < points.Count; i++)
            {
                var (x, nodes, ms) = points[i];
                var height = (double)(PanelHeight - 20) * nodes / most;
                var (at, middle) = (left + 8 + i * (BarWidth + 18), left + 8 + i * (BarWidth + 18) + BarWidth / 2);
                svg.Append(
                    $"<rect x=\"{at}\" y=\"{PanelHeight + 20 - height:0.#}\" width=\"{BarWidth}\" height=\"{height:0.#}\" "
                        + $"fill=\"#2c5f8a\"/><text x=\"{middle}\" y=\"{PanelHeight + 16 - height:0.#}\" "
                        + $"text-anchor=\"middle\">{nodes:N0}</text>"
                );
                svg.Append(
                    $"<text x=\"{middle}\" y=\"{PanelHeight + 36}\" text-anchor=\"middle\" font-weight=\"600\">{x}</text><text "
                        + $"x=\"{middle}\" y=\"{PanelHeight + 52}\" text-anchor=\"middle\">{ms:0} ms</text>\n"
                );
            }
        }
        return svg.Append("</svg>\n").ToString();
    }
}
