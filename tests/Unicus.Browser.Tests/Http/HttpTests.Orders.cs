using System.Net;
using System.Net.Http.Headers;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Unicus.Browser.Tests;

/// <summary>Baskets and orders over HTTP.</summary>
public sealed partial class HttpTests
{
    [Fact]
    public async Task Baskets_are_priced_with_working_tax_and_delivery()
    {
        await Publish("BAS1", Hive("BAS1"));
        var basket = await Body(
            await Post(
                "baskets/price",
                """
                { "lines": [ { "product": "BAS1", "answers": { "depth": "deep", "timber": "pine" }, "quantity": 2 } ], "destination": "IE" }
                """
            )
        );
        var line = basket["lines"]![0]!;
        Assert.Equal(
            ("166.72", "333.44", "62.35"),
            (line["unit"]!.GetValue<string>(), line["total"]!.GetValue<string>(), line["tax"]!.GetValue<string>())
        );
        Assert.Equal(
            ("6.50", "63.57", "339.94"),
            (basket["delivery"]!.GetValue<string>(), basket["tax"]!.GetValue<string>(), basket["total"]!.GetValue<string>())
        );
        Assert.Equal(
            (HttpStatusCode)422,
            (await Post("baskets/price", """{ "lines": [ { "product": "NEVER", "quantity": 1 } ] }""")).StatusCode
        );
    }

    [Fact]
    public async Task The_same_idempotency_key_gives_the_same_order_and_another_body_is_refused()
    {
        await Publish(
            "IDM1",
            """
            { "format": "unicus-product/1", "code": "IDM1", "name": "Idem", "base": { "price": "1.00" }, "variants": [ { "values": {},
              "stock": 5 } ] }
            """
        );
        async Task<HttpResponseMessage> Order(int quantity)
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, "orders")
            {
                Content = App.Json($$"""{ "lines": [ { "sku": "IDM1", "quantity": {{quantity}} } ] }"""),
            };
            request.Headers.Add("Idempotency-Key", "one");
            return await _client.SendAsync(request);
        }
        var first = await Order(2);
        Assert.Equal(HttpStatusCode.Created, first.StatusCode);
        Assert.Equal((await Body(first))["number"]!.GetValue<int>(), (await Body(await Order(2)))["number"]!.GetValue<int>());
        Assert.Equal((HttpStatusCode)422, (await Order(3)).StatusCode);
        Assert.Equal(3, (await Body(await _client.GetAsync("stock/IDM1")))["available"]!.GetValue<int>());
        var shortage = await Post("orders", """{ "lines": [ { "sku": "IDM1", "quantity": 9 } ] }""");
        Assert.Equal(HttpStatusCode.Conflict, shortage.StatusCode);
        Assert.Equal("""[{"sku":"IDM1","wanted":9,"available":3}]""", (await Body(shortage))["shortages"]!.ToJsonString());
    }

    /// <summary>Two processes on one database, 64 parallel orders for 10 units: exactly 10 succeed, and the ledger adds up.</summary>
    [Fact]
    public async Task Two_processes_never_sell_the_same_last_unit()
    {
        await Publish(
            "RACE",
            """
            { "format": "unicus-product/1", "code": "RACE", "name": "Race", "base": { "price": "1.00" }, "variants": [ { "values": {},
              "stock": 10 } ] }
            """
        );
        using var other = app.Client(await app.Serve());
        var replies = await Task.WhenAll(
            Enumerable
                .Range(0, 64)
                .Select(i =>
                    (i % 2 == 0 ? _client : other).PostAsync(
                        "orders",
                        App.Json("""{ "lines": [ { "product": "RACE", "quantity": 1 } ] }""")
                    )
                )
        );
        Assert.Equal(10, replies.Count(r => r.StatusCode == HttpStatusCode.Created));
        var refused = replies.Where(r => r.StatusCode == HttpStatusCode.Conflict).ToList();
        Assert.Equal(54, refused.Count);
        foreach (var reply in refused)
            Assert.Equal("RACE", (await Body(reply))["shortages"]![0]!["sku"]!.GetValue<string>());
        var stock = await Body(await _client.GetAsync("stock/RACE"));
        Assert.Equal(
            """{"location":"barn","onHand":10,"allocated":10,"onHold":0,"onOrder":0,"available":0}""",
            stock["levels"]![0]!.ToJsonString()
        );
        Assert.Equal(11, stock["movements"]!.GetValue<int>());
    }

    /// <summary>A body that comes in pieces says no length, and says what is cancelled like any other.</summary>
    [Theory]
    [InlineData("cancel", "cancelled")]
    [InlineData("dispatch", "sent")]
    public async Task A_body_in_pieces_ends_no_more_than_it_names(string call, string told)
    {
        var code = $"IN-{call.ToUpperInvariant()}";
        await Publish(
            code,
            $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}", "base": { "price": "1.00" },
              "selling": { "counted": false } }
            """
        );
        var order = (await Body(await Post("orders", $$"""{ "lines": [ { "sku": "{{code}}", "quantity": 3 } ] }""")))["number"];
        using var request = new HttpRequestMessage(HttpMethod.Post, $"/api/v1/orders/{order}/{call}")
        {
            Content = new StringContent("""{ "parts": [ { "line": 0, "quantity": 1 } ] }"""),
        };
        request.Headers.TransferEncodingChunked = true;
        var ended = await Body(await _client.SendAsync(request));
        Assert.Equal(("placed", 1), (ended["state"]!.GetValue<string>(), ended["lines"]![0]![told]!.GetValue<int>()));
    }

    [Fact]
    public async Task Orders_are_dispatched_and_cancelled_and_stock_follows()
    {
        await Publish(
            "FLOW",
            """
            { "format": "unicus-product/1", "code": "FLOW", "name": "Flow", "base": { "price": "1.00" }, "variants": [ { "values": {},
              "stock": 5 } ] }
            """
        );
        var one = (await Body(await Post("orders", """{ "lines": [ { "sku": "FLOW", "quantity": 2 } ] }""")))["number"]!.GetValue<int>();
        var two = (await Body(await Post("orders", """{ "lines": [ { "sku": "FLOW", "quantity": 1 } ] }""")))["number"]!.GetValue<int>();
        Assert.Equal("dispatched", (await Body(await Post($"orders/{one}/dispatch", "")))["state"]!.GetValue<string>());
        Assert.Equal("cancelled", (await Body(await Post($"orders/{two}/cancel", "")))["state"]!.GetValue<string>());
        Assert.Equal(HttpStatusCode.Conflict, (await Post($"orders/{one}/cancel", "")).StatusCode);
        Assert.Equal(
            HttpStatusCode.Created,
            (
                await Post(
                    "stock/movements",
                    """{ "sku": "FLOW", "kind": "receipt", "quantity": 4, "location": "shop", "reason": "delivery" }"""
                )
            ).StatusCode
        );
        Assert.Equal(
            (HttpStatusCode)422,
            (await Post("stock/movements", """{ "sku": "FLOW", "kind": "write-off", "quantity": 400 }""")).StatusCode
        );
        Assert.Equal(7, (await Body(await _client.GetAsync("stock/FLOW")))["available"]!.GetValue<int>());
    }
}
