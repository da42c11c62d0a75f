namespace Unicus.Store;

/// <summary>Somebody who works in the back office.</summary>
/// <param name="Role">What they may do; one of <see cref="Roles"/>.</param>
/// <param name="HasPassword">False until they have chosen one by the link of a message.</param>
/// <param name="SpareCodes">How many codes are left that stand for the second factor.</param>
/// <param name="RemovedAt">Since when they may not come in any more; null: they may.</param>
public sealed record Person(
    string Id,
    string Email,
    string Name,
    string Role,
    bool HasPassword,
    bool HasSecondFactor,
    int SpareCodes,
    DateTimeOffset AddedAt,
    DateTimeOffset? RemovedAt
)
{
    /// <summary>Nobody is known by more characters.</summary>
    public const int LongestName = 60;

    /// <summary>Changes with all that ends their stays.</summary>
    internal string Stamp { get; init; } = "";

    internal static Person Of(PersonRow row) =>
        new(
            row.Id,
            row.Email,
            row.Name,
            row.Role,
            row.PasswordHash is not null,
            row.HasSecondFactor,
            row.SpareCodes.Length,
            row.AddedAt,
            row.RemovedAt
        )
        {
            Stamp = row.Stamp,
        };
}
