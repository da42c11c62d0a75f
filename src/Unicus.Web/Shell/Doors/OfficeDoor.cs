using Microsoft.AspNetCore.Mvc.ApplicationModels;
using Microsoft.AspNetCore.Mvc.Authorization;

namespace Unicus.Web.Shell;

/// <summary>Every page whose address lies under <c>/office</c> is for people of the shop, but for those where they sign in.</summary>
public static class OfficeDoor
{
    private const string Office = "office";
    private static readonly string[] Doors = ["office/sign-in", "office/new-password", "office/first"];

    /// <summary>Closes a page to strangers, by its address rather than by its folder, so that no new place is forgotten.</summary>
    public static void Close(PageApplicationModel page)
    {
        var template = page.ActionDescriptor.AttributeRouteInfo?.Template ?? "";
        if (template.StartsWith(Office, StringComparison.OrdinalIgnoreCase) && !Doors.Contains(template))
            page.Filters.Add(new AuthorizeFilter(Office));
    }
}
