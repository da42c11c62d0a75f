using System.Text.Json;
using System.Text.Json.Nodes;
using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Api;

/// <summary>The request and the reply of <c>configure</c>, field by field as outside programs rely on them.</summary>
public static class ConfigureReply
{
    public static IResult Make(JsonElement json, Product product, VariantMatrix matrix, IReadOnlyDictionary<Sku, StockLevel> stock, DateOnly today)
    {
        var faults = new List<Fault>();
        var root = new Node(json, "#", faults);
        if (!root.IsObject("a request")) return Problems.Unfit(faults);
        root.Only("answers", "parts", "quantity", "at", "why");
        var answers = ReadAnswers(root.At("answers"), matrix, out var deliberatelyNone);
        var quantity = root.Has("quantity") ? root.Whole("quantity", 1, BasketRequest.MostUnits) ?? 1 : 1;
        if (root.Has("at") && !DateTimeOffset.TryParse(root.At("at").AsText(), out _)) root.At("at").Fault("A time is written 2027-03-05T12:00:00Z.");
        var why = ReadWhy(root.At("why"), matrix);
        if (faults.Count > 0) return Problems.Unfit(faults);

        var state = matrix.Configurator.Answer(answers);
        // A variant option cannot be left without an answer on purpose: then no configuration is valid.
        var valid = state.Valid && deliberatelyNone.Count == 0;
        var variant = valid && state.Agreeing.Count == 1 ? matrix.Variants.First(v => v.Number == state.Agreeing[0]) : null;
        var conflict = why is { } w ? matrix.Configurator.Why(answers, w.Option, w.Value) : valid ? null : deliberatelyNone.Count > 0 ? new Conflict([deliberatelyNone[0]], false) : state.Conflict;
        return Bodies.Json(new JsonObject
        {
            ["complete"] = valid && state.Complete,
            ["valid"] = valid,
            ["count"] = (valid ? state.Count : 0).ToString(),
            ["options"] = new JsonArray([.. state.Questions.Select(q => (JsonNode)new JsonObject
            {
                ["key"] = q.Option.Key.Text,
                ["shown"] = true,
                ["required"] = true,
                ["answer"] = q.Answer?.Text,
                ["values"] = new JsonArray([.. q.Option.Values.Select((v, i) => (JsonNode)new JsonObject { ["key"] = v.Key.Text, ["possible"] = q.Possible[i] && deliberatelyNone.All(n => n == q.Option.Key) })]),
                ["nonePossible"] = false,
            })]),
            ["conflict"] = conflict is null ? null : ConflictJson(conflict, matrix, why is { } x ? answers.With(x.Option, x.Value) : answers),
            ["variant"] = variant is null ? null : new JsonObject { ["sku"] = variant.Sku.Text, ["available"] = Availability.Of(variant.Selling, stock.GetValueOrDefault(variant.Sku), today).Units },
            ["price"] = valid ? Price(product, matrix, state, quantity) : null,
        });
    }

    /// <summary>While several variants agree, each is priced in full and the lowest given.</summary>
    private static JsonObject? Price(Product product, VariantMatrix matrix, ConfigurationState state, int quantity)
    {
        var agreeing = state.Agreeing.ToHashSet();
        var workings = matrix.Variants.Where(v => agreeing.Contains(v.Number)).Select(v => PriceCalculator.Price(product.Name, matrix, v, quantity)).OfType<PriceWorking>().ToList();
        if (workings.Count == 0) return null;
        var lowest = workings.MinBy(w => w.Total)!;
        return new JsonObject
        {
            ["unit"] = lowest.Unit.ToString(),
            ["total"] = lowest.Total.ToString(),
            ["lowest"] = workings.Min(w => w.Unit).ToString(),
            ["highest"] = workings.Max(w => w.Unit).ToString(),
            ["working"] = PricedBasket.WorkingJson(lowest),
        };
    }

    private static JsonObject ConflictJson(Conflict conflict, VariantMatrix matrix, Answers answers)
    {
        var named = matrix.Options.Where(o => conflict.Answers.Contains(o.Key)).Select(o => answers.Given.TryGetValue(o.Key, out var v) ? $"{o.Label} {o.Find(v)!.Label.ToLowerInvariant()}" : o.Label);
        return new JsonObject
        {
            ["answers"] = new JsonArray([.. conflict.Answers.Select(a => (JsonNode)a.Text!)]),
            ["rules"] = new JsonArray(),
            ["notMade"] = conflict.NotMade,
            ["text"] = conflict.NotMade ? $"{string.Join(" and ", named)} {(conflict.Answers.Length == 1 ? "is" : "are")} not made{(conflict.Answers.Length == 1 ? "" : " together")}." : $"{string.Join(", ", named)} needs an answer.",
        };
    }

    private static Answers ReadAnswers(Node node, VariantMatrix matrix, out List<Key> none)
    {
        none = [];
        var answers = Answers.None;
        if (!node.Exists || !node.IsObject("an object of answers")) return answers;
        foreach (var (name, value) in node.Members())
        {
            var option = matrix.Options.FirstOrDefault(o => o.Key.Text == name);
            if (option is null) value.Fault($"There is no option {name}.");
            else if (!value.Exists) none.Add(option.Key);
            else if (value.AsText() is { } text && Key.TryParse(text, out var key) && option.Find(key) is not null) answers = answers.With(option.Key, key);
            else value.Fault($"{name} has no such value.");
        }
        return answers;
    }

    private static (Key Option, Key Value)? ReadWhy(Node node, VariantMatrix matrix)
    {
        if (!node.Exists || !node.IsObject("an option and a value")) return null;
        node.Only("option", "value");
        node.Require("option", "value");
        if (node.Key("option") is not { } o || node.Key("value") is not { } v) return null;
        if (matrix.Options.FirstOrDefault(x => x.Key == o)?.Find(v) is not null) return (o, v);
        node.Fault($"There is no {o} = {v}.");
        return null;
    }
}
