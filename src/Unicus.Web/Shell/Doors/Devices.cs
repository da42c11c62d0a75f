namespace Unicus.Web.Shell;

/// <summary>Words for the browser and the system that somebody comes with, so that they know their own again.</summary>
public static class Devices
{
    // The first that is found counts: browsers name others beside themselves.
    private static readonly string[] Browsers = ["Edg", "OPR", "Firefox", "Chrome", "Safari", "curl"];
    private static readonly string[] Systems = ["Android", "iPhone", "iPad", "Windows", "Mac OS", "Linux"];

    /// <summary>“Firefox on Linux”; “a program” where the header says nothing known.</summary>
    public static string Named(string userAgent)
    {
        var browser = Browsers.FirstOrDefault(b => userAgent.Contains(b, StringComparison.Ordinal)) switch
        {
            "Edg" => "Edge",
            "OPR" => "Opera",
            { } name => name,
            null => "a program",
        };
        return Systems.FirstOrDefault(s => userAgent.Contains(s, StringComparison.Ordinal)) is { } system
            ? $"{browser} on {system}"
            : browser;
    }
}
