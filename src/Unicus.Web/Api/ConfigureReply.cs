using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Api;

/// <summary>What is configured: a working copy or an edition.</summary>
/// <param name="Stock">Reads the stock of some SKUs.</param>
/// <param name="Parts">The parts that its extras name, as they are on sale.</param>
public sealed record Configurable(
    Configurator Configurator,
    Func<IEnumerable<Sku>, Task<Dictionary<Sku, StockLevel>>> Stock,
    Func<string, PartOnSale?> Parts
);

/// <summary>The request and the reply of <c>configure</c>, field by field as outside programs rely on them.</summary>
public static class ConfigureReply
{
    public static async Task<IResult> Make(JsonElement json, Configurable of, ShopSettings shop, DateTimeOffset now)
    {
        var faults = new List<Fault>();
        var root = new Node(json, "#", faults);
        if (!root.IsObject("a request"))
            return Problems.Unfit(faults);
        root.Only("answers", "parts", "quantity", "at", "why");
        var quantity = root.Has("quantity") ? root.Whole("quantity", 1, BasketRequest.MostUnits) ?? 1 : 1;
        var today = shop.DayAt(BasketRequest.ReadAt(root) ?? now);
        var configurator = of.Configurator;
        var given = AnswerDocument.Read(root.At("answers"), configurator.Questions, today);
        if (configurator.PriceProblem(given) is { } beyond)
            root.At("answers").Fault(beyond);
        var why = ReadWhy(root.At("why"), configurator);
        if (configurator.Faults.Length > 0)
            return Problems.Of(409, "The rules cannot be worked out.", configurator.Faults.Select(f => new Fault("#/rules", f.What)));
        if (faults.Count > 0)
            return Problems.Unfit(faults);

        var reply = configurator.Answer(given);
        var conflict = why is { } w ? configurator.Why(given, w.Option, w.Value) : configurator.Conflict(given);
        var variant = configurator.Decided(reply);
        return Bodies.Json(
            new JsonObject
            {
                ["complete"] = reply.Complete,
                ["valid"] = reply.Valid,
                ["count"] = reply.Count.ToString(CultureInfo.InvariantCulture),
                ["options"] = new JsonArray([
                    .. reply.Questions.Select(q =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["key"] = q.Question.Key.Text,
                                ["shown"] = q.Shown,
                                ["required"] = q.Required,
                                ["answer"] = AnswerDocument.Write(q.Answer, q.Question),
                                ["values"] = new JsonArray([
                                    .. q.Question.Values.Select(
                                        (v, i) => (JsonNode)new JsonObject { ["key"] = v.Key.Text, ["possible"] = q.Possible[i] }
                                    ),
                                ]),
                                ["nonePossible"] = q.Question.IsPicked ? q.NonePossible : reply.Valid && !q.Required,
                            }
                    ),
                ]),
                ["conflict"] = conflict is { } c ? BasketPricing.ConflictJson(c.Conflict, c.Text) : null,
                ["variant"] = variant is null
                    ? null
                    : new JsonObject { ["sku"] = variant.Sku.Text, ["available"] = await Available(of, variant, given, today) },
                ["price"] = reply.Valid ? Price(of, given, quantity) : null,
            }
        );
    }

    private static async Task<int?> Available(Configurable of, MatrixVariant variant, Configuration given, DateOnly today)
    {
        var parts = of.Configurator.Parts(given);
        var stock = await of.Stock(parts.Select(p => of.Parts(p.Sku)?.Variant.Sku).OfType<Sku>().Append(variant.Sku).Distinct());
        return PartStock.Available(variant, parts, of.Parts, stock, today).Units;
    }

    private static JsonObject? Price(Configurable of, Configuration given, int quantity) =>
        of.Configurator.Price(given, quantity, code => of.Parts(code)?.Figures) is not { } price
            ? null
            : new JsonObject
            {
                ["unit"] = price.Working.Unit.ToString(),
                ["total"] = price.Working.Total.ToString(),
                ["lowest"] = price.Lowest.ToString(),
                ["highest"] = price.Highest.ToString(),
                ["working"] = PricedBasket.WorkingJson(price.Working),
            };

    private static (Key Option, Key Value)? ReadWhy(Node node, Configurator configurator)
    {
        if (!node.Exists || !node.IsObject("an option and a value"))
            return null;
        node.Only("option", "value");
        node.Require("option", "value");
        if (node.Key("option") is not { } o || node.Key("value") is not { } v)
            return null;
        if (configurator.Book.Find(o)?.Find(v) is not null)
            return (o, v);
        node.Fault($"There is no {o} = {v}.");
        return null;
    }
}
