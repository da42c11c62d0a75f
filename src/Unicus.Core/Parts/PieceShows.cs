namespace Unicus.Core.Parts;

/// <summary>What a piece of a group shows.</summary>
[Flags]
public enum PieceShows
{
    /// <summary>Its name alone.</summary>
    Nothing = 0,

    /// <summary>Its picture.</summary>
    Picture = 1,

    /// <summary>Its price.</summary>
    Price = 2,

    /// <summary>Its summary.</summary>
    Text = 4,

    /// <summary>A box for the quantity.</summary>
    Quantity = 8,

    /// <summary>A link to its own page.</summary>
    Link = 16,

    /// <summary>All of it.</summary>
    Everything = Picture | Price | Text | Quantity | Link,
}
