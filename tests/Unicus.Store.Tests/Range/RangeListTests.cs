using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

/// <summary>What the shop's lists say from the index, against what is worked out plainly from the documents.</summary>
public sealed class RangeListTests(Database db) : IClassFixture<Database>
{
    private static readonly string[] Sizes = ["s", "m", "l"];
    private static readonly string[] Words = ["Cedar", "Larch", "Smoker", "Feeder", "Bucket", "Excluder", "Größe"];

    /// <summary>A product of the random range, as its document has it.</summary>
    private sealed record Made(string Code, string Name, string Category, int Position, IReadOnlyList<Sized> Variants, decimal Needed);

    /// <summary>A variant with its size of the library, price and stock.</summary>
    private sealed record Sized(string Size, decimal Price, int Stock);

    private static Made Random(Random random, int i) =>
        new(
            $"RL{i}",
            $"{Words[random.Next(Words.Length)]} {Words[random.Next(Words.Length)]} {i}",
            random.Next(2) == 0 ? "Outdoors" : "Indoors",
            random.Next(4),
            [.. Sizes.Take(1 + random.Next(3)).Select(s => new Sized(s, random.Next(100, 3000) / 100m, random.Next(3)))],
            random.Next(3) == 0 ? 1.10m : 0
        );

    private static string Document(Made made)
    {
        var variants = made.Variants.Select(v =>
            $$"""{ "values": { "size": "{{v.Size}}" }, "price": "{{v.Price:0.00}}", "stock": {{v.Stock}} }"""
        );
        var values = made.Variants.Select(v => $$"""{ "key": "{{v.Size}}", "label": "{{v.Size.ToUpperInvariant()}}" }""");
        var finish =
            made.Needed == 0
                ? ""
                : """
                    , { "key": "finish", "label": "Finish", "role": "extra", "ask": "one", "required": true, "values": [
                      { "key": "oil", "label": "Oil", "surcharge": { "amount": "1.10" } },
                      { "key": "wax", "label": "Wax", "surcharge": { "amount": "3.00" } } ] }
                    """;
        return $$"""
            { "format": "unicus-product/1", "code": "{{made.Code}}", "name": "{{made.Name}}", "categories": ["{{made.Category}}"],
              "shelf": { "listed": true, "searchable": true, "position": {{made.Position}} },
              "options": [ { "key": "size", "label": "Size", "role": "variant", "library": "size", "values": [
                {{string.Join(',', values)}} ] }{{finish}} ],
              "variants": [ {{string.Join(',', variants)}} ] }
            """;
    }

    private static decimal? From(Made made) => made.Variants.Where(v => v.Stock > 0).Select(v => (decimal?)(v.Price + made.Needed)).Min();

    private async Task<List<ShownProduct>> Whole(ListQuery query)
    {
        var found = new List<ShownProduct>();
        for (var page = 1; ; page++)
        {
            var list = await db.Use<RangeLists, ListPage>(l => l.Read(query with { Page = page }));
            found.AddRange(list.Items);
            if (page >= list.Pages)
            {
                Assert.Equal(found.Count, list.Total);
                return found;
            }
        }
    }

    private static ListQuery Query(string search = "", ListOrder order = ListOrder.Position, params string[] picks) =>
        new(search, null, [.. picks], false, order, 1);

    /// <summary>Law: for a random range, lists say what follows plainly from the documents, before and after stock moves.</summary>
    [Fact]
    public async Task Lists_say_what_the_documents_say()
    {
        var random = new Random(20270301);
        var made = Enumerable.Range(0, 40).Select(i => Random(random, i)).ToList();
        foreach (var one in made)
        {
            Assert.Equal(PutResult.Created, (await db.Put(Document(one))).Result);
            Assert.True((await db.Use<PublishEdition, Outcome<int>>(p => p.Run(one.Code, Database.Tester))).Done);
        }
        await Compare(made);
        // A sale of everything of every third product, and a receipt of what there was none of elsewhere.
        for (var i = 0; i < made.Count; i++)
        {
            var variants = made[i].Variants.Select(v => v with { Stock = i % 3 == 0 ? 0 : v.Stock + 1 }).ToList();
            foreach (var (before, after) in made[i].Variants.Zip(variants).Where(v => v.First.Stock != v.Second.Stock))
                await db.Use<MoveStock, Outcome>(m =>
                    m.Run(
                        new MovementRequest($"{made[i].Code}-{before.Size.ToUpperInvariant()}", "count", after.Stock, null, null, null),
                        Database.Tester
                    )
                );
            made[i] = made[i] with { Variants = variants };
        }
        await Compare(made);
    }

