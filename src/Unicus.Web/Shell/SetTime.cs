using System.Globalization;

namespace Unicus.Web.Shell;

/// <summary>A clock that is ahead of the system's by so many seconds as a file says, so that tests can move to another day.</summary>
/// <param name="file">Its path; while it is not there, nothing is moved.</param>
public sealed class SetTime(string file) : TimeProvider
{
    /// <summary>The variable of the environment that names the file; never set where a shop is open.</summary>
    public const string Variable = "UNICUS_SET_TIME";

    public override DateTimeOffset GetUtcNow() => base.GetUtcNow() + Ahead();

    private TimeSpan Ahead()
    {
        try
        {
            return File.Exists(file) && double.TryParse(File.ReadAllText(file), CultureInfo.InvariantCulture, out var seconds)
                ? TimeSpan.FromSeconds(seconds)
                : TimeSpan.Zero;
        }
        catch (IOException)
        {
            return TimeSpan.Zero;
        }
    }
}
