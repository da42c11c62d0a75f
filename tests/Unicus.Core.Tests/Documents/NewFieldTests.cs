using System.Text.Json;

namespace Unicus.CoreTests;

/// <summary>Fields that came with the option library: facts, GTINs, values that do not apply.</summary>
public class NewFieldTests
{
    private static ReadDocument Read(string members, string value = "", string variant = "")
    {
        using var document = JsonDocument.Parse(
            $$"""
            { "format": "unicus-product/1", "code": "SCL", "name": "Hive scales"{{members}},
              "options": [ { "key": "plug", "label": "Plug", "role": "variant", "library": "plug", "values": [ { "key": "none",
                "label": "None"{{value}} }, { "key": "type-f", "label": "Type F" } ] } ],
              "variants": [ { "values": { "plug": "type-f" }{{variant}} } ] }
            """
        );
        return DocumentReader.Read(document.RootElement, Currency.Euro);
    }

    [Fact]
    public void Facts_are_read_and_written_again()
    {
        var (product, _, faults) = Read(
            """
            , "brand": "Thistle & Skep", "partNumber": "TS-1", "specifications": [ { "label": "Reach", "value": "150 kg" } ],
              "passages": [ { "heading": "Care", "text": "<p>Dry.</p>" } ], "videos": [ { "address": "/videos/a-1.mp4" },
              { "address": "https://films.example.org/b.webm", "title": "Use" } ]
            """,
            """, "doesNotApply": true, "swatch": { "picture": "piece.png" }""",
            """, "gtin": "6291041500213" """
        );
        Assert.Empty(faults);
        var json = DocumentWriter.Write(product!, ListedVariants.Differing).ToJsonString();
        using var again = JsonDocument.Parse(json);
        var back = DocumentReader.Read(again.RootElement, Currency.Euro).Product!;
        Assert.Equal(json, DocumentWriter.Write(back, ListedVariants.Differing).ToJsonString());
        Assert.Equal(
            ("Thistle & Skep", "TS-1", "150 kg", "Care", "plug"),
            (back.Brand, back.PartNumber, back.Specifications[0].Value, back.Passages[0].Heading, back.Options[0].Library?.Text)
        );
        Assert.Equal(new Swatch.Picture("piece.png"), back.Options[0].Values[0].Swatch);
        Assert.Equal([null, "films.example.org"], back.Videos.Select(v => v.Host));
        Assert.Equal("6291041500213", back.Matrix().Find("plug=type-f")!.Variant.Gtin?.Text);
    }

    [Fact]
    public void A_GTIN_of_null_is_none() => Assert.Empty(Read("", variant: """, "gtin": null""").Faults);

    [Theory]
    [InlineData(""", "specifications": [ { "label": "Reach" } ]""", "", "", "#/specifications/0/value")]
    [InlineData(""", "passages": [ { "heading": "Care", "words": "x" } ]""", "", "", "#/passages/0/words")]
    [InlineData(""", "brand": 7""", "", "", "#/brand")]
    [InlineData(""", "videos": [ { "address": "http://films.example.org/a.mp4" } ]""", "", "", "#/videos/0/address")]
    [InlineData(""", "videos": [ { "title": "No address" } ]""", "", "", "#/videos/0/address")]
    [InlineData("", """, "doesNotApply": "yes" """, "", "#/options/0/values/0/doesNotApply")]
    [InlineData("", """, "swatch": { "picture": 3 }""", "", "#/options/0/values/0/swatch/picture")]
    [InlineData("", "", """, "gtin": "6291041500214" """, "#/variants/0/gtin")]
    [InlineData("", "", """, "gtin": "12AB" """, "#/variants/0/gtin")]
    public void What_is_wrong_is_told_with_its_pointer(string members, string value, string variant, string pointer) =>
        Assert.Contains(Read(members, value, variant).Faults, f => f.Where == pointer);

    [Fact]
    public void A_value_that_does_not_apply_is_left_out_of_names()
    {
        var product = Read("", """, "doesNotApply": true""").Product!;
        Assert.Equal("", Combination.Parse("plug=none").Name(product.Options));
        Assert.Equal("Hive scales", PriceCalculator.Title(product.Name, Combination.Parse("plug=none"), product.Options));
        Assert.Equal("Hive scales, type F", PriceCalculator.Title(product.Name, Combination.Parse("plug=type-f"), product.Options));
    }
}

public class VideoAddressTests
{
    [Theory]
    [InlineData("/videos/smoker-12ab.mp4", true)]
    [InlineData("https://films.example.org/a/b.webm?x=1", true)]
    [InlineData("http://films.example.org/a.mp4", false)]
    [InlineData("https://user@films.example.org/a.mp4", false)]
    [InlineData("https://films.example.org:8443/a.mp4", false)]
    [InlineData("javascript:alert(1)", false)]
    [InlineData("/videos/../office/settings", false)]
    [InlineData("", false)]
    public void A_film_lies_here_or_at_an_https_address(string address, bool fits) => Assert.Equal(fits, ProductVideo.IsAddress(address));
}
