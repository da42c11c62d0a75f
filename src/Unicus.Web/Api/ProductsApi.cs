using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Mvc;
using Unicus.Store;

namespace Unicus.Web.Api;

/// <summary>Products over HTTP: list, put, get, delete, publish, configure.</summary>
public static class ProductsApi
{
    public static void MapProducts(this RouteGroupBuilder api)
    {
        api.MapGet("/products", List)
            .Describe("A page of products", c => c.Gives(200, "ProductPage").Refuses(422, "There is no such page."));
        api.MapPut("/products/{code}", Put)
            .WithMetadata(new NeededScope(ApiScopes.Products))
            .WithMetadata(new RequestSizeLimitAttribute(Bodies.OfProduct))
            .Describe("Creates or replaces a working copy", c =>
                c.Takes("Product")
                    .Gives(200, "Product")
                    .Gives(201, "Product")
                    .Tagged()
                    .Refuses(409, "Variants with stock or history would be lost.")
            );
        api.MapGet("/products/{code}", Get)
            .Describe("The working copy, or the published product with edition=latest", c =>
                c.Gives(200, "Product").Tagged().Refuses(404, "There is no such product.").Refuses(422, "The query is not understood.")
            );
        api.MapDelete("/products/{code}", Delete)
            .WithMetadata(new NeededScope(ApiScopes.Products))
            .Describe("Deletes a product without stock or history", c =>
                c.Gives(204).Refuses(404, "There is no such product.").Refuses(409, "It has stock, history, or is part of a set.")
            );
        api.MapPost("/products/{code}/publish", Publish)
            .WithMetadata(new NeededScope(ApiScopes.Products))
            .Describe("Makes an edition", c =>
                c.Gives(200, "Published").Refuses(404, "There is no such product.").Refuses(409, "Something stands in the way.")
            );
        api.MapPost("/products/{code}/configure", Configure)
            .Describe("Answers to what is possible, the count, conflict, price and availability", c =>
                c.Takes("ConfigureRequest")
                    .Gives(200, "Configured")
                    .Refuses(404, "There is no such product.")
                    .Refuses(409, "Its rules cannot be worked out.")
            );
    }

