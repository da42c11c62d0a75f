using System.Globalization;
using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace Unicus.Browser.Tests;

/// <summary>Requests, each a little different.</summary>
public sealed partial class MutationTests
{
    private static string Address(string path, Random random)
    {
        var pieces = path.Split('?', 2);
        if (pieces.Length == 2 && random.Next(4) > 0)
            return $"{pieces[0]}?{Query(pieces[1], random)}";
        var segments = pieces[0].Split('/');
        segments[random.Next(segments.Length)] = Uri.EscapeDataString(Texts[random.Next(Texts.Length)]);
        return string.Join('/', segments) + (pieces.Length == 2 ? "?" + pieces[1] : "");
    }

    private static string Query(string query, Random random)
    {
        var pairs = query.Split('&').ToList();
        for (var changes = random.Next(1, 3); changes > 0 && pairs.Count > 0; changes--)
        {
            var at = random.Next(pairs.Count);
            var name = pairs[at].Split('=')[0];
            switch (random.Next(5))
            {
                case 0:
                    pairs.RemoveAt(at);
                    break;
                case 1:
                    pairs.Add(pairs[at]);
                    break;
                case 2:
                    pairs[at] = $"{Uri.EscapeDataString(Texts[random.Next(Texts.Length)])}=x";
                    break;
                default:
                    pairs[at] = $"{name}={Uri.EscapeDataString(Texts[random.Next(Texts.Length)])}";
                    break;
            }
        }
        return string.Join('&', pairs);
    }

    /// <summary>Takes out, doubles or replaces something anywhere in a document; now and then breaks its text.</summary>
    private static string Json(string json, Random random)
    {
        var root = JsonNode.Parse(json)!;
        for (var changes = random.Next(1, 4); changes > 0; changes--)
        {
            var places = Places(root).ToList();
            if (places.Count == 0)
                break;
            var (parent, key) = places[random.Next(places.Count)];
            var junk = Junk(random);
            switch (parent)
            {
                case JsonObject o when random.Next(3) == 0:
                    o.Remove((string)key);
                    break;
                case JsonObject o when random.Next(4) == 0:
                    o[Texts[random.Next(Texts.Length)]] = junk;
                    break;
                case JsonObject o:
                    o[(string)key] = junk;
                    break;
                case JsonArray a when random.Next(3) == 0:
                    a.RemoveAt((int)key);
                    break;
                case JsonArray a when random.Next(3) == 0:
                    a.Add(a[(int)key]?.DeepClone());
                    break;
                case JsonArray a:
                    a[(int)key] = junk;
                    break;
            }
        }
        var text = root.ToJsonString();
        return random.Next(12) switch
        {
            0 => text[..random.Next(text.Length)],
            1 => text.Insert(random.Next(text.Length), "\\ud83d"),
            2 => text.Replace("\"1.00\"", "1.00", StringComparison.Ordinal),
            _ => text,
        };
    }

    private static IEnumerable<(JsonNode Parent, object Key)> Places(JsonNode? node)
    {
        if (node is JsonObject o)
            foreach (var (name, value) in o)
                foreach (var place in Places(value).Prepend((o, name)))
                    yield return place;
        if (node is JsonArray a)
            for (var i = 0; i < a.Count; i++)
                foreach (var place in Places(a[i]).Prepend((a, (object)i)))
                    yield return place;
    }

    private static JsonNode? Junk(Random random) =>
        random.Next(8) switch
        {
            0 => null,
            1 => JsonValue.Create(random.Next(2) == 0),
            2 => JsonNode.Parse(new[] { "-1", "0", "1e15", "99999999999999999999999", "0.1", "2147483648", "1e400" }[random.Next(7)]),
            3 => new JsonArray(),
            4 => new JsonObject(),
            5 => new JsonArray([.. Enumerable.Range(0, 3).Select(_ => (JsonNode)random.Next(9).ToString(CultureInfo.InvariantCulture)!)]),
            _ => Texts[random.Next(Texts.Length)],
        };
}
