namespace Unicus.CoreTests;

public class TypedEmailTests
{
    [Theory]
    [InlineData("orla@example.org", true)]
    [InlineData("  orla@example.org ", true)]
    [InlineData("örla@bücher.example", true)]
    [InlineData("orla", false)]
    [InlineData("@example.org", false)]
    [InlineData("orla@", false)]
    [InlineData("orla@example.org\nBcc: all@example.org", false)]
    [InlineData("orla@exam\u200Bple.org", false)]
    [InlineData("orla@exam\u2028ple.org", false)]
    [InlineData("orla @example.org", false)]
    public void An_address_has_two_sides_and_no_sign_that_is_not_seen(string typed, bool fits) =>
        Assert.Equal(fits, TypedEmail.Read(typed).Ok);

    [Theory]
    [InlineData("Orla@Example.org.", "orla@example.org")]
    [InlineData("ｏｒｌａ@example.org", "orla@example.org")]
    public void Addresses_that_reach_one_person_have_one_key(string typed, string key) => Assert.Equal(key, TypedEmail.KeyOf(typed));
}
