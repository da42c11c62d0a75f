using System.Text.Json;

namespace Unicus.CoreTests;

/// <summary>Which pictures are shown for which answers.</summary>
public sealed class PictureTests
{
    private static ReadDocument Read(string pictures)
    {
        using var json = JsonDocument.Parse(
            $$"""
            { "format": "unicus-product/1", "code": "BOX", "name": "Box", "options": [
              { "key": "lid", "label": "Lid", "role": "variant", "values": [ { "key": "oak", "label": "Oak" },
                { "key": "ash", "label": "Ash" } ] },
              { "key": "bow", "label": "Bow", "role": "extra", "ask": "several", "values": [ { "key": "silk", "label": "Silk" },
                { "key": "jute", "label": "Jute" } ] } ],
              "pictures": [ {{pictures}} ], "variants": [ { "values": { "lid": "ash" }, "picture": "ash-own" } ] }
            """
        );
        return DocumentReader.Read(json.RootElement, Currency.Euro);
    }

    private const string All = """
        { "file": "box" }, { "file": "oak", "shows": { "option": "lid", "value": "oak" } },
        { "file": "silk", "shows": { "option": "bow", "value": "silk" } }, { "file": "ash-own" }
        """;

    [Fact]
    public void Pictures_of_extras_lead_then_the_variants_own_then_those_of_its_values()
    {
        var product = Read(All).Product!;
        string Shown(string lid, params string[] bows) =>
            string.Join(
                ' ',
                product
                    .PicturesFor(
                        Configuration
                            .Empty.With(Key.Of("lid"), new Answer.Value(Key.Of(lid)))
                            .With(Key.Of("bow"), bows.Length == 0 ? new Answer.None() : new Answer.Ticks([.. bows.Select(Key.Of)])),
                        product.Matrix().Find($"lid={lid}")!.Variant
                    )
                    .Select(p => p.File)
            );
        Assert.Equal("oak box ash-own", Shown("oak"));
        Assert.Equal("silk oak box ash-own", Shown("oak", "jute", "silk"));
        Assert.Equal("ash-own box", Shown("ash", "jute"));
    }

    [Fact]
    public void A_picture_of_a_value_that_is_gone_shows_the_product()
    {
        var product = Read(All).Product!;
        Assert.Same(product, product.WithPicturesOfWhatIsThere());
        var less = (product with { Extras = [] }).WithPicturesOfWhatIsThere();
        Assert.Null(less.Pictures[2].Shows);
        Assert.NotNull(less.Pictures[1].Shows);
        Assert.Contains(Read("""{ "file": "x", "shows": { "option": "bow", "value": "tin" } }""").Faults, f =>
            f.What == "There is no bow = tin."
        );
    }
}
