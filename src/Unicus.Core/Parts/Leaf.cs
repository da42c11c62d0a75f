namespace Unicus.Core.Parts;

/// <summary>Where in a line a leaf comes from: empty for the goods themselves, else the key of the question or slot that brought it;
/// within a nested set the keys from the outside in, joined by strokes.</summary>
public readonly record struct LeafPath(string Text)
{
    /// <summary>The goods that the line is about.</summary>
    public static LeafPath Own { get; } = new("");

    /// <summary>Whether it is the goods themselves.</summary>
    public bool IsOwn => Text.Length == 0;

    /// <summary>The same within a slot of a set.</summary>
    public LeafPath Under(string slot) => new(IsOwn ? slot : $"{slot}/{Text}");

    /// <inheritdoc/>
    public override string ToString() => Text;
}
