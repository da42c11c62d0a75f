using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Web.Office;

/// <summary>The simulated mail stand-in: the newest messages.</summary>
public sealed class OutboxModel(UnicusContext db) : PageModel
{
    public IReadOnlyList<OutboxMessage> Messages { get; private set; } = [];

    public async Task OnGet()
    {
        var isOwner = User.IsInRole(Roles.Owner);
        Messages = await db.Outbox.AsNoTracking().Where(m => !m.IsPrivate || isOwner).OrderByDescending(m => m.Id).Take(100).ToListAsync();
    }
}
