using System.Text.Json;
using System.Text.Json.Nodes;

namespace Unicus.CoreTests;

/// <summary>Documents and answers as JSON: what the core replies is what a second reading of the format lists.</summary>
public class SecondReadingTests
{
    private static readonly DateOnly Today = new(2027, 3, 5);

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void Replies_equal_what_a_second_reading_of_the_document_lists(int part)
    {
        var (replies, loops) = (0, 0);
        for (var seed = 0; seed < 120; seed++)
        {
            var random = new Random((part * 1000) + seed);
            var document = Document(random);
            using var json = JsonDocument.Parse(document.ToJsonString());
            var (product, _, faults) = DocumentReader.Read(json.RootElement, Currency.Euro);
            if (product is null)
            {
                Assert.All(faults, f => Assert.Matches("in a circle|on itself", f.What));
                loops++;
                continue;
            }
            var configurator = new Configurator(product, product.Matrix());
            var listing = new JsonListing(document);
            for (var i = 0; i < 4; i++, replies++)
                Compare(configurator, listing, Given(random, listing));
        }
        Assert.InRange(replies, 200, 480);
        Assert.InRange(loops, 1, 70);
    }

    private static void Compare(Configurator configurator, JsonListing listing, JsonListing.Answers given)
    {
        var written = new JsonObject(
            given.Select(g =>
                KeyValuePair.Create(
                    g.Key,
                    listing.Asks(g.Key) == "several" ? new JsonArray([.. g.Value.Select(v => (JsonNode)v!)])
                        : g.Value.Length == 0 ? null
                        : (JsonNode?)g.Value[0]
                )
            )
        );
        using var json = JsonDocument.Parse(written.ToJsonString());
        var faults = new List<Fault>();
        var answers = AnswerDocument.Read(new Node(json.RootElement, "#", faults), configurator.Questions, Today);
        Assert.Empty(faults);
        var reply = configurator.Answer(answers);
        var valid = listing.Valid(given);
        var picked = given.Where(g => listing.IsPicked(g.Key)).ToList();
        var agreeing = valid.FindAll(w => picked.TrueForAll(g => listing.Agrees(w, g.Key, g.Value)));
        Assert.Equal(agreeing.Count, (int)reply.Count);
        foreach (var question in reply.Questions)
        {
            var key = question.Question.Key.Text;
            Assert.Equal((key, listing.Shown(key, given), listing.Required(key, given)), (key, question.Shown, question.Required));
            if (!listing.IsPicked(key))
                continue;
            var others = valid.FindAll(w => picked.TrueForAll(g => g.Key == key || listing.Agrees(w, g.Key, g.Value)));
            Assert.Equal(listing.Values(key).Select(v => others.Exists(w => w[key].Contains(JsonListing.Name(v)))), question.Possible);
            Assert.Equal(others.Exists(w => w[key].Length == 0 && listing.Shown(key, w)), question.NonePossible);
        }
        var complete =
            agreeing.Count > 0
            && listing.Questions.All(q =>
                !listing.Shown(q, given)
                || (listing.IsPicked(q) ? given.ContainsKey(q) : !listing.Required(q, given) || given.ContainsKey(q))
            );
        Assert.Equal(complete, reply.Complete);
        var span = configurator.Span(answers, _ => null);
        Assert.Equal(
            agreeing.Count == 0 ? null : (agreeing.Min(listing.Unit), agreeing.Max(listing.Unit)),
            span is { } s ? (s.Lowest.Amount, s.Highest.Amount) : ((decimal, decimal)?)null
        );
    }

    private static JsonListing.Answers Given(Random random, JsonListing listing)
    {
        var given = new JsonListing.Answers();
        foreach (var question in listing.Questions.OrderBy(_ => random.Next()))
        {
            if (random.Next(2) == 0)
                continue;
            var may = listing.IsPicked(question)
                ? listing.May(question).ToArray()
                :
                [
                    [listing.Asks(question) == "text" ? "a b  c" : "7.5"],
                ];
            given[question] = may[random.Next(may.Length)];
        }
        return given;
    }

