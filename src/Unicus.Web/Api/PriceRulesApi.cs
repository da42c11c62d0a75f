using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Mvc;
using Unicus.Store;

namespace Unicus.Web.Api;

/// <summary>Price rules of the shop, customer groups and lists of codes over HTTP.</summary>
public static class PriceRulesApi
{
    /// <summary>The longest list of codes, in bytes.</summary>
    private const long LongestCodes = 8L * 1024 * 1024;

    public static void MapPriceRules(this RouteGroupBuilder api)
    {
        api.MapGet("/price-rules", List).Describe("The price rules of the shop", c => c.Gives(200, "PriceRulePage"));
        api.MapGet("/price-rules/{key}", Get)
            .Describe("One price rule", c => c.Gives(200, "PriceRule").Tagged().Refuses(404, "There is no such rule."));
        api.MapPut("/price-rules/{key}", Put)
            .WithMetadata(new NeededScope(ApiScopes.Products))
            .Describe("Makes or replaces a price rule", c => c.Takes("PriceRule").Gives(200, "PriceRule").Gives(201, "PriceRule").Tagged());
        api.MapDelete("/price-rules/{key}", Delete)
            .WithMetadata(new NeededScope(ApiScopes.Products))
            .Describe("Takes a price rule out", c => c.Gives(204).Refuses(404, "There is no such rule."));
        api.MapPost("/price-rules/try", Try)
            .Describe("Says what rules would do to every price, without changing anything", c => c.Takes("Trying").Gives(200, "Tried"));
        api.MapPut("/customer-groups/{key}", PutGroup)
            .WithMetadata(new NeededScope(ApiScopes.Products))
            .Describe("Makes or replaces a customer group", c => c.Takes("CustomerGroup").Gives(200, "CustomerGroup"));
        api.MapPut("/coupons/{key}", PutCodes)
            .WithMetadata(new NeededScope(ApiScopes.Products))
            .WithMetadata(new RequestSizeLimitAttribute(LongestCodes))
            .Describe("Replaces a list of codes that each work once", c => c.Takes("CouponCodes").Gives(200, "CouponList"));
    }

    private static async Task<IResult> List(PriceRuleReading rules, TimeProvider clock)
    {
        var all = (await rules.All()).Where(r => !r.IsArchived).ToList();
        return Bodies.Json(
            new JsonObject
            {
                ["total"] = all.Count,
                ["priceRules"] = new JsonArray([.. all.Select(r => (JsonNode)Whole(r.Rule, clock.GetUtcNow()))]),
            }
        );
    }

    private static async Task<IResult> Get(string key, HttpResponse response, PriceRuleReading rules)
    {
        if (await rules.Find(key) is not { } found)
            return Problems.Missing($"There is no price rule {key}.");
        response.Headers.ETag = $"\"{found.Version}\"";
        return Bodies.Json(PriceRuleWriter.Write(found.Rule));
    }

    private static Task<IResult> Put(string key, HttpRequest request, HttpResponse response, ShopReading reading, ChangePriceRules rules) =>
        Bodies.With(request, async body =>
        {
            var currency = (await reading.Settings()).Currency;
            var faults = new List<Fault>();
            var rule = new PriceRuleReader(currency).Rule(new Node(body.Json, "#", faults));
            if (rule is not null && rule.Key.Text != key)
                faults.Add(new Fault("#/key", $"The address says {key}, the body {rule.Key}."));
            if (faults.Count > 0 || rule is null)
                return Problems.Unfit(faults);
            int? version = null;
            if (request.Headers.IfMatch.ToString() is { Length: > 0 } tag && tag != "*")
                version = int.TryParse(tag.Trim('"'), out var seen) ? seen : -1;
            var outcome = await rules.Put(rule, ApiEndpoints.Program, version);
            if (outcome.Faults is [var only] && only == ChangePriceRules.WasChanged)
                return Problems.Of(412, "The price rule has changed since; get it again.");
            if (outcome.Result is not { } row)
                return Problems.Unfit(outcome.Faults);
            response.Headers.ETag = $"\"{row.Version}\"";
            if (row.Version == 1)
                response.Headers.Location = $"/api/v1/price-rules/{key}";
            return Bodies.Json(PriceRuleWriter.Write(rule), row.Version == 1 ? 201 : 200);
        });

    private static async Task<IResult> Delete(string key, ChangePriceRules rules) =>
        await rules.Delete(key) ? Results.NoContent() : Problems.Missing($"There is no price rule {key}.");

    /// <summary>Rules as they would be: each replaces what the shop has under its key, or comes besides.</summary>
    private static Task<IResult> Try(HttpRequest request, ShopReading reading, RuleTrial trial, long page = 1, int size = 100) =>
        Bodies.With(request, async body =>
        {
            if (Paging.Problem(page, size) is { } wrong)
                return wrong;
            var currency = (await reading.Settings()).Currency;
            var (root, faults) = (body.Root, body.Faults);
            if (root.IsObject("a trial"))
                root.Only("rules", "at", "scope");
            root.Require("rules");
            var reader = new PriceRuleReader(currency);
            var rules = root.Items("rules", PriceRuleReader.MostRules).Select(n => reader.Rule(n)).OfType<PriceRule>().ToList();
            var at = BasketRequest.ReadAt(root);
            var scope = PriceRuleReader.ReadScope(root.At("scope"));
            if (faults.Count > 0)
                return Problems.Unfit(faults);
            var others = (await reading.Prices()).Rules.Where(r => rules.TrueForAll(n => n.Key != r.Key));
            var found = await trial.Run([.. others, .. rules], rules, at);
            var prices = found.Prices.Where(p => Holds(scope, p.Goods)).ToList();
            return Bodies.Json(Tried(found, prices, currency, page, size));
        });

