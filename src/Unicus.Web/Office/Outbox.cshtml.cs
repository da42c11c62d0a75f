using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;

namespace Unicus.Web.Office;

/// <summary>The simulated mail stand-in: the newest messages.</summary>
public sealed class OutboxModel(Outbox outbox) : PageModel
{
    public IReadOnlyList<Message> Messages { get; private set; } = [];

    public async Task OnGet()
    {
        Messages = await outbox.Newest(withPrivate: User.IsInRole(Roles.Owner), 100);
    }
}
