namespace Unicus.Store;

/// <summary>An account that a customer keeps.</summary>
internal sealed class CustomerRow
{
    public int Id { get; set; }

    /// <summary>As typed.</summary>
    public required string Email { get; set; }

    /// <summary>In small letters; unique.</summary>
    public required string EmailKey { get; set; }

    public required string PasswordHash { get; set; }
    public required string Name { get; set; }
    public string Address { get; set; } = "";

    /// <summary>The customer group that the shop put it into; null for none.</summary>
    public string? GroupKey { get; set; }

    /// <summary>The hash of the token that leads to a new password; null where none was asked for.</summary>
    public string? RecoveryHash { get; set; }

    public DateTimeOffset? RecoveryUntil { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
}
