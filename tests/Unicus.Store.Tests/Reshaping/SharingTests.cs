using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Store.Tests;

/// <summary>Options whose values share one SKU and one stock, set on variants that are there.</summary>
public class SharingTests(Database db) : IClassFixture<Database>
{
    private const string Stocked = """
        , "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "price": "120.00", "stock": 12 },
          { "values": { "depth": "deep", "timber": "pine" }, "stock": 5 } ]
        """;

    private async Task<Outcome<MatrixDifference>> Share(string code, bool shares, params string[] survivors)
    {
        var options = (await db.Load(code)).Product.Options;
        return await db.Use<ChangeOptions, Outcome<MatrixDifference>>(c =>
            c.Run(
                code,
                options.SetItem(1, options[1] with { SharesSku = shares }),
                new OptionDecisions { Survivors = [.. survivors] },
                "Timber shares",
                Database.Tester
            )
        );
    }

    private async Task<string> Skus(string code)
    {
        var copy = await db.Load(code);
        return string.Join(
            ' ',
            copy.Matrix.Variants.Select(v => $"{v.Sku.Text[(code.Length + 1)..]}:{copy.Stock.GetValueOrDefault(v.Sku).OnHand}")
        );
    }

    [Fact]
    public async Task SKUs_that_are_shared_are_rewritten_in_one_act_and_counted_once()
    {
        await db.Put(Database.Hive("SHR9", Stocked));
        Assert.True((await Share("SHR9", true)).Done);
        ImmutableArray<PatternPiece> pattern =
        [
            new PatternPiece.Text("N-"),
            new PatternPiece.Code(),
            new PatternPiece.OfOption(Key.Of("depth")),
        ];
        Assert.True((await db.Use<RewriteSkus, Outcome>(r => r.SetPattern("SHR9", pattern, Database.Tester))).Done);
        var preview = (await db.Use<RewriteSkus, RewritePreview?>(r => r.Preview("SHR9")))!;
        Assert.Equal(["N-SHR9D", "N-SHR9S"], preview.Rows.Select(r => r.New.Text).Order());
        Assert.Empty(preview.Clashes);
        Assert.True((await db.Use<RewriteSkus, Outcome>(r => r.Run("SHR9", Database.Tester))).Done);
        var copy = await db.Load("SHR9");
        Assert.Equal(["N-SHR9D", "N-SHR9S"], copy.Matrix.Variants.Select(v => v.Sku.Text).Distinct().Order());
        Assert.Equal(17, copy.Stock[Sku.Of("N-SHR9D")].OnHand);
    }

    [Fact]
    public async Task Variants_that_come_to_share_have_one_SKU_and_their_stock_added_up_by_transfers()
    {
        await db.Put(Database.Hive("SHA1", Stocked));
        var outcome = await Share("SHA1", true);
        Assert.Equal("+0 new, 0 lost, 4 SKUs become 2", outcome.Result!.InWords());
        Assert.False(outcome.Result.IsHarmless);
        Assert.Equal("S-CE:0 S-CE:0 D-CE:17 D-CE:17", await Skus("SHA1"));
        Assert.Equal(
            5,
            await db.Use<UnicusContext, int>(c =>
                c.Movements.Where(m =>
                        m.Kind == MovementKind.Transfer
                        && m.OnHand > 0
                        && c.Skus.Any(s => s.Id == m.SkuId && s.Code == "SHA1-D-CE")
                        && m.Reason!.Contains("share one SKU")
                    )
                    .SumAsync(m => m.OnHand)
            )
        );
        Assert.Equal("120.00", (await db.Load("SHA1")).Matrix.Find("depth=deep,timber=cedar")!.Price.Figure?.ToString());
    }

    [Fact]
    public async Task The_merchant_says_whose_SKU_stays()
    {
        await db.Put(Database.Hive("SHA2", Stocked));
        Assert.True((await Share("SHA2", true, "depth=deep,timber=pine")).Done);
        Assert.Equal("S-CE:0 S-CE:0 D-PI:17 D-PI:17", await Skus("SHA2"));
    }

    [Fact]
    public async Task Variants_that_no_longer_share_get_their_own_SKU_and_the_stock_stays_with_the_first()
    {
        await db.Put(Database.Hive("SHA3", Stocked));
        await Share("SHA3", true);
        var apart = await Share("SHA3", false);
        Assert.Equal("+0 new, 0 lost, 2 get SKUs of their own", apart.Result!.InWords());
        Assert.Equal("S-CE:0 S-PI:0 D-CE:17 D-PI:0", await Skus("SHA3"));
        Assert.True((await db.Use<UndoChange, Outcome<string>>(u => u.Run("SHA3"))).Done);
        Assert.Equal("S-CE:0 S-CE:0 D-CE:17 D-CE:17", await Skus("SHA3"));
    }

