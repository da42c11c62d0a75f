using Microsoft.AspNetCore.Mvc.Filters;

namespace Unicus.Web.Shell;

/// <summary>Amounts as shoppers read them, in the form of the shop's language and country, for as long as a page is made.</summary>
public static class ShopForm
{
    private static readonly AsyncLocal<PriceForm?> Current = new();

    /// <summary>“€12.00”.</summary>
    public static string ForShoppers(this Money amount) => Current.Value?.Text(amount) ?? amount.ForPeople();

    /// <summary>Sets the form before a page is made and written.</summary>
    public sealed class Filter : IAsyncResourceFilter
    {
        public async Task OnResourceExecutionAsync(ResourceExecutingContext context, ResourceExecutionDelegate next)
        {
            var shop = await context.HttpContext.RequestServices.GetRequiredService<Visit>().Shop();
            Current.Value = shop.PriceForm;
            await next();
        }
    }
}
