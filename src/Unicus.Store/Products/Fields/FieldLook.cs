namespace Unicus.Store;

/// <summary>Into what kind of box a field is typed.</summary>
public enum FieldBox
{
    /// <summary>One line of text.</summary>
    Line,

    /// <summary>One line with a figure.</summary>
    Number,

    /// <summary>A few lines.</summary>
    Area,

    /// <summary>Text with headings, lists and links.</summary>
    Rich,

    /// <summary>Goods by code or name.</summary>
    Goods,

    /// <summary>One of several words.</summary>
    Choice,
}

/// <summary>One of several words.</summary>
/// <param name="Key">What is typed for it.</param>
public sealed record FieldChoice(string Key, string Label);

/// <summary>How a field looks where it is typed.</summary>
/// <param name="Hint">What stands in the empty box.</param>
public sealed record FieldLook(FieldBox Box, string Hint = "")
{
    /// <summary>A line without a hint.</summary>
    public static FieldLook Plain { get; } = new(FieldBox.Line);

    /// <summary>What it is called beside its box; null: as everywhere.</summary>
    public Func<WorkingCopy, string>? Label { get; init; }

    /// <summary>A hint that hangs on the shop; null: the one that is given.</summary>
    public Func<WorkingCopy, string>? HintOf { get; init; }

    /// <summary>The words to choose from.</summary>
    public Func<WorkingCopy, IReadOnlyList<FieldChoice>> Choices { get; init; } = _ => [];

    /// <summary>A choice of words.</summary>
    public static FieldLook Of(params FieldChoice[] choices) => new(FieldBox.Choice) { Choices = _ => choices };

    /// <summary>A figure.</summary>
    public static FieldLook Number(string hint) => new(FieldBox.Number, hint);
}
