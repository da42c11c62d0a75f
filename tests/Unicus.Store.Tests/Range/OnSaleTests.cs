using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

/// <summary>What is on sale besides publishing: put away and brought back, off for now at once, single changes taken back.</summary>
public sealed class OnSaleTests(Database db) : IClassFixture<Database>
{
    private Task<Edition?> OnSale(string code) => db.Use<UnicusContext, Edition?>(c => db.Catalogue.Editions.Latest(c, code));

    private Task<Outcome> Field(string code, string field, string text) =>
        db.Use<ChangeField, Outcome>(f => f.Run(code, field, text, null, Database.Tester));

    private Task<IReadOnlyList<FieldChange>?> Changes(string code) =>
        db.Use<UnpublishedChanges, IReadOnlyList<FieldChange>?>(u => u.Of(code));

    private Task<int> Rows(string show) =>
        db.Use<OfficeLists, int>(async l => (await l.Range(new RangeQuery("", show, "", "", "", 1))).Total);

    [Fact]
    public async Task What_is_put_away_is_in_no_list_and_not_on_sale_and_comes_back_as_it_was()
    {
        await db.PublishPlain("AWAY", 5);
        await Field("AWAY", "summary", "Not published yet");
        var (all, away) = (await Rows(""), await Rows("away"));
        Assert.True((await db.Use<PutAway, Outcome>(p => p.Run("away", Database.Tester))).Done);
        Assert.Equal((all - 1, away + 1), (await Rows(""), await Rows("away")));
        Assert.Null(await OnSale("AWAY"));
        Assert.False(await db.Use<UnicusContext, bool>(c => c.RangeEntries.AnyAsync(e => e.Code == "AWAY")));
        Assert.Contains("Bring it back", (await db.Use<PublishEdition, Outcome<int>>(p => p.Run("AWAY", Database.Tester))).Faults[0].What);
        var request = new BasketRequest([new LineRequest(null, "AWAY", [], 1, null)], null);
        var placed = await db.Use<PlaceOrder, Placed>(p => p.Run(request, new Buyer("B", "b@example.org", "", null), Actor.Shopper));
        Assert.Null(placed.Order);
        Assert.True((await db.Use<PutAway, Outcome>(p => p.BringBack("AWAY"))).Done);
        Assert.Equal(1, (await OnSale("AWAY"))!.Number);
        Assert.True(await db.Use<UnicusContext, bool>(c => c.RangeEntries.AnyAsync(e => e.Code == "AWAY")));
        Assert.Equal((all, away), (await Rows(""), await Rows("away")));
        Assert.Equal("summary", Assert.Single((await Changes("AWAY"))!).Place);
        Assert.Equal(5, (await db.Load("AWAY")).Stock.Values.Single().OnHand);
    }

    [Fact]
    public async Task Off_for_now_acts_at_once_and_publishes_nothing_else()
    {
        await db.PublishPlain("OFF1", 5);
        Assert.True((await Field("OFF1", "offForNow", "yes")).Done);
        var row = (await db.Load("OFF1")).Row;
        Assert.Equal((2, row.Version), (row.Edition, row.PublishedVersion));
        Assert.NotNull((await OnSale("OFF1"))!.Product.Selling.OffForNow);
        await Field("OFF1", "price", "12.00");
        await Field("OFF1", "offForNow", "no");
        var edition = (await OnSale("OFF1"))!;
        Assert.Equal((3, null, 10m), (edition.Number, edition.Product.Selling.OffForNow, edition.Product.Base.Price!.Value.Amount));
        Assert.Equal(("price", "10.00", "12.00"), Words(Assert.Single((await Changes("OFF1"))!)));
        var waiting = await db.Use<UnicusContext, List<string>>(c =>
            c.ProductChanges.Where(p => p.ProductId == row.Id && !p.AtOnce && p.Version > row.Version).Select(p => p.Sentence).ToListAsync()
        );
        Assert.Equal(["Price"], waiting);
    }

