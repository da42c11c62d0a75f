using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Store.Tests;

public class LibraryTests(Database db) : IClassFixture<Database>
{
    private Task<Outcome> Library(Func<OptionLibrary, Task<Outcome>> use) => db.Use(use);

    private async Task<LibraryEntry> Entry(string key) => (await db.Use<OptionLibrary, LibraryEntry?>(l => l.Find(key)))!;

    /// <summary>A product with timber from the library, with the values named and stock of each.</summary>
    private Task<(PutResult, IReadOnlyList<Fault>)> Put(
        string code,
        string library,
        params (string Key, string Label, int Stock)[] values
    ) =>
        db.Put(
            $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Box {{code}}", "base": { "price": "20.00" },
              "options": [ { "key": "timber", "label": "{{char.ToUpperInvariant(library[0])
                + library[1..]}}", "role": "variant", "library": "{{library}}", "values": [ {{string.Join(
                ',',
                values.Select(v => $$"""{ "key": "{{v.Key}}", "label": "{{v.Label}}" }""")
            )}} ] } ],
              "variants": [ {{string.Join(
                ',',
                values.Select(v => $$"""{ "values": { "timber": "{{v.Key}}" }, "stock": {{v.Stock}} }""")
            )}} ] }
            """
        );

    [Fact]
    public async Task An_empty_shop_ships_with_starter_options()
    {
        var all = await db.Use<OptionLibrary, IReadOnlyList<LibraryEntry>>(l => l.All());
        Assert.Contains(all, e =>
            e.Option.Label == "Size" && e.Option.Values.Select(v => v.Label).SequenceEqual(["XS", "S", "M", "L", "XL"])
        );
    }

    [Fact]
    public async Task A_new_name_reaches_products_but_not_those_that_gave_it_another()
    {
        await db.Use<OptionLibrary, Outcome<string>>(l => l.Create("Wood", "Cedar, Larch"));
        await Put("REN1", "wood", ("cedar", "Cedar", 3), ("larch", "Larch", 0));
        await Put("REN2", "wood", ("cedar", "Red cedar", 0));
        var entry = await Entry("wood");
        Assert.Equal(["REN1", "REN2"], entry.UsedBy.Select(u => u.Code).Order());
        Assert.True(
            (
                await Library(l =>
                    l.Change(
                        "wood",
                        entry.Version,
                        o =>
                            Read<Option>.Of(
                                o with
                                {
                                    Label = "Timber",
                                    Values = o.Values.SetItem(0, o.Values[0] with { Label = "Western cedar" }),
                                }
                            ),
                        Database.Tester
                    )
                )
            ).Done
        );
        var first = (await db.Load("REN1")).Product.Options[0];
        Assert.Equal(("Timber", "Western cedar"), (first.Label, first.Values[0].Label));
        Assert.Equal("Red cedar", (await db.Load("REN2")).Product.Options[0].Values[0].Label);
        Assert.Contains(
            "somebody else",
            (await Library(l => l.Change("wood", entry.Version, Read<Option>.Of, Database.Tester))).Faults[0].What,
            StringComparison.Ordinal
        );
        Assert.Equal(3, (await db.Load("REN1")).WholeStock.OnHand);
    }

    [Fact]
    public async Task Merging_two_values_adds_their_stock_up_and_keeps_the_ledger_whole()
    {
        await db.Use<OptionLibrary, Outcome<string>>(l => l.Create("Grain", "Fir, Spruce, Pine"));
        await Put("MRG1", "grain", ("fir", "Fir", 4), ("spruce", "Spruce", 9));
        await Put("MRG2", "grain", ("fir", "Fir", 2), ("pine", "Pine", 1));
        var (fir, spruce) = (Key.Of("fir"), Key.Of("spruce"));
        var effects = await db.Use<OptionLibrary, IReadOnlyList<MergeEffect>>(l => l.PreviewMerge("grain", fir, spruce));
        Assert.Equal(2, effects.Count);
        Assert.Single(effects.Single(e => e.Code == "MRG1").Difference.Merged);
        Assert.Empty(effects.Single(e => e.Code == "MRG2").Difference.Merged);
        Assert.True((await Library(async l => await l.Merge("grain", (await Entry("grain")).Version, fir, spruce, Database.Tester))).Done);
        var one = await db.Load("MRG1");
        Assert.Equal(["spruce"], one.Product.Options[0].Values.Select(v => v.Key.Text));
        Assert.Equal(13, one.WholeStock.OnHand);
        var two = await db.Load("MRG2");
        Assert.Equal(["spruce", "pine"], two.Product.Options[0].Values.Select(v => v.Key.Text));
        Assert.Equal(2, two.Stock[two.Matrix.Find("timber=spruce")!.Sku].OnHand);
        Assert.Equal(["spruce", "pine"], (await Entry("grain")).Option.Values.Select(v => v.Key.Text));
        Assert.Equal(
            0,
            await db.Use<UnicusContext, int>(c =>
                c.Levels.CountAsync(l =>
                    l.OnHand != c.Movements.Where(m => m.SkuId == l.SkuId && m.LocationId == l.LocationId).Sum(m => m.OnHand)
                )
            )
        );
    }

    [Fact]
    public async Task Rules_and_pictures_follow_a_value_that_is_merged()
    {
        await db.Use<OptionLibrary, Outcome<string>>(l => l.Create("Board", "Ash, Elm, Oak"));
        await Put("MRG3", "board", ("ash", "Ash", 1), ("elm", "Elm", 2), ("oak", "Oak", 0));
        var (ash, elm, oak, timber) = (Key.Of("ash"), Key.Of("elm"), Key.Of("oak"), Key.Of("timber"));
        var extra = new Option(Key.Of("words"), "Words", OptionRole.Extra) { Ask = Ask.Text };
        ImmutableArray<SelectionRule> rules =
        [
            new(
                Key.Of("a"),
                new Condition.Not(new Condition.Any([new Condition.Is(timber, [ash, elm]), new Condition.Answered(extra.Key)])),
                [new Effect.Hide([extra.Key])]
            ),
            new(Key.Of("b"), Condition.Always, [new Effect.AllowOnly(timber, [ash, elm])]),
            new(Key.Of("c"), new Condition.Is(timber, [oak]), [new Effect.Require([extra.Key])]),
        ];
        Assert.True(
            (
                await db.Use<ChangeProduct, Outcome>(c =>
                    c.Apply("MRG3", "rules", Database.Tester, copy =>
                        Read<Product>.Of(
                            copy.Product with
                            {
                                Extras = [extra],
                                Rules = rules,
                                Pictures = [new ProductPicture("ash.webp", "Ash", (timber, ash))],
                            }
                        )
                    )
                )
            ).Done
        );
        var effect = Assert.Single(await db.Use<OptionLibrary, IReadOnlyList<MergeEffect>>(l => l.PreviewMerge("board", ash, elm)));
        Assert.Equal(
            "When none of these: Board is Elm; Words is answered, hide Words.|Always Board can only be Elm.",
            string.Join("|", effect.Rules)
        );
        Assert.True((await Library(async l => await l.Merge("board", (await Entry("board")).Version, ash, elm, Database.Tester))).Done);
        var copy = await db.Load("MRG3");
        Assert.Empty(copy.Configurator.Book.Broken);
        Assert.Equal(effect.Rules, copy.Product.Rules.Take(2).Select(copy.Configurator.Words.Sentence));
        Assert.Equal(rules[2], copy.Product.Rules[2] with { When = rules[2].When, Then = rules[2].Then });
        Assert.Equal((timber, elm), copy.Product.Pictures[0].Shows);
    }

    [Fact]
    public async Task An_option_in_use_stays_in_the_library_and_a_merged_one_leaves_its_values_behind()
    {
        await db.Use<OptionLibrary, Outcome<string>>(l => l.Create("Hue", "Red, Teal"));
        await db.Use<OptionLibrary, Outcome<string>>(l => l.Create("Shade", "Red, Blue"));
        await Put("OPT1", "hue", ("teal", "Teal", 0));
        Assert.Contains("is used by Box OPT1", (await Library(l => l.Remove("hue"))).Faults[0].What, StringComparison.Ordinal);
        Assert.True((await Library(l => l.MergeOptions("hue", "shade", Database.Tester))).Done);
        Assert.Equal(["Red", "Blue", "Teal"], (await Entry("shade")).Option.Values.Select(v => v.Label));
        var option = (await db.Load("OPT1")).Product.Options[0];
        Assert.Equal(("shade", "Shade"), (option.Library!.Value.Text, option.Label));
        Assert.Null(await db.Use<OptionLibrary, LibraryEntry?>(l => l.Find("hue")));
    }

    [Fact]
    public async Task Values_of_a_merged_option_follow_the_one_that_stays_though_it_calls_them_otherwise()
    {
        await db.Use<OptionLibrary, Outcome<string>>(l => l.Create("Tint", "Red, Teal"));
        await db.Use<OptionLibrary, Outcome<string>>(l => l.Create("Dye", "Crimson, Blue"));
        Assert.True(
            (
                await Library(l =>
                    l.Change(
                        "dye",
                        0,
                        o => Read<Option>.Of(o with { Values = o.Values.SetItem(0, o.Values[0] with { Label = "Red" }) }),
                        Database.Tester
                    )
                )
            ).Done
        );
        await Put("OPT2", "tint", ("red", "Red", 3), ("teal", "Teal", 1));
        var skus = (await db.Load("OPT2")).Matrix.Variants.Select(v => v.Sku.Text).ToList();
        Assert.True((await Library(l => l.MergeOptions("tint", "dye", Database.Tester))).Done);
        var copy = await db.Load("OPT2");
        Assert.Equal("crimson=Red, teal=Teal", string.Join(", ", copy.Product.Options[0].Values.Select(v => $"{v.Key}={v.Label}")));
        Assert.Equal(skus, copy.Matrix.Variants.Select(v => v.Sku.Text));
        Assert.Equal(3, copy.Stock[copy.Matrix.Find("timber=crimson")!.Sku].OnHand);
        Assert.True(
            (
                await Library(async l =>
                    await l.Change(
                        "dye",
                        (await Entry("dye")).Version,
                        o => Read<Option>.Of(o with { Values = o.Values.SetItem(0, o.Values[0] with { Label = "Scarlet" }) }),
                        Database.Tester
                    )
                )
            ).Done
        );
        Assert.Equal("Scarlet", (await db.Load("OPT2")).Product.Options[0].Values[0].Label);
    }

    [Fact]
    public async Task A_products_own_option_can_be_kept_in_the_library()
    {
        await db.Put(Database.Hive("KEEP"));
        Assert.True((await Library(l => l.Keep("KEEP", Key.Of("depth"), Database.Tester))).Done);
        Assert.Equal("depth", (await db.Load("KEEP")).Product.Options[0].Library!.Value.Text);
        Assert.Equal(["Shallow", "Deep"], (await Entry("depth")).Option.Values.Select(v => v.Label));
        Assert.Contains(
            "already",
            (await Library(l => l.Keep("KEEP", Key.Of("depth"), Database.Tester))).Faults[0].What,
            StringComparison.Ordinal
        );
    }
}
