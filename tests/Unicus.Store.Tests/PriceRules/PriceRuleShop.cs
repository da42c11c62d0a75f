using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

/// <summary>A shop with plain goods in which price rules are tried.</summary>
public abstract class PriceRuleShop(Database db) : IClassFixture<Database>
{
    protected Database Db => db;

    protected static readonly Actor Tester = Database.Tester;

    protected async Task Publish(string code, string price, int stock)
    {
        var json = $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Plain {{code}}", "base": { "price": "{{price}}", "cost": "4.00" },
              "variants": [ { "values": {}, "stock": {{stock}} } ] }
            """;
        Assert.Empty((await Db.Put(json)).Faults);
        Assert.True((await Db.Use<PublishEdition, Outcome<int>>(p => p.Run(code, Tester))).Done);
    }

    protected Task Put(string json) => Db.PutRule(json);

    protected static BasketRequest Basket(string product, int quantity, params string[] coupons) =>
        new([new LineRequest(product, null, new JsonObject(), quantity, null)], null) { Coupons = [.. coupons] };

    protected async Task<PricedBasket> Priced(BasketRequest request) =>
        (
            await Db.Use<BasketPricing, Outcome<PricedBasket>>(async p =>
                await p.Run(request, await Db.Use<UnicusContext, ShopSettings>(c => ShopSettings.Load(c)))
            )
        ).Result!;

    protected Task<Placed> Place(BasketRequest request, string email = "orla@example.org") =>
        Db.Use<PlaceOrder, Placed>(p => p.Run(request, new Buyer("Orla", email, "1 Skep Lane", null), Actor.Shopper));
}
