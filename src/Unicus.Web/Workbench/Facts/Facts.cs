using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>The chapter Facts: pictures, and what can be added with one click.</summary>
public sealed partial class WorkbenchModel
{
    public IReadOnlyList<string> OtherCategories => Others(db.Categories.Select(c => c.Name), Copy.Product.Categories);

    public IReadOnlyList<string> OtherTags => Others(db.Products.SelectMany(p => p.Tags).Distinct(), Copy.Product.Tags);

    public async Task<IActionResult> OnPostUpload(List<IFormFile> files)
    {
        var kept = new List<ProductPicture>();
        foreach (var file in files)
        {
            await using var stream = new MemoryStream();
            await file.CopyToAsync(stream);
            var read = await pictures.Keep(file.FileName, stream.ToArray());
            if (!read.Ok) return await Answer(Outcome.No("files", $"No picture was added: {read.Problem}"));
            kept.Add(new ProductPicture(read.Value!, "", null));
        }
        if (kept.Count == 0) return await Answer(Outcome.No("files", "Choose at least one picture."));
        return await Answer(await changeProduct.Apply(Code, kept.Count == 1 ? "A picture" : $"{kept.Count} pictures", visit.Actor, copy =>
            Read<Product>.Of(copy.Product with { Pictures = [.. copy.Product.Pictures, .. kept.Where(k => copy.Product.Pictures.All(p => p.File != k.File))] })));
    }

    /// <summary>Changes, moves or takes out one picture.</summary>
    public async Task<IActionResult> OnPostPicture(string file, string? alt, string? shows, string? act)
    {
        return await Answer(await changeProduct.Apply(Code, act == "out" ? "A picture taken out" : act == "up" ? "Order of pictures" : "A picture's words", visit.Actor, copy =>
        {
            var list = copy.Product.Pictures;
            var at = list.Select((p, i) => (p, i)).FirstOrDefault(x => x.p.File == file, (null!, -1)).Item2;
            if (at < 0) return Read<Product>.No("That picture was taken out meanwhile.");
            if (act == "out") return Read<Product>.Of(copy.Product with { Pictures = list.RemoveAt(at) });
            if (act == "up" && at > 0) return Read<Product>.Of(copy.Product with { Pictures = list.RemoveAt(at).Insert(at - 1, list[at]) });
            var pair = (shows ?? "").Split('=');
            (Key, Key)? target = pair.Length == 2 && Key.TryParse(pair[0], out var o) && Key.TryParse(pair[1], out var v) && copy.Product.Options.FirstOrDefault(x => x.Key == o)?.Find(v) is not null ? (o, v) : null;
            var changed = list[at] with { Alt = (alt ?? "").Trim(), Shows = target };
            return changed.Alt.Length > 500 ? Read<Product>.No("At most 500 characters describe a picture.") : Read<Product>.Of(copy.Product with { Pictures = list.SetItem(at, changed) });
        }), act == "out" ? "Picture taken out" : null, canUndo: act == "out");
    }

    private static List<string> Others(IQueryable<string> all, IEnumerable<string> taken)
    {
        var has = taken.ToHashSet(StringComparer.OrdinalIgnoreCase);
        return [.. all.ToList().Where(n => !has.Contains(n)).Order(StringComparer.OrdinalIgnoreCase).Take(12)];
    }
}