    [Fact]
    public async Task Units_promised_to_an_order_keep_SKUs_apart_until_it_is_sent()
    {
        await db.Put(Database.Hive("SHA4", Stocked));
        await db.Use<PublishEdition, Outcome<int>>(p => p.Run("SHA4", Database.Tester));
        await db.Use<PlaceOrder, bool>(async p =>
            (
                await p.Run(
                    new BasketRequest([new LineRequest(null, "SHA4-D-PI", [], 2, null)], null),
                    new Buyer("Orla", "o@example.org", "1 Lane", "paid"),
                    Actor.Shopper
                )
            ).Order
                is not null
        );
        var refused = await Share("SHA4", true);
        Assert.Contains("SHA4-D-PI has 2 units allocated", refused.Faults[0].What, StringComparison.Ordinal);
        Assert.Equal("S-CE:0 S-PI:0 D-CE:12 D-PI:5", await Skus("SHA4"));
    }

    [Fact]
    public async Task A_value_added_to_an_option_that_shares_takes_the_SKU_that_is_there()
    {
        await db.Put(Database.Hive("SHA5", Stocked));
        await Share("SHA5", true);
        var options = (await db.Load("SHA5")).Product.Options;
        await db.Use<ChangeOptions, Outcome<MatrixDifference>>(c =>
            c.Run(
                "SHA5",
                options.SetItem(1, options[1] with { Values = [.. options[1].Values, .. TypedValues.Make(["Larch"], options[1].Values)] }),
                new(),
                "Larch",
                Database.Tester
            )
        );
        Assert.Equal("S-CE:0 S-CE:0 S-CE:0 D-CE:17 D-CE:17 D-CE:17", await Skus("SHA5"));
    }

    [Fact]
    public async Task A_product_with_shared_SKUs_goes_out_and_comes_back_the_same()
    {
        await db.Put(Database.Hive("SHA6", Stocked));
        await Share("SHA6", true);
        var copy = await db.Load("SHA6");
        var document = DocumentWriter.Write(copy.Product, ListedVariants.All).ToJsonString();
        var (result, faults) = await db.Put(document);
        Assert.True(result == PutResult.Replaced, string.Join(' ', faults));
        Assert.Equal("S-CE:0 S-CE:0 D-CE:17 D-CE:17", await Skus("SHA6"));
    }

    [Fact]
    public async Task One_variant_is_split_off_with_its_SKU_price_and_stock_and_is_no_longer_made_here()
    {
        await db.Put(Database.Hive("SPV1", Stocked));
        var split = await db.Use<SplitOff, Outcome<string>>(s =>
            s.Run("SPV1", Combination.Parse("depth=deep,timber=cedar"), "Cedar special", Database.Tester)
        );
        var made = await db.Load(split.Result!);
        Assert.Equal(
            ("Cedar special", "SPV1-D-CE", "120.00", 12),
            (made.Product.Name, made.Matrix.Variants[0].Sku.Text, made.Matrix.Variants[0].Price.Figure?.ToString(), made.WholeStock.OnHand)
        );
        Assert.Equal("S-CE:0 S-PI:0 D-PI:5", await Skus("SPV1"));
        Assert.Equal("40.00", made.Matrix.Variants[0].Cost.Figure?.ToString());
    }

    [Theory]
    [InlineData("depth=deep,timber=elm", "removed meanwhile")]
    [InlineData("", "removed meanwhile")]
    [InlineData("depth=deep", "share their SKUs")]
    public async Task What_cannot_be_split_off_is_said(string which, string why)
    {
        if (await db.Use<UnicusContext, bool>(c => c.Products.AllAsync(p => p.Code != "SPV2")))
        {
            await db.Put(
                Database
                    .Hive("SPV2", Stocked)
                    .Replace("\"label\": \"Depth\",", "\"label\": \"Depth\", \"sharesSku\": true,", StringComparison.Ordinal)
                    .Replace(Stocked, "", StringComparison.Ordinal)
            );
        }
        Assert.Contains(
            why,
            (await db.Use<SplitOff, Outcome<string>>(s => s.Run("SPV2", Combination.Parse(which), "Other", Database.Tester)))
                .Faults[0]
                .What,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Bringing_together_what_shares_its_SKU_with_what_does_not_is_refused()
    {
        await db.Put(Database.Hive("SHA7", Stocked));
        await db.Put(Database.Hive("SHA8"));
        await Share("SHA7", true);
        var faults = (
            await db.Use<BringTogether, Outcome>(b =>
                b.Run(new TogetherRequest(["SHA7", "SHA8"], "Both", "Model", ["A", "B"]), Database.Tester)
            )
        ).Faults;
        Assert.Contains(
            "Timber shares SKU and stock in Hive SHA7 but not in Hive SHA8",
            Assert.Single(faults).What,
            StringComparison.Ordinal
        );
    }
}
