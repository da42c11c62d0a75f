using Microsoft.AspNetCore.Mvc.ApplicationModels;
using Microsoft.AspNetCore.Mvc.Authorization;

namespace Unicus.Web.Shell;

/// <summary>Every page whose address lies under <c>/office</c> is for people of the shop, but for the one where they sign in.</summary>
public static class OfficeDoor
{
    private const string Office = "office";
    private const string SignIn = "office/sign-in";

    /// <summary>Closes a page to strangers, by its address rather than by its folder, so that no new place is forgotten.</summary>
    public static void Close(PageApplicationModel page)
    {
        var template = page.ActionDescriptor.AttributeRouteInfo?.Template ?? "";
        if (template.StartsWith(Office, StringComparison.OrdinalIgnoreCase) && template != SignIn)
            page.Filters.Add(new AuthorizeFilter(Office));
    }
}
