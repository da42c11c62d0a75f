using System.Text.RegularExpressions;
using OpenQA.Selenium;

namespace Unicus.Browser.Tests;

/// <summary>What a person does in the browser; each step waits for what it needs.</summary>
public sealed class Steps(KeptBrowser browser, string url) : IDisposable
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(25);

    public KeptBrowser Browser => browser;

    public IWebElement Focused => browser.SwitchTo().ActiveElement();

    public void Dispose() => browser.Dispose();

    public void Open(string path) => browser.Navigate().GoToUrl(url + path);

    /// <summary>Where the browser is.</summary>
    public string Url => browser.Url;

    public void SignIn()
    {
        Open("/office/sign-in");
        Click("#demo-door");
        Until("signed in", () => browser.Url.Contains("/office/range"));
    }

    /// <summary>The address in the newest message to somebody that has one; for an owner.</summary>
    public string LinkTo(string email)
    {
        Open("/office/outbox");
        var body = (string)
            Run(
                """
                const rows = [...document.querySelectorAll('tbody tr')].filter(r => r.textContent.includes(arguments[0]));
                return rows.map(r => r.querySelector('pre').textContent).find(t => t.includes('http'));
                """,
                email
            )!;
        return new Uri(Regex.Match(body, "http\\S+").Value).PathAndQuery;
    }

    public IWebElement Find(string css)
    {
        IWebElement? found = null;
        Until($"{css} is there", () => (found = browser.FindElements(By.CssSelector(css)).FirstOrDefault(e => e.Displayed)) is not null);
        return found!;
    }

    /// <summary>How many of them are in the page, seen or not.</summary>
    public int Count(string css) => browser.FindElements(By.CssSelector(css)).Count;

    /// <summary>Whether it is in the page, seen or not.</summary>
    public bool Has(string css) => browser.FindElements(By.CssSelector(css)).Count > 0;

    /// <summary>
    /// Clicks it as a person would: once nothing is being drawn anew, it has stopped moving, and nothing lies over it. Else a click lands
    /// on what has just come to its place: so a story once failed where a page was gliding to its target, the longer the busier the
    /// machine.
    /// </summary>
    public void Click(string css)
    {
        var state = "";
        Until(
            $"{css} could be clicked",
            () =>
            {
                var found = Find(css);
                state = (string)Run(IsReady, found)!;
                if (state.Length > 0)
                    return false;
                found.Click();
                return true;
            },
            () => state
        );
    }

    /// <summary>Says why the element cannot be clicked yet; what is covered or out of sight is scrolled to the middle.</summary>
    private const string IsReady = """
        const el = arguments[0];
        // What comes by itself meanwhile, such as the proof of a margin, is waited for where it matters.
        const drawn = '.htmx-request:not(.script-only), .htmx-swapping, .htmx-settling';
        if (document.readyState === 'loading' || document.querySelector(drawn)) return 'It is being drawn anew.';
        const box = el.getBoundingClientRect();
        const place = [box.x, box.y, box.width, box.height].join();
        if (el.dataset.place !== place) { el.dataset.place = place; return 'It moves.'; }
        const top = document.elementFromPoint(box.x + box.width / 2, box.y + box.height / 2);
        if (top && (el.contains(top) || top.closest('label')?.contains(el))) { delete el.dataset.place; return ''; }
        el.scrollIntoView({ block: 'center', inline: 'center' });
        return top ? 'Over it lies ' + top.outerHTML.slice(0, 200) : 'It is out of sight.';
        """;

    /// <summary>Publishes the product of the workbench.</summary>
    public void Publish()
    {
        Click("#publish");
        Until("it is published", () => !Has("#publish"));
    }

    public string Text(string css) => Read(css, e => e.Text);

    /// <summary>An attribute of it, or what it stands for now (a box's <c>value</c>).</summary>
    public string? Attribute(string css, string name) => Read(css, e => e.GetAttribute(name));

    /// <summary>What stands in each of the boxes, as of one moment.</summary>
    public string[] Values(string css) =>
        [.. ((IEnumerable<object>)Run("return [...document.querySelectorAll(arguments[0])].map(e => e.value)", css)!).Cast<string>()];

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

    /// <summary>Chooses an entry of a list.</summary>
    public void Choose(string css, string value) => Fresh(() => Find(css).FindElement(By.CssSelector($"option[value='{value}']")).Click());

    public void Press(string keys) => Fresh(() => Focused.SendKeys(keys));

    /// <summary>Types into it, on from what stands there, and stays.</summary>
    public void Send(string css, string keys) => Fresh(() => Find(css).SendKeys(keys));

    public object? Run(string script, params object[] with) => browser.ExecuteScript(script, with);

    /// <summary>What axe-core finds on the page as it stands that is serious or critical; empty where nothing is.</summary>
    public string SeriousFindings() => Found("{}", "['serious', 'critical'].includes(v.impact)");

    /// <summary>What axe-core finds on the page as it stands by its rules for WCAG 2.2 AA and for good practice; empty where nothing
    /// is.</summary>
    public string Findings() =>
        Found("{ runOnly: { type: 'tag', values: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'] } }", "true");

    private string Found(string options, string counts)
    {
        browser.ExecuteScript(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "axe.min.js")));
        return (string)
            browser.ExecuteAsyncScript(
                $$"""
                const done = arguments[0];
                const told = n => n.html.slice(0, 160) + ' ' + (n.any[0]?.message ?? '');
                axe.run({ resultTypes: ['violations'], ...{{options}} }).then(r => done(r.violations.filter(v => {{counts}})
                  .map(v => v.id + ': ' + v.nodes.slice(0, 3).map(told).join(' | ')).join('\n')));
                """
            )!;
    }

    /// <param name="state">Says how things stand, for when it is waited in vain.</param>
    public void Until(string what, Func<bool> holds, Func<string>? state = null, TimeSpan? patience = null)
    {
        var end = DateTime.UtcNow + (patience ?? Patience);
        var last = "";
        while (true)
        {
            try
            {
                if (holds())
                    return;
            }
            catch (WebDriverException e)
            {
                // The page is changing under us; look again.
                last = Shortened(e.Message);
            }
            if (DateTime.UtcNow > end)
                throw new InvalidOperationException(
                    $"Waited in vain till {what}. {state?.Invoke()} {last} At {browser.Url}: " + $"{BodyText()}"
                );
            // Leaves the processor to browser and application between two looks.
            Thread.Sleep(15);
        }
    }

    private string BodyText() => Shortened(browser.FindElement(By.TagName("body")).Text);

    private static string Shortened(string text) => text.Length > 900 ? text[..900] + "…" : text;

    /// <summary>Where the page was drawn anew between looking and typing, nothing was typed yet; then what stands there now is
    /// taken.</summary>
    private void Fresh(Action act) => Until("it could be typed or read", () =>
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

    /// <summary>Reads of what is there; where the page is drawn anew between finding and reading, of what is there then.</summary>
    private T Read<T>(string css, Func<IWebElement, T> read)
    {
        T? found = default;
        Fresh(() => found = read(Find(css)));
        return found!;
    }

    private void Trying(Action act) => Until("it could be done", () =>
        {
            act();
            return true;
        });
}
