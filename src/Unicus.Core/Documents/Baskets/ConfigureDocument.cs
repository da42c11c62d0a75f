namespace Unicus.Core.Documents.Baskets;

using System.Globalization;
using System.Text.Json.Nodes;
using Unicus.Core.Assembling;
using Unicus.Core.Assembling.Counts;
using Unicus.Core.Products;
using Unicus.Core.Rules;

/// <summary>How answers stand, as <c>configure</c> replies it; field by field as outside programs rely on it.</summary>
public static class ConfigureDocument
{
    /// <summary>Writes the reply.</summary>
    /// <param name="status">Of the answers as they came.</param>
    /// <param name="conflict">The conflict that was asked for, or that there is; null for none.</param>
    public static JsonObject Write(ConfigurationStatus status, (RuleConflict Conflict, string Text)? conflict)
    {
        var json = Plain(status, conflict);
        if (SetCounts.Of(status) is { } sets)
            json["sets"] = Sets(sets);
        return json;
    }

    private static JsonObject Sets(SetCounts sets)
    {
        var json = new JsonObject
        {
            ["available"] = sets.Available,
            ["most"] = sets.Most,
            ["bottleneck"] = new JsonArray([.. sets.RunsOut.Select(g => (JsonNode)g.Variant.Sku.Text!)]),
        };
        if (sets.Most is null)
            json["unlimited"] = true;
        if (!sets.IsExact)
            json["exact"] = false;
        return json;
    }

    private static JsonObject Plain(ConfigurationStatus status, (RuleConflict Conflict, string Text)? conflict) =>
        new()
        {
            ["complete"] = status.Reply.Complete,
            ["valid"] = status.Reply.Valid,
            ["count"] = status.Reply.Count.ToString(CultureInfo.InvariantCulture),
            ["options"] = new JsonArray([.. status.Reply.Questions.Select(q => (JsonNode)Question(q, status.Reply.Valid))]),
            ["conflict"] = conflict is { } c ? Conflict(c.Conflict, c.Text) : null,
            ["variant"] = status.Variant is { } variant
                ? new JsonObject { ["sku"] = variant.Sku.Text, ["available"] = status.Available?.Units }
                : null,
            ["price"] = status.Reply.Valid && status.Price is { } price ? Price(price) : null,
        };

    /// <summary>A conflict of answers and rules.</summary>
    public static JsonObject Conflict(RuleConflict conflict, string text) =>
        new()
        {
            ["answers"] = new JsonArray([.. conflict.Answers.Select(a => (JsonNode)a.Text!)]),
            ["rules"] = new JsonArray([.. conflict.Rules.Select(r => (JsonNode)r.Text!)]),
            ["notMade"] = conflict.NotMade,
            ["text"] = text,
        };

    private static JsonObject Question(QuestionReply q, bool valid)
    {
        var json = new JsonObject { ["key"] = q.Question.Key.Text };
        if (q.Question.IsSlot)
            json["role"] = "slot";
        json["shown"] = q.Shown;
        json["required"] = q.Required;
        json["answer"] = AnswerDocument.Write(q.Answer, q.Question);
        json["values"] = new JsonArray([
            .. q.Question.Values.Select((v, i) => (JsonNode)new JsonObject { ["key"] = v.Key.Text, ["possible"] = q.Possible[i] }),
        ]);
        json["nonePossible"] = q.Question.IsPicked ? q.NonePossible : valid && !q.Required;
        return json;
    }

    private static JsonObject Price(ConfiguredPrice price)
    {
        var json = new JsonObject
        {
            ["unit"] = price.Working.Unit.ToString(),
            ["total"] = price.Working.Total.ToString(),
            ["lowest"] = price.Lowest.ToString(),
            ["highest"] = price.Highest.ToString(),
            ["working"] = BasketDocument.Working(price.Working),
        };
        if (!price.IsExact)
            json["exact"] = false;
        return json;
    }
}
