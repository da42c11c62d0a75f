using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;

namespace Unicus.Store;

/// <summary>Lets the migration tool make a context without the application.</summary>
public sealed class DesignTimeContext : IDesignTimeDbContextFactory<UnicusContext>
{
    public UnicusContext CreateDbContext(string[] args)
    {
        var builder = new DbContextOptionsBuilder<UnicusContext>();
        UnicusContext.Configure(builder, "Host=127.0.0.1;Database=unicus");
        return new UnicusContext(builder.Options);
    }
}
