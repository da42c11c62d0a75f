namespace Unicus.Web.Shell;

/// <summary>Choices as forms and addresses name them.</summary>
public static class Named
{
    /// <summary>The choice with this name, letter case ignored; null where there is none. A number names nothing.</summary>
    public static T? Choice<T>(string? name)
        where T : struct, Enum
    {
        foreach (var value in Enum.GetValues<T>())
            if (string.Equals(value.ToString(), name, StringComparison.OrdinalIgnoreCase))
                return value;
        return null;
    }
}
