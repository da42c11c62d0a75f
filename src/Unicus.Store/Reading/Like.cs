namespace Unicus.Store;

/// <summary>Texts in patterns of SQL.</summary>
public static class Like
{
    /// <summary>A text that stands for itself within a pattern.</summary>
    public static string Escaped(string text) => text.Replace("\\", "\\\\").Replace("%", "\\%").Replace("_", "\\_");
}
