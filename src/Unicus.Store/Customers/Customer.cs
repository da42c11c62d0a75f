namespace Unicus.Store;

/// <summary>A customer with an account.</summary>
/// <param name="Address">Where their goods usually go; empty where they have not said.</param>
/// <param name="Group">The key of the customer group they are in; null for none.</param>
public sealed record Customer(int Id, string Email, string Name, string Address, string? Group)
{
    /// <summary>Changes with their password.</summary>
    internal string Stamp { get; init; } = "";

    internal static Customer Of(CustomerRow row) => new(row.Id, row.Email, row.Name, row.Address, row.GroupKey) { Stamp = StampOf(row) };

    internal static string StampOf(CustomerRow row) => $"customer {row.Id} {Secrets.HashOf(row.PasswordHash)}";
}
