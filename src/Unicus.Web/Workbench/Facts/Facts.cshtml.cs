using System.Collections.Immutable;
using Microsoft.AspNetCore.Mvc;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>The chapter Facts: pictures, and what can be added with one click.</summary>
public sealed class FactsChapter(Bench bench, PictureStore pictures, CategoryTree categories) : ChapterModel(bench)
{
    public override Chapter Chapter => Chapter.Facts;

    public async Task<IReadOnlyList<string>> OtherCategories() => Others(await categories.Names(), Copy.Product.Categories);

    public async Task<IReadOnlyList<string>> OtherTags() => Others(await Goods.Tags(), Copy.Product.Tags);

    /// <summary>The specifications that products of its categories usually have, and those it has not yet.</summary>
    public async Task<IReadOnlyList<string>> UsualSpecifications() =>
        [
            .. (await categories.Named(Copy.Product.Categories))
                .SelectMany(c => c.Specifications)
                .Distinct()
                .Where(l => Copy.Product.Specifications.All(s => s.Label != l)),
        ];

    /// <summary>The codes of other products with the same name.</summary>
    public Task<IReadOnlyList<string>> SameName() => Goods.NamedAlike(Copy, 5);

    public async Task<IActionResult> OnPostUpload(List<IFormFile> files)
    {
        if (!await LookAtGoods(VariantScope.None))
            return NotFound();
        var (kept, refused) = (new List<ProductPicture>(), new List<string>());
        foreach (var file in files)
        {
            await using var stream = new MemoryStream();
            await file.CopyToAsync(stream);
            var read = await pictures.Keep(file.FileName, stream.ToArray());
            if (read.Ok)
                kept.Add(new ProductPicture(read.Value!, "", NamedLike(file.FileName, Copy.Product)));
            else
                refused.Add(read.Problem!);
        }
        if (kept.Count == 0)
            return await Answer(
                Outcome.No(
                    "files",
                    refused.Count == 0 ? "Choose at least one picture." : $"No picture was added: {string.Join(' ', refused)}"
                )
            );
        var shown = kept.Count(k => k.Shows is not null);
        var said = string.Join(
            ' ',
            new[]
            {
                $"{kept.Count} {(kept.Count == 1 ? "picture" : "pictures")} added.",
                shown > 0 ? $"{shown} named like a value {(shown == 1 ? "shows" : "show")} it; change that under Shows." : "",
                refused.Count > 0 ? $"Not added: {string.Join(' ', refused)}" : "",
            }.Where(t => t.Length > 0)
        );
        return await Answer(
            await Products.Apply(Code, kept.Count == 1 ? "A picture" : $"{kept.Count} pictures", Visit.Actor, copy =>
                Read<Product>.Of(
                    copy.Product with
                    {
                        Pictures = [.. copy.Product.Pictures, .. kept.Where(k => copy.Product.Pictures.All(p => p.File != k.File))],
                    }
                )
            ),
            shown + refused.Count > 0 ? said : null
        );
    }

    /// <summary>The value that a file is named for: “coat_dark-green.jpg” for Dark green; null where none or several are.</summary>
    private static (Key Option, Key Value)? NamedLike(string file, Product product)
    {
        var name = $"-{Slug.From(Path.GetFileNameWithoutExtension(file), 200)}-";
        var found = (
            from shown in product.Showable
            let slug = Slug.From(shown.Value.Label, 120)
            where slug.Length > 0 && name.Contains($"-{slug}-", StringComparison.Ordinal)
            orderby slug.Length descending
            select (shown.Question.Key, shown.Value.Key, slug.Length)
        ).ToList();
        return found.Count == 1 || (found.Count > 1 && found[0].Length > found[1].Length) ? (found[0].Item1, found[0].Item2) : null;
    }

    /// <summary>Whether a picture can be put together from those of its parts.</summary>
    public async Task<bool> HasPicturesOfParts() =>
        Copy.Product.Pictures.IsEmpty && Copy.Product.Parts is { Slots.IsEmpty: false } && (await PicturesOfParts()).Count > 0;