    private static IReadOnlyList<string> Beginnings(Made made) => SearchWords.Of($"{made.Name} {made.Code} {made.Category}");

    /// <summary>A name that begins so is first, then one with a word that does, then a code.</summary>
    private static int Fit(Made made, string typed) =>
        SearchWords.Fold(made.Name) is var name && name.StartsWith(typed, StringComparison.Ordinal) ? 0
        : name.Contains($" {typed}", StringComparison.Ordinal) ? 1
        : made.Code.StartsWith(typed, StringComparison.OrdinalIgnoreCase) ? 2
        : 3;

    private async Task Compare(IReadOnlyList<Made> made)
    {
        var byPosition = made.OrderBy(m => m.Position).ThenBy(m => SearchWords.Fold(m.Name), StringComparer.Ordinal).ToList();
        Assert.Equal(byPosition.Select(m => (m.Code, From(m))), (await Whole(Query())).Select(e => (e.Code, e.Price.From)));
        await db.Use<RangeFigures, int>(i => i.Work(1000));
        Assert.Equal(
            made.Select(From).OrderBy(p => p ?? decimal.MaxValue),
            (await Whole(Query(order: ListOrder.Price))).Select(e => e.Price.From)
        );
        foreach (var size in Sizes)
        {
            var wanted = byPosition.Where(m => m.Variants.Any(v => v.Size == size && v.Stock > 0)).Select(m => m.Code);
            Assert.Equal(wanted, (await Whole(Query(picks: $"size={size}"))).Select(e => e.Code));
        }
        foreach (var word in new[] { "cedar", "grosse fee", "LARCH smok", "nothing-at-all" })
        {
            var wanted = byPosition
                .Where(m => SearchWords.Of(word).All(w => Beginnings(m).Any(x => x.StartsWith(w, StringComparison.Ordinal))))
                .OrderBy(m => Fit(m, SearchWords.Fold(word)))
                .Select(m => m.Code);
            Assert.Equal(wanted, (await Whole(Query(word))).Select(e => e.Code));
        }
        var first = await db.Use<RangeLists, ListPage>(l => l.Read(Query()));
        var counted = first.Filters.Single(f => f.Option == "size").Values.ToDictionary(v => v.Pick, v => v.Count);
        foreach (var size in Sizes)
            Assert.Equal(made.Count(m => m.Variants.Any(v => v.Size == size && v.Stock > 0)), counted.GetValueOrDefault($"size={size}"));
    }

    [Fact]
    public async Task A_slip_of_typing_is_read_as_the_nearest_word_and_codes_are_found()
    {
        await db.Put(
            """
            { "format": "unicus-product/1", "code": "HVX1", "name": "Observation hive", "base": { "price": "9.00" },
              "variants": [ { "values": {}, "gtin": "6291041500213", "stock": 1 } ] }
            """
        );
        await db.Use<PublishEdition, Outcome<int>>(p => p.Run("HVX1", Database.Tester));
        async Task<(string?, string?)> Found(string typed)
        {
            var list = await db.Use<RangeLists, ListPage>(l => l.Read(Query(typed)));
            return (list.Items.SingleOrDefault()?.Code, list.Instead);
        }
        Assert.Equal(("HVX1", null), await Found("hive observ"));
        Assert.Equal(("HVX1", "observation hive"), await Found("obzervation hvie"));
        Assert.Equal(("HVX1", null), await Found("6291041500213"));
        Assert.Equal(("HVX1", null), await Found("hvx1"));
        Assert.Equal((null, null), await Found("!?"));
        Assert.Equal((null, null), await Found(new string('x', 10_000)));
    }

    [Theory]
    [InlineData(0)]
    [InlineData(-5)]
    [InlineData(1_000_000_000_000)]
    public async Task A_page_that_is_not_there_is_the_nearest(long page)
    {
        var query = Query(picks: ["nosuch=x", "size=gone", "=", "size="]) with { Page = page };
        var list = await db.Use<RangeLists, ListPage>(l => l.Read(query));
        Assert.InRange(list.Page, 1, list.Pages);
        Assert.DoesNotContain(list.Filters.SelectMany(f => f.Values), v => v.IsOn);
    }
}
