using System.Security.Claims;
using Microsoft.AspNetCore.Authentication;
using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>Lets people and customers in once they have proved who they are, and lets them out.</summary>
public static class Entering
{
    /// <summary>The cookie by which a device is known on which somebody came in.</summary>
    public const string DeviceCookie = "unicus-device";

    /// <summary>Begins a stay in the back office.</summary>
    /// <param name="device">What the device keeps of it; null: nothing.</param>
    public static Task LetIn(this HttpContext context, Person person, string? device)
    {
        KeepDevice(context, device);
        return context.SignInAsync(
            ChangePeople.Scheme,
            Principal(
                ChangePeople.Scheme,
                new Claim(ClaimTypes.NameIdentifier, person.Id),
                new Claim(ClaimTypes.Name, person.Name),
                new Claim(ClaimTypes.Role, person.Role)
            )
        );
    }

    /// <summary>Begins a stay of a customer.</summary>
    /// <param name="device">What the device keeps of it.</param>
    public static Task LetIn(this HttpContext context, Customer customer, string device)
    {
        KeepDevice(context, device);
        var id = customer.Id.ToString(System.Globalization.CultureInfo.InvariantCulture);
        return context.SignInAsync(
            CustomerAccounts.Scheme,
            Principal(CustomerAccounts.Scheme, new Claim(ClaimTypes.NameIdentifier, id)),
            new AuthenticationProperties { IsPersistent = true }
        );
    }

    /// <summary>Who of the back office asks; empty where nobody has signed in.</summary>
    public static string PersonId(this ClaimsPrincipal user) => user.FindFirst(ClaimTypes.NameIdentifier)?.Value ?? "";

    private static ClaimsPrincipal Principal(string scheme, params Claim[] claims) => new(new ClaimsIdentity(claims, scheme));

    private static void KeepDevice(HttpContext context, string? device)
    {
        if (device is not null)
            context.Response.Cookies.Append(
                DeviceCookie,
                device,
                new CookieOptions
                {
                    HttpOnly = true,
                    SameSite = SameSiteMode.Lax,
                    Secure = context.Request.IsHttps,
                    MaxAge = Tries.DevicesKnown,
                }
            );
    }
}