    /// <summary>Whether a scope of products, SKUs and tags holds goods; what else it says is not looked at.</summary>
    private static bool Holds(PriceScope scope, VariantOnSale goods) =>
        (scope.Products.IsEmpty || scope.Products.Contains(goods.Edition.Product.Code.Text))
        && (scope.Skus.IsEmpty || scope.Skus.Contains(goods.Variant.Sku.Text.ToUpperInvariant()))
        && (scope.Categories.IsEmpty || scope.Categories.Any(c => goods.Edition.Product.Categories.Contains(c)))
        && (scope.Tags.IsEmpty || scope.Tags.Any(t => goods.Edition.Product.Tags.Contains(t)));

    private static JsonObject Tried(TrialFound found, List<TriedPrice> prices, Currency currency, long page, int size)
    {
        string Amount(long minor) => MinorUnits.ToMoney(minor, currency).ToString();
        string? Margin(decimal? margin) => margin is { } m ? decimal.Round(m, 2).ToString(CultureInfo.InvariantCulture) : null;
        return new JsonObject
        {
            ["page"] = page,
            ["size"] = size,
            ["total"] = prices.Count,
            ["looked"] = found.Looked,
            ["held"] = found.Held,
            ["margins"] = Trial.TaxInWords(found.Then.Trade),
            ["lowestMarginNow"] = Margin(found.LowestNow),
            ["lowestMarginThen"] = Margin(found.LowestThen),
            ["orders"] = new JsonObject { ["count"] = found.Orders, ["moved"] = found.OrdersMoved.ToString() },
            ["prices"] = new JsonArray([
                .. prices
                    .Skip(Paging.Skipped(page, size))
                    .Take(size)
                    .Select(p =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["product"] = p.Goods.Edition.Product.Code.Text,
                                ["sku"] = p.Goods.Variant.Sku.Text,
                                ["quantity"] = p.Quantity,
                                ["now"] = Amount(p.Now),
                                ["then"] = Amount(p.Then),
                                ["marginNow"] = Margin(p.MarginNow),
                                ["marginThen"] = Margin(p.MarginThen),
                                ["atFloor"] = p.AtFloor,
                            }
                    ),
            ]),
        };
    }

    private static Task<IResult> PutGroup(string key, HttpRequest request, ChangePriceRules rules) => Bodies.With(request, async body =>
        {
            var (root, faults) = (body.Root, body.Faults);
            if (root.IsObject("a customer group"))
                root.Only("key", "label", "code");
            if (!Key.TryParse(key, out var group))
                faults.Add(new Fault("", $"A key is {Key.Shape}."));
            if (root.Has("key") && root.Key("key") is { } named && named.Text != key)
                faults.Add(new Fault("#/key", $"The address says {key}, the body {named}."));
            var label = root.Has("label") ? root.Label("label") : key;
            var code = root.Text("code", Coupons.LongestCode);
            if (faults.Count > 0)
                return Problems.Unfit(faults);
            var outcome = await rules.PutGroup(group, label, code);
            return outcome.Done
                ? Bodies.Json(
                    new JsonObject
                    {
                        ["key"] = key,
                        ["label"] = label,
                        ["code"] = code,
                    }
                )
                : Problems.Unfit(outcome.Faults);
        });

    private static Task<IResult> PutCodes(string key, HttpRequest request, Coupons coupons) => Bodies.With(request, async body =>
        {
            var (root, faults) = (body.Root, body.Faults);
            if (root.IsObject("a list of codes"))
                root.Only("key", "codes");
            root.Require("codes");
            if (!Key.TryParse(key, out var list))
                faults.Add(new Fault("", $"A key is {Key.Shape}."));
            var codes = new List<string>();
            foreach (var item in root.Items("codes", Coupons.MostCodes))
                if (item.AsText() is { } code)
                    codes.Add(code);
                else
                    item.Fault("A code is a text.");
            if (faults.Count > 0)
                return Problems.Unfit(faults);
            var outcome = await coupons.Put(list, codes);
            return outcome.Result is { } stands
                ? Bodies.Json(
                    new JsonObject
                    {
                        ["key"] = stands.Key,
                        ["codes"] = stands.Codes,
                        ["used"] = stands.Used,
                    }
                )
                : Problems.Unfit(outcome.Faults);
        });

    /// <summary>A rule with what follows from its dates.</summary>
    private static JsonObject Whole(PriceRule rule, DateTimeOffset now)
    {
        var json = PriceRuleWriter.Write(rule);
        json["phase"] = rule.PhaseAt(now).ToString().ToLowerInvariant();
        return json;
    }
}
