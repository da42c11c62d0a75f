namespace Unicus.Web.Workbench;

/// <summary>Where a node of the tree of parts stands.</summary>
/// <param name="X">Its left edge.</param>
/// <param name="Y">Its middle.</param>
/// <param name="From">What contains it; null for the root.</param>
public sealed record PlacedNode(PartNode Node, int X, int Y, PlacedNode? From)
{
    /// <summary>The key of the slot whose quantity is changed here: that of the product itself, at the first that fills it; null
    /// elsewhere.</summary>
    public Key? Edits =>
        From is { From: null, Node.Parts: var parts } && Node.SlotKey is { } key && parts.First(p => p.SlotKey == key) == Node ? key : null;

    /// <summary>What is left of it beside its bar.</summary>
    public string Left =>
        Node.IsGone ? "not on sale"
        : Node.Available is not { } units ? "no limit"
        : Node.IsFirstOut ? $"{units:N0}, out first"
        : $"{units:N0}";

    /// <summary>The second line of its box.</summary>
    public string Note(SetCounts? counts) =>
        From is null
            ? counts is null
                ? "sold separately"
                : counts.Most is { } sets
                    ? $"{sets:N0} can be sold"
                    : "no limit"
            : Node.Parts.Count > 0 && Node.Available is { } inner
                ? $"{Node.Slot}, {inner:N0} can be made up"
                : Node.Slot;
}

/// <summary>Lays the tree of parts out from left to right: a line for each part without parts, a set in the middle of its own.</summary>
public sealed class TreeLayout
{
    public const int NodeWidth = 172;
    private const int Step = 50;
    private const int Column = NodeWidth + 104;
    private const int BarWidth = 84;
    private const int Letters = 24;

    private readonly long _most;

    private TreeLayout(PartNode root)
    {
        _most = root.All().Where(n => n.Node.Parts.Count == 0).Select(n => n.Node.Available ?? 0).DefaultIfEmpty(0).Max();
        var lines = 0;
        Place(root, null, 0, ref lines);
        Height = Math.Max(1, lines) * Step + 8;
        Width = Nodes.Max(n => n.X) + NodeWidth + 210;
    }

    /// <summary>Each behind what contains it.</summary>
    public List<PlacedNode> Nodes { get; } = [];

    public int Width { get; }
    public int Height { get; }

    public static TreeLayout Of(PartNode root) => new(root);

    /// <summary>How long the bar of a part is.</summary>
    public string BarOf(PartNode node) =>
        node.Available is > 0 and var units && _most > 0
            ? Math.Max(2, (double)BarWidth * units / _most).ToString("0.#", System.Globalization.CultureInfo.InvariantCulture)
            : "0";

    /// <summary>A text that fits into a box.</summary>
    public static string Short(string text) => text.Length <= Letters ? text : text[..(Letters - 1)].TrimEnd() + "…";

    private static int LinesOf(PartNode node) => node.Parts.Count == 0 ? 1 : node.Parts.Sum(LinesOf);

    private void Place(PartNode node, PlacedNode? from, int depth, ref int lines)
    {
        var middle = (lines * Step) + (LinesOf(node) * Step / 2) + 4;
        var placed = new PlacedNode(node, 2 + depth * Column, middle, from);
        Nodes.Add(placed);
        if (node.Parts.Count == 0)
            lines++;
        foreach (var part in node.Parts)
            Place(part, placed, depth + 1, ref lines);
    }
}