    [Fact]
    public async Task One_variant_is_taken_off_at_once_and_its_new_siblings_wait()
    {
        await db.Put(Database.Hive("OFF2"));
        await db.Use<PublishEdition, Outcome<int>>(p => p.Run("OFF2", Database.Tester));
        await Field("OFF2", "summary", "Waits");
        var edit = new CellEdit("depth=deep,timber=pine", "selling", "off", null);
        Assert.True((await db.Use<MatrixCells, Outcome>(m => m.Write("OFF2", [edit], Database.Tester))).Done);
        var edition = (await OnSale("OFF2"))!;
        var off = edition.Matrix.Offered.Where(v => v.Selling.OffForNow is not null).Select(v => v.Values.Text);
        Assert.Equal(["depth=deep,timber=pine"], off);
        Assert.Equal((2, null), (edition.Number, edition.Product.Summary));
        Assert.Equal("summary", Assert.Single((await Changes("OFF2"))!).Place);
    }

    [Fact]
    public async Task Each_change_is_shown_with_old_and_new_and_one_is_taken_back()
    {
        await db.Put(Database.Hive("DIF1"));
        await db.Use<PublishEdition, Outcome<int>>(p => p.Run("DIF1", Database.Tester));
        Assert.Empty((await Changes("DIF1"))!);
        await Field("DIF1", "price", "110.00");
        await Field("DIF1", "tags", "new, wood");
        var price = new CellEdit("depth=deep,timber=cedar", "price", "150.00", null);
        await db.Use<MatrixCells, Outcome>(m => m.Write("DIF1", [price], Database.Tester));
        var changes = (await Changes("DIF1"))!;
        Assert.Equal(
            [("Deep, Cedar, price", "", "150.00"), ("price", "100.00", "110.00"), ("tags", "", "new, wood")],
            changes.Select(Words).OrderBy(c => c.Item1, StringComparer.Ordinal)
        );
        var shown = changes.Single(c => c.Place == "price");
        Assert.True((await db.Use<UnpublishedChanges, Outcome>(u => u.TakeBack("DIF1", shown, Database.Tester))).Done);
        Assert.Equal(100m, (await db.Load("DIF1")).Product.Base.Price!.Value.Amount);
        Assert.Equal(2, (await Changes("DIF1"))!.Count);
        // What was shown to somebody who looks at an older page is not taken back.
        Assert.False((await db.Use<UnpublishedChanges, Outcome>(u => u.TakeBack("DIF1", shown, Database.Tester))).Done);
    }

    [Fact]
    public async Task The_currency_can_change_until_something_was_sold()
    {
        await db.PublishPlain("CUR1", 5);
        async Task<Outcome> Currency(string code) =>
            await db.Use<ChangeSettings, Outcome>(async c =>
            {
                var now = WantedSettings.Of(await db.Use<UnicusContext, ShopSettings>(x => ShopSettings.Load(x)));
                return await c.Run(now with { Terms = now.Terms with { Currency = Unicus.Core.Money.Currency.Of(code) } }, Database.Tester);
            });
        Assert.Contains("would be cut", (await Currency("JPY")).Faults[0].What);
        Assert.True((await Currency("GBP")).Done);
        Assert.Equal(
            "10.00 GBP",
            $"{(await OnSale("CUR1"))!.Product.Base.Price} {(await OnSale("CUR1"))!.Product.Base.Price!.Value.Currency}"
        );
        Assert.True((await Currency("EUR")).Done);
    }

    [Fact]
    public async Task A_product_without_options_has_its_SKU_and_GTIN_among_its_facts()
    {
        await db.PublishPlain("ONE1", 5);
        Assert.True((await Field("ONE1", "sku", "ONE-NEW")).Done);
        Assert.False((await Field("ONE1", "gtin", "6291041500214")).Done);
        Assert.True((await Field("ONE1", "gtin", "6291041500213")).Done);
        var variant = (await db.Load("ONE1")).Matrix.Variants.Single();
        Assert.Equal(("ONE-NEW", "6291041500213"), (variant.Sku.Text, variant.Variant.Gtin!.Value.Text));
        await db.Put(Database.Hive("ONE2"));
        Assert.False((await Field("ONE2", "sku", "X")).Done);
    }

    private static (string, string, string) Words(FieldChange c) => (c.Place, c.Old, c.New);
}
