using System.Globalization;
using System.Text.Json.Nodes;

namespace Unicus.CoreTests;

/// <summary>A second reading of domain.md, section 6, over documents and requests alone: the price of a set and what is allocated to its
/// leaves. It shares no code with the core.</summary>
internal sealed class SetReading(IReadOnlyDictionary<string, JsonObject> docs)
{
    /// <summary>One unit: list price, what answers add, what is added once for the line, what its leaves cost.</summary>
    public sealed record Unit(decimal List, decimal Each, decimal Once, decimal Cost);

    public sealed record Share(string Path, string Sku, int Units, decimal Amount);

    private static decimal Number(JsonNode? node) => decimal.Parse((string)node!, CultureInfo.InvariantCulture);

    private static decimal Round(decimal amount) => Math.Round(amount, 2, MidpointRounding.AwayFromZero);

    private static decimal Less(decimal price, JsonNode? reduce) =>
        reduce is null ? price
        : reduce["percent"] is { } percent ? Round(price * (100 - Number(percent)) / 100)
        : Math.Max(0, price - Number(reduce["amount"]));

    public Unit Of(JsonNode part)
    {
        var code = RandomSets.CodeOf(part).Split('-')[0];
        var doc = docs[code];
        if (doc["parts"] is not null)
            return Set(code, (JsonObject)part["parts"]!);
        var size = SizeOf(part);
        var own = doc["variants"]?.AsArray().First(v => (string)v!["values"]!["size"]! == size)!["price"];
        var (each, once, cost) = (0m, 0m, Number(doc["base"]!["cost"]));
        foreach (var tick in part["answers"]?["mark"]?.AsArray() ?? [])
        {
            var values = doc["options"]!.AsArray().First(o => (string)o!["key"]! == "mark")!["values"]!.AsArray();
            var value = values.First(v => (string)v!["key"]! == (string)tick!)!;
            var surcharge = value["surcharge"]!;
            each += surcharge["amount"] is { } a ? Number(a) : 0;
            once += surcharge["once"] is { } o ? Number(o) : 0;
            // What is charged once costs once, and is no part of what a unit costs.
            cost += surcharge["once"] is null ? Number(value["cost"]) : 0;
        }
        return new Unit(Number(own ?? doc["base"]!["price"]), each, once, cost);
    }

    public Unit Set(string code, JsonObject picked)
    {
        var parts = docs[code]["parts"]!;
        var (sum, extras, once, cost) = (0m, 0m, 0m, 0m);
        foreach (var (slot, part) in Parts(code, picked))
        {
            var (unit, units) = (Of(part), (int)part["quantity"]!);
            sum += units * AfterSlot(slot, unit);
            extras += units * (unit.Each + (EntryOf(slot, part)["extra"] is { } extra ? Number(extra) : 0));
            once += unit.Once;
            cost += units * unit.Cost;
        }
        var price = parts["price"]!;
        var list = (string)price["rule"]! == "fixed" ? Number(price["amount"]) + extras : Less(sum, price["reduce"]);
        return new Unit(list, 0, once, cost);
    }

    private static decimal AfterSlot(JsonNode slot, Unit unit) =>
        slot["included"] is not null ? unit.Each
        : slot["setUnit"] is { } s ? Math.Min(unit.List, Number(s)) + unit.Each
        : Less(unit.List + unit.Each, slot["reduce"]);

    private IEnumerable<(JsonNode Slot, JsonNode Part)> Parts(string code, JsonObject picked)
    {
        foreach (var slot in docs[code]["parts"]!["slots"]!.AsArray())
            foreach (var part in picked[(string)slot!["key"]!]!.AsArray())
                yield return (slot, part!);
    }

    private static JsonNode EntryOf(JsonNode slot, JsonNode part) =>
        slot["of"]!.AsArray().First(e => RandomSets.CodeOf(e!) == RandomSets.CodeOf(part))!;

    private static string? SizeOf(JsonNode part) =>
        part["sku"] is { } sku && ((string)sku!).Contains('-')
            ? ((string)sku!).Split('-')[1].ToLowerInvariant()
            : (string?)part["answers"]?["size"];

    /// <summary>What is allocated to the leaves of so many sets.</summary>
    public List<Share> Shares(string code, JsonObject picked, int sets, decimal paid, string path = "")
    {
        var parts = Parts(code, picked).Where(p => HasLeaves(p.Part)).ToList();
        var weights = parts.Select(p => WeightOf(p.Slot, Of(p.Part)) * (int)p.Part["quantity"]!).ToList();
        var found = new List<Share>();
        foreach (var (i, (slot, part)) in parts.Index())
        {
            var at = path.Length == 0 ? (string)slot["key"]! : $"{path}/{(string)slot["key"]!}";
            var (units, inner) = (sets * (int)part["quantity"]!, RandomSets.CodeOf(part).Split('-')[0]);
            var share = Shared(paid, weights)[i];
            if (docs[inner]["parts"] is not null)
                found.AddRange(Shares(inner, (JsonObject)part["parts"]!, units, share, at));
            else
                found.Add(new Share(at, SizeOf(part) is { } size ? $"{inner}-{size.ToUpperInvariant()}" : inner, units, share));
        }
        return found;
    }

    /// <summary>A set in which all slots are empty has none.</summary>
    private bool HasLeaves(JsonNode part)
    {
        var code = RandomSets.CodeOf(part).Split('-')[0];
        return docs[code]["parts"] is null || Parts(code, (JsonObject)part["parts"]!).Any(p => HasLeaves(p.Part));
    }

    private static decimal WeightOf(JsonNode slot, Unit unit) =>
        slot["included"] is not null ? unit.List + unit.Each : AfterSlot(slot, unit);

    /// <summary>Largest remainders, in cents; the earlier first on a tie.</summary>
    private static decimal[] Shared(decimal total, List<decimal> weights)
    {
        var even = weights.All(w => w == 0) ? weights.ConvertAll(_ => 1m) : weights;
        var exact = even.ConvertAll(w => total * 100 * w / even.Sum());
        var cents = exact.ConvertAll(decimal.Truncate);
        var missing = (int)(total * 100 - cents.Sum());
        foreach (var i in Enumerable.Range(0, exact.Count).OrderByDescending(i => Math.Round(exact[i] - cents[i], 15)).Take(missing))
            cents[i]++;
        return [.. cents.Select(c => c / 100)];
    }
}
