using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;
using CsCheck;

namespace Unicus.CoreTests;

/// <summary>Terms of trade as the HTTP interface has them.</summary>
public class TermsDocumentTests
{
    private static readonly TradeTerms Usual = new(Currency.Euro, true, [new TaxClass(Key.Of("standard"), "Standard")], []);

    private static (TradeTerms Terms, List<Fault> Faults) Read(string json)
    {
        var faults = new List<Fault>();
        using var document = JsonDocument.Parse(json);
        return (TermsDocument.Read(new Node(document.RootElement, "#", faults), Usual), faults);
    }

    [Fact]
    public void What_is_written_is_read_back_the_same()
    {
        var rate = Gen.Int[0, 10_000].Select(r => r / 100m);
        var amounts = Gen.Int[0, 99_999].Select(c => new Money(c / 100m, Currency.Euro));
        var rates = Gen.Select(Gen.Int[1, 30_000], amounts, amounts, Gen.Bool)
            .Select(
                (grams, from, amount, free) =>
                    new DeliveryRate(grams, free ? from : null, amount) { LongestUpToMm = free ? null : 1 + (grams / 10) }
            );
        Gen.Select(rate, rate, rates.Array[1, 4], Gen.Int[0, 99], Gen.Bool)
            .Sample(
                (standard, reduced, table, floor, included) =>
                {
                    var terms = new TradeTerms(
                        Currency.Euro,
                        included,
                        [new TaxClass(Key.Of("standard"), "Standard"), new TaxClass(Key.Of("reduced"), "Reduced")],
                        [
                            new Destination(
                                "IE",
                                "Ireland",
                                new Dictionary<string, decimal>
                                {
                                    ["standard"] = standard,
                                    ["reduced"] = reduced,
                                }.ToImmutableSortedDictionary(),
                                [new DeliveryService(Key.Of("post"), "Post", "standard", [.. table])]
                            ),
                        ]
                    )
                    {
                        Floor = floor % 2 == 0 ? new Percentage(floor) : null,
                        CountShownBelow = floor % 3 == 0 ? floor + 1 : null,
                    };
                    var text = TermsDocument.Write(terms).ToJsonString();
                    var (read, faults) = Read(text);
                    Assert.Empty(faults);
                    Assert.True(JsonNode.DeepEquals(JsonNode.Parse(text), TermsDocument.Write(read)), text);
                    Assert.Equal(table, read.Destinations[0].Services[0].Rates.AsEnumerable());
                    Assert.Equal((terms.Floor, terms.CountShownBelow), (read.Floor, read.CountShownBelow));
                },
                iter: 200
            );
    }

    [Theory]
    [InlineData("""{"currency":"XXY"}""", "#/currency")]
    [InlineData("""{"taxClasses":[]}""", "#/taxClasses")]
    [InlineData("""{"taxClasses":[{"key":"a"},{"key":"a"}]}""", "#/taxClasses/1/key")]
    [InlineData("""{"destinations":[{"code":"IE","rates":{"none":"5"}}]}""", "#/destinations/0/rates/none")]
    [InlineData("""{"destinations":[{"code":"IE","rates":{"standard":"101"}}]}""", "#/destinations/0/rates/standard")]
    [InlineData("""{"destinations":[{"code":"IE"},{"code":"ie"}]}""", "#/destinations/1/code")]
    [InlineData("""{"floor":{"margin":"100"}}""", "#/floor/margin")]
    [InlineData("""{"countShownBelow":0}""", "#/countShownBelow")]
    public void What_is_wrong_is_told_where_it_stands(string json, string where) =>
        Assert.Contains(where, Read(json).Faults.Select(f => f.Where));
}
