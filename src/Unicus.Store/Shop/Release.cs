using System.Reflection;

namespace Unicus.Store;

/// <summary>Which release of Unicus this is.</summary>
public static class Release
{
    /// <summary>Its version, as semver.org has it: “1.0.0”.</summary>
    public static string Version { get; } =
        typeof(Release).Assembly.GetCustomAttribute<AssemblyInformationalVersionAttribute>()!.InformationalVersion;
}