    private static async Task<IResult> List(ProductReading products, long page = 1, int size = 100)
    {
        if (Paging.Problem(page, size) is { } problem)
            return problem;
        var total = await products.Count();
        var rows = await products.ByCode(Paging.Skipped(page, size), size);
        return Bodies.Json(
            new JsonObject
            {
                ["page"] = page,
                ["size"] = size,
                ["total"] = total,
                ["products"] = new JsonArray([
                    .. rows.Select(r =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["code"] = r.Code,
                                ["name"] = r.Name,
                                ["version"] = r.Version,
                                ["edition"] = r.Edition,
                                ["variants"] = Math.Max(1, r.Variants),
                            }
                    ),
                ]),
            }
        );
    }

    private static Task<IResult> Put(
        string code,
        HttpRequest request,
        HttpResponse response,
        PutProduct put,
        ProductReading products,
        string? retire,
        string? stock
    ) => Bodies.With(request, async body =>
        {
            int? version = null;
            if (request.Headers.IfMatch.ToString() is { Length: > 0 } tag && tag != "*")
            {
                if (!int.TryParse(tag.Trim('"'), out var v))
                    return Problems.Of(412, "The entity tag is not one that was given out.");
                version = v;
            }
            var (result, faults) = await put.Run(code, body.Json, ApiEndpoints.Program, version, retire == "yes", stock == "count");
            switch (result)
            {
                case PutResult.Faulty:
                    return Problems.Unfit(faults);
                case PutResult.WouldLose:
                    return Problems.Of(409, "Variants with stock or history would be lost; add ?retire=yes to retire them.", faults);
                case PutResult.Stale:
                    return Problems.Of(412, "The product has changed since; get it again.");
            }
            if (result == PutResult.Created)
                response.Headers.Location = $"/api/v1/products/{code}";
            return await Working(code, products, response, all: false, result == PutResult.Created ? 201 : 200);
        });

    private static async Task<IResult> Get(
        string code,
        HttpResponse response,
        ProductReading products,
        ShopReading reading,
        string? edition,
        string? variants
    )
    {
        var isReader = response.HttpContext.Features.Get<ApiCaller>()?.Scopes.Contains(ApiScopes.Products) != true;
        if (edition is null)
            return await Working(code, products, response, variants == "all", 200, isReader);
        if (edition != "latest")
            return Problems.Of(422, "edition=latest is understood.");
        if (await reading.Latest(code) is not { } published)
            return Problems.Missing($"There is no published product {code}.");
        response.Headers.ETag = $"\"e{published.Number}\"";
        var product = isReader ? WithoutPassword(published.Product) : published.Product;
        return Bodies.Json(DocumentWriter.Write(product, variants == "all" ? ListedVariants.All : ListedVariants.Differing));
    }

    /// <summary>What a key may see that only reads: the password of a page opens what is not everybody's.</summary>
    private static Product WithoutPassword(Product product) =>
        product.Shelf.Password is null ? product : product with { Shelf = product.Shelf with { Password = null } };

    private static async Task<IResult> Working(
        string code,
        ProductReading products,
        HttpResponse response,
        bool all,
        int status,
        bool isReader = false
    )
    {
        if (await products.Copy(code) is not { } copy)
            return Problems.Missing($"There is no product {code}.");
        response.Headers.ETag = $"\"{copy.Version}\"";
        var onHand = copy.Stock.ToDictionary(s => s.Key, s => s.Value.OnHand);
        var product = isReader ? WithoutPassword(copy.Product) : copy.Product;
        return Bodies.Json(DocumentWriter.Write(product, all ? ListedVariants.All : ListedVariants.Differing, onHand), status);
    }

    private static async Task<IResult> Delete(string code, ChangeProduct change, ProductReading products)
    {
        var outcome = await change.Delete(code);
        if (outcome.Done)
            return Results.NoContent();
        return await products.Exists(code)
            ? Problems.Of(409, "The product cannot be deleted.", outcome.Faults)
            : Problems.Missing($"There is no product {code}.");
    }

    private static async Task<IResult> Publish(string code, PublishEdition publish, ProductReading products)
    {
        if (!await products.Exists(code))
            return Problems.Missing($"There is no product {code}.");
        var outcome = await publish.Run(code, ApiEndpoints.Program);
        if (!outcome.Done)
            return Problems.Of(409, "Not published: something stands in the way.", outcome.Faults);
        var copy = (await products.Copy(code))!;
        return Bodies.Json(
            new JsonObject
            {
                ["edition"] = outcome.Result,
                ["warnings"] = new JsonArray([.. copy.Checks.Where(c => !c.Stops).Select(c => (JsonNode)c.Text!)]),
            }
        );
    }

    private static Task<IResult> Configure(string code, HttpRequest request, ShopReading reading, BasketPricing pricing, string? edition) =>
        Bodies.With(request, async body =>
        {
            var shop = await reading.Settings();
            Edition draft;
            if (edition == "latest")
            {
                if (await reading.Latest(code) is not { } published)
                    return Problems.Missing($"There is no published product {code}.");
                draft = published;
            }
            else
            {
                if (await reading.Working(code) is not { } copy)
                    return Problems.Missing($"There is no product {code}.");
                draft = copy.Draft;
            }
            var faults = new List<Fault>();
            var buyer = ConfigureReply.ReadBuyer(body.Json, faults);
            if (faults.Count > 0)
                return Problems.Unfit(faults);
            var range = await reading.Range(draft);
            var stock = await reading.Stock(draft, range);
            return ConfigureReply.Make(body.Json, draft, range, stock, shop, await pricing.Buying(buyer, shop));
        });
}
