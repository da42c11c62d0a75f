using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Office;

/// <summary>The log of what happened at the doors. For owners.</summary>
public sealed class EventsModel(EventLog log) : PageModel
{
    private const int OnPage = 100;

    public IReadOnlyList<LoggedEvent> Events { get; private set; } = [];
    public EventKind? Kind { get; private set; }

    /// <summary>Where the next page begins; null on the last.</summary>
    public long? Next { get; private set; }

    public async Task OnGet(string? kind, long? before)
    {
        Kind = Named.Choice<EventKind>(kind);
        var rows = await log.Page(Kind, before, OnPage + 1);
        Events = [.. rows.Take(OnPage)];
        Next = rows.Count > OnPage ? rows[OnPage - 1].Id : null;
    }

    public static string Words(EventKind kind) =>
        kind switch
        {
            EventKind.SignedIn => "signed in",
            EventKind.SignInRefused => "sign-in refused",
            EventKind.SignedOut => "signed out",
            EventKind.PasswordChanged => "password changed",
            EventKind.RecoveryAsked => "new password asked for",
            EventKind.SecondFactor => "second factor",
            EventKind.People => "people",
            EventKind.Keys => "keys",
            EventKind.Settings => "settings",
            EventKind.Erased => "buyer erased",
            _ => kind.ToString(),
        };
}
