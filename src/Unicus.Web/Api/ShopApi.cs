using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Web.Api;

/// <summary>The shop's settings over HTTP.</summary>
public static class ShopApi
{
    public static void MapShop(this RouteGroupBuilder api)
    {
        api.MapGet("/shop", Get).Describe("The settings of the shop", c => c.Gives(200, "Shop").Tagged());
        api.MapPut("/shop", Put)
            .WithMetadata(new NeededScope(ApiScopes.Products))
            .Describe("Replaces the settings; what is left out stands as in an empty shop, name and time zone as they are", c =>
                c.Takes("Shop").Gives(200, "Shop").Tagged().Refuses(409, "Something that is in use would go.")
            );
    }

    private static async Task<IResult> Get(ShopReading reading, HttpResponse response)
    {
        var shop = await reading.SettingsAfresh();
        response.Headers.ETag = $"\"{shop.Version}\"";
        return Bodies.Json(Write(shop));
    }

    private static JsonObject Write(ShopSettings shop)
    {
        var json = TermsDocument.Write(shop.Terms);
        json.Insert(0, "name", shop.Name);
        json.Insert(2, "timeZone", shop.TimeZone.Id);
        return json;
    }

    private static Task<IResult> Put(HttpRequest request, HttpResponse response, ShopReading reading, ChangeSettings change) =>
        Bodies.With(request, async body =>
        {
            var shop = await reading.SettingsAfresh();
            if (
                request.Headers.IfMatch.ToString() is { Length: > 0 } tag
                && tag != "*"
                && tag.Trim('"') != shop.Version.ToString(CultureInfo.InvariantCulture)
            )
                return Problems.Of(412, "The settings have changed since; get them again.");
            var (root, faults) = (body.Root, body.Faults);
            if (!root.IsObject("settings"))
                return Problems.Unfit(faults);
            root.Only(["name", "timeZone", .. TermsDocument.Members]);
            var name = root.Has("name") ? root.Label("name") : shop.Name;
            var timeZone = root.Text("timeZone", 64) ?? shop.TimeZone.Id;
            var usual = ShopSettings.EmptyTerms with { Currency = shop.Currency };
            var terms = TermsDocument.Read(root, usual);
            if (faults.Count > 0)
                return Problems.Unfit(faults);
            var outcome = await change.Run(
                WantedSettings.Of(shop) with
                {
                    Name = name,
                    TimeZone = timeZone,
                    Terms = terms,
                },
                ApiEndpoints.Program
            );
            if (outcome.Done)
                return await Get(reading, response);
            var told = outcome.Faults.Select(f => f with { Where = f.Where.Length == 0 ? "#" : $"#/{f.Where}" }).ToList();
            return told.Any(f => f.Where is "#/currency" or "#")
                ? Problems.Of(409, "The settings cannot be changed like this.", told)
                : Problems.Unfit(told);
        });
}
