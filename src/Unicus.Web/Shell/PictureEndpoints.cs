using Microsoft.EntityFrameworkCore;
using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>Serves pictures from the store in three sizes, and films in parts as they are asked for.</summary>
public static class PictureEndpoints
{
    public static void MapPictures(this WebApplication app)
    {
        app.MapGet("/pictures/{size}/{file}", async (string size, string file, UnicusContext db, HttpContext context) =>
    {
        var row = await db.Pictures.Where(p => p.File == file)
            .Select(p => new { p.ContentType, Bytes = size == "large" ? p.Large : size == "medium" ? p.Medium : p.Small }).FirstOrDefaultAsync();
        if (row is null) return Results.NotFound();
        context.Response.Headers.CacheControl = "public, max-age=604800";
        context.Response.Headers.ContentSecurityPolicy = "default-src 'none'; style-src 'unsafe-inline'; sandbox";
        return Results.Bytes(row.Bytes, row.ContentType);
    }).ExcludeFromDescription();
        app.MapGet(ProductVideo.Kept + "{file}", async (string file, UnicusContext db, HttpContext context) =>
        {
            var row = await db.Videos.AsNoTracking().FirstOrDefaultAsync(v => v.File == file);
            if (row is null) return Results.NotFound();
            context.Response.Headers.CacheControl = "public, max-age=604800";
            return Results.Bytes(row.Content, row.ContentType, enableRangeProcessing: true);
        }).ExcludeFromDescription();
    }
}
