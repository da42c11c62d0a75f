using System.Text.Json;
using System.Text.Json.Nodes;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Api;

/// <summary>Baskets, orders and stock over HTTP.</summary>
public static class TradeApi
{
    public static void MapTrade(this RouteGroupBuilder api)
    {
        api.MapPost("/baskets/price", PriceBasket)
            .Describe("Prices a basket with workings, tax and totals", c => c.Takes("Basket").Gives(200, "PricedBasket"));
        api.MapPost("/orders", Place)
            .WithMetadata(new NeededScope(ApiScopes.Orders))
            .Describe("Places an order that allocates stock", c =>
                c.Takes("OrderRequest")
                    .Gives(201, "Order")
                    .Repeatable()
                    .Refuses(409, "Short of stock, a coupon is used up, or the total is another one.") with
                {
                    Problem = "OrderProblem",
                }
            );
        api.MapGet("/orders", List)
            .WithMetadata(new NeededScope(ApiScopes.Orders))
            .Describe("A page of orders, newest first", c => c.Gives(200, "OrderPage").Refuses(422, "There is no such page."));
        api.MapGet("/orders/{number:int}", Get)
            .WithMetadata(new NeededScope(ApiScopes.Orders))
            .Describe("One order", c => c.Gives(200, "Order").Refuses(404, "There is no such order."));
        api.MapPost("/orders/{number:int}/cancel", Cancel)
            .WithMetadata(new NeededScope(ApiScopes.Orders))
            .Describe("Cancels an order, or parts of it, and releases the stock; takes a reason", c =>
                c.MayTake("Cancelling")
                    .Gives(200, "Order")
                    .Refuses(404, "There is no such order.")
                    .Refuses(409, "It cannot be cancelled any more.")
            );
        api.MapPost("/orders/{number:int}/dispatch", Dispatch)
            .WithMetadata(new NeededScope(ApiScopes.Orders))
            .Describe("Dispatches an order, or parts of it, which writes the sale", c =>
                c.MayTake("Dispatching").Gives(200, "Order").Refuses(404, "There is no such order.").Refuses(409, "It cannot be sent.")
            );
        api.MapGet("/stock/{sku}", Stock)
            .Describe("The levels of a SKU", c => c.Gives(200, "StockLevels").Refuses(404, "There is no such SKU."));
        api.MapPost("/stock/movements", Move)
            .WithMetadata(new NeededScope(ApiScopes.Products))
            .Describe("Writes a movement", c => c.Takes("Movement").Gives(201, "StockLevels").Repeatable());
    }

    private static Task<IResult> PriceBasket(HttpRequest request, BasketPricing pricing, ShopReading reading) =>
        Bodies.With(request, async body =>
        {
            var (basket, faults) = BasketRequest.Read(new Node(body.Json, "#", []));
            if (basket is null)
                return Problems.Unfit(faults);
            var priced = await pricing.Run(basket, await reading.Settings());
            return priced.Done ? Bodies.Json(BasketDocument.Write(priced.Result!)) : Problems.Unfit(priced.Faults);
        });

    private static Task<IResult> Place(HttpRequest request, PlaceOrder place, ShopReading reading) => Bodies.With(request, async body =>
        {
            var (root, faults) = (body.Root, body.Faults);
            var (basket, wrong) = BasketRequest.Read(root, "buyer", "expectedTotal");
            if (basket is null)
                return Problems.Unfit(wrong);
            var currency = (await reading.Settings()).Currency;
            var (buyer, expected) = (ReadBuyer(root.At("buyer")), root.Money("expectedTotal", currency));
            if (faults.Count > 0)
                return Problems.Unfit(faults);
            var call = Idempotency.Read(request, body.Json.GetRawText(), out var problem);
            if (problem is not null)
                return problem;
            // An order is always now.
            return Reply(await place.Run(basket with { At = null }, buyer, ApiEndpoints.Program, expected?.Amount, call));
        });

