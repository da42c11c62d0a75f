namespace Unicus.Core.Documents;

using System.Collections.Immutable;
using System.Text.Json.Nodes;

/// <summary>One thing in which two documents of a product differ.</summary>
/// <param name="Path">Where it stands: names of members, and of items of a list what they are known by.</param>
/// <param name="Place">The same in words: “Timber, Pine, surcharge amount”.</param>
/// <param name="Old">As it was, in words; empty where it was not there.</param>
/// <param name="New">As it is; empty where it is not there any more.</param>
public sealed record FieldChange(ImmutableArray<string> Path, string Place, string Old, string New);

/// <summary>Compares two documents of a product field by field, and takes single differences back.</summary>
/// <remarks>Items of lists are matched by what they are known by (key, values, file, label), not by their place, so that one that was
/// added or moved does not make all behind it differ.</remarks>
public static class DocumentDifference
{
    private static readonly string[] Known = ["key", "code", "file", "address", "label", "heading", "sku"];

    /// <summary>The differences in the order of the newer document, then what is gone from it.</summary>
    /// <param name="older">The earlier document.</param>
    /// <param name="newer">The later document.</param>
    /// <param name="most">After so many it stops.</param>
    public static IReadOnlyList<FieldChange> Between(JsonObject older, JsonObject newer, int most = 500)
    {
        var found = new List<FieldChange>();
        var labels = Labels(older).Concat(Labels(newer)).GroupBy(l => l.Key).ToDictionary(g => g.Key, g => g.Last().Value);
        Compare(older, newer, [], [], found, labels, most);
        return found;
    }

    /// <summary>The newer document with one difference taken back.</summary>
    /// <returns>Null where the path leads nowhere in either.</returns>
    public static JsonObject? TakenBack(JsonObject older, JsonObject newer, IReadOnlyList<string> path)
    {
        var result = (JsonObject)newer.DeepClone();
        JsonNode? was = older;
        JsonNode? at = result;
        for (var i = 0; i < path.Count - 1; i++)
        {
            (was, var next) = (Step(was, path[i]), Step(at, path[i]) ?? Made(at, path[i], Step(was, path[i])));
            if (next is null)
                return null;
            at = next;
        }
        var old = Step(was, path[^1])?.DeepClone();
        switch (at)
        {
            case JsonObject members:
                if (old is null)
                    members.Remove(path[^1]);
                else
                    members[path[^1]] = old;
                return result;
            case JsonArray items:
                var place = IndexOf(items, path[^1]);
                if (place >= 0)
                    items.RemoveAt(place);
                if (old is not null)
                    items.Insert(Math.Min(IndexOf(was as JsonArray ?? [], path[^1]), items.Count), old);
                return result;
            default:
                return null;
        }
    }

    /// <summary>Makes a place for what is put back into a list or a variant that the newer document does not name any more.</summary>
    private static JsonNode? Made(JsonNode? at, string name, JsonNode? was)
    {
        JsonNode? made = was switch
        {
            JsonArray => new JsonArray(),
            JsonObject variant when Bare(variant) is { } bare => bare,
            _ => null,
        };
        if (made is not null && at is JsonObject members)
            members[name] = made;
        else if (made is not null && at is JsonArray items)
            items.Add(made);
        return made;
    }

    /// <summary>A variant of which nothing is its own; null for what is none.</summary>
    private static JsonObject? Bare(JsonNode? item) =>
        item is JsonObject members && members["values"] is JsonObject values ? new JsonObject { ["values"] = values.DeepClone() } : null;

    private static void Compare(
        JsonNode? older,
        JsonNode? newer,
        ImmutableArray<string> path,
        ImmutableArray<string> place,
        List<FieldChange> found,
        IReadOnlyDictionary<string, string> labels,
        int most
    )
    {
        // A variant that is not named has nothing of its own.
        (older, newer) = (older ?? Bare(newer), newer ?? Bare(older));
        if (found.Count >= most || JsonNode.DeepEquals(older, newer))
            return;
        if (older is JsonObject a && newer is JsonObject b)
        {
            foreach (var name in b.Select(m => m.Key).Union(a.Select(m => m.Key)).ToList())
                Compare(a[name], b[name], path.Add(name), place.Add(WordsOf(name, path)), found, labels, most);
            return;
        }
        if (IsList(older) && IsList(newer) && (older ?? newer) is JsonArray)
        {
            var (olds, news) = (Items(older), Items(newer));
            foreach (var name in news.Keys.Union(olds.Keys).ToList())
                Compare(
                    olds.GetValueOrDefault(name),
                    news.GetValueOrDefault(name),
                    path.Add(name),
                    place.RemoveAt(place.Length - 1).Add(LabelOf(name, olds, news, labels)),
                    found,
                    labels,
                    most
                );
            if (olds.Count == news.Count && !olds.Keys.SequenceEqual(news.Keys) && olds.Keys.ToHashSet().SetEquals(news.Keys))
                found.Add(new FieldChange(path, Join(place.Add("order")), Order(olds, labels), Order(news, labels)));
            return;
        }
        found.Add(new FieldChange(path, Join(place), Text(older), Text(newer)));
    }

