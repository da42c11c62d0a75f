using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

public class FoundingTests(Database db) : IClassFixture<Database>
{
    [Theory]
    [InlineData("20250101000000_Other", ShopVersion.Older, "older")]
    [InlineData("21250101000000_Other", ShopVersion.Newer, "newer")]
    public Task A_database_of_another_version_is_refused_untouched(string migration, ShopVersion version, string word) =>
        db.Use<UnicusContext, int>(async c =>
        {
            Assert.Null(await Founding.Foreign(c));
            await c.Database.ExecuteSqlAsync(
                $"""insert into "__EFMigrationsHistory" (migration_id, product_version) values ({migration}, '9')"""
            );
            var before = await c.Locations.CountAsync();
            Assert.Equal(version, await Founding.Foreign(c));
            var fault = await Assert.ThrowsAsync<ForeignShopException>(() => Founding.Run(c, TimeProvider.System));
            Assert.Contains(word, fault.Message, StringComparison.Ordinal);
            Assert.Equal(before, await c.Locations.CountAsync());
            Assert.True(await Founding.IsDone(c));
            await c.Database.ExecuteSqlAsync($"""delete from "__EFMigrationsHistory" where migration_id = {migration}""");
            return 0;
        });
}
