using System.Collections.Concurrent;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace Unicus.Browser.Tests;

/// <summary>A browser that is handed on to the next story, emptied of all that the last one left in it: starting one takes longer than
/// most stories.</summary>
public sealed class KeptBrowser : ChromeDriver
{
    private static readonly ConcurrentDictionary<bool, ConcurrentBag<KeptBrowser>> Free = new();

    private readonly bool _script;
    private bool _ended;

    private KeptBrowser(ChromeDriverService service, ChromeOptions options, bool script)
        : base(service, options) => _script = script;

    /// <summary>One that is free, or a new one.</summary>
    public static KeptBrowser Get(int width, int height, bool script)
    {
        var browser = Free.GetOrAdd(script, _ => []).TryTake(out var free) ? free : Begin(script);
        browser.Shape(width, height);
        return browser;
    }

    /// <summary>Ends all that are free.</summary>
    public static void EndAll()
    {
        foreach (var bag in Free.Values)
            while (bag.TryTake(out var browser))
                browser.End();
    }

    /// <summary>Shows pages in this size; a narrow one as a phone does.</summary>
    public void Shape(int width, int height) =>
        ExecuteCdpCommand(
            "Emulation.setDeviceMetricsOverride",
            new Dictionary<string, object?>
            {
                ["width"] = width,
                ["height"] = height,
                ["deviceScaleFactor"] = 1,
                ["mobile"] = width < 500,
            }
        );

    /// <inheritdoc/>
    protected override void Dispose(bool disposing)
    {
        if (!disposing || _ended || !Emptied())
            base.Dispose(disposing);
        else
            Free[_script].Add(this);
    }

    private static KeptBrowser Begin(bool script)
    {
        var options = new ChromeOptions { BinaryLocation = "/usr/bin/chromium" };
        options.AddArguments(
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--window-size=1280,800"
        );
        options.SetLoggingPreference(LogType.Browser, LogLevel.All);
        if (!script)
            options.AddUserProfilePreference("profile.managed_default_content_settings.javascript", 2);
        var service = ChromeDriverService.CreateDefaultService("/usr/bin", "chromedriver");
        service.SuppressInitialDiagnosticInformation = true;
        var browser = new KeptBrowser(service, options, script);
        // A page that does not come fails its own story and not, by the five minutes that are usual, the time of all.
        browser.Manage().Timeouts().PageLoad = TimeSpan.FromMinutes(1);
        return browser;
    }

    /// <summary>Leaves one blank page without cookies, storage and messages; false where it could not.</summary>
    private bool Emptied()
    {
        try
        {
            foreach (var window in WindowHandles.Skip(1))
            {
                SwitchTo().Window(window);
                Close();
            }
            SwitchTo().Window(WindowHandles[0]);
            var origin = new Uri(Url).GetLeftPart(UriPartial.Authority);
            Navigate().GoToUrl("about:blank");
            ExecuteCdpCommand("Network.clearBrowserCookies", []);
            if (origin.StartsWith("http", StringComparison.Ordinal))
                ExecuteCdpCommand(
                    "Storage.clearDataForOrigin",
                    new Dictionary<string, object?> { ["origin"] = origin, ["storageTypes"] = "all" }
                );
            Manage().Logs.GetLog(LogType.Browser);
            return true;
        }
        catch (WebDriverException)
        {
            return false;
        }
    }

    private void End()
    {
        _ended = true;
        Dispose();
    }
}
