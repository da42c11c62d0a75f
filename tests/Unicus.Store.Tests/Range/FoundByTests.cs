using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

/// <summary>What goods and orders are found by: words of values, names in place of codes, a proven address, low levels.</summary>
public sealed class FoundByTests(Database db) : IClassFixture<Database>
{
    private async Task<IReadOnlyList<string>> Search(string words)
    {
        var query = new ListQuery(words, null, [], false, ListOrder.Position, 1);
        return [.. (await db.Use<RangeLists, ListPage>(l => l.Read(query))).Items.Select(i => i.Code)];
    }

    private async Task PutPublished(string code, string json)
    {
        await db.Put(json);
        Assert.True((await db.Use<PublishEdition, Outcome<int>>(p => p.Run(code, Database.Tester))).Done);
    }

    [Fact]
    public async Task A_product_is_found_by_its_values_and_options()
    {
        await PutPublished(
            "FB1",
            """
            { "format": "unicus-product/1", "code": "FB1", "name": "Recorder", "base": { "price": "80.00" },
              "options": [ { "key": "memory", "label": "Storage", "role": "variant", "values": [
                { "key": "small", "label": "64 GB" }, { "key": "large", "label": "256 GB" } ] },
                { "key": "case", "label": "Sleeve", "role": "extra", "ask": "one", "values": [ { "key": "felt", "label": "Felted" } ] } ] }
            """
        );
        foreach (var words in new[] { "64 GB", "256", "storage", "felted recorder" })
            Assert.Contains("FB1", await Search(words));
        Assert.DoesNotContain("FB1", await Search("128 GB"));
    }

    [Fact]
    public async Task Names_stand_for_codes_where_goods_are_typed()
    {
        await db.PublishPlain("FB2", 5);
        await db.PublishPlain("WICK-1", 5);
        await db.Use<ChangeField, Outcome>(f => f.Run("WICK-1", "name", "Wick trimmer", null, Database.Tester));
        var outcome = await db.Use<ChangeField, Outcome>(f => f.Run("FB2", "companions", "wick trimmer, FB1, FB3", null, Database.Tester));
        Assert.True(outcome.Done);
        Assert.Equal(["WICK-1", "FB1", "FB3"], (await db.Load("FB2")).Product.Companions.Select(c => c.Text));
    }

    [Fact]
    public async Task Orders_without_an_account_are_in_that_of_the_address_that_was_proven_later()
    {
        await db.PublishPlain("FB4", 10);
        var request = new BasketRequest([new LineRequest(null, "FB4", [], 1, null)], null);
        var mine = await Place("Ada.Guest@Example.org");
        var others = await Place("bea@example.org");
        await db.Use<CustomerAccounts, Outcome>(a => a.SignUp("ada.guest@example.org", "Ada", t => t));
        var id = await db.Use<UnicusContext, int>(c =>
            c.Customers.Where(x => x.EmailKey == "ada.guest@example.org").Select(x => x.Id).SingleAsync()
        );
        var orders = await db.Use<OrderReading, IReadOnlyList<Order>>(r => r.OfCustomer(id, 10));
        Assert.Equal([mine], orders.Select(o => o.Number));
        Assert.NotEqual(mine, others);

        async Task<int> Place(string email) =>
            (await db.Use<PlaceOrder, Placed>(p => p.Run(request, new Buyer("A", email, "", null), Actor.Shopper))).Order!.Number;
    }

    [Fact]
    public async Task Low_goods_are_those_at_or_below_the_mark_in_force_own_before_value_before_product()
    {
        await PutPublished(
            "FB5",
            """
            { "format": "unicus-product/1", "code": "FB5", "name": "Lowly", "base": { "price": "1.00", "lowLevel": 3 },
              "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [ { "key": "s", "label": "Small" },
                { "key": "m", "label": "Medium", "figures": { "lowLevel": 6 } }, { "key": "l", "label": "Large" } ] },
                { "key": "hue", "label": "Hue", "role": "variant", "values": [ { "key": "r", "label": "Red" } ] } ],
              "variants": [ { "values": { "size": "s", "hue": "r" }, "stock": 3 }, { "values": { "size": "m", "hue": "r" }, "stock": 7 },
                { "values": { "size": "l", "hue": "r" }, "stock": 9, "lowLevel": 10 } ] }
            """
        );
        var low = await db.Use<OfficeLists, StockPage>(l => l.Stock("Lowly", StockFilter.Low, 1));
        Assert.Equal([("Large, Red", 10), ("Small, Red", 3)], low.Rows.Select(r => (r.Variant, r.Low!.Value)));
        var all = await db.Use<OfficeLists, StockPage>(l => l.Stock("Lowly", StockFilter.All, 1));
        Assert.Equal([true, false, true], all.Rows.Select(r => r.IsLow));
    }

    /// <summary>Law: the mark that lists go by is the one that the core's cascade finds, on random products with marks anywhere.</summary>
    [Fact]
    public async Task The_low_level_of_lists_is_that_of_the_cascade()
    {
        var random = new Random(24);
        for (var i = 0; i < 25; i++)
        {
            string Mark(string lead) => random.Next(3) == 0 ? $"{lead}\"lowLevel\": {random.Next(9)}" : "";
            string Value(string key) => $$"""{ "key": "{{key}}", "label": "{{key}}", "figures": { {{Mark("")}} } }""";
            string Option(string key) =>
                $$"""{ "key": "{{key}}", "label": "{{key}}", "role": "variant", """
                + $$""" "values": [ {{Value("a")}}, {{Value("aa")}}, {{Value("b-a")}} ] }""";
            var listed =
                from x in new[] { "a", "aa", "b-a" }
                from y in new[] { "a", "aa", "b-a" }
                select $$"""{ "values": { "x": "{{x}}", "xx": "{{y}}" }, "stock": {{random.Next(1, 9)}} {{Mark(", ")}} }""";
            await PutPublished(
                $"LOW{i}",
                $$"""
                { "format": "unicus-product/1", "code": "LOW{{i}}", "name": "Marked {{i}}", "base": { "price": "1.00" {{Mark(", ")}} },
                  "options": [ {{Option("x")}}, {{Option("xx")}} ], "variants": [ {{string.Join(", ", listed)}} ] }
                """
            );
            var copy = await db.Load($"LOW{i}");
            int? MarkOf(MatrixVariant v) => copy.Matrix.Figures.Resolve(v.Variant.Own, v.Values, f => f.LowLevel).Figure;
            var wanted = copy.Matrix.Variants.Select(v => (v.Sku.Text, MarkOf(v), copy.Stock[v.Sku].Available)).Order().ToList();
            var all = await db.Use<OfficeLists, StockPage>(l => l.Stock($"Marked {i}", StockFilter.All, 1));
            Assert.Equal(
                wanted.Select(w => (w.Text, w.Item2)),
                all.Rows.Where(r => r.Code == $"LOW{i}").Select(r => (r.Sku, r.Low)).Order()
            );
            var low = await db.Use<OfficeLists, StockPage>(l => l.Stock($"Marked {i}", StockFilter.Low, 1));
            var names = low.Rows.Where(r => r.Code == $"LOW{i}").Select(r => r.Sku).Order();
            Assert.Equal(wanted.Where(w => w.Available <= w.Item2).Select(w => w.Text), names);
        }
    }
}
