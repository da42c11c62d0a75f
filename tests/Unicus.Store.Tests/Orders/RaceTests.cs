using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace Unicus.Store.Tests;

/// <summary>Many do the same at the same moment. Each is done, or refused with a sentence; never both, never half.</summary>
public class RaceTests(Database db) : IClassFixture<Database>
{
    private const int Many = 16;

    private static string Plain(string code, string more = "") =>
        $$"""{ "format": "unicus-product/1", "code": "{{code}}", "name": "Race {{code}}", "base": { "price": "10.00" }{{more}} }""";

    /// <summary>Does it, and says in words what became of it: empty where it was done.</summary>
    private static async Task<string> Tried(Func<Task<IReadOnlyList<Fault>>> act)
    {
        try
        {
            return string.Join(' ', (await act()).Select(f => f.What));
        }
        catch (Exception fault) when (DatabaseFaults.KindOf(fault) == DatabaseFault.Clash)
        {
            return DatabaseFaults.Sentence(fault) ?? "clash";
        }
    }

    private async Task<string[]> AllAtOnce(Func<int, Task<IReadOnlyList<Fault>>> act) =>
        await Task.WhenAll(Enumerable.Range(0, Many).Select(i => Tried(() => act(i))));

    [Fact]
    public async Task One_of_sixteen_products_gets_the_GTIN_that_all_of_them_claim()
    {
        for (var i = 0; i < Many; i++)
            await db.Put(Plain($"GT{i}"));
        // The same number with and without leading zeros.
        var said = await AllAtOnce(async i =>
            (
                await db.Use<MatrixCells, Outcome>(m =>
                    m.Write($"GT{i}", [new CellEdit("", "gtin", i % 2 == 0 ? "6291041500213" : "06291041500213", null)], Database.Tester)
                )
            ).Faults
        );
        Assert.Equal(1, said.Count(s => s.Length == 0));
        Assert.All(said.Where(s => s.Length > 0), s => Assert.Contains("Nothing was saved", s, StringComparison.Ordinal));
        Assert.Equal(1, await db.Use<UnicusContext, int>(c => c.Variants.CountAsync(v => v.Gtin!.EndsWith("6291041500213"))));
    }

    /// <summary>While somebody holds the stock of busy goods and thirty orders wait for it, other goods are ordered.</summary>
    [Fact]
    public async Task Orders_that_wait_for_busy_goods_hold_up_no_others()
    {
        await db.PublishPlain("BUSY", 100);
        await db.PublishPlain("CALM", 100);
        var held = new TaskCompletionSource();
        var holding = db.Use<UnicusContext, int>(async c =>
        {
            await using var transaction = await c.Database.BeginTransactionAsync();
            await c.Database.ExecuteSqlAsync(
                $"select 1 from levels l join skus s on s.id = l.sku_id where s.code = 'BUSY' for update of l"
            );
            held.SetResult();
            await Task.Delay(TimeSpan.FromSeconds(6));
            await transaction.RollbackAsync();
            return 0;
        });
        await held.Task;
        var waiting = Enumerable.Range(0, 30).Select(_ => db.Order(("BUSY", 1))).ToList();
        await Task.Delay(500);
        foreach (var _ in new int[3])
            Assert.NotNull((await db.Order(("CALM", 1))).Order);
        Assert.False(holding.IsCompleted, "The orders for other goods waited.");
        Assert.DoesNotContain(waiting, w => w.IsCompleted);
        await holding;
        Assert.All(await Task.WhenAll(waiting), p => Assert.NotNull(p.Order));
        Assert.Equal((30, 3), ((await db.Level("BUSY")).Allocated, (await db.Level("CALM")).Allocated));
    }

    /// <summary>Codes of PostgreSQL's documentation, appendix A.</summary>
    [Theory]
    [InlineData("53100", DatabaseFault.Unreachable)]
    [InlineData("XX000", DatabaseFault.Unreachable)]
    [InlineData("57P01", DatabaseFault.Unreachable)]
    [InlineData("08006", DatabaseFault.Unreachable)]
    [InlineData("23505", DatabaseFault.Clash)]
    [InlineData("22021", DatabaseFault.UnfitText)]
    [InlineData("42601", DatabaseFault.Other)]
    public void A_full_disk_is_a_database_that_cannot_be_reached(string code, DatabaseFault kind) =>
        Assert.Equal(kind, DatabaseFaults.KindOf(new DbUpdateException("x", new PostgresException("m", "ERROR", "ERROR", code))));

    [Fact]
    public async Task Two_GTINs_of_a_product_can_change_places()
    {
        await db.Put(
            Database.Hive(
                "SWAP",
                """
                , "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "gtin": "96385074" },
                  { "values": { "depth": "deep", "timber": "pine" }, "gtin": "12345670" } ]
                """
            )
        );
        var outcome = await db.Use<MatrixCells, Outcome>(m =>
            m.Write(
                "SWAP",
                [new("depth=deep,timber=cedar", "gtin", "12345670", null), new("depth=deep,timber=pine", "gtin", "96385074", null)],
                Database.Tester
            )
        );
        Assert.Empty(outcome.Faults);
    }

    [Fact]
    public async Task A_category_that_all_name_at_once_is_made_once()
    {
        for (var i = 0; i < Many; i++)
            await db.Put(Plain($"CAT{i}"));
        var said = await AllAtOnce(async i =>
            (await db.Use<ChangeField, Outcome>(c => c.Run($"CAT{i}", "categories", "Raced goods", null, Database.Tester))).Faults
        );
        Assert.All(said, Assert.Empty);
        Assert.Equal(1, await db.Use<UnicusContext, int>(c => c.Categories.CountAsync(x => x.Name == "Raced goods")));
        said = await AllAtOnce(async _ => (await db.Use<CategoryTree, Outcome>(t => t.Create("Typed at once", null))).Faults);
        Assert.Equal(1, said.Count(s => s.Length == 0));
    }