    /// <summary>Whether its items are matched one by one: a list of objects, or none at all.</summary>
    private static bool IsList(JsonNode? node) => node is null || (node is JsonArray items && items.All(i => i is JsonObject));

    private static Dictionary<string, JsonNode?> Items(JsonNode? list)
    {
        var items = new Dictionary<string, JsonNode?>();
        foreach (var (i, item) in ((JsonArray?)list ?? []).Index())
            items.TryAdd(NameOf(item, i), item);
        return items;
    }

    private static JsonNode? Step(JsonNode? node, string name) =>
        node switch
        {
            JsonObject members => members[name],
            JsonArray items when IndexOf(items, name) is >= 0 and var at => items[at],
            _ => null,
        };

    private static int IndexOf(JsonArray items, string name) =>
        items.Index().Where(p => NameOf(p.Item, p.Index) == name).Select(p => p.Index).FirstOrDefault(-1);

    /// <summary>What an item of a list is known by.</summary>
    private static string NameOf(JsonNode? item, int index)
    {
        if (item is not JsonObject members)
            return $"#{index}";
        if (members["values"] is JsonObject values)
            return string.Join(',', values.OrderBy(v => v.Key, StringComparer.Ordinal).Select(v => $"{v.Key}={v.Value}"));
        foreach (var name in Known)
            if (members[name] is JsonValue value)
                return value.ToString();
        return $"#{index}";
    }

    private static string LabelOf(
        string name,
        Dictionary<string, JsonNode?> olds,
        Dictionary<string, JsonNode?> news,
        IReadOnlyDictionary<string, string> labels
    )
    {
        var item = (news.GetValueOrDefault(name) ?? olds.GetValueOrDefault(name)) as JsonObject;
        if (item?["label"] is JsonValue label)
            return label.ToString();
        if (item?["values"] is JsonObject values)
            return values.Count == 0
                ? "the one variant"
                : string.Join(", ", values.Select(v => labels.GetValueOrDefault($"{v.Key}={v.Value}", v.Value?.ToString() ?? "")));
        return name.StartsWith('#') ? $"{int.Parse(name.AsSpan(1), System.Globalization.CultureInfo.InvariantCulture) + 1}" : name;
    }

    private static string Order(Dictionary<string, JsonNode?> items, IReadOnlyDictionary<string, string> labels) =>
        string.Join(", ", items.Keys.Select(k => LabelOf(k, items, items, labels)));

    /// <summary>The labels of values by “option=value”.</summary>
    private static IEnumerable<KeyValuePair<string, string>> Labels(JsonObject document) =>
        from option in ((JsonArray?)document["options"] ?? []).OfType<JsonObject>()
        from value in ((JsonArray?)option["values"] ?? []).OfType<JsonObject>()
        select KeyValuePair.Create($"{option["key"]}={value["key"]}", $"{value["label"]}");

    /// <summary>“weightGrams” as “weight grams”; what lists hold is named by the items themselves.</summary>
    private static string WordsOf(string name, ImmutableArray<string> path) =>
        path.IsEmpty && name == "base"
            ? ""
            : string.Concat(name.Select(c => char.IsAsciiLetterUpper(c) ? $" {char.ToLowerInvariant(c)}" : $"{c}"));

    private static string Join(ImmutableArray<string> place) => string.Join(", ", place.Where(p => p.Length > 0));

    private static string Text(JsonNode? node) =>
        node switch
        {
            null => "",
            JsonValue value => value.GetValueKind() switch
            {
                System.Text.Json.JsonValueKind.True => "yes",
                System.Text.Json.JsonValueKind.False => "no",
                _ => value.ToString(),
            },
            JsonArray items => string.Join(", ", items.Select(Text)),
            JsonObject members when members["label"] is JsonValue label => label.ToString(),
            JsonObject members => string.Join(", ", members.Select(m => $"{WordsOf(m.Key, ["x"])} {Text(m.Value)}")),
            _ => node.ToJsonString(),
        };
}
