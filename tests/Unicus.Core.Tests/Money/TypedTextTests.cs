using CsCheck;

namespace Unicus.CoreTests;

public class TypedTextTests
{
    [Theory]
    [InlineData("Reach\vup to\f150 kg", "Reach up to 150 kg")]
    [InlineData("a\0b", "a b")]
    [InlineData("\tline\r\nnext ", "\tline\r\nnext ")]
    [InlineData(null, "")]
    public void Signs_that_cannot_be_kept_become_ones_that_can(string? typed, string clean) => Assert.Equal(clean, TypedText.Clean(typed));

    [Fact]
    public void Half_a_surrogate_pair_becomes_the_replacement_character_and_a_whole_one_stays()
    {
        Assert.Equal("half \ufffd", TypedText.Clean("half \ud83d"));
        Assert.Equal("\ufffd half", TypedText.Clean("\udc1d half"));
        Assert.Equal("a bee \ud83d\udc1d", TypedText.Clean("a bee \ud83d\udc1d"));
    }

    /// <summary>Law: whatever is typed, the clean text is Unicode without control characters, has the same length, and cleaning it again
    /// changes nothing.</summary>
    [Fact]
    public void Every_text_can_be_kept_once_it_is_clean() =>
        Gen
            .Char.Array[0, 40]
            .Select(c => new string(c))
            .Sample(typed =>
            {
                var clean = TypedText.Clean(typed);
                Assert.Equal(typed.Length, clean.Length);
                Assert.Equal(clean, System.Text.Encoding.UTF8.GetString(System.Text.Encoding.UTF8.GetBytes(clean)));
                Assert.DoesNotContain(clean, c => char.IsControl(c) && c is not ('\n' or '\r' or '\t'));
                Assert.Equal(clean, TypedText.Clean(clean));
            });

    [Fact]
    public void A_line_is_one_line_and_a_search_is_short()
    {
        Assert.Equal("one two three", TypedText.Line(" one\r\ntwo\tthree "));
        Assert.Equal("one\ntwo", TypedText.Lines(" one\r\ntwo "));
        Assert.Equal(100, TypedText.Search(new string('a', 10_000)).Length);
        // A pair of surrogates is not cut through.
        Assert.Equal("aaa\ufffd", TypedText.Search("aaa\ud83d\udc1d", 4));
    }
}