    /// <summary>The leading picture of a part of each slot.</summary>
    private async Task<IReadOnlyList<string>> PicturesOfParts()
    {
        if (await Reading.Working(Code) is not { Draft: { Product.Parts: not null } draft })
            return [];
        var range = await Reading.Range(draft);
        return
        [
            .. draft
                .Product.SlotsInRange.Select(s =>
                    s.Candidates.Select(c => PartOnSale.Of(c, range)?.Edition.Product.Pictures.FirstOrDefault()?.File)
                        .FirstOrDefault(f => f is not null)
                )
                .OfType<string>(),
        ];
    }

    /// <summary>Puts a picture together from those of its parts.</summary>
    public async Task<IActionResult> OnPostPictureOfParts([FromServices] PicturesTogether together)
    {
        if (await together.Put(await PicturesOfParts()) is not { } file)
            return await Answer(Outcome.No("", "Its parts have no pictures."));
        return await Answer(
            await Products.Apply(Code, "A picture put together from its parts", Visit.Actor, copy =>
                Read<Product>.Of(
                    copy.Product.Pictures.Any(p => p.File == file)
                        ? copy.Product
                        : copy.Product with
                        {
                            Pictures = copy.Product.Pictures.Add(new ProductPicture(file, $"What is in {copy.Product.Name}", null)),
                        }
                )
            )
        );
    }

    /// <summary>Changes, moves or takes out one picture.</summary>
    public async Task<IActionResult> OnPostPicture(string file, string? alt, string? shows, string? act)
    {
        return await Answer(
            await Products.Apply(
                Code,
                act == "out" ? "A picture removed"
                    : act == "up" ? "Order of pictures"
                    : "A picture's words",
                Visit.Actor,
                copy =>
                {
                    var list = copy.Product.Pictures;
                    var at = list.Select((p, i) => (p, i)).FirstOrDefault(x => x.p.File == file, (null!, -1)).Item2;
                    if (at < 0)
                        return Read<Product>.No("That picture was removed meanwhile.");
                    if (act == "out")
                        return Read<Product>.Of(copy.Product with { Pictures = list.RemoveAt(at) });
                    if (act == "up" && at > 0)
                        return Read<Product>.Of(copy.Product with { Pictures = list.RemoveAt(at).Insert(at - 1, list[at]) });
                    var pair = (shows ?? "").Split('=');
                    (Key, Key)? target =
                        pair.Length == 2
                        && Key.TryParse(pair[0], out var o)
                        && Key.TryParse(pair[1], out var v)
                        && copy.Product.Showable.Any(s => s.Question.Key == o && s.Value.Key == v)
                            ? (o, v)
                            : null;
                    var changed = list[at] with { Alt = (alt ?? "").Trim(), Shows = target };
                    return changed.Alt.Length > 500
                        ? Read<Product>.No("At most 500 characters describe a picture.")
                        : Read<Product>.Of(copy.Product with { Pictures = list.SetItem(at, changed) });
                }
            ),
            act == "out" ? "Picture removed" : null,
            canUndo: act == "out"
        );
    }

    /// <summary>Changes, adds (at the end) or takes out one specification.</summary>
    public async Task<IActionResult> OnPostSpecification(int at, string? label, string? value, string? act) =>
        await Answer(await Products.Apply(Code, "A specification", Visit.Actor, copy =>
            {
                var list = copy.Product.Specifications;
                var typed = new Specification((label ?? "").Trim(), (value ?? "").Trim());
                if (typed.Label.Length > 80 || typed.Value.Length > 400)
                    return Read<Product>.No("A specification has a name of at most 80 and a value of at most 400 characters.");
                if (at < 0 || at > list.Length)
                    return Read<Product>.No("That specification was removed meanwhile.");
                if (at < list.Length && (act == "out" || typed == new Specification("", "")))
                    return Read<Product>.Of(copy.Product with { Specifications = list.RemoveAt(at) });
                if (typed.Label.Length == 0 || typed.Value.Length == 0)
                    return Read<Product>.No("A specification needs a name and a value, such as Reach and Up to 150 kg.");
                return Read<Product>.Of(
                    copy.Product with
                    {
                        Specifications = at == list.Length ? list.Add(typed) : list.SetItem(at, typed),
                    }
                );
            }), act == "out" ? "Specification removed" : null, canUndo: act == "out");

