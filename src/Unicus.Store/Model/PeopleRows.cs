namespace Unicus.Store;

/// <summary>Somebody who works in the back office.</summary>
internal sealed class PersonRow
{
    public string Id { get; set; } = Guid.NewGuid().ToString("N");

    /// <summary>As typed.</summary>
    public required string Email { get; set; }

    /// <summary>In capitals; unique.</summary>
    public required string EmailKey { get; set; }

    public string Name { get; set; } = "";

    /// <summary>Null until they have chosen one.</summary>
    public string? PasswordHash { get; set; }

    /// <summary>Another one with each password, so that what was signed for the old one is worth nothing.</summary>
    public required string Stamp { get; set; }

    public bool HasSecondFactor { get; set; }

    /// <summary>What they may do: one of <see cref="Roles"/>.</summary>
    public string Role { get; set; } = Roles.Staff;

    public DateTimeOffset AddedAt { get; set; }

    /// <summary>Since when they may not come in any more; null while they may.</summary>
    public DateTimeOffset? RemovedAt { get; set; }

    /// <summary>The secret of the second factor, encrypted; null without one.</summary>
    public string? CodeSecret { get; set; }

    /// <summary>The time step of the newest code that was used, so that none is used twice.</summary>
    public long CodeStep { get; set; }

    /// <summary>SHA-256 of the spare codes that were not used yet.</summary>
    public string[] SpareCodes { get; set; } = [];

    /// <summary>SHA-256 of the token in the link to a new password; null where none is out.</summary>
    public string? LinkHash { get; set; }

    public DateTimeOffset? LinkUntil { get; set; }
}

/// <summary>What people may do.</summary>
public static class Roles
{
    /// <summary>Everything: also money settings, people and keys.</summary>
    public const string Owner = "owner";

    /// <summary>The day's work: goods, prices, stock, orders.</summary>
    public const string Staff = "staff";

    /// <summary>Both of them.</summary>
    public static IReadOnlyList<string> All { get; } = [Owner, Staff];
}

/// <summary>One stay of somebody who signed in, of the back office or of the shop.</summary>
internal sealed class SessionRow
{
    /// <summary>SHA-256 of the key in the cookie, so that whoever reads this table cannot come in.</summary>
    public required string Id { get; set; }

    /// <summary>The scheme that it belongs to: people or customers.</summary>
    public required string Scheme { get; set; }

    /// <summary>Whose it is, within the scheme.</summary>
    public required string Owner { get; set; }

    public DateTimeOffset StartedAt { get; set; }
    public DateTimeOffset SeenAt { get; set; }
    public DateTimeOffset EndsAt { get; set; }
    public string Address { get; set; } = "";

    /// <summary>“Firefox on Linux”.</summary>
    public string Device { get; set; } = "";

    public required byte[] Ticket { get; set; }
}

/// <summary>What happened at the doors of the shop.</summary>
internal sealed class EventRow
{
    public long Id { get; set; }
    public DateTimeOffset At { get; set; }
    public EventKind Kind { get; set; }

    /// <summary>Who did it, as people know them; empty for strangers.</summary>
    public string By { get; set; } = "";

    /// <summary>The account, key or setting that it is about, in small letters.</summary>
    public string Subject { get; set; } = "";

    public string Text { get; set; } = "";
    public string Address { get; set; } = "";
}

/// <summary>The kinds of <see cref="EventRow"/>; kept by name.</summary>
public enum EventKind
{
    SignedIn,
    SignInRefused,
    SignedOut,
    PasswordChanged,
    RecoveryAsked,
    SecondFactor,
    People,
    Keys,
    Settings,
    Erased,
}

/// <summary>A key for the HTTP interface.</summary>
internal sealed class ApiKeyRow
{
    public int Id { get; set; }
    public required string Name { get; set; }

    /// <summary>The first characters of the key, by which people know it again.</summary>
    public required string Start { get; set; }

    /// <summary>SHA-256 of the key, in hexadecimal digits.</summary>
    public required string Hash { get; set; }

    /// <summary>What it may do: of <see cref="ApiScopes"/>.</summary>
    public string[] Scopes { get; set; } = [];

    public DateTimeOffset MadeAt { get; set; }
    public required string MadeBy { get; set; }

    /// <summary>To the minute; null: never.</summary>
    public DateTimeOffset? UsedAt { get; set; }

    public DateTimeOffset? WithdrawnAt { get; set; }
}
