namespace Unicus.Core.Options;

using System.Drawing;

/// <summary>Colours by their names: those of CSS (CSS Color Module Level 4, which the platform knows), and some of the trade.</summary>
public static class ColourNames
{
    /// <summary>Names of the trade that CSS has not; common practice, no source.</summary>
    private static readonly Dictionary<string, string> Trade = new()
    {
        ["amber"] = "#d9921a",
        ["burgundy"] = "#6d1f2f",
        ["charcoal"] = "#3a3f44",
        ["cream"] = "#f4ecd8",
        ["denim"] = "#3f5f86",
        ["ecru"] = "#d9cdb0",
        ["emerald"] = "#1f7a4d",
        ["mustard"] = "#d0a02a",
        ["natural"] = "#e3d6b8",
        ["oatmeal"] = "#d8ccb4",
        ["ochre"] = "#cc7722",
        ["petrol"] = "#1f5560",
        ["rose"] = "#d98a94",
        ["russet"] = "#80461b",
        ["rust"] = "#a5502a",
        ["sage"] = "#9caf88",
        ["sand"] = "#d8c49c",
        ["slate"] = "#5f6b75",
        ["stone"] = "#b9b2a3",
        ["terracotta"] = "#c4643c",
    };

    /// <summary>As in “dark slate blue”.</summary>
    private const int MostWords = 3;

    /// <summary>The colour of a name, such as “ochre” or “dark green”, as <c>#rrggbb</c>; null for what is none.</summary>
    public static string? Find(string name)
    {
        var key = string.Concat(name.Where(char.IsLetter)).ToLowerInvariant();
        if (Trade.TryGetValue(key, out var hex))
            return hex;
        var colour = Color.FromName(key);
        return colour is { IsKnownColor: true, IsSystemColor: false, A: 255 } ? $"#{colour.R:x2}{colour.G:x2}{colour.B:x2}" : null;
    }

    /// <summary>The colour that a label speaks of, such as “Waxed cotton, dark green”; null for none.</summary>
    public static string? In(string label)
    {
        var words = label.Split([' ', ',', '-', '/', '(', ')'], StringSplitOptions.RemoveEmptyEntries);
        for (var length = MostWords; length >= 1; length--)
            for (var at = 0; at + length <= words.Length; at++)
                if (Find(string.Concat(words[at..(at + length)])) is { } hex)
                    return hex;
        return null;
    }
}
