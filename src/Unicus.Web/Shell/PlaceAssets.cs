using Microsoft.Extensions.FileProviders;
using Microsoft.Extensions.Primitives;

namespace Unicus.Web.Shell;

/// <summary>Serves the .js files that lie beside the pages that use them, under <c>/places/…</c>; nothing else of the
/// folders.</summary>
public sealed class PlaceAssets(string root) : IFileProvider, IDisposable
{
    private static readonly string[] Places = ["Range", "Workbench", "Stock", "Orders", "Shop", "Pricing", "Shell"];
    private readonly PhysicalFileProvider _files = new(root);

    public IFileInfo GetFileInfo(string subpath)
    {
        var pieces = subpath.Split('/', StringSplitOptions.RemoveEmptyEntries);
        var fits =
            pieces.Length >= 3 && pieces[0] == "places" && Places.Contains(pieces[1]) && subpath.EndsWith(".js", StringComparison.Ordinal);
        return fits ? _files.GetFileInfo(string.Join('/', pieces[1..])) : new NotFoundFileInfo(subpath);
    }

    public IDirectoryContents GetDirectoryContents(string subpath) => NotFoundDirectoryContents.Singleton;

    public IChangeToken Watch(string filter) => NullChangeToken.Singleton;

    public void Dispose() => _files.Dispose();
}
