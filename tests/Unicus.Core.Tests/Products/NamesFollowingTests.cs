using System.Text.Json;

namespace Unicus.CoreTests;

/// <summary>What names goods follows them into another product.</summary>
public class NamesFollowingTests
{
    private static readonly MovedGoods.Joined Large = Joined(
        "SUITL",
        "large",
        ("size=s", "size=s,width=large", "SUITL-S"),
        ("size=m", "size=m,width=large", "SUITL-M")
    );
    private static readonly MovedGoods.Joined Slim = Joined(
        "SUIT",
        "slim",
        ("size=s", "size=s,width=slim", "SUIT-S"),
        ("size=m", "size=m,width=slim", "SUIT-M")
    );
    private static readonly MovedGoods.Joined Cap = Joined("CAP", "cap", ("", "width=cap", "HAT-7"));
    private static readonly MovedGoods.Parted Medium = new("SUIT", "MEDIUM", Combination.Parse("size=m"));

    private static MovedGoods.Joined Joined(string code, string width, params (string Before, string Now, string Sku)[] variants) =>
        new(
            code,
            "SUIT",
            Combination.Parse($"width={width}"),
            [.. variants.Select(v => new MovedVariant(Combination.Parse(v.Before), Combination.Parse(v.Now), Sku.Of(v.Sku)))]
        );

    private static Product Read(string json)
    {
        var (product, _, faults) = DocumentReader.Read(JsonDocument.Parse(json).RootElement, Currency.Euro);
        Assert.Empty(faults);
        return product!;
    }

    private static Product Set(string of, string more = "") =>
        Read(
            $$"""
            { "format": "unicus-product/1", "code": "SET", "name": "Set",
              "parts": { "slots": [ { "key": "x", "of": [ {{of}} ]{{more}} } ] } }
            """
        );

    /// <summary>The entries as the document has them, after goods were moved.</summary>
    private static string Entries(Product product, params MovedGoods[] moved)
    {
        var after = new NamesFollowing(moved, _ => []).Of(product);
        return string.Join(
            ' ',
            after
                .Parts!.Slots[0]
                .Of.Select(e =>
                    (e is PartEntry.OfSku s ? "sku:" + s.Code : ((PartEntry.OfProduct)e).Code)
                    + string.Concat(e.Variants.Select(v => $"[{v.Text}]"))
                    + (e.Extra is { } extra ? $"+{extra}" : "")
                )
        );
    }

    [Theory]
    [InlineData("""{ "product": "SUITL" }""", "SUIT[width=large]")]
    [InlineData("""{ "product": "SUIT" }""", "SUIT[width=slim]")]
    [InlineData("""{ "product": "SUIT" }, { "product": "SUITL" }""", "SUIT[width=slim][width=large]")]
    [InlineData("""{ "product": "SUITL", "variants": [ { "size": "m" } ], "extra": "2.00" }""", "sku:SUITL-M+2.00")]
    [InlineData("""{ "product": "CAP" }, { "product": "SUITL" }""", "sku:HAT-7 SUIT[width=large]")]
    [InlineData("""{ "sku": "SUITL-S" }, { "tag": "suits" }""", "sku:SUITL-S tags")]
    public void A_slot_takes_what_the_product_became(string of, string now)
    {
        if (now.EndsWith("tags", StringComparison.Ordinal))
        {
            var set = Set(of);
            Assert.Same(set, new NamesFollowing([Slim, Large], _ => []).Of(set));
        }
        else
            Assert.Equal(now, Entries(Set(of), Slim, Large, Cap));
    }

    [Theory]
    [InlineData("""{ "product": "SUIT" }""", "", "SUIT MEDIUM")]
    [InlineData("""{ "product": "SUIT", "variants": [ { "size": "m" } ], "extra": "2.00" }""", "", "MEDIUM+2.00")]
    [InlineData("""{ "product": "SUIT", "variants": [ { "size": "s" } ] }""", "", "SUIT[size=s]")]
    [InlineData(
        """{ "product": "SUIT", "variants": [ { "size": "s" }, { "size": "m", "cut": "a" } ] }""",
        "",
        "SUIT[size=s][cut=a,size=m] MEDIUM[cut=a]"
    )]
    public void A_slot_takes_what_was_split_off_besides(string of, string more, string now) =>
        Assert.Equal(now, Entries(Set(of, more), Medium));

    /// <summary>Rules over answers and what is picked beforehand name the candidate by its new key.</summary>
    [Fact]
    public void Picks_and_rules_name_the_candidate_as_it_is_now()
    {
        var set = Read(
            """
            { "format": "unicus-product/1", "code": "SET", "name": "Set", "companions": ["CAP", "SUIT", "HOOD"],
              "parts": { "slots": [ { "key": "x", "of": [ { "product": "CAP" }, { "product": "HOOD" } ], "default": [ "cap" ] },
                { "key": "y", "of": [ { "product": "CAP" } ], "optional": true } ] },
              "rules": [ { "key": "r", "when": { "option": "x", "is": ["cap"] }, "then": { "forbid": { "y": ["cap"] } } } ] }
            """
        );
        var after = new NamesFollowing([Slim, Cap], _ => []).Of(set);
        Assert.Equal(["hat-7"], after.Parts!.Slots[0].Default.Select(d => d.Text));
        Assert.Equal(["hat-7"], ((Condition.Is)after.Rules[0].When).Values.Select(v => v.Text));
        Assert.Equal(["hat-7"], ((Effect.Forbid)after.Rules[0].Then[0]).Values.Select(v => v.Text));
        Assert.Equal(["SUIT", "HOOD"], after.Companions.Select(c => c.Text));
    }

    [Theory]
    [InlineData("SUITL", "", "SUITL-S SUITL-M")]
    [InlineData("SUIT SUITL", "SUIT", "")]
    [InlineData("SUITL HOOD", "", "SUITL-S SUITL-M HOOD-1")]
    [InlineData("HOOD", "HOOD", "")]
    public void A_price_rule_is_about_the_same_goods(string products, string thenProducts, string skus)
    {
        var rule = new PriceRule(Key.Of("r"), "R", new PriceEffect.Reduce(10, null))
        {
            Scope = new PriceScope { Products = [.. products.Split(' ')] },
        };
        var scope = new NamesFollowing([Slim, Large], code => [$"{code}-1"]).Of(rule).Scope;
        Assert.Equal((thenProducts, skus), (string.Join(' ', scope.Products), string.Join(' ', scope.Skus)));
        var parted = new NamesFollowing([Medium], _ => []).Of(rule with { Scope = new PriceScope { Products = ["SUIT"] } });
        Assert.Equal("SUIT MEDIUM", string.Join(' ', parted.Scope.Products));
    }
}
