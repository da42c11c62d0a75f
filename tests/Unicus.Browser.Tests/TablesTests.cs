using System.Reflection.Metadata;
using System.Reflection.PortableExecutable;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.BrowserTests;

/// <summary>Tables are the store's own: pages and the HTTP interface read through what it offers.</summary>
public class TablesTests
{
    private static readonly Type Context = typeof(UnicusContext);

    [Fact]
    public void The_application_names_neither_the_database_nor_a_table()
    {
        var own = Tables().Append(Context).Select(t => t.Name).ToHashSet();
        Assert.True(own.Count > 30);
        using var file = File.OpenRead(typeof(Web.Shell.Visit).Assembly.Location);
        using var read = new PEReader(file);
        var named = read.GetMetadataReader();
        var used = named
            .TypeReferences.Select(named.GetTypeReference)
            .Where(t => named.GetString(t.Namespace) == Context.Namespace)
            .Select(t => named.GetString(t.Name))
            .ToList();
        Assert.Contains(nameof(ShopReading), used);
        Assert.DoesNotContain(used, own.Contains);
    }

    [Fact]
    public void Rows_of_tables_are_internal_to_the_store() => Assert.DoesNotContain(Tables(), t => t.IsPublic);

    private static IReadOnlyList<Type> Tables()
    {
        var builder = new DbContextOptionsBuilder<UnicusContext>();
        UnicusContext.Configure(builder, "Host=nowhere");
        using var context = new UnicusContext(builder.Options);
        return [.. context.Model.GetEntityTypes().Select(e => e.ClrType).Where(t => t.Assembly == Context.Assembly)];
    }
}