    private static JsonObject Document(Random random)
    {
        var options = new JsonArray();
        for (var i = random.Next(3); i > 0; i--)
            options.Add(
                new JsonObject
                {
                    ["key"] = $"o{i}",
                    ["label"] = $"O{i}",
                    ["role"] = "variant",
                    ["values"] = Values(random, random.Next(1, 4)),
                }
            );
        for (var i = random.Next(1, 5); i > 0; i--)
        {
            var ask = new[] { "one", "several", "yes-no", "text", "number" }[random.Next(5)];
            var extra = new JsonObject
            {
                ["key"] = $"e{i}",
                ["label"] = $"E{i}",
                ["role"] = "extra",
                ["ask"] = ask,
                ["required"] = random.Next(3) == 0,
            };
            if (ask is "one" or "several")
                extra["values"] = Values(random, random.Next(1, 4));
            if (ask == "yes-no")
                extra["values"] = new JsonArray(
                    new JsonObject
                    {
                        ["key"] = "yes",
                        ["label"] = "Yes",
                        ["surcharge"] = new JsonObject { ["amount"] = "7.35" },
                    }
                );
            if (ask == "several" && random.Next(2) == 0)
                extra["picks"] = new JsonObject { ["min"] = random.Next(2), ["max"] = random.Next(1, 3) };
            if (ask == "text")
                extra["surcharge"] = new JsonObject { ["perCharacter"] = "0.35" };
            if (ask == "number")
                extra["surcharge"] = new JsonObject { ["perUnit"] = "0.33" };
            options.Add(extra);
        }
        var all = options.Select(o => o!.AsObject()).ToList();
        var lists = all.FindAll(o => o["values"] is not null);
        var extras = all.FindAll(o => o["role"]!.GetValue<string>() == "extra");
        var rules = new JsonArray();
        for (var i = random.Next(5); i > 0; i--)
        {
            var effect = new[] { "hide", "show", "require", "forbid", "allowOnly" }[random.Next(5)];
            if (effect is "forbid" or "allowOnly" && lists.Count == 0)
                continue;
            JsonNode target =
                effect is "forbid" or "allowOnly" && lists[random.Next(lists.Count)] is var list
                    ? new JsonObject { [JsonListing.Name(list)] = Some(random, list) }
                    : new JsonArray(JsonListing.Name(extras[random.Next(extras.Count)]));
            rules.Add(
                new JsonObject
                {
                    ["key"] = $"r{i}",
                    ["when"] = When(random, all, 0),
                    ["then"] = new JsonObject { [effect] = target },
                }
            );
        }
        var variants = all.FindAll(o => o["role"]!.GetValue<string>() == "variant");
        var notMade = new JsonArray();
        if (variants.Count > 0 && variants.Exists(v => v["values"]!.AsArray().Count > 1) && random.Next(2) == 0)
            notMade.Add(new JsonObject(variants.Select(v => KeyValuePair.Create(JsonListing.Name(v), (JsonNode?)"v0"))));
        return new JsonObject
        {
            ["format"] = "unicus-product/1",
            ["code"] = "X",
            ["name"] = "X",
            ["base"] = new JsonObject { ["price"] = $"{random.Next(10, 99)}.{random.Next(10, 99)}" },
            ["options"] = options,
            ["rules"] = rules,
            ["notMade"] = notMade,
        };
    }

    private static JsonArray Values(Random random, int count) =>
        new([
            .. Enumerable
                .Range(0, count)
                .Select(v =>
                {
                    var value = new JsonObject { ["key"] = $"v{v}", ["label"] = $"V{v}" };
                    if (random.Next(4) == 0)
                        value["surcharge"] = new JsonObject { ["amount"] = $"{random.Next(-3, 20)}.5{random.Next(9)}" };
                    else if (random.Next(3) == 0)
                        value["surcharge"] = new JsonObject { ["percent"] = $"{random.Next(-5, 30)}.5" };
                    return (JsonNode)value;
                }),
        ]);

    private static JsonArray Some(Random random, JsonObject list)
    {
        var keys = list["values"]!.AsArray().Select(v => JsonListing.Name(v!.AsObject())).OrderBy(_ => random.Next()).ToList();
        return new JsonArray([.. keys.Take(random.Next(1, Math.Max(2, keys.Count))).Select(k => (JsonNode)k!)]);
    }

    private static JsonObject When(Random random, List<JsonObject> all, int depth)
    {
        var kind = random.Next(depth < 2 ? 10 : 6);
        if (kind == 9)
            return new JsonObject { ["not"] = When(random, all, depth + 1) };
        if (kind > 6)
            return new JsonObject
            {
                [kind == 7 ? "all" : "any"] = new JsonArray([
                    .. Enumerable.Range(0, random.Next(1, 4)).Select(_ => (JsonNode)When(random, all, depth + 1)),
                ]),
            };
        var option = all[random.Next(all.Count)];
        var condition = new JsonObject { ["option"] = JsonListing.Name(option) };
        if (option["values"] is not null && random.Next(6) > 0)
            condition["is"] = Some(random, option);
        else if (option["ask"]?.GetValue<string>() == "number" && random.Next(3) > 0)
            condition["atLeast"] = random.Next(2) == 0 ? "5" : "10";
        else
            condition["answered"] = true;
        return condition;
    }
}