    /// <summary>Changes, adds (at the end) or takes out one passage.</summary>
    public async Task<IActionResult> OnPostPassage(int at, string? heading, string? text, string? act) =>
        await Answer(await Products.Apply(Code, "A passage", Visit.Actor, copy =>
            {
                var list = copy.Product.Passages;
                var typed = new Passage((heading ?? "").Trim(), ProductFields.FromPlain(text ?? ""));
                if (typed.Heading.Length > 120 || typed.Text.Length > Product.LongestDescription)
                    return Read<Product>.No("A heading has at most 120 characters, a passage at most 100,000.");
                if (at < 0 || at > list.Length)
                    return Read<Product>.No("That passage was removed meanwhile.");
                if (at < list.Length && (act == "out" || (typed.Heading.Length == 0 && typed.Text.Length == 0)))
                    return Read<Product>.Of(copy.Product with { Passages = list.RemoveAt(at) });
                if (typed.Heading.Length == 0)
                    return Read<Product>.No("A passage needs a heading, such as Care.");
                return Read<Product>.Of(copy.Product with { Passages = at == list.Length ? list.Add(typed) : list.SetItem(at, typed) });
            }), act == "out" ? "Passage removed" : null, canUndo: act == "out");

    /// <summary>Adds a film: one that is sent, or an address on a host that the shop allows.</summary>
    /// <summary>How addresses end that browsers play as they are.</summary>
    private static readonly string[] FilmEndings = [".mp4", ".webm", ".m4v", ".ogv"];

    public async Task<IActionResult> OnPostVideo([FromServices] VideoStore videos, IFormFile? file, string? address, string? title)
    {
        var typed = (address ?? "").Trim();
        if (file is { Length: > 0 })
        {
            await using var stream = new MemoryStream();
            await file.CopyToAsync(stream);
            var kept = await videos.Keep(file.FileName, stream.ToArray());
            if (!kept.Ok)
                return await Answer(Outcome.No("videos", kept.Problem!));
            typed = kept.Value!;
        }
        var video = new ProductVideo(typed, (title ?? "").Trim() is var t && t.Length > 120 ? t[..120] : t);
        var allowed = (await Visit.Shop()).VideoHosts;
        if (!ProductVideo.IsAddress(typed))
            return await Answer(Outcome.No("videos", "Choose a film (MP4 or WebM), or type an address that begins with https://."));
        if (video.Host is not null && !FilmEndings.Any(e => new Uri(typed).AbsolutePath.EndsWith(e, StringComparison.OrdinalIgnoreCase)))
            return await Answer(
                Outcome.No(
                    "videos",
                    $"That address is no film file. One ends with {string.Join(", ", FilmEndings)}; a page that shows a film does not do."
                )
            );
        if (video.Host is { } host && !allowed.Contains(host))
            return await Answer(
                Outcome.No(
                    "videos",
                    $"Films from {host} are not allowed yet. "
                        + $"{(allowed.IsEmpty ? "Add the host" : $"Allowed are {string.Join(", ", allowed)}; add it")} in the shop "
                        + "settings, or send the file itself."
                )
            );
        return await Answer(
            await Products.Apply(Code, "A film", Visit.Actor, copy =>
                Read<Product>.Of(copy.Product with { Videos = [.. copy.Product.Videos.Where(v => v.Address != typed), video] })
            )
        );
    }

    public async Task<IActionResult> OnPostVideoOut(string address) =>
        await Answer(
            await Products.Apply(Code, "A film removed", Visit.Actor, copy =>
                Read<Product>.Of(copy.Product with { Videos = [.. copy.Product.Videos.Where(v => v.Address != address)] })
            ),
            "Film removed",
            canUndo: true
        );

    /// <summary>Takes the pictures in the order they were dragged to.</summary>
    public async Task<IActionResult> OnPostOrder(string[] keys) =>
        await Answer(
            await Products.Apply(Code, "Order of pictures", Visit.Actor, copy =>
                Read<Product>.Of(copy.Product with { Pictures = InOrder(copy.Product.Pictures, p => p.File, keys) })
            )
        );

    private static List<string> Others(IEnumerable<string> all, IEnumerable<string> taken)
    {
        var has = taken.ToHashSet(StringComparer.OrdinalIgnoreCase);
        return [.. all.Where(n => !has.Contains(n)).Order(StringComparer.OrdinalIgnoreCase).Take(12)];
    }
}
