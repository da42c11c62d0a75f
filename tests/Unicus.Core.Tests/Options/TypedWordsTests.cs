namespace Unicus.CoreTests;

/// <summary>Words instead of codes: what people write is understood, or asked about.</summary>
public sealed class TypedWordsTests
{
    [Theory]
    [InlineData("2.5 pounds", 1134)]
    [InlineData("1 pound", 454)]
    [InlineData("3 ounces", 85)]
    [InlineData("1.2 kilos", 1200)]
    [InlineData("250 grams", 250)]
    [InlineData("250 grammes", 250)]
    [InlineData("2 kilogram", 2000)]
    [InlineData("2 kilogrammes", 2000)]
    public void Units_are_understood_written_out(string typed, int grams) => Assert.Equal(grams, Measures.Weight(typed).Value!.Value.Size);

    [Theory]
    [InlineData("4 inches", 102)]
    [InlineData("1 inch", 25)]
    [InlineData("1.5 metres", 1500)]
    [InlineData("12 centimetres", 120)]
    [InlineData("12 centimeter", 120)]
    [InlineData("7 millimetres", 7)]
    [InlineData("7 millimeter", 7)]
    [InlineData("2 meters", 2000)]
    public void Lengths_too(string typed, int millimetres) => Assert.Equal(millimetres, Measures.Length(typed).Value!.Value.Size);

    [Fact]
    public void A_letter_is_a_character() =>
        Assert.Equal(
            TypedSurcharge.Read("0.60 a character, at least 6", Currency.Euro, Ask.Text).Value,
            TypedSurcharge.Read("0.60 a letter, at least 6", Currency.Euro, Ask.Text).Value
        );

    [Theory]
    [InlineData("-6 once", "-6.00 once")]
    [InlineData("0.60 a character, at least6", "0.60 a character, at least 6.00")]
    public void Blanks_and_signs_are_as_people_leave_them(string typed, string meant) =>
        Assert.Equal(meant, TypedSurcharge.Read(typed, Currency.Euro, Ask.Text).Value?.ForPeople());

    [Fact]
    public void A_short_code_is_one_that_is_not_taken()
    {
        static string Of(string label, params string[] taken) => TypedValues.ShortCode(label, Key.Of("k"), taken.ToHashSet());
        Assert.Equal("XL", Of("XL"));
        Assert.Equal("X", Of("Xl"));
        Assert.Equal("12345678", Of("12345678 mm"));
        Assert.Equal("1234", Of("123456789 mm"));
        Assert.Equal("O2", Of("Oak", "O", "OA", "OK", "OAK"));
        Assert.Equal("O3", Of("Oak", "O", "OA", "OK", "OAK", "O2"));
    }

    [Theory]
    [InlineData("Cedar", "cedar")]
    [InlineData("Ox", "ox")]
    [InlineData("XL", "XL")]
    [InlineData("A", "A")]
    [InlineData("25 mm", "25 mm")]
    [InlineData("", "")]
    public void A_label_within_a_sentence_begins_small(string label, string within) => Assert.Equal(within, Wording.LowerFirst(label));

    [Fact]
    public void Bounds_that_are_equal_do_not_rise()
    {
        Assert.False(Surcharge.Table.IsRising([1, 1]));
        Assert.True(Surcharge.Table.IsRising([1, 2]));
    }

    [Fact]
    public void Codes_read_as_they_are_written()
    {
        Assert.Equal("GH1", ProductCode.Of("GH1").ToString());
        Assert.Equal("", default(ProductCode).ToString());
    }

    [Fact]
    public void A_slug_is_no_longer_than_asked() => Assert.Equal("deep-f", Slug.From("Deep frame", 6));

    [Theory]
    [InlineData("12,5 cm, 15 cm", true)]
    [InlineData("12,5, 15", true)]
    [InlineData("12,5 cm; 15 cm", false, "12,5 cm", "15 cm")]
    [InlineData("12.5 cm, 15 cm", false, "12.5 cm", "15 cm")]
    [InlineData(";12,5 cm, of oak", false, "12,5 cm, of oak")]
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

    /// <summary>The words of the trade; their shades are common practice, no source.</summary>
    [Theory]
    [InlineData("amber", "burgundy", "charcoal", "cream", "denim", "ecru", "emerald", "mustard", "natural", "oatmeal")]
    [InlineData("ochre", "petrol", "rose", "russet", "rust", "sage", "sand", "slate", "stone", "terracotta")]
    public void Words_of_the_trade_have_a_shade_of_their_own(params string[] words)
    {
        var shades = words.Select(ColourNames.Find).ToList();
        Assert.All(shades, s => Assert.Matches("^#[0-9a-f]{6}$", s));
        Assert.Distinct(shades);
    }

    [Theory]
    [InlineData("Waxed cotton, dark green", "#006400")]
    [InlineData("Ochre (matt)", "#cc7722")]
    [InlineData("Linen, dark slate blue", "#483d8b")]
    [InlineData("Large", null)]
    public void The_colour_of_a_label_is_proposed(string label, string? hex) => Assert.Equal(hex, ColourNames.In(label));
}
