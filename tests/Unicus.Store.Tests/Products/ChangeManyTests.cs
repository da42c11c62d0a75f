using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

/// <summary>One thing is done to several products; what stands in the way of one keeps none of the others.</summary>
public sealed class ChangeManyTests(Database db) : IClassFixture<Database>
{
    private async Task<IReadOnlyList<ManyDone>> Do(ManyAct act, string? typed, params string[] codes)
    {
        var outcome = await db.Use<ChangeMany, Outcome<IReadOnlyList<ManyDone>>>(m =>
            m.Run(codes.Select(TickedProduct.Read), act, typed, Database.Tester)
        );
        Assert.True(outcome.Done, string.Join(' ', outcome.Faults.Select(f => f.What)));
        return outcome.Result!;
    }

    [Fact]
    public async Task What_can_be_published_is_and_the_others_say_why_not()
    {
        await db.PublishPlain("MANY1", 5);
        await db.Use<ChangeField, Outcome>(f => f.Run("MANY1", "summary", "New words", null, Database.Tester));
        var draft = (await db.Use<ChangeProduct, Outcome<string>>(p => p.Create("Many without a price", Database.Tester))).Result!;
        var done = await Do(ManyAct.Publish, null, "MANY1", draft, "NOSUCH");
        Assert.Equal(["MANY1", draft], done.Select(d => d.Code));
        Assert.Equal("", done[0].WhyNot);
        Assert.Contains("no price", done[1].WhyNot);
        Assert.Equal(2, (await db.Load("MANY1")).Row.Edition);
        Assert.Equal("Edition 2 says the same already.", (await Do(ManyAct.Publish, null, "many1"))[0].WhyNot);
        Assert.Null((await db.Load(draft)).Row.Edition);
    }

    [Fact]
    public async Task Prices_move_by_a_percentage_each_rounded_by_itself_own_ones_too_and_can_be_taken_back()
    {
        await db.Put(
            """
            { "format": "unicus-product/1", "code": "MANY2", "name": "Many two", "base": { "price": "10.05" },
              "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [ { "key": "s", "label": "S" },
                { "key": "m", "label": "M" }, { "key": "l", "label": "L", "figures": { "price": "30.15" } } ] } ],
              "variants": [ { "values": { "size": "m" }, "price": "19.99" } ] }
            """
        );
        var bare = (await db.Use<ChangeProduct, Outcome<string>>(p => p.Create("Many three", Database.Tester))).Result!;
        var done = await Do(ManyAct.Price, "-10", "MANY2", bare);
        Assert.Equal(["", "It has no price of its own."], done.Select(d => d.WhyNot));
        // 9.045, 17.991 and 27.135, halves away from zero.
        Assert.Equal([9.05m, 17.99m, 27.14m], await Prices());
        await db.Use<UndoChange, Outcome<string>>(u => u.Run("MANY2"));
        Assert.Equal([10.05m, 19.99m, 30.15m], await Prices());

        async Task<List<decimal>> Prices() => [.. (await db.Load("MANY2")).Matrix.Variants.Select(v => v.Price.Figure!.Value.Amount)];
    }

    /// <summary>Pressed again after the reply was lost, or after somebody else, nothing moves twice.</summary>
    [Fact]
    public async Task Prices_that_were_not_seen_so_are_not_moved()
    {
        await db.PublishPlain("MANY6", 5);
        var seen = $"MANY6:{(await db.Load("MANY6")).Row.Version}";
        Assert.Equal("", (await Do(ManyAct.Price, "10", seen))[0].WhyNot);
        Assert.Contains("changed since you saw it", (await Do(ManyAct.Price, "10", seen))[0].WhyNot, StringComparison.Ordinal);
        Assert.Equal(11m, (await db.Load("MANY6")).Product.Base.Price!.Value.Amount);
    }

    [Fact]
    public async Task A_set_is_published_after_the_parts_that_it_needs_whatever_the_order()
    {
        var set = """
            { "format": "unicus-product/1", "code": "MANY7", "name": "Many set", "parts": { "sold": "together", "price": { "rule": "sum" },
              "slots": [ { "key": "a", "of": [ { "product": "MANY8" } ] } ] } }
            """;
        await db.Put(set);
        await db.Put("""{ "format": "unicus-product/1", "code": "MANY8", "name": "Many part", "base": { "price": "3.00" } }""");
        var done = await Do(ManyAct.Publish, null, "MANY7", "MANY8");
        Assert.Equal([("MANY7", ""), ("MANY8", "")], done.Select(d => (d.Code, d.WhyNot)));
        Assert.Equal(1, (await db.Load("MANY7")).Row.Edition);
    }

    [Fact]
    public async Task Categories_and_tags_are_added_once_and_goods_are_put_away_and_come_back()
    {
        await db.PublishPlain("MANY4", 5);
        await db.PublishPlain("MANY5", 5);
        foreach (var _ in new int[2])
        {
            await Do(ManyAct.Tag, " spring ", "MANY4", "MANY5");
            await Do(ManyAct.Categorise, "Garden", "MANY4");
        }
        Assert.Equal("spring", Assert.Single((await db.Load("MANY5")).Product.Tags));
        Assert.Equal("Garden", Assert.Single((await db.Load("MANY4")).Product.Categories));
        await Do(ManyAct.PutAway, null, "MANY4", "MANY5");
        Assert.Equal(2, await Away());
        await Do(ManyAct.BringBack, null, "MANY4");
        Assert.Equal(1, await Away());

        Task<int> Away() => db.Use<UnicusContext, int>(c => c.Products.CountAsync(p => p.Code.StartsWith("MANY") && p.PutAwayAt != null));
    }

    [Theory]
    [InlineData(ManyAct.Price, "0")]
    [InlineData(ManyAct.Price, "-100")]
    [InlineData(ManyAct.Price, "five")]
    [InlineData(ManyAct.Price, null)]
    [InlineData(ManyAct.Tag, " ")]
    [InlineData(ManyAct.Tag, "one, two")]
    public async Task What_is_typed_wrongly_changes_nothing(ManyAct act, string? typed)
    {
        var outcome = await db.Use<ChangeMany, Outcome<IReadOnlyList<ManyDone>>>(m =>
            m.Run([new TickedProduct("MANY1", null)], act, typed, Database.Tester)
        );
        Assert.False(outcome.Done);
    }
}
