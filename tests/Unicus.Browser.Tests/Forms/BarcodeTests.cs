using Unicus.Web.Workbench;

namespace Unicus.BrowserTests;

/// <summary>Laws of the symbols; that another program reads them is shown in the browser tests. Source: GS1 General Specifications and
/// ISO/IEC 15417, from memory.</summary>
public class BarcodeTests
{
    private static string Text(Barcode code) => string.Concat(code.Modules.Select(m => m ? '1' : '0'));

    [Theory]
    [InlineData("6291041500213", 95)]
    [InlineData("036000291452", 95)]
    [InlineData("73513537", 67)]
    public void EAN_and_UPC_symbols_have_their_width_and_guards(string digits, int width)
    {
        var text = Text(Barcode.Of(Gtin.Of(digits)));
        Assert.Equal(width, text.Length);
        Assert.StartsWith("101", text, StringComparison.Ordinal);
        Assert.EndsWith("101", text, StringComparison.Ordinal);
        Assert.Equal("01010", text.Substring((width - 5) / 2, 5));
    }

    /// <summary>Interleaved 2 of 5: four narrow to begin, a pair of digits in six narrow and four wide of three, wide, narrow, narrow to
    /// end (ISO/IEC 16390, from memory).</summary>
    [Fact]
    public void A_GTIN_of_14_digits_is_an_ITF_14()
    {
        var text = Text(Barcode.Of(Gtin.Of("15400141288763")));
        Assert.Equal(4 + 7 * (6 + 4 * 3) + 5, text.Length);
        Assert.StartsWith("1010", text, StringComparison.Ordinal);
        Assert.EndsWith("11101", text, StringComparison.Ordinal);
    }

    [Fact]
    public void Right_hand_digits_of_EAN_13_are_read_back_by_their_dark_modules()
    {
        // Each right digit has an even number of dark modules, 2 or 4.
        var text = Text(Barcode.Of(Gtin.Of("6291041500213")))[50..92];
        Assert.All(Enumerable.Range(0, 6), i => Assert.Contains(text.Substring(i * 7, 7).Count(c => c == '1'), new[] { 2, 4 }));
    }

    /// <summary>Law: read by the tables once more (GS1 General Specifications, section 5.2, from memory), an EAN-13 says what it was
    /// made of.</summary>
    [Theory]
    [InlineData("6291041500213")]
    [InlineData("4006381333931")]
    [InlineData("9780201379624")]
    [InlineData("0036000291452")]
    public void EAN_13_is_read_back_by_the_tables(string digits)
    {
        string[] right = ["1110010", "1100110", "1101100", "1000010", "1011100", "1001110", "1010000", "1000100", "1001000", "1110100"];
        string[] first = ["LLLLLL", "LLGLGG", "LLGGLG", "LLGGGL", "LGLLGG", "LGGLLG", "LGGGLL", "LGLGLG", "LGLGGL", "LGGLGL"];
        var odd = right.Select(r => string.Concat(r.Select(m => m == '1' ? '0' : '1'))).ToArray();
        var even = right.Select(r => string.Concat(r.Reverse())).ToArray();
        var text = Text(Barcode.Of(Gtin.Of(digits)));
        var left = Enumerable.Range(0, 6).Select(i => text.Substring(3 + 7 * i, 7)).ToList();
        var sets = string.Concat(left.Select(l => odd.Contains(l) ? 'L' : 'G'));
        var read =
            $"{Array.IndexOf(first, sets)}"
            + string.Concat(left.Select(l => Math.Max(Array.IndexOf(odd, l), Array.IndexOf(even, l))))
            + string.Concat(Enumerable.Range(0, 6).Select(i => Array.IndexOf(right, text.Substring(50 + 7 * i, 7))));
        Assert.Equal(digits, read);
    }

    [Theory]
    [InlineData("GH1-D-CE", 8)]
    [InlineData("15400141288763", 7)]
    [InlineData("A", 1)]
    public void Code_128_has_eleven_modules_a_symbol_and_packs_digits_in_pairs(string text, int data) =>
        Assert.Equal(11 * (data + 2) + 13, Barcode.Code128(text).Modules.Count);

    /// <summary>Start B is two bars, a space, a bar … (ISO/IEC 15417, from memory); ten modules on either side are quiet.</summary>
    [Fact]
    public void Code_128_begins_and_ends_with_a_bar_in_its_quiet_zone()
    {
        var drawn = Barcode.Code128("GH1-D");
        Assert.Equal([true, true, false, true, false, false, true], drawn.Modules.Take(7));
        Assert.True(drawn.Modules[^1]);
        Assert.Contains($"viewBox=\"0 0 {drawn.Modules.Count + 20} 52\"", drawn.Svg(40), StringComparison.Ordinal);
        Assert.Contains($"<rect width=\"{drawn.Modules.Count + 20}\" height=\"52\"", drawn.Svg(40), StringComparison.Ordinal);
        Assert.Contains("M10 0h2v40h-2z", drawn.Svg(40), StringComparison.Ordinal);
    }

    [Fact]
    public void Code_128_refuses_what_it_cannot_write()
    {
        Assert.Throws<ArgumentException>(() => Barcode.Code128(""));
        Assert.Throws<ArgumentException>(() => Barcode.Code128("é"));
    }

    [Fact]
    public void Drawn_words_are_safe() => Assert.Contains("a&lt;b&amp;c", Barcode.Code128("a<b&c").Svg(40), StringComparison.Ordinal);
}
