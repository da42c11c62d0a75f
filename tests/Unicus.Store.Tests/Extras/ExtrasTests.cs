using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Store.Tests;

/// <summary>Extras in orders, parts that take stock, shared sets, and rules at publishing.</summary>
public class ExtrasTests(Database db) : IClassFixture<Database>
{
    private static readonly Buyer Nobody = new("Orla", "orla@example.org", "1 Skep Lane", null);

    private static string Hive(string code, string part, string more = "") =>
        Database
            .Hive(code)
            .Replace(
                "\"options\": [",
                $$"""
                "rules": [ { "key": "r1", "when": { "option": "depth", "is": ["shallow"] }, "then": { "forbid": { "roof": ["gabled"] } } },
                  { "key": "r2", "when": { "option": "timber", "is": ["cedar"] }, "then": { "show": ["plate"] } } ], "options": [
                  { "key": "roof", "label": "Roof", "role": "extra", "ask": "one", "required": true, "default": "flat",
                    "values": [ { "key": "flat", "label": "Flat" }, { "key": "gabled", "label": "Gabled",
                    "surcharge": { "amount": "24.00" }, "cost": "11.00" } ] },
                  { "key": "fittings", "label": "Fittings", "role": "extra", "ask": "several", "values": [ { "key": "stand",
                    "label": "Stand", "part": { "sku": "{{part}}", "quantity": 2 } } ] },
                  { "key": "plate", "label": "Name plate", "role": "extra", "ask": "text", "maxLength": 24,
                    "surcharge": { "perCharacter": "0.60" } },{{more}}
                """
            )
            .Replace("\"name\": \"Hive", "\"selling\": { \"counted\": false }, \"name\": \"Hive");

    private async Task Publish(string json)
    {
        Assert.Empty((await db.Put(json)).Faults);
        Assert.Equal(
            [],
            (await db.Use<PublishEdition, Outcome<int>>(p => p.Run(JsonNode.Parse(json)!["code"]!.ToString(), Database.Tester))).Faults
        );
    }

