namespace Unicus.CoreTests;

public class NameSplitTests
{
    [Theory]
    [InlineData("Feeder, 1 litre|Feeder, 2 litres|Feeder, 4 litres", "Feeder", "Capacity", "1 litre|2 litres|4 litres")]
    [InlineData("Red smoker|Blue smoker", "smoker", "Colour", "Red|Blue")]
    [InlineData("Jar|Jar 250 g", "Jar", "Weight", "Plain|250 g")]
    [InlineData("Same|Same", "Same", "Kind", "Plain|Plain 2")]
    public void Common_words_and_what_differs_are_found(string names, string common, string option, string values)
    {
        var split = NameSplit.Of(names.Split('|'));
        Assert.Equal((common, option, values), (split.Common, split.Option, string.Join('|', split.Values)));
    }
}
