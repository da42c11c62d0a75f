using System.Net.Sockets;
using Npgsql;

namespace Unicus.Store;

/// <summary>What a fault of the database means to whoever asked.</summary>
public enum DatabaseFault
{
    /// <summary>Something was made, changed or deleted by somebody else at the same moment.</summary>
    Clash,

    /// <summary>A text holds what no text in the database can, such as NUL.</summary>
    UnfitText,

    /// <summary>The database is down, starting, stopping, full or has no connection left.</summary>
    Unreachable,

    /// <summary>A slip of the program.</summary>
    Other,
}

/// <summary>Reads faults of the database, however deep they are wrapped: the one place that knows its codes.</summary>
/// <remarks>Codes: PostgreSQL documentation, appendix A.</remarks>
public static class DatabaseFaults
{
    /// <summary>What unique constraints hold apart, in words.</summary>
    private static readonly Dictionary<string, string> Unique = new()
    {
        ["ix_skus_code_key"] = "that SKU",
        ["ex_variants_gtin"] = "that GTIN",
        ["ix_products_code"] = "that product code",
        ["ix_products_address"] = "that web address",
        ["ix_categories_key"] = "that category",
        ["ix_library_options_key"] = "that option",
        ["ix_extra_sets_key"] = "that set of extras",
    };

    public static DatabaseFault KindOf(Exception fault)
    {
        foreach (var inner in Chain(fault))
            switch (inner)
            {
                case PostgresException coded:
                    return KindOf(coded.SqlState);
                case NpgsqlException or SocketException or TimeoutException:
                    return DatabaseFault.Unreachable;
            }
        return DatabaseFault.Other;
    }

    /// <summary>What was taken by somebody else, in a sentence; null where the kind of the fault says all.</summary>
    public static string? Sentence(Exception fault) =>
        Chain(fault).OfType<PostgresException>().FirstOrDefault() is { ConstraintName: { } name } && Unique.TryGetValue(name, out var what)
            ? $"Nothing was saved: somebody else took {what} at the same moment. Try once more."
            : null;

    private static DatabaseFault KindOf(string code) =>
        code switch
        {
            // Unique, foreign key, exclusion; serialisation, deadlock, lock not available.
            "23505" or "23503" or "23P01" or "40001" or "40P01" or "55P03" => DatabaseFault.Clash,
            "22021" or "22P05" => DatabaseFault.UnfitText,
            // Connections, resources, an administrator, the disk (53100; XX000 where a file cannot be written); a database that is not
            // there, or lets nobody in.
            _ when code[..2] is "08" or "53" or "57" or "58" or "3D" or "XX" || code == "55000" => DatabaseFault.Unreachable,
            _ => DatabaseFault.Other,
        };

    private static IEnumerable<Exception> Chain(Exception fault)
    {
        for (var at = fault; at is not null; at = at.InnerException)
            yield return at;
    }
}
