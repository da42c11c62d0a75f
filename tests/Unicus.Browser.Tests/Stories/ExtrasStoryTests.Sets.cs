using OpenQA.Selenium;

namespace Unicus.Browser.Tests;

/// <summary>Sets of extras that are kept once.</summary>
public partial class ExtrasStoryTests
{
    [Fact]
    public void A_shared_set_reaches_all_and_a_product_leaves_it_out()
    {
        using var s = Merchant();
        const string line = ".set-line:has(a[href$='/gift-wrapping'])";
        s.Open("/office/extras");
        s.See("Gift wrapping");
        s.Open("/office/products/SMK/extras");
        s.Click($"{line} .btn");
        s.Until("it is left out", () => s.Text(line).Contains("left out"));
        s.Until("the proof does not ask for it", () => !s.Has("#proof #o-wrap-yes"));
        s.Click($"{line} .btn");
        s.Until("it is taken again", () => s.Has("#proof #o-wrap-yes"));
        s.Click("#proof label:has(#o-wrap-yes)");
        s.Until("the card is asked", () => s.Has("#proof #o-card"));
    }

    [Fact]
    public void A_set_is_changed_taken_back_removed_and_taken_back_again()
    {
        using var s = Merchant();
        s.Open("/office/extras");
        s.Type("#set-name", "Engraved brass");
        s.Click("#set-name ~ button, .library-name button");
        Extra(s, "Brass plate", "a text");
        Extra(s, "Screws", "one of a list", "Brass, Steel");
        Rule(s, "Brass plate", "is answered", "", "show", "Screws", sentence: "When Brass plate is answered, show Screws.");
        s.Click("[aria-label='Switch off: When Brass plate is answered, show Screws.']");
        s.Until("it is off, and stays", () => s.Has(".rule.is-off"));
        s.Click("[aria-label='Remove Screws']");
        s.Until("it is gone", () => !s.Has(".extra[aria-label='Screws']"));
        s.Click("#said button");
        s.Until("it is back", () => s.Has(".extra[aria-label='Screws']"));
        s.Send("[aria-label='Order of Brass plate'], .extra[aria-label='Brass plate'] .handle", Keys.ArrowDown);
        s.Until("the order is changed", () =>
            s
                .Browser.FindElements(By.CssSelector(".extra"))
                .Select(e => e.GetAttribute("aria-label"))
                .SequenceEqual(["Screws", "Brass plate"])
        );
        s.Click("form[action$='handler=Remove'] button");
        s.See("Removed: Engraved brass");
        s.Click("[aria-label='Take back Engraved brass']");
        s.Until("the set is back with its rule", () => s.Has(".rule.is-off") && s.Has(".extra[aria-label='Screws']"));
    }
}
