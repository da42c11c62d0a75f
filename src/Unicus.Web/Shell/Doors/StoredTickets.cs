using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>Keeps who has signed in in the database; the cookie holds no more than a key, which is worth nothing once the stay has
/// ended.</summary>
/// <param name="scheme">Whose stays these are.</param>
public sealed class StoredTickets(IHttpContextAccessor http, string scheme) : ITicketStore
{
    private HttpContext Context => http.HttpContext ?? throw new InvalidOperationException("Nobody signs in outside a request.");

    private Sessions Sessions => Context.RequestServices.GetRequiredService<Sessions>();

    /// <summary>The stay that a request belongs to; null for none.</summary>
    public static string? StayOf(HttpContext context, string scheme) => context.Items[ItemOf(scheme)] as string;

    /// <inheritdoc/>
    public async Task<string> StoreAsync(AuthenticationTicket ticket)
    {
        var owner = ticket.Principal.FindFirst(System.Security.Claims.ClaimTypes.NameIdentifier)!.Value;
        var caller = Context.RequestServices.GetRequiredService<Visit>().Caller;
        return Note(await Sessions.Begin(scheme, owner, caller, TicketSerializer.Default.Serialize(ticket), EndOf(ticket)));
    }

    /// <inheritdoc/>
    public Task RenewAsync(string key, AuthenticationTicket ticket) =>
        Sessions.Renew(key, TicketSerializer.Default.Serialize(ticket), EndOf(ticket));

    /// <inheritdoc/>
    public async Task<AuthenticationTicket?> RetrieveAsync(string key)
    {
        if (await Sessions.Read(key) is not { } ticket)
            return null;
        Note(key);
        return TicketSerializer.Default.Deserialize(ticket);
    }

    /// <inheritdoc/>
    public Task RemoveAsync(string key) => Sessions.End(key);

    private string Note(string key)
    {
        Context.Items[ItemOf(scheme)] = Secrets.HashOf(key);
        return key;
    }

    private static string ItemOf(string scheme) => $"stay of {scheme}";

    private static DateTimeOffset EndOf(AuthenticationTicket ticket) =>
        ticket.Properties.ExpiresUtc ?? throw new InvalidOperationException("A ticket of ours says when it ends.");
}