    [Fact]
    public async Task The_same_name_makes_as_many_products_with_codes_of_their_own()
    {
        var codes = await Task.WhenAll(
            Enumerable.Range(0, Many).Select(_ => db.Use<ChangeProduct, Outcome<string>>(p => p.Create("Raced hive", Database.Tester)))
        );
        Assert.All(codes, c => Assert.Empty(c.Faults));
        Assert.Equal(Many, codes.Select(c => c.Result).Distinct().Count());
    }

    [Fact]
    public async Task A_document_put_by_all_at_once_is_created_once_and_replaced_by_the_others()
    {
        var results = await Task.WhenAll(Enumerable.Range(0, Many).Select(_ => db.Put(Plain("PUTS"))));
        Assert.All(results, r => Assert.Empty(r.Faults));
        Assert.Equal(1, results.Count(r => r.Result == PutResult.Created));
        Assert.Equal(Many - 1, results.Count(r => r.Result == PutResult.Replaced));
    }

    [Fact]
    public async Task A_SKU_that_all_want_goes_to_one()
    {
        for (var i = 0; i < Many; i++)
            await db.Put(Plain($"SK{i}"));
        var said = await AllAtOnce(async i =>
            (await db.Use<MatrixCells, Outcome>(m => m.Write($"SK{i}", [new CellEdit("", "sku", "WANTED", null)], Database.Tester))).Faults
        );
        Assert.Equal(1, said.Count(s => s.Length == 0));
        Assert.All(said.Where(s => s.Length > 0), s => Assert.Contains("SKU", s, StringComparison.Ordinal));
    }

    /// <summary>Whatever comes first: an order of a product that is gone never stays, and a product that was ordered never
    /// goes.</summary>
    [Fact]
    public async Task A_product_that_is_ordered_while_it_is_deleted_leaves_no_orphan()
    {
        for (var i = 0; i < Many; i++)
        {
            var code = $"DEL{i}";
            await db.Put(Plain(code, ""","selling": { "counted": false }"""));
            await db.Use<PublishEdition, Outcome<int>>(p => p.Run(code, Database.Tester));
            var basket = new BasketRequest([new LineRequest(code, null, [], 1, null)], null);
            var buyer = new Buyer("Orla", "", "", null);
            await Task.WhenAll(
                Tried(async () => (await db.Use<PlaceOrder, Placed>(p => p.Run(basket, buyer, Actor.Shopper))).Faults),
                Tried(async () => (await db.Use<ChangeProduct, Outcome>(p => p.Delete(code))).Faults)
            );
            var (product, lines) = await db.Use<UnicusContext, (bool, int)>(async c =>
                (await c.Products.AnyAsync(p => p.Code == code), await c.OrderLines.CountAsync(l => l.ProductCode == code))
            );
            Assert.Equal(product ? 1 : 0, lines);
        }
    }

    [Fact]
    public async Task What_is_typed_during_one_stay_in_a_field_is_one_change_and_one_undo()
    {
        await db.Put(Plain("STAY"));
        var stay = Database.Tester with { Typing = "stay-1" };
        foreach (var typed in new[] { "1", "12", "12.5" })
            Assert.True((await db.Use<ChangeField, Outcome>(c => c.Run("STAY", "price", typed, null, stay))).Done);
        await db.Use<ChangeField, Outcome>(c => c.Run("STAY", "price", "13", null, Database.Tester with { Typing = "stay-2" }));
        await db.Use<ChangeField, Outcome>(c => c.Run("STAY", "cost", "3", null, Database.Tester));
        Assert.Equal(
            4,
            await db.Use<UnicusContext, int>(c =>
                c.ProductChanges.CountAsync(p => c.Products.Any(x => x.Id == p.ProductId && x.Code == "STAY"))
            )
        );
        foreach (var left in new[] { 13m, 12.5m, 10m })
        {
            Assert.True((await db.Use<UndoChange, Outcome<string>>(u => u.Run("STAY"))).Done);
            Assert.Equal(left, (await db.Load("STAY")).Product.Base.Price!.Value.Amount);
        }
    }

    [Fact]
    public async Task Two_in_one_cell_hear_what_stands_there_now()
    {
        await db.Put(Plain("CELL"));
        await db.Use<MatrixCells, Outcome>(m => m.Write("CELL", [new CellEdit("", "price", "12", "10.00")], Database.Tester));
        var refused = await db.Use<MatrixCells, Outcome>(m => m.Write("CELL", [new CellEdit("", "price", "13", "10.00")], Database.Tester));
        var fault = Assert.Single(refused.Faults);
        Assert.Equal(("12.00", "|price"), (fault.With!["now"]!.ToString(), fault.Where));
        Assert.Contains("your 13 is not saved", fault.What, StringComparison.Ordinal);
        Assert.True(
            (await db.Use<MatrixCells, Outcome>(m => m.Write("CELL", [new CellEdit("", "price", "13", "12.00")], Database.Tester))).Done
        );
    }

    [Fact]
    public async Task Variants_that_share_a_SKU_are_known_to_each_other()
    {
        var options = """
            , "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [ { "key": "s", "label": "S" },
              { "key": "l", "label": "L" } ] },
              { "key": "words", "label": "Words", "role": "variant", "sharesSku": true, "values": [ { "key": "en", "label": "English" },
                { "key": "de", "label": "German" } ] } ]
            """;
        await db.Put(Plain("SHAR", options));
        Assert.Equal(["size=s,words=de"], await db.Use<MatrixCells, List<string>>(m => m.Sharing("SHAR", ["size=s,words=en"])));
    }
}
