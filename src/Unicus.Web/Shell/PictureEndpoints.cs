using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>Serves pictures from the store in three sizes, and films in slices.</summary>
public static class PictureEndpoints
{
    private const string Kept = "public, max-age=604800";

    public static void MapPictures(this WebApplication app)
    {
        app.MapGet("/pictures/{size}/{file}", Picture).ExcludeFromDescription();
        app.MapGet(ProductVideo.Kept + "{file}", Film).ExcludeFromDescription();
    }

    private static async Task<IResult> Picture(string size, string file, PictureStore pictures, HttpContext context)
    {
        if (await pictures.Find(file, size, context.RequestAborted) is not { } picture)
            return Results.NotFound();
        context.Response.Headers.CacheControl = Kept;
        context.Response.Headers.ContentSecurityPolicy = "default-src 'none'; style-src 'unsafe-inline'; sandbox";
        return Results.Bytes(picture.Bytes, picture.ContentType);
    }

    /// <summary>A film is read from the database piece by piece, so that it never stands in memory whole, however many watch
    /// it.</summary>
    private static async Task<IResult> Film(string file, VideoStore videos, FairShare share, HttpContext context)
    {
        if (await videos.Find(file, context.RequestAborted) is not { } film)
            return Results.NotFound();
        context.Response.Headers.CacheControl = Kept;
        return Results.Stream(
            new FilmStream(videos, film, share, Strangers.AddressOf(context)),
            film.ContentType,
            enableRangeProcessing: true
        );
    }
}
