using Npgsql;

namespace Unicus.Tests;

/// <summary>The PostgreSQL that ./test starts, on which tests have databases of their own.</summary>
internal static class TestServer
{
    /// <summary>How a database on it is reached.</summary>
    public static string Connection { get; } =
        Environment.GetEnvironmentVariable("UNICUS_TEST_DATABASE")
        ?? throw new InvalidOperationException("Run ./test: it sets UNICUS_TEST_DATABASE.");

    /// <summary>How a database of this name is reached.</summary>
    public static string ConnectionTo(string database, int mostConnections) =>
        new NpgsqlConnectionStringBuilder(Connection) { Database = database, MaxPoolSize = mostConnections }.ConnectionString;

    /// <summary>Runs a statement.</summary>
    /// <param name="where">The database; null: the server's own.</param>
    public static async Task Execute(string sql, string? where = null)
    {
        await using var connection = new NpgsqlConnection(where ?? Connection);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    /// <summary>Drops a database; on a busy machine those who were sent away may take a while to go.</summary>
    public static async Task Drop(string name)
    {
        for (var tries = 1; ; tries++)
            try
            {
                NpgsqlConnection.ClearAllPools();
                await Execute($"drop database {name} with (force)");
                return;
            }
            catch (PostgresException) when (tries < 10)
            {
                await Task.Delay(1000);
            }
    }
}