    private static string Stand(string code, int stock) =>
        $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Stand {{code}}", "base": { "price": "29.00", "cost": "12.00",
              "lowLevel": 2 }, "variants": [ { "values": {}, "stock": {{stock}} } ] }
            """;

    private Task<Placed> Order(string product, int quantity, string answers) =>
        db.Use<PlaceOrder, Placed>(p =>
            p.Run(
                new BasketRequest([new LineRequest(product, null, JsonNode.Parse(answers)!.AsObject(), quantity, null)], null),
                Nobody,
                Actor.Shopper
            )
        );

    private async Task<StockLevel> Level(string code) => (await db.Load(code)).Stock.GetValueOrDefault(Sku.Of(code));

    [Fact]
    public async Task A_part_of_an_answer_is_allocated_sold_and_released_with_the_order()
    {
        await Publish(Stand("STA1", 7));
        await Publish(Hive("EXH1", "STA1"));
        const string answers = """{ "depth": "deep", "timber": "cedar", "roof": "gabled", "fittings": ["stand"], "plate": "Orla" }""";
        var order = (await Order("EXH1", 2, answers)).Order!;
        // 100.00 + 24.00 + 2 × 29.00 + 4 × 0.60
        Assert.Equal((184.40m, 368.80m), (order.Lines[0].Unit.Amount, order.Lines[0].Total.Amount));
        // 2 × (40.00 + 11.00 + 2 × 12.00)
        Assert.Equal(150.00m, order.Lines[0].Cost!.Value.Amount);
        Assert.Equal(new StockLevel(7, 4, 0, 0), await Level("STA1"));
        var configuration = order.Lines[0].Answers.Select(a => $"{a.Option}: {a.Value}");
        Assert.Equal(["Depth: Deep", "Timber: Cedar", "Roof: Gabled", "Fittings: Stand", "Name plate: “Orla”"], configuration);
        Assert.Equal(["Roof", "Fittings", "Name plate"], order.Lines[0].Extras.Select(e => e.Option));
        // What is allocated adds up to the line: the hive with its answers, and 4 stands at 29.00.
        Assert.Equal(
            [("EXH1-D-CE", 2, "", 252.80m, 102.00m), ("STA1", 4, "fittings", 116.00m, 48.00m)],
            order.Lines[0].Leaves.Select(l => (l.Sku, l.Units, l.Path.Text, l.Allocated.Amount, l.Cost!.Value.Amount))
        );
        Assert.True(await db.Use<UnicusContext, bool>(c => c.Outbox.AnyAsync(m => m.Body.Contains("Name plate: “Orla”"))));

        var short2 = await Order("EXH1", 2, answers);
        Assert.Equal([new Shortage("STA1", 4, 3)], short2.Shortages);
        Assert.Equal(new StockLevel(7, 4, 0, 0), await Level("STA1"));
        Assert.True((await db.Use<EndOrder, Outcome>(e => e.Dispatch(order.Number, Database.Tester))).Done);
        Assert.Equal(new StockLevel(3, 0, 0, 0), await Level("STA1"));
        var next = (await Order("EXH1", 1, answers)).Order!;
        Assert.True((await db.Use<EndOrder, Outcome>(e => e.Cancel(next.Number, "Changed their mind", Database.Tester))).Done);
        Assert.Equal(new StockLevel(3, 0, 0, 0), await Level("STA1"));
        Assert.True(await db.Use<UnicusContext, bool>(c => c.Outbox.AnyAsync(m => m.Subject.StartsWith("Low: STA1"))));
    }

    [Theory]
    [InlineData("""{ "depth": "shallow", "timber": "cedar", "roof": "gabled" }""", "#/lines/0", "cannot stand together")]
    [InlineData("""{ "timber": "cedar" }""", "#/lines/0", "Still open: depth")]
    [InlineData("""{ "depth": "deep", "timber": "cedar", "plate": 7 }""", "#/lines/0/answers/plate", "not answered like this")]
    [InlineData("""{ "depth": "deep", "timber": "cedar", "colour": "red" }""", "#/lines/0/answers/colour", "There is no option colour")]
    public async Task A_line_that_cannot_be_ordered_says_where_and_why(string answers, string where, string why)
    {
        if (!await db.Use<UnicusContext, bool>(c => c.Products.AnyAsync(p => p.Code == "EXH2")))
        {
            await Publish(Stand("STA2", 7));
            await Publish(Hive("EXH2", "STA2"));
        }
        var fault = Assert.Single((await Order("EXH2", 1, answers)).Faults);
        Assert.Equal(where, fault.Where);
        Assert.Contains(why, fault.What, StringComparison.Ordinal);
        if (why == "cannot stand together")
            Assert.Equal(
                """["roof","depth"]""",
                new JsonArray([
                    .. fault.With!["conflict"]!["answers"]!
                        .AsArray()
                        .Select(a => (JsonNode)a!.ToString()!)
                        .OrderByDescending(a => a!.ToString()),
                ]).ToJsonString()
            );
    }

    [Fact]
    public async Task Publishing_is_refused_for_broken_rules_and_where_nothing_is_valid_and_warned_for_the_rest()
    {
        var json = Hive("EXH3", "NONE-SUCH");
        await db.Put(json);
        Assert.Contains(
            "NONE-SUCH, which is not on sale",
            (await db.Use<PublishEdition, Outcome<int>>(p => p.Run("EXH3", Database.Tester))).Faults[0].What,
            StringComparison.Ordinal
        );

        async Task<string> Change(Func<Product, Product> change)
        {
            Assert.True(
                (
                    await db.Use<ChangeProduct, Outcome>(c =>
                        c.Apply("EXH3", "test", Database.Tester, copy => Read<Product>.Of(change(copy.Product)))
                    )
                ).Done
            );
            return string.Join(
                " | ",
                (await db.Use<PublishEdition, Outcome<int>>(p => p.Run("EXH3", Database.Tester))).Faults.Select(f => f.What)
            );
        }
        // The value that a rule names is taken out: the rule stays, marked broken.
        Assert.Contains(
            "A rule is broken: When Depth is Shallow, Roof cannot be gabled.",
            await Change(p => p with { Extras = [p.Extras[0] with { Values = [p.Extras[0].Values[0]] }, p.Extras[2]] }),
            StringComparison.Ordinal
        );
        Assert.Equal(2, (await db.Load("EXH3")).Product.Rules.Length);
        Assert.Contains(
            "No configuration is valid",
            await Change(p =>
                p with
                {
                    Rules = [new SelectionRule(Key.Of("no"), Condition.Always, [new Effect.Forbid(Key.Of("roof"), [Key.Of("flat")])])],
                }
            ),
            StringComparison.Ordinal
        );
        Assert.Equal(
            "",
            await Change(p =>
                p with
                {
                    Rules =
                    [
                        new SelectionRule(
                            Key.Of("idle"),
                            new Condition.Is(Key.Of("depth"), [Key.Of("deep")]),
                            [new Effect.AllowOnly(Key.Of("roof"), [Key.Of("flat")])]
                        ),
                    ],
                }
            )
        );
        Assert.Contains((await db.Load("EXH3")).Checks, c => !c.Stops && c.Text.Contains("changes nothing", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_shared_set_reaches_what_is_on_sale_at_once_and_cannot_harm_it()
    {
        await Publish(Stand("STA4", 5).Replace("\"base\"", "\"categories\": [\"Gifts\"], \"base\""));
        Assert.True((await db.Use<ChangeExtraSets, Outcome<string>>(s => s.Create("Wrapping"))).Done);
        var wrap = new Option(Key.Of("wrap"), "Wrap", OptionRole.Extra)
        {
            Ask = Ask.YesNo,
            Values = [new OptionValue(Key.Of("yes"), "Yes") { Surcharge = new Surcharge.PerUnit(new Money(4.5m, Currency.Euro)) }],
        };
        Task<Outcome> Change(Func<ExtraSet, ExtraSet> change) =>
            db.Use<ChangeExtraSets, Outcome>(s => s.Change("wrapping", null, x => Read<ExtraSet>.Of(change(x)), Database.Tester));
        Assert.True((await Change(s => s with { Extras = [wrap], Categories = ["gifts"] })).Done);
        Assert.Equal(33.50m, (await Order("STA4", 1, """{ "wrap": true }""")).Order!.Lines[0].Unit.Amount);

        var dead = await Change(s =>
            s with
            {
                Extras = [wrap with { Required = true }],
                Rules = [new SelectionRule(Key.Of("no"), Condition.Always, [new Effect.Forbid(wrap.Key, [Key.Of("yes")])])],
            }
        );
        Assert.Contains("nothing valid could be picked any more in Stand STA4", dead.Faults[0].What, StringComparison.Ordinal);
        Assert.False((await ExtraSetNow()).Extras[0].Required);

        Assert.True(
            (
                await db.Use<ChangeProduct, Outcome>(c =>
                    c.Apply("STA4", "out", Database.Tester, copy =>
                        Read<Product>.Of(copy.Product with { WithoutSets = [Key.Of("wrapping")] })
                    )
                )
            ).Done
        );
        Assert.DoesNotContain((await db.Load("STA4")).Whole.Extras, e => e.Key == wrap.Key);
        var (_, faults) = await db.Use<PutProduct, (PutResult, IReadOnlyList<Fault>)>(p =>
            p.Run(
                "STA9",
                JsonSerializer.SerializeToElement(
                    JsonNode.Parse(Stand("STA9", 1).Replace("\"base\"", "\"extraSets\": [\"none\"], \"base\""))
                ),
                Database.Tester
            )
        );
        Assert.Equal("#/extraSets/0", Assert.Single(faults).Where);
    }

    [Fact]
    public async Task A_products_own_rule_may_name_a_question_of_a_set_that_reaches_it()
    {
        Assert.True((await db.Use<ChangeExtraSets, Outcome<string>>(s => s.Create("Cards"))).Done);
        Assert.True(
            (
                await db.Use<ChangeExtraSets, Outcome>(s =>
                    s.Change(
                        "cards",
                        null,
                        x =>
                            Read<ExtraSet>.Of(
                                x with
                                {
                                    Categories = ["Cards"],
                                    Extras = [new Option(Key.Of("card"), "Card", OptionRole.Extra) { Ask = Ask.Text }],
                                }
                            ),
                        Database.Tester
                    )
                )
            ).Done
        );
        const string rule =
            """ "rules": [ { "key": "r", "when": { "option": "card", "answered": true }, "then": { "require": ["card"] } } ], "base" """;
        async Task<IReadOnlyList<Fault>> Put(string code, string more) =>
            (
                await db.Use<PutProduct, (PutResult, IReadOnlyList<Fault> Faults)>(p =>
                    p.Run(
                        code,
                        JsonSerializer.SerializeToElement(JsonNode.Parse(Stand(code, 1).Replace("\"base\"", more + rule))),
                        Database.Tester
                    )
                )
            ).Faults;
        Assert.Empty(await Put("STA6", "\"categories\": [\"Cards\"],"));
        Assert.Equal("#/rules/0", Assert.Single(await Put("STA7", "")).Where);
        // What was exported comes in again.
        var json = DocumentWriter.Write((await db.Load("STA6")).Product, ListedVariants.Differing);
        Assert.Empty(
            (
                await db.Use<PutProduct, (PutResult, IReadOnlyList<Fault> Faults)>(p =>
                    p.Run("STA6", JsonSerializer.SerializeToElement(json), Database.Tester)
                )
            ).Faults
        );
    }

    [Fact]
    public async Task Products_that_ask_different_questions_are_not_brought_together_unseen()
    {
        await db.Put(Stand("STA8", 1));
        await db.Put(
            Stand("STB8", 1)
                .Replace("\"base\"", """ "options": [ { "key": "note", "label": "Note", "role": "extra", "ask": "text" } ], "base" """)
        );
        var refused = await db.Use<BringTogether, Outcome<TogetherPreview>>(b =>
            b.Preview(new TogetherRequest(["STA8", "STB8"], "Stands", "Size", ["Small", "Large"]))
        );
        Assert.Contains("extras or rules differ", refused.Faults[0].What, StringComparison.Ordinal);
    }

    private Task<ExtraSet> ExtraSetNow() =>
        db.Use<UnicusContext, ExtraSet>(async c => (await ExtraSets.Load(c)).Single(s => s.Key.Text == "wrapping"));

    [Fact]
    public async Task Extras_of_a_product_are_kept_as_a_set_with_the_rules_about_them_alone()
    {
        await Publish(Stand("STA5", 5));
        await db.Put(Hive("EXH5", "STA5"));
        Assert.True((await db.Use<ChangeExtraSets, Outcome>(s => s.Keep("EXH5", "Plates", ["plate", "fittings"], Database.Tester))).Done);
        var copy = await db.Load("EXH5");
        Assert.Equal(["roof"], copy.Product.Extras.Select(e => e.Key.Text));
        Assert.Equal(["roof", "fittings", "plate"], copy.Whole.Extras.Select(e => e.Key.Text));
        Assert.Contains(
            "takes it",
            (await db.Use<ChangeExtraSets, Outcome>(s => s.Remove("plates", Database.Tester))).Faults[0].What,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Changes_of_a_set_are_taken_back_one_by_one_and_so_is_its_removal()
    {
        Assert.True((await db.Use<ChangeExtraSets, Outcome<string>>(s => s.Create("Ribbons"))).Done);
        Task<Outcome> Change(Func<ExtraSet, ExtraSet> change) =>
            db.Use<ChangeExtraSets, Outcome>(s => s.Change("ribbons", null, x => Read<ExtraSet>.Of(change(x)), Database.Tester));
        Task<Outcome<string>> Undo() => db.Use<ChangeExtraSets, Outcome<string>>(s => s.Undo("ribbons"));
        Task<ExtraSet?> Now() =>
            db.Use<UnicusContext, ExtraSet?>(async c => (await ExtraSets.Load(c)).SingleOrDefault(s => s.Key.Text == "ribbons"));
        Assert.Contains("nothing to undo", (await Undo()).Faults[0].What, StringComparison.Ordinal);
        Assert.True(
            (await Change(s => s with { Extras = [new Option(Key.Of("ribbon"), "Ribbon", OptionRole.Extra) { Ask = Ask.Text }] })).Done
        );
        Assert.True((await Change(s => s with { Name = "Bows", Extras = [] })).Done);
        Assert.True((await db.Use<ChangeExtraSets, Outcome>(s => s.Remove("ribbons", Database.Tester))).Done);
        Assert.Null(await Now());
        Assert.Equal(("ribbons", "Bows"), Assert.Single(await db.Use<ChangeExtraSets, IReadOnlyList<(string, string)>>(s => s.Removed())));
        Assert.True((await Undo()).Done);
        Assert.Equal(("Bows", 0), ((await Now())!.Name, (await Now())!.Extras.Length));
        Assert.True((await Undo()).Done);
        Assert.Equal(("Ribbons", "Ribbon"), ((await Now())!.Name, (await Now())!.Extras.Single().Label));
        Assert.True((await Undo()).Done);
        Assert.Empty((await Now())!.Extras);
        Assert.False((await Undo()).Done);
        // Taking back is refused where it would leave nothing to pick in what is on sale.
        var no = new SelectionRule(Key.Of("no"), Condition.Always, [new Effect.Forbid(Key.Of("bow"), [Key.Of("yes")])]);
        var bow = new Option(Key.Of("bow"), "Bow", OptionRole.Extra)
        {
            Ask = Ask.YesNo,
            Required = true,
            Values = [new OptionValue(Key.Of("yes"), "Yes")],
        };
        Assert.True((await Change(s => s with { Categories = ["Ribboned"], Extras = [bow], Rules = [no] })).Done);
        Assert.True((await Change(s => s with { Rules = [] })).Done);
        await Publish(Stand("RIB1", 5).Replace("\"base\"", "\"categories\": [\"Ribboned\"], \"base\""));
        Assert.Contains("nothing valid could be picked", (await Undo()).Faults[0].What, StringComparison.Ordinal);
        Assert.Empty((await Now())!.Rules);
    }
}
