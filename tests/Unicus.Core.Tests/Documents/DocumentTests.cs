using System.Text.Json;
using CsCheck;

namespace Unicus.CoreTests;

public class DocumentTests
{
    private static ReadDocument Read(string json)
    {
        using var document = JsonDocument.Parse(json);
        return DocumentReader.Read(document.RootElement, Currency.Euro);
    }

    private const string Hive = """
        { "format": "unicus-product/1", "code": "GH1", "name": "Garden hive", "summary": "A hive.",
          "base": { "price": "184.00", "rrp": "210.00", "cost": "96.50", "weightGrams": 11500, "sizeMm": { "length": 1, "width": 2,
            "height": 3 } },
          "selling": { "beyond": { "units": 5 }, "offForNow": { "back": "2027-05-03" } },
          "options": [
            { "key": "depth", "label": "Depth", "role": "variant", "default": "deep", "values": [
              { "key": "shallow", "label": "Shallow", "sku": "S" },
              { "key": "deep", "label": "Deep", "sku": "D", "surcharge": { "percent": "8" }, "figures": { "weightGrams": 13200 } } ] },
            { "key": "timber", "label": "Timber", "role": "variant", "values": [
              { "key": "cedar", "label": "Cedar", "sku": "CE", "swatch": { "colour": "#a8623a" } },
              { "key": "pine", "label": "Pine", "surcharge": { "amount": "-32.00" }, "swatch": { "stripes": ["#ffffff",
                "#000000"] } } ] } ],
          "notMade": [ { "depth": "shallow", "timber": "pine" } ],
          "skuPattern": [ { "code": true }, { "text": "-" }, { "option": "depth" }, { "text": "-" }, { "option": "timber" } ],
          "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "sku": "HIVE-1", "price": "199.00", "stock": 12,
            "note": "the first" } ] }
        """;

    [Fact]
    public void A_document_says_what_it_says()
    {
        var (product, stock, faults) = Read(Hive);
        Assert.Empty(faults);
        var matrix = product!.Matrix();
        Assert.Equal(["GH1-S-CE", "HIVE-1", "GH1-D-PINE"], matrix.Variants.Select(v => v.Sku.Text));
        Assert.Equal(["184.00", "199.00", "166.72"], matrix.Variants.Select(v => v.Price.Figure?.ToString()));
        Assert.Equal(12, stock["depth=deep,timber=cedar"]);
    }

    /// <summary>document.md: export then import is identity.</summary>
    [Fact]
    public void Export_then_import_is_identity()
    {
        var first = DocumentWriter.Write(Read(Hive).Product!, ListedVariants.Differing).ToJsonString();
        var second = DocumentWriter.Write(Read(first).Product!, ListedVariants.Differing).ToJsonString();
        Assert.Equal(first, second);
        Assert.Contains("HIVE-1", first);
        Assert.DoesNotContain("GH1-S-CE", first);
    }

    /// <summary>Law: the same, over random matrices, listing every variant.</summary>
    [Fact]
    public void Export_then_import_is_identity_for_any_matrix() =>
        Sample.Matrices.Sample(
            (options, notMade) =>
            {
                var product = Sample.Hive with { Options = options, NotMade = notMade };
                var json = DocumentWriter.Write(product, ListedVariants.All).ToJsonString();
                var (back, _, faults) = Read(json);
                Assert.Empty(faults);
                Assert.Equal(json, DocumentWriter.Write(back!, ListedVariants.All).ToJsonString());
                Assert.Equal(
                    product.Matrix().Variants.Select(v => (v.Sku, v.Price.Figure)),
                    back!.Matrix().Variants.Select(v => (v.Sku, v.Price.Figure))
                );
            }
        );

    [Fact]
    public void Every_fault_is_reported_at_once_with_its_pointer()
    {
        var (_, _, faults) = Read(
            """
            { "format": "unicus-product/1", "code": "a b", "name": "", "colour": 1, "base": { "price": "1.005", "cost": 4,
              "weightGrams": -1 },
              "options": [ { "key": "De pth", "label": "Depth", "role": "variant", "values": [ { "key": "deep", "label": "Deep" },
                { "key": "deep", "label": "Deep" } ] } ],
              "variants": [ { "values": { "width": "x" }, "stock": -5 } ] }
            """
        );
        Assert.Equal(
            [
                "#/base/cost",
                "#/base/price",
                "#/base/weightGrams",
                "#/code",
                "#/colour",
                "#/name",
                "#/options/0/key",
                "#/options/0/values",
                "#/variants/0/stock",
                "#/variants/0/values/width",
            ],
            faults.Select(f => f.Where).Distinct().Order(StringComparer.Ordinal)
        );
    }

    [Theory]
    [InlineData("\"skuPattern\": [{ \"text\": \"SAME\" }]", "#/variants")]
    [InlineData("\"skuPattern\": [{ \"option\": \"width\" }]", "#/skuPattern/0/option")]
    [InlineData("\"notMade\": [{ \"depth\": \"wide\" }]", "#/notMade/0/depth")]
    [InlineData(
        "\"pictures\": [{ \"file\": \"a.png\", \"shows\": { \"option\": \"depth\", \"value\": \"wide\" } }]",
        "#/pictures/0/shows"
    )]
    [InlineData("\"selling\": { \"beyond\": \"some\" }", "#/selling/beyond")]
    [InlineData("\"a/b~c\": 1", "#/a~1b~0c")]
    public void References_and_clashes_are_checked(string member, string pointer)
    {
        var (_, _, faults) = Read(
            $$"""
            { "format": "unicus-product/1", "code": "X", "name": "X", {{member}}, "options": [ { "key": "depth", "label": "Depth",
              "role": "variant", "values": [ { "key": "a", "label": "A" }, { "key": "b", "label": "B" } ] } ] }
            """
        );
        Assert.Contains(faults, f => f.Where == pointer);
    }

    [Fact]
    public void A_matrix_of_a_trillion_is_refused_before_it_is_tried()
    {
        var options = Enumerable
            .Range(0, 12)
            .Select(i =>
                $$"""
                    { "key": "o{{i}}", "label": "O", "role": "variant",
                      "values": [{{string.Join(',', Enumerable.Range(0, 10).Select(v => $$"""{ "key": "v{{v}}", "label": "V" }"""))}}] }
                    """
            );
        var (_, _, faults) = Read(
            $$"""{ "format": "unicus-product/1", "code": "X", "name": "X", "options": [{{string.Join(',', options)}}] }"""
        );
        Assert.Contains("1,000,000,000,000", Assert.Single(faults).What);
    }

    [Fact]
    public void The_schema_is_JSON_and_names_the_same_fields()
    {
        using var schema = JsonDocument.Parse(ProductSchema.Text);
        var named = schema.RootElement.GetProperty("properties").EnumerateObject().Select(p => p.Name);
        var written = DocumentWriter.Write(Read(Hive).Product!, ListedVariants.All).Select(p => p.Key);
        Assert.Empty(written.Except(named));
    }
}
