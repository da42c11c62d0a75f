namespace Unicus.Store;

/// <summary>Messages about somebody's account, to its email.</summary>
internal static class AccountMessages
{
    /// <summary>So long a link to a password works.</summary>
    public static readonly TimeSpan LinkLasts = TimeSpan.FromHours(2);

    /// <summary>So long no other one is sent, however often it is asked for.</summary>
    private static readonly TimeSpan Pause = TimeSpan.FromMinutes(1);

    /// <summary>Whether a link was sent a moment ago: the message is on its way, and its link stays good.</summary>
    /// <param name="until">When it ends; null for none.</param>
    public static bool IsJustSent(DateTimeOffset? until, DateTimeOffset now) => until > now + LinkLasts - Pause && until <= now + LinkLasts;

    /// <summary>Leads somebody who asked for it to a new password.</summary>
    /// <param name="link">The address that opens the account.</param>
    public static OutboxMessage NewPassword(string shop, string to, string link, DateTimeOffset at) =>
        Opening(
            $"{shop}: a new password",
            to,
            $"Somebody, we hope you, asked for a new password. Choose it here within two hours:\n\n{link}",
            at
        );

    /// <summary>Leads somebody who asked for an account to its password.</summary>
    public static OutboxMessage Welcome(string shop, string to, string link, DateTimeOffset at) =>
        Opening(
            $"{shop}: your account",
            to,
            $"Somebody, we hope you, asked for an account with this email. Choose its password here within two hours:\n\n{link}",
            at
        );

    /// <summary>Tells somebody who asked for an account that they have one.</summary>
    public static OutboxMessage HasOne(string shop, string to, string link, DateTimeOffset at) =>
        Opening(
            $"{shop}: your account",
            to,
            "Somebody, we hope you, asked for an account with this email. There is one already. "
                + $"If you no longer know its password, choose a new one here within two hours:\n\n{link}",
            at
        );

    /// <summary>Tells what changed about an account, should it not have been they.</summary>
    /// <param name="what">A sentence.</param>
    public static OutboxMessage Changed(string shop, string to, string what, DateTimeOffset at) =>
        new()
        {
            To = to,
            Subject = $"{shop}: your account was changed",
            Body = $"{what}\n\nIf it was not you, have a new password sent and tell the shop.",
            At = at,
        };

    private static OutboxMessage Opening(string subject, string to, string body, DateTimeOffset at) =>
        new()
        {
            To = to,
            Subject = subject,
            Body = $"{body}\n\nIf it was not you, leave it: nothing changes.",
            At = at,
            IsPrivate = true,
        };
}
