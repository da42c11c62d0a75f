namespace Unicus.Core.Options;

/// <summary>Labels within sentences.</summary>
public static class Wording
{
    /// <summary>“Cedar” becomes “cedar”; “XL” and “25 mm” stay.</summary>
    public static string LowerFirst(string label) =>
        label.Length > 1 && char.IsUpper(label[0]) && char.IsLower(label[1]) ? char.ToLowerInvariant(label[0]) + label[1..] : label;
}
