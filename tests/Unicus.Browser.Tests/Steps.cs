using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace Unicus.Browser.Tests;

/// <summary>What a person does in the browser; each step waits for what it needs.</summary>
public sealed class Steps(ChromeDriver browser, string url) : IDisposable
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(25);

    public ChromeDriver Browser => browser;

    public IWebElement Focused => browser.SwitchTo().ActiveElement();

    public void Dispose() => browser.Dispose();

    public void Open(string path) => browser.Navigate().GoToUrl(url + path);

    public void SignIn()
    {
        Open("/office/sign-in");
        Click("#demo-door");
        Until("signed in", () => browser.Url.Contains("/office/range"));
    }

    public IWebElement Find(string css)
    {
        IWebElement? found = null;
        Until($"{css} is there", () => (found = browser.FindElements(By.CssSelector(css)).FirstOrDefault(e => e.Displayed)) is not null);
        return found!;
    }

    /// <summary>Whether it is in the page, seen or not.</summary>
    public bool Has(string css) => browser.FindElements(By.CssSelector(css)).Count > 0;

    /// <summary>Clicks it; what a bar that stays in place covers is scrolled to the middle first, as a person would.</summary>
    public void Click(string css) => Trying(() =>
    {
        var found = Find(css);
        try
        {
            found.Click();
        }
        catch (ElementClickInterceptedException)
        {
            Run("arguments[0].scrollIntoView({ block: 'center', inline: 'center' })", found);
            found.Click();
        }
    });

    public string Text(string css) => Find(css).Text;

    public void See(string text) => Until($"“{text}” is seen", () => browser.FindElement(By.TagName("body")).Text.Contains(text));

    /// <summary>Replaces what stands in a box and leaves it.</summary>
    public void Type(string css, string text)
    {
        Trying(() =>
        {
            var box = Find(css);
            box.SendKeys(Keys.Control + "a");
            box.SendKeys(text.Length == 0 ? Keys.Delete : text);
        });
        Press(Keys.Tab);
    }

    public void Press(string keys) => Fresh(() => Focused.SendKeys(keys));

    /// <summary>Types into it, on from what stands there, and stays.</summary>
    public void Send(string css, string keys) => Fresh(() => Find(css).SendKeys(keys));

    public object? Run(string script, params object[] with) => browser.ExecuteScript(script, with);

    public void Until(string what, Func<bool> holds)
    {
        var end = DateTime.UtcNow + Patience;
        var last = "";
        while (true)
        {
            try
            {
                if (holds()) return;
            }
            catch (WebDriverException e)
            {
                // The page is changing under us; look again.
                last = Shortened(e.Message);
            }
            if (DateTime.UtcNow > end) throw new InvalidOperationException($"Waited in vain till {what}. {last} At {browser.Url}: {Shortened(browser.FindElement(By.TagName("body")).Text)}");
            Thread.Yield();
        }
    }

    private static string Shortened(string text) => text.Length > 900 ? text[..900] + "…" : text;

    /// <summary>Where the page was drawn anew between looking and typing, nothing was typed yet; then what stands there now is taken.</summary>
    private void Fresh(Action act) => Until("it could be typed", () =>
    {
        try
        {
            act();
            return true;
        }
        catch (StaleElementReferenceException)
        {
            return false;
        }
    });

    private void Trying(Action act) => Until("it could be done", () =>
    {
        act();
        return true;
    });
}
