namespace Unicus.Mutants;

/// <summary>One small fault that can be switched on.</summary>
/// <param name="Folder">Of the core, such as <c>Pricing</c>.</param>
/// <param name="File">From the root of the tree.</param>
/// <param name="Start">Place of what is replaced, in characters of the file.</param>
/// <param name="Was">What stands there.</param>
/// <param name="Becomes">What stands there instead; empty for a statement that is left out.</param>
/// <param name="IsStatement">Whether a whole statement is replaced.</param>
internal sealed record Mutant(string Folder, string File, int Start, int Line, string Was, string Becomes, bool IsStatement)
{
    public int End => Start + Was.Length;

    /// <summary>Both of them, and the switch that decides.</summary>
    public string Switched(int number)
    {
        var on = $"global::Unicus.Core.MutantSwitch.On({number})";
        return IsStatement ? $"if ({on}) {{ {Becomes} }} else {{ {Was} }}" : $"({on} ? ({Becomes}) : ({Was}))";
    }

    public override string ToString() => $"{File}:{Line}  {Short(Was)}  →  {(Becomes.Length == 0 ? "nothing" : Short(Becomes))}";

    private static string Short(string text)
    {
        var one = string.Join(' ', text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        return one.Length <= 90 ? one : one[..60] + " … " + one[^25..];
    }
}
