namespace Unicus.Core.Documents;

using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Rules;

/// <summary>Reads what extras and rules are made of.</summary>
internal static class ExtraReader
{
    private const int MostRows = 500;
    private static readonly (string Name, Ask Ask)[] Asks =
    [
        ("one", Ask.One),
        ("several", Ask.Several),
        ("yes-no", Ask.YesNo),
        ("text", Ask.Text),
        ("number", Ask.Number),
        ("date", Ask.Date),
    ];
    private static readonly string[] Days = ["sun", "mon", "tue", "wed", "thu", "fri", "sat"];

    /// <summary>What a kind of question is called in documents.</summary>
    public static string NameOf(Ask ask) => Asks.First(a => a.Ask == ask).Name;

    /// <summary>What a day of the week is called in documents: its first three letters.</summary>
    public static string NameOf(DayOfWeek day) => Days[(int)day];

    /// <summary>The day of the week that documents call so; null where none is.</summary>
    public static DayOfWeek? DayNamed(string? text) => Array.IndexOf(Days, text) is >= 0 and var at ? (DayOfWeek)at : null;

    public static Ask? ReadAsk(Node node)
    {
        var found = Asks.FirstOrDefault(a => a.Name == node.AsText());
        if (found.Name is not null)
            return found.Ask;
        node.Fault($"One of {string.Join(", ", Asks.Select(a => a.Name))} is needed.");
        return null;
    }

    public static PickLimits Picks(Node node)
    {
        if (!node.Exists || !node.IsObject("limits of picks"))
            return default;
        node.Only("min", "max");
        var limits = new PickLimits(node.Whole("min", 0, TypedValues.MostValues) ?? 0, node.Whole("max", 1, TypedValues.MostValues));
        if (limits.Max < limits.Min)
            node.At("max").Fault("The most picks are fewer than the least.");
        return limits;
    }

    public static NumberLimits Number(Node node)
    {
        if (!node.Exists || !node.IsObject("limits of a number"))
            return NumberLimits.None;
        node.Only("min", "max", "step", "unit");
        var limits = new NumberLimits(Size(node, "min"), Size(node, "max"), Size(node, "step"), node.Text("unit", 20));
        if (limits.Max < limits.Min)
            node.At("max").Fault("The largest number is below the smallest.");
        if (limits.Step <= 0)
            node.At("step").Fault("A step is above 0.");
        return limits;
    }

    public static DateLimits Date(Node node)
    {
        if (!node.Exists || !node.IsObject("limits of a date"))
            return DateLimits.None;
        node.Only("earliestInDays", "latestInDays", "notOn");
        var notOn = new List<DayOfWeek>();
        foreach (var day in node.Items("notOn"))
        {
            if (Array.IndexOf(Days, day.AsText()) is >= 0 and var at)
                notOn.Add((DayOfWeek)at);
            else
                day.Fault($"One of {string.Join(", ", Days)} is needed.");
        }
        var limits = new DateLimits(node.Whole("earliestInDays", 0, 3650), node.Whole("latestInDays", 0, 3650), [.. notOn.Distinct()]);
        if (limits.LatestInDays < limits.EarliestInDays)
            node.At("latestInDays").Fault("The latest day is before the earliest.");
        if (limits.NotOn.Length == 7)
            node.At("notOn").Fault("No day of the week is left.");
        return limits;
    }

    /// <summary>A number as a decimal text or as a JSON number.</summary>
    public static decimal? Size(Node node, string name)
    {
        var at = node.At(name);
        if (!at.Exists)
            return null;
        if (at.AsNumber() is { } size && Math.Abs(size) <= 1_000_000_000)
            return size;
        at.Fault("A decimal number is needed.");
        return null;
    }

