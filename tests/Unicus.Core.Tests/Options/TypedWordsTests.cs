namespace Unicus.Core.Tests;

/// <summary>Words instead of codes: what people write is understood, or asked about.</summary>
public sealed class TypedWordsTests
{
    [Theory]
    [InlineData("2.5 pounds", 1134)]
    [InlineData("1 pound", 454)]
    [InlineData("3 ounces", 85)]
    [InlineData("1.2 kilos", 1200)]
    [InlineData("250 grams", 250)]
    public void Units_are_understood_written_out(string typed, int grams) => Assert.Equal(grams, Measures.Weight(typed).Value!.Value.Size);

    [Theory]
    [InlineData("4 inches", 102)]
    [InlineData("1 inch", 25)]
    [InlineData("1.5 metres", 1500)]
    [InlineData("12 centimetres", 120)]
    public void Lengths_too(string typed, int millimetres) => Assert.Equal(millimetres, Measures.Length(typed).Value!.Value.Size);

    [Fact]
    public void A_letter_is_a_character() =>
        Assert.Equal(
            TypedSurcharge.Read("0.60 a character, at least 6", Currency.Euro, Ask.Text).Value,
            TypedSurcharge.Read("0.60 a letter, at least 6", Currency.Euro, Ask.Text).Value
        );

    [Theory]
    [InlineData("12,5 cm, 15 cm", true)]
    [InlineData("12,5, 15", true)]
    [InlineData("12,5 cm; 15 cm", false, "12,5 cm", "15 cm")]
    [InlineData("12.5 cm, 15 cm", false, "12.5 cm", "15 cm")]
    [InlineData("36,37,38", false, "36", "37", "38")]
    [InlineData("S, M, L", false, "S", "M", "L")]
    public void A_comma_within_a_number_is_asked_about_unless_it_is_plain(string typed, bool isAsked, params string[] labels)
    {
        var read = TypedValues.Split(typed, []);
        Assert.Equal(isAsked, read.Problems.Count == 1 && read.Problems[0].StartsWith("Is 12,5 one value?", StringComparison.Ordinal));
        Assert.Equal(labels, read.Labels);
    }

    [Theory]
    [InlineData("Deep +12", "Deep", "12.00")]
    [InlineData("Very deep + 12,50", "Very deep", "12.50")]
    [InlineData("Small -3.50", "Small", "-3.50")]
    [InlineData("Oak +8 %", "Oak", "8 %")]
    [InlineData("Size 12", "Size 12", null)]
    [InlineData("Size-12", "Size-12", null)]
    public void A_surcharge_may_stand_behind_a_value(string typed, string label, string? surcharge)
    {
        var value = TypedValues.MakePriced([typed], [], Currency.Euro).Value!.Single();
        Assert.Equal((label, surcharge), (value.Label, value.Surcharge?.ForPeople()));
    }

    [Fact]
    public void Two_values_that_differ_only_in_their_surcharge_are_one_too_many()
    {
        Assert.False(TypedValues.MakePriced(["Deep +12", "deep"], [], Currency.Euro).Ok);
        Assert.False(TypedValues.MakePriced(["Deep +12.005"], [], Currency.Euro).Ok);
    }

    [Theory]
    // CSS Color Module Level 4, named colours.
    [InlineData("dark green", "#006400")]
    [InlineData("RebeccaPurple", "#663399")]
    [InlineData("Tomato", "#ff6347")]
    [InlineData("ochre", "#cc7722")]
    [InlineData("ActiveBorder", null)]
    [InlineData("transparent", null)]
    [InlineData("linen weave", null)]
    public void Colours_are_known_by_their_names(string name, string? hex) => Assert.Equal(hex, ColourNames.Find(name));

    [Theory]
    [InlineData("Waxed cotton, dark green", "#006400")]
    [InlineData("Ochre (matt)", "#cc7722")]
    [InlineData("Large", null)]
    public void The_colour_of_a_label_is_proposed(string label, string? hex) => Assert.Equal(hex, ColourNames.In(label));
}
