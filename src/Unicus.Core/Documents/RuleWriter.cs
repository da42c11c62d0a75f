namespace Unicus.Core.Documents;

using System.Globalization;
using System.Text.Json.Nodes;
using Unicus.Core.Options;
using Unicus.Core.Rules;

/// <summary>Writes rules and surcharges as documents have them.</summary>
internal static class RuleWriter
{
    public static JsonNode Rule(SelectionRule rule)
    {
        var json = new JsonObject { ["key"] = rule.Key.Text };
        if (rule.When is not Rules.Condition.All { Of.IsEmpty: true })
            json["when"] = Condition(rule.When);
        var then = new JsonObject();
        foreach (var effect in rule.Then)
        {
            switch (effect)
            {
                case Effect.Hide h:
                    then["hide"] = Keys(h.Questions);
                    break;
                case Effect.Show s:
                    then["show"] = Keys(s.Questions);
                    break;
                case Effect.Require r:
                    then["require"] = Keys(r.Questions);
                    break;
                case Effect.Forbid f:
                    Add(then, "forbid", f.Question, f.Values);
                    break;
                case Effect.AllowOnly a:
                    Add(then, "allowOnly", a.Question, a.Values);
                    break;
            }
        }
        json["then"] = then;
        if (rule.Off)
            json["off"] = true;
        return json;
    }

    public static JsonObject Condition(Condition condition) =>
        condition switch
        {
            Condition.Is i => new JsonObject { ["option"] = i.Question.Text, ["is"] = Keys(i.Values) },
            Condition.Answered a => new JsonObject { ["option"] = a.Question.Text, ["answered"] = true },
            Condition.AtLeast l => new JsonObject { ["option"] = l.Question.Text, ["atLeast"] = Plain(l.Bound) },
            Condition.AtMost m => new JsonObject { ["option"] = m.Question.Text, ["atMost"] = Plain(m.Bound) },
            Condition.All a => new JsonObject { ["all"] = new JsonArray([.. a.Of.Select(c => (JsonNode)Condition(c))]) },
            Condition.Any a => new JsonObject { ["any"] = new JsonArray([.. a.Of.Select(c => (JsonNode)Condition(c))]) },
            Condition.Not n => new JsonObject { ["not"] = Condition(n.Of) },
            _ => throw new InvalidOperationException("A kind of condition without a form."),
        };

    public static JsonObject Surcharge(Surcharge surcharge)
    {
        switch (surcharge)
        {
            case Surcharge.PerUnit s:
                return new JsonObject { ["amount"] = s.Amount.ToString() };
            case Surcharge.Percent s:
                return new JsonObject { ["percent"] = s.Rate.ToString() };
            case Surcharge.Once s:
                return new JsonObject { ["once"] = s.Amount.ToString() };
            case Surcharge.PerMeasure s:
                return new JsonObject { ["perUnit"] = s.Rate.ToString() };
            case Surcharge.PerCharacter s:
                var json = new JsonObject { ["perCharacter"] = s.Rate.ToString() };
                if (s.Minimum is { } minimum)
                    json["minimum"] = minimum.ToString();
                return json;
            case Surcharge.Table { By: null } t:
                return new JsonObject
                {
                    ["table"] = new JsonObject
                    {
                        ["rows"] = new JsonArray([
                            .. t.Rows.Select(r =>
                                (JsonNode)new JsonObject { ["max"] = Plain(r.Max), ["amount"] = r.Columns[0].Amount.ToString() }
                            ),
                        ]),
                    },
                };
            case Surcharge.Table t:
                return new JsonObject
                {
                    ["table"] = new JsonObject
                    {
                        ["by"] = t.By!.Value.Text,
                        ["rows"] = new JsonArray([
                            .. t.Rows.Select(r =>
                                (JsonNode)
                                    new JsonObject
                                    {
                                        ["max"] = Plain(r.Max),
                                        ["columns"] = new JsonArray([
                                            .. r.Columns.Select(c =>
                                                (JsonNode)new JsonObject { ["max"] = Plain(c.Max), ["amount"] = c.Amount.ToString() }
                                            ),
                                        ]),
                                    }
                            ),
                        ]),
                    },
                };
            default:
                throw new InvalidOperationException("A kind of surcharge without a form.");
        }
    }

    private static void Add(JsonObject then, string name, Key question, IReadOnlyList<Key> values)
    {
        if (then[name] is not JsonObject lists)
            then[name] = lists = [];
        lists[question.Text] = Keys(values);
    }

    private static JsonArray Keys(IEnumerable<Key> keys) => new([.. keys.Select(k => (JsonNode)k.Text!)]);

    private static string Plain(decimal number) => number.ToString(CultureInfo.InvariantCulture);
}