    public static Surcharge? Surcharge(Node node, Currency currency, IReadOnlyList<string> kinds)
    {
        if (!node.Exists || !node.IsObject("a surcharge"))
            return null;
        node.Only([.. kinds, .. kinds.Contains("perCharacter") ? new[] { "minimum" } : []]);
        var given = kinds.Where(node.Has).ToList();
        if (given.Count != 1)
        {
            node.Fault($"A surcharge has one of {string.Join(", ", kinds)}.");
            return null;
        }
        Money? Amount(string name, bool mayBeNegative = true) => node.Money(name, currency, mayBeNegative);
        switch (given[0])
        {
            case "amount":
                return Amount("amount") is { } amount ? new Surcharge.PerUnit(amount) : null;
            case "once":
                return Amount("once") is { } once ? new Surcharge.Once(once) : null;
            case "perCharacter":
                return Amount("perCharacter", false) is { } rate ? new Surcharge.PerCharacter(rate, Amount("minimum", false)) : null;
            case "perUnit":
                return Amount("perUnit") is { } each ? new Surcharge.PerMeasure(each) : null;
            case "table":
                return Table(node.At("table"), currency);
            default:
                return node.Decimal("percent", -100, 1000) is { } percent ? new Surcharge.Percent(new Percentage(percent)) : null;
        }
    }

    private static Surcharge.Table? Table(Node node, Currency currency)
    {
        if (!node.IsObject("a table"))
            return null;
        node.Only("by", "rows");
        var by = node.Has("by") ? node.Key("by") : null;
        var rows = new List<TableRow>();
        foreach (var row in node.Items("rows"))
        {
            if (!row.IsObject("a row"))
                continue;
            row.Only("max", by is null ? "amount" : "columns");
            var cells = by is null
                ? row.Money("amount", currency, mayBeNegative: true) is { } amount
                    ? [new TableCell(0, amount)]
                    : []
                : row.Items("columns")
                    .Where(c => c.IsObject("a column"))
                    .Select(c =>
                    {
                        c.Only("max", "amount");
                        return new TableCell(Size(c, "max") ?? 0, c.Money("amount", currency, mayBeNegative: true) ?? Money.Zero(currency));
                    })
                    .ToArray();
            if (cells.Length == 0)
                row.Fault("A row has its amounts.");
            if (!row.Has("max"))
                row.At("max").Fault("max is missing.");
            rows.Add(new TableRow(Size(row, "max") ?? 0, [.. cells]));
        }
        if (rows.Count is 0 or > MostRows)
            node.At("rows").Fault($"A table has 1 to {MostRows} rows.");
        if (
            !Options.Surcharge.Table.IsRising(rows.Select(r => r.Max))
            || rows.Exists(r => by is not null && !Options.Surcharge.Table.IsRising(r.Columns.Select(c => c.Max)))
        )
            node.At("rows").Fault("The bounds of a table rise from row to row and from column to column.");
        return new Surcharge.Table(by, [.. rows]);
    }

    public static SelectionRule? Rule(Node node)
    {
        if (!node.IsObject("a rule"))
            return null;
        node.Only("key", "when", "then", "off");
        node.Require("key", "then");
        var when = node.Has("when") ? Condition(node.At("when"), 0) : Rules.Condition.Always;
        var then = Effects(node.At("then"));
        return node.Has("key") && node.Key("key") is { } key && when is not null
            ? new SelectionRule(key, when, then) { Off = node.Flag("off") ?? false }
            : null;
    }

    public static Condition? Condition(Node node, int depth)
    {
        const int deepest = 12;
        if (!node.IsObject("a condition"))
            return null;
        if (depth > deepest)
        {
            node.Fault($"Conditions stand in each other at most {deepest} deep.");
            return null;
        }
        if (node.Has("all") || node.Has("any"))
        {
            var name = node.Has("all") ? "all" : "any";
            node.Only(name);
            var parts = node.Items(name).Select(n => Condition(n, depth + 1)).OfType<Condition>().ToImmutableArray();
            return name == "all" ? new Condition.All(parts) : new Condition.Any(parts);
        }
        if (node.Has("not"))
        {
            node.Only("not");
            return Condition(node.At("not"), depth + 1) is { } inner ? new Condition.Not(inner) : null;
        }
        node.Only("option", "is", "answered", "atLeast", "atMost");
        node.Require("option");
        if (!node.Has("option") || node.Key("option") is not { } option)
            return null;
        var kinds = new[] { "is", "answered", "atLeast", "atMost" }.Where(node.Has).ToList();
        if (kinds.Count != 1)
        {
            node.Fault("A condition on an option has one of is, answered, atLeast and atMost.");
            return null;
        }
        if (kinds[0] == "is")
            return new Condition.Is(option, Keys(node, "is"));
        if (kinds[0] == "answered")
        {
            if (node.Flag("answered") == false)
                node.At("answered").Fault("Only true is understood here; put it under not.");
            return new Condition.Answered(option);
        }
        return Size(node, kinds[0]) is not { } bound ? null
            : kinds[0] == "atLeast" ? new Condition.AtLeast(option, bound)
            : new Condition.AtMost(option, bound);
    }