    private static IResult Reply(Placed placed) =>
        placed switch
        {
            { Earlier: { } earlier } => Idempotency.Reply(earlier),
            { Order: { } order } => Idempotency.Made(OrderDocument.Write(order).ToJsonString()),
            { Faults.Count: > 0 } => Problems.Unfit(placed.Faults),
            { UsedUp: [var used, ..] } => Problems.Of(409, used.Text, null, ("coupons", BasketDocument.Coupons(placed.UsedUp))),
            { Repriced: { } now } => Problems.Of(
                409,
                $"The total is {now.Total} now; nothing was ordered.",
                null,
                ("basket", BasketDocument.Write(now))
            ),
            _ => Problems.Of(409, "Not enough in stock; nothing was allocated.", null, ("shortages", Shortages(placed.Shortages))),
        };

    private static JsonArray Shortages(IEnumerable<Shortage> shortages) =>
        new([
            .. shortages.Select(s =>
                (JsonNode)
                    new JsonObject
                    {
                        ["sku"] = s.Sku,
                        ["wanted"] = s.Wanted,
                        ["available"] = s.Available,
                    }
            ),
        ]);

    private static Buyer ReadBuyer(Node node)
    {
        if (!node.Exists || !node.IsObject("a buyer"))
            return new Buyer("", "", "", null);
        node.Only("name", "email", "address");
        var email = (node.Text("email", TypedEmail.Longest) ?? "").Trim();
        if (email.Length > 0 && TypedEmail.Read(email) is { Ok: false, Problem: { } wrong })
            node.At("email").Fault(wrong);
        // The name stands in the head of messages.
        var name = (node.Text("name", 120) ?? "").Trim();
        if (name.Any(char.IsControl))
            node.At("name").Fault("A name is one line of signs that can be seen.");
        return new Buyer(name, email, TypedText.Lines(node.Text("address", 600)), null);
    }

    private static async Task<IResult> Cancel(int number, HttpRequest request, EndOrder end, OrderReading orders)
    {
        var (reason, parts, problem) = await Ending(request, "reason", "parts");
        var why = reason ?? "Cancelled by a program";
        return problem
            ?? await End(number, orders, () =>
                parts.Count == 0 ? end.Cancel(number, why, ApiEndpoints.Program) : end.CancelParts(number, parts, why, ApiEndpoints.Program)
            );
    }

    private static async Task<IResult> Dispatch(int number, HttpRequest request, EndOrder end, OrderReading orders)
    {
        var (_, parts, problem) = await Ending(request, "parts");
        return problem
            ?? await End(number, orders, () =>
                parts.Count == 0 ? end.Dispatch(number, ApiEndpoints.Program) : end.DispatchParts(number, parts, ApiEndpoints.Program)
            );
    }

    /// <summary>Which parts of an order are ended, and why.</summary>
    private sealed record AskedEnding(string? Reason, IReadOnlyList<EndedPart> Parts, IResult? Problem);

    /// <summary>Reads which parts of an order are ended, and why; without a body it is all of it.</summary>
    private static async Task<AskedEnding> Ending(HttpRequest request, params string[] fields)
    {
        var (json, problem) = await Bodies.ReadIfAny(request);
        if (json is null)
            return new AskedEnding(null, [], problem);
        using var _ = json;
        var faults = new List<Fault>();
        var root = new Node(json.RootElement, "#", faults);
        if (root.IsObject("an object"))
            root.Only(fields);
        var reason = root.Text("reason", EndOrder.LongestReason) is { Length: > 0 } said ? said : null;
        var parts = root.Items("parts").Select(Part).ToList();
        return new AskedEnding(reason, parts, faults.Count > 0 ? Problems.Unfit(faults) : null);
    }

