using System.Collections.Immutable;

namespace Unicus.Web.Workbench;

/// <summary>A value in the map.</summary>
/// <param name="At">Its place among the values.</param>
public sealed record MapChip(OptionValue Value, int At, string Label, double X, double Y, double Width);

/// <summary>A question in the map.</summary>
/// <param name="More">How many values are folded away.</param>
/// <param name="End">Where the chips of its last line end.</param>
public sealed record MapRow(Option Question, double Top, double Height, ImmutableArray<MapChip> Chips, int More, double End);

/// <summary>Lays the questions of the rule map out, in page order: as many lines of values as each needs, one where that would be too
/// long.</summary>
public static class MapLayout
{
    public const double Right = 470;
    private const double FirstChip = 168;
    private const double Above = 14;
    private const int MostLines = 18;

    /// <summary>The height of a line of values.</summary>
    public static double Line(bool isTight) => isTight ? 24 : 30;

    /// <param name="open">The question whose values are all shown.</param>
    public static ImmutableArray<MapRow> Rows(IReadOnlyList<Option> questions, string open)
    {
        var lines = questions.Select(q => Chips(q.Values)).ToList();
        var all = lines.Sum(l => Math.Max(1, l.Length)) <= MostLines;
        var height = Line(questions.Count > 16);
        var rows = ImmutableArray.CreateBuilder<MapRow>();
        var top = Above;
        for (var i = 0; i < questions.Count; i++)
        {
            var shown = all || questions[i].Key.Text == open ? lines[i] : [.. lines[i].Take(1)];
            var more = lines[i].Skip(shown.Length).Sum(l => l.Length);
            // The last one makes room for the number of those that are folded away.
            if (more > 0 && shown[0] is [.., var last] && last.X + last.Width > Right - 100)
                (shown, more) = ([shown[0].RemoveAt(shown[0].Length - 1)], more + 1);
            var chips = shown.SelectMany((l, n) => l.Select(c => c with { Y = n * height })).ToImmutableArray();
            var tall = Math.Max(1, shown.Length) * height;
            rows.Add(new MapRow(questions[i], top, tall, chips, more, chips.IsEmpty ? FirstChip : chips[^1].X + chips[^1].Width));
            top += tall;
        }
        return rows.ToImmutable();
    }

    private static ImmutableArray<ImmutableArray<MapChip>> Chips(ImmutableArray<OptionValue> values)
    {
        var lines = ImmutableArray.CreateBuilder<ImmutableArray<MapChip>>();
        var line = ImmutableArray.CreateBuilder<MapChip>();
        var x = FirstChip;
        for (var i = 0; i < values.Length; i++)
        {
            var label = values[i].Label.Length > 12 ? values[i].Label[..11] + "…" : values[i].Label;
            var width = (label.Length * 6.3) + (label.Count(c => c is 'm' or 'w' or 'M' or 'W') * 4) + 14;
            if (x + width > Right - 58 && line.Count > 0)
            {
                lines.Add(line.ToImmutable());
                line.Clear();
                x = FirstChip;
            }
            line.Add(new MapChip(values[i], i, label, x, 0, width));
            x += width + 5;
        }
        if (line.Count > 0)
            lines.Add(line.ToImmutable());
        return lines.ToImmutable();
    }
}
