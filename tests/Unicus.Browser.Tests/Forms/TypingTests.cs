using OpenQA.Selenium;
using OpenQA.Selenium.Interactions;

namespace Unicus.Browser.Tests;

/// <summary>What is typed stays, where it was typed, through every redraw, drag and press.</summary>
[Collection("app")]
public class TypingTests(App app)
{
    private Steps Open(string path)
    {
        var steps = new Steps(App.Browser(), app.Url);
        steps.Open(path);
        return steps;
    }

    private Steps Merchant()
    {
        var steps = new Steps(App.Browser(), app.Url);
        steps.SignIn();
        return steps;
    }

    [Fact]
    public void Quantities_typed_on_a_groups_page_stay_and_so_does_the_focus()
    {
        using var s = Open("/p/frames-and-foundation");
        s.Click("[name=n-FRM-S]");
        s.Press("3" + Keys.Tab);
        s.Press("12" + Keys.Tab);
        s.Until("both count", () => s.Text(".group-foot").Contains("15 pieces"));
        Assert.Equal(["3", "12"], s.Values("[name=n-FRM-S], [name=n-FRM-D]"));
        Assert.Equal("Foundation", s.Focused.Text);
        s.Press(Keys.Tab);
        s.Press("2");
        Assert.Equal("n-WAX", s.Focused.GetDomProperty("name"));
    }

    [Fact]
    public void Dragging_over_counts_marks_them_and_books_nothing()
    {
        using var s = Merchant();
        s.Open("/office/products/SUIT/matrix?look=rows");
        const string Counts = "input.cell[data-figure=stock]";
        var before = s.Values(Counts);
        var cells = s.Browser.FindElements(By.CssSelector(Counts));
        cells[0].Click();
        cells[0].Click();
        new Actions(s.Browser).MoveToElement(cells[0]).ClickAndHold().MoveByOffset(4, 2).MoveToElement(cells[2]).Release().Perform();
        s.See("3 variants");
        Assert.Equal("stock", s.Attribute("#change-form [name=of]", "value"));
        Assert.Equal(before, s.Values(Counts));
    }

    [Fact]
    public void Enter_in_a_row_of_values_saves_what_is_typed_and_presses_nothing()
    {
        using var s = Merchant();
        s.Open("/office/options/cloth");
        // Its name speaks of a colour, which is proposed beside the box.
        var proposed = s.Count(".propose");
        Assert.True(proposed > 0);
        s.Type("input[name=colour]", "#114411" + Keys.Enter);
        s.Until("it is saved", () => s.Count(".propose") < proposed && s.Values("input[name=colour]") is ["#114411", ..]);
        Assert.DoesNotContain("changed elsewhere", s.Text("main"), StringComparison.OrdinalIgnoreCase);
        s.Type("input[name=colour]", Keys.Control + "a" + Keys.Null + Keys.Delete + Keys.Enter);
        s.Until("it is taken back", () => s.Count(".propose") == proposed);
    }
}