    private static ImmutableArray<Effect> Effects(Node node)
    {
        if (!node.Exists || !node.IsObject("an effect"))
            return [];
        node.Only("hide", "show", "require", "forbid", "allowOnly");
        var effects = ImmutableArray.CreateBuilder<Effect>();
        if (node.Has("hide"))
            effects.Add(new Effect.Hide(Keys(node, "hide")));
        if (node.Has("show"))
            effects.Add(new Effect.Show(Keys(node, "show")));
        if (node.Has("require"))
            effects.Add(new Effect.Require(Keys(node, "require")));
        foreach (var (question, values) in Lists(node.At("forbid")))
            effects.Add(new Effect.Forbid(question, values));
        foreach (var (question, values) in Lists(node.At("allowOnly")))
            effects.Add(new Effect.AllowOnly(question, values));
        if (effects.Count == 0)
            node.Fault("An effect is one of hide, show, require, forbid and allowOnly.");
        return effects.ToImmutable();
    }

    private static IEnumerable<(Key, ImmutableArray<Key>)> Lists(Node node)
    {
        if (!node.Exists || !node.IsObject("an object of option and values"))
            yield break;
        foreach (var (name, _) in node.Members())
        {
            if (Key.TryParse(name, out var key))
                yield return (key, Keys(node, name));
            else
                node.At(name).Fault($"A key is {Key.Shape}.");
        }
    }

    private static ImmutableArray<Key> Keys(Node node, string name)
    {
        var keys = ImmutableArray.CreateBuilder<Key>();
        foreach (var item in node.Items(name))
        {
            if (Key.TryParse(item.AsText() ?? "", out var key))
                keys.Add(key);
            else
                item.Fault($"A key is {Key.Shape}.");
        }
        if (keys.Count == 0)
            node.At(name).Fault("At least one key is needed.");
        return keys.ToImmutable();
    }

    /// <summary>Reads an answer as documents and requests write it: a text, a number, a list of keys, true for yes, null for deliberately
    /// none.</summary>
    /// <returns>Null with a fault where it is of a wrong kind or names what there is not.</returns>
    public static Answer? Answer(Node node, Option question, DateOnly? today)
    {
        var texts = Texts(node, question);
        if (texts is null)
        {
            node.Fault($"{question.Label} is not answered like this.");
            return null;
        }
        var read = AnswerText.Read(question, texts);
        var problem = read.Ok
            ? today is { } day
                ? AnswerLimits.Problem(question, read.Value!, day)
                : null
            : read.Problem;
        if (problem is null)
            return read.Value;
        node.Fault(problem);
        return null;
    }

    private static List<string>? Texts(Node node, Option question)
    {
        if (!node.Exists)
            return [];
        switch (node.Kind)
        {
            case JsonValueKind.Array when !node.Elements().Any():
                return [];
            case JsonValueKind.String when question.Ask == Ask.Number:
                return node.AsNumber() is null ? null : [node.AsText()!];
            case JsonValueKind.String when question.Ask == Ask.Date:
                return DateOnly.TryParseExact(node.AsText(), "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out _)
                    ? [node.AsText()!]
                    : null;
            case JsonValueKind.String when question.Ask == Ask.Text || (question.Ask != Ask.Several && node.AsText()!.Length > 0):
                return [node.AsText()!];
            case JsonValueKind.Number when question.Ask == Ask.Number && node.AsNumber() is { } n:
                return [n.ToString(CultureInfo.InvariantCulture)];
            case JsonValueKind.True or JsonValueKind.False when question.Ask == Ask.YesNo:
                return node.Kind == JsonValueKind.True ? ["yes"] : [];
            case JsonValueKind.Array when question.Ask == Ask.Several:
                var texts = node.Elements().Select(e => e.AsText()).ToList();
                return texts.Contains(null) ? null : [.. texts.OfType<string>()];
            default:
                return null;
        }
    }
}
