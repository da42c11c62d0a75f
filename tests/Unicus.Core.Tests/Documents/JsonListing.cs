using System.Text.Json.Nodes;

namespace Unicus.CoreTests;

/// <summary>A second reading of the format: what a product's document makes of answers, by listing every configuration from the JSON
/// alone. Shares no code with the core.</summary>
internal sealed class JsonListing
{
    private readonly List<JsonObject> _options;
    private readonly List<JsonObject> _rules;
    private readonly JsonObject _document;

    public JsonListing(JsonObject document)
    {
        _document = document;
        _options = [.. document["options"]!.AsArray().Select(o => o!.AsObject())];
        _rules = [.. document["rules"]!.AsArray().Select(r => r!.AsObject())];
    }

    /// <summary>The ticks of an answer: one key of a list, several of them, or a text or number as it is.</summary>
    public sealed class Answers : Dictionary<string, string[]>;

    public static string Name(JsonObject keyed) => keyed["key"]!.GetValue<string>();

    public IEnumerable<string> Questions => _options.Select(Name);

    public JsonObject Option(string question) => _options.First(o => Name(o) == question);

    public bool IsVariant(string question) => Option(question)["role"]!.GetValue<string>() == "variant";

    public string Asks(string question) => IsVariant(question) ? "one" : Option(question)["ask"]!.GetValue<string>();

    public bool IsPicked(string question) => Asks(question) is "one" or "several" or "yes-no";

    public IEnumerable<JsonObject> Values(string question) => Option(question)["values"]!.AsArray().Select(v => v!.AsObject());

    /// <summary>Every answer that a picked question may have; the empty one is deliberately none.</summary>
    public IEnumerable<string[]> May(string question)
    {
        var keys = Values(question).Select(Name).ToArray();
        if (Asks(question) != "several")
            return IsVariant(question) ? keys.Select(k => new[] { k }) : keys.Select(k => new[] { k }).Append([]);
        var (least, most) = (
            Option(question)["picks"]?["min"]?.GetValue<int>() ?? 0,
            Option(question)["picks"]?["max"]?.GetValue<int>() ?? keys.Length
        );
        return Enumerable
            .Range(0, 1 << keys.Length)
            .Select(bits => keys.Where((_, i) => (bits >> i & 1) != 0).ToArray())
            .Where(t => t.Length == 0 || (t.Length >= Math.Max(1, least) && t.Length <= most));
    }

    public bool Shown(string question, Answers answers)
    {
        var showing = Acting(question, "show").ToList();
        return !Acting(question, "hide").Any(r => Holds(r["when"], answers))
            && (showing.Count == 0 || showing.Any(r => Holds(r["when"], answers)));
    }

    public bool Required(string question, Answers answers) =>
        Shown(question, answers)
        && (
            IsVariant(question)
            || Option(question)["required"]?.GetValue<bool>() == true
            || Acting(question, "require").Any(r => Holds(r["when"], answers))
        );

    /// <summary>Whether it answers every question it may, and stands by all rules.</summary>
    public bool IsValid(Answers whole)
    {
        foreach (var question in Questions.Where(IsPicked))
        {
            var (shown, answer) = (Shown(question, whole), whole[question]);
            if (!shown && answer.Length > 0)
                return false;
            if (Required(question, whole) && answer.Length == 0)
                return false;
            foreach (var rule in _rules.Where(r => Holds(r["when"], whole)))
            {
                if (Listed(rule["then"]!["forbid"]?[question]).Intersect(answer).Any())
                    return false;
                if (rule["then"]!["allowOnly"]?[question] is { } only && answer.Except(Listed(only)).Any())
                    return false;
            }
        }
        return !_document["notMade"]!.AsArray().Any(n => n!.AsObject().All(p => whole[p.Key].SequenceEqual([p.Value!.GetValue<string>()])));
    }

    /// <summary>The valid complete configurations; typed answers as given.</summary>
    public List<Answers> Valid(Answers given)
    {
        List<Answers> all = [new Answers()];
        foreach (var question in Questions)
            all =
                IsPicked(question) ? [.. all.SelectMany(a => May(question).Select(m => With(a, question, m)))]
                : given.TryGetValue(question, out var typed) ? [.. all.Select(a => With(a, question, typed))]
                : all;
        return all.FindAll(IsValid);
    }

    public bool Agrees(Answers whole, string question, string[] answer) =>
        !Shown(question, whole) || whole[question].ToHashSet().SetEquals(answer);

    /// <summary>The price of one unit of a whole configuration, typed answers included.</summary>
    public decimal Unit(Answers whole)
    {
        var basis = Amount(_document["base"]!["price"])!.Value;
        var list = basis;
        foreach (var picked in Questions.Where(IsVariant).Select(q => Values(q).First(v => Name(v) == whole[q][0])))
            list += Amount(picked["surcharge"]?["amount"]) ?? Share(basis, picked["surcharge"]?["percent"]);
        var unit = list;
        foreach (var question in Questions.Where(q => !IsVariant(q) && whole.ContainsKey(q) && Shown(q, whole)))
            if (IsPicked(question))
                unit += Values(question)
                    .Where(v => whole[question].Contains(Name(v)))
                    .Sum(v => Amount(v["surcharge"]?["amount"]) ?? Share(list, v["surcharge"]?["percent"]));
            else if (Option(question)["surcharge"] is { } surcharge)
                unit += surcharge["perCharacter"] is { } each
                    ? Amount(each)!.Value * whole[question][0].Count(c => !char.IsWhiteSpace(c))
                    : Round(
                        Amount(surcharge["perUnit"])!.Value
                            * decimal.Parse(whole[question][0], System.Globalization.CultureInfo.InvariantCulture)
                    );
        return unit;
    }

    private static Answers With(Answers answers, string question, string[] answer)
    {
        var more = new Answers();
        foreach (var (key, value) in answers)
            more[key] = value;
        more[question] = answer;
        return more;
    }

    private IEnumerable<JsonObject> Acting(string question, string effect) =>
        _rules.Where(r => Listed(r["then"]![effect]).Contains(question));

    private static IEnumerable<string> Listed(JsonNode? list) => list?.AsArray().Select(v => v!.GetValue<string>()) ?? [];

    private bool Holds(JsonNode? when, Answers answers)
    {
        if (when is null)
            return true;
        if (when["all"] is { } all)
            return all.AsArray().All(c => Holds(c, answers));
        if (when["any"] is { } any)
            return any.AsArray().Any(c => Holds(c, answers));
        if (when["not"] is { } not)
            return !Holds(not, answers);
        var question = when["option"]!.GetValue<string>();
        if (!answers.TryGetValue(question, out var answer) || answer.Length == 0 || !Shown(question, answers))
            return false;
        if (when["is"] is { } one)
            return Listed(one).Intersect(answer).Any();
        return when["atLeast"] is not { } least
            || decimal.Parse(answer[0], System.Globalization.CultureInfo.InvariantCulture) >= Amount(least);
    }

    private static decimal? Amount(JsonNode? text) =>
        text is null ? null : decimal.Parse(text.GetValue<string>(), System.Globalization.CultureInfo.InvariantCulture);

    private static decimal Share(decimal of, JsonNode? percent) => percent is null ? 0 : Round(of * Amount(percent)!.Value / 100);

    private static decimal Round(decimal amount) => Math.Round(amount, 2, MidpointRounding.AwayFromZero);
}