    private static EndedPart Part(Node node)
    {
        if (!node.IsObject("a part of the order"))
            return new EndedPart(0, "", null, 1);
        node.Only("line", "slot", "sku", "quantity");
        node.Require("line", "quantity");
        return new EndedPart(
            node.Whole("line", 0, BasketRequest.MostLines) ?? 0,
            node.Text("slot", 400) ?? "",
            node.Text("sku", 80),
            node.Whole("quantity", 1, Movements.MostUnits) ?? 1
        );
    }

    private static async Task<IResult> List(OrderReading orders, long page = 1, int size = 100)
    {
        if (Paging.Problem(page, size) is { } problem)
            return problem;
        var total = await orders.Count();
        var rows = await orders.ByNumber(Paging.Skipped(page, size), size);
        return Bodies.Json(
            new JsonObject
            {
                ["page"] = page,
                ["size"] = size,
                ["total"] = total,
                ["orders"] = new JsonArray([.. rows.Select(o => (JsonNode)OrderDocument.Whole(o))]),
            }
        );
    }

    private static async Task<IResult> Get(int number, OrderReading orders) =>
        await orders.Find(number) is { } order ? Bodies.Json(OrderDocument.Whole(order)) : Problems.Missing($"There is no order {number}.");

    private static async Task<IResult> End(int number, OrderReading orders, Func<Task<Outcome>> end)
    {
        if (!await orders.Exists(number))
            return Problems.Missing($"There is no order {number}.");
        var outcome = await end();
        return outcome.Done ? await Get(number, orders) : Problems.Of(409, outcome.Faults[0].What);
    }

    private static async Task<IResult> Stock(HttpRequest request, StockReading stock)
    {
        var sku = RawPath.Last(request);
        return await Levels(sku, stock) is { } json ? Bodies.Json(json) : Problems.Missing($"There is no SKU {sku}.");
    }

    private static async Task<JsonObject?> Levels(string code, StockReading stock)
    {
        if (await stock.Find(code) is not { } sku)
            return null;
        var levels = await stock.Levels(sku);
        return new JsonObject
        {
            ["sku"] = sku.Code,
            ["available"] = levels.Sum(l => l.Level.Available),
            ["levels"] = new JsonArray([
                .. levels.Select(l =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["location"] = l.Location.Key,
                            ["onHand"] = l.Level.OnHand,
                            ["allocated"] = l.Level.Allocated,
                            ["onHold"] = l.Level.OnHold,
                            ["onOrder"] = l.Level.OnOrder,
                            ["available"] = l.Level.Available,
                        }
                ),
            ]),
            ["movements"] = await stock.CountMovements(sku),
        };
    }

    private static Task<IResult> Move(HttpRequest request, MoveStock move, StockReading stock, RepeatedCalls calls) =>
        Bodies.With(request, async body =>
        {
            var (root, faults) = (body.Root, body.Faults);
            if (!root.IsObject("a movement"))
                return Problems.Unfit(faults);
            root.Only("sku", "kind", "quantity", "location", "to", "reason");
            root.Require("sku", "kind", "quantity");
            var wanted = new MovementRequest(
                root.Text("sku", 64) ?? "",
                root.Text("kind", 20) ?? "",
                root.Whole("quantity", 0, Movements.MostUnits) ?? 0,
                root.Text("location", 64),
                root.Text("to", 64),
                root.Text("reason", 300)
            );
            if (faults.Count > 0)
                return Problems.Unfit(faults);
            var call = Idempotency.Read(request, body.Json.GetRawText(), out var problem);
            if (problem is not null)
                return problem;
            var outcome = Outcome.Ok;
            var reply = await calls.Once(call, async () =>
            {
                outcome = await move.Run(wanted, ApiEndpoints.Program);
                return outcome.Done ? (await Levels(wanted.Sku, stock))!.ToJsonString() : null;
            });
            return outcome.Done ? Idempotency.Reply(reply) : Problems.Unfit(outcome.Faults);
        });
}
