using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

public class FoundingTests(Database db) : IClassFixture<Database>
{
    [Fact]
    public Task A_database_of_an_older_version_is_refused_untouched() =>
        db.Use<UnicusContext, int>(async c =>
        {
            Assert.False(await Founding.IsOlder(c));
            await c.Database.ExecuteSqlAsync(
                $"""insert into "__EFMigrationsHistory" (migration_id, product_version) values ('20250101000000_Other', '9')"""
            );
            var before = await c.Locations.CountAsync();
            await Assert.ThrowsAsync<OlderShopException>(() => Founding.Run(c));
            Assert.Equal(before, await c.Locations.CountAsync());
            Assert.True(await Founding.IsDone(c));
            return 0;
        });
}
