namespace Unicus.Web.Shell;

/// <summary>What may be sent to pages that take files. Only who is signed in reaches them.</summary>
public static class Uploads
{
    /// <summary>Some pictures, or a film, in one request, in bytes.</summary>
    public const long LongestRequest = 64 * 1024 * 1024;
}
