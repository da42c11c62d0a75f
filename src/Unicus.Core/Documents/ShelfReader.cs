namespace Unicus.Core.Documents;

using System.Collections.Immutable;
using System.Text.Json;
using Unicus.Core.Options;
using Unicus.Core.Products;

/// <summary>Reads how a product is shown: its texts, pictures and films, where it stands and when.</summary>
internal static class ShelfReader
{
    public static string? Address(Node root)
    {
        var address = root.Text("webAddress", 80);
        if (address is not null && !Key.TryParse(address, out _))
            root.At("webAddress").Fault($"A web address is {Key.Shape}.");
        return address;
    }

    public static Specification? Specification(Node node)
    {
        if (!node.IsObject("a specification"))
            return null;
        node.Only("label", "value");
        node.Require("label", "value");
        return new Specification(node.Text("label", 80) ?? "", node.Text("value", 400) ?? "");
    }

    public static Passage? Passage(Node node)
    {
        if (!node.IsObject("a passage"))
            return null;
        node.Only("heading", "text");
        node.Require("heading", "text");
        return new Passage(node.Text("heading", 120) ?? "", node.Text("text", Product.LongestDescription) ?? "");
    }

    public static Shelf Shelf(Node node)
    {
        if (!node.Exists || !node.IsObject("an object"))
            return new Shelf();
        node.Only("listed", "searchable", "alone", "position", "from", "until", "featured", "password");
        return new Shelf
        {
            Days = Days(node),
            Featured = Featured(node.At("featured")),
            Password = node.Text("password", Products.Shelf.LongestPassword) is { Length: > 0 } password ? password : null,
            Listed = node.Flag("listed") ?? true,
            Searchable = node.Flag("searchable") ?? true,
            Alone = node.Flag("alone") ?? true,
            Position = node.Whole("position", 0, Products.Shelf.LastPosition),
        };
    }

    /// <summary>The days between <c>from</c> and <c>until</c>; null where neither is given.</summary>
    private static DaySpan? Days(Node node)
    {
        var (from, until) = (node.Day("from"), node.Day("until"));
        if (until < from)
            node.At("until").Fault("It ends before it begins.");
        return from is null && until is null ? null : new DaySpan(from, until);
    }

    /// <summary>True, or a span of days.</summary>
    private static DaySpan? Featured(Node node)
    {
        if (!node.Exists || node.Kind == JsonValueKind.False)
            return null;
        if (node.Kind == JsonValueKind.True)
            return new DaySpan(null, null);
        if (!node.IsObject("true, false or days"))
            return null;
        node.Only("from", "until");
        return Days(node) ?? new DaySpan(null, null);
    }

    public static ProductVideo? Video(Node node)
    {
        if (!node.IsObject("a video"))
            return null;
        node.Only("address", "title");
        node.Require("address");
        var address = node.Text("address", 400) ?? "";
        if (!ProductVideo.IsAddress(address))
            node.At("address").Fault($"An address of a video begins with {ProductVideo.Kept} or https://.");
        return new ProductVideo(address, node.Text("title", 120) ?? "");
    }

    public static ProductPicture? Picture(Node node, ImmutableArray<Option> questions)
    {
        if (!node.IsObject("a picture"))
            return null;
        node.Only("file", "alt", "shows");
        node.Require("file");
        (Key, Key)? shows = null;
        var target = node.At("shows");
        if (target.Exists && target.IsObject("an option and a value"))
        {
            target.Only("option", "value");
            target.Require("option", "value");
            if (target.Key("option") is { } o && target.Key("value") is { } v)
            {
                if (questions.FirstOrDefault(x => x.Key == o)?.Find(v) is null)
                    target.Fault($"There is no {o} = {v}.");
                shows = (o, v);
            }
        }
        return node.Text("file", 200) is { } file ? new ProductPicture(file, node.Text("alt", 500) ?? "", shows) : null;
    }
}
