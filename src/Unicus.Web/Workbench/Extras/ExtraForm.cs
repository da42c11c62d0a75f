using System.Collections.Immutable;
using System.Globalization;
using System.Security.Cryptography;
using System.Text.Json;
using Unicus.Web.Options;
using Unicus.Web.Shell;

namespace Unicus.Web.Workbench;

/// <summary>An extra in its form.</summary>
/// <param name="Here">The page that takes it.</param>
/// <param name="Refused">What was typed for one that could not be taken, so that it stays in its form.</param>
/// <param name="Questions">All questions beside it.</param>
/// <param name="Cut">The swatch that is being cut for one of its values.</param>
public sealed record ExtraView(
    Option Extra,
    bool IsFirst,
    string Here,
    (string Extra, IFormCollection Form)? Refused,
    IReadOnlyList<Option> Questions,
    CutView? Cut
)
{
    /// <summary>The text of a field: as refused, else as it is.</summary>
    public string Typed(string name, string? now) => Refused is { } r && r.Extra == Extra.Key.Text ? r.Form[name].ToString() : now ?? "";
}

/// <summary>Reads an extra from the form that shows it, whole.</summary>
public static class ExtraForm
{
    public static IReadOnlyList<(Ask Ask, string Label)> Asks { get; } =
    [
        (Ask.One, "one of a list"),
        (Ask.Several, "several of a list"),
        (Ask.YesNo, "yes or no"),
        (Ask.Text, "a text"),
        (Ask.Number, "a number"),
        (Ask.Date, "a date"),
    ];

    public static IReadOnlyList<DayOfWeek> Days { get; } =
    [DayOfWeek.Monday, DayOfWeek.Tuesday, DayOfWeek.Wednesday, DayOfWeek.Thursday, DayOfWeek.Friday, DayOfWeek.Saturday, DayOfWeek.Sunday];

    /// <summary>A new extra at the end of a list.</summary>
    public static Read<ImmutableArray<Option>> Add(
        ImmutableArray<Option> list,
        IFormCollection form,
        IEnumerable<Option> questions,
        Currency currency
    )
    {
        var name = string.Join(' ', form["label"].ToString().Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        if (name.Length is 0 or > TypedValues.LongestLabel)
            return Read<ImmutableArray<Option>>.No("An extra needs a name of at most 120 characters.");
        var ask = Named.Choice<Ask>(form["ask"]) ?? Ask.One;
        var (labels, problems) = TypedValues.Split(ask is Ask.One or Ask.Several ? form["values"].ToString() : "", []);
        if (problems.Count > 0)
            return Read<ImmutableArray<Option>>.No(string.Join(' ', problems));
        var made = TypedValues.MakePriced(labels, [], currency);
        if (!made.Ok)
            return Read<ImmutableArray<Option>>.No(made.Problem!);
        ImmutableArray<OptionValue> values =
            ask == Ask.YesNo ? [new OptionValue(Key.Of("yes"), "Yes")] : [.. made.Value!.Select(v => v with { SkuCode = null })];
        return Read<ImmutableArray<Option>>.Of(
            list.Add(
                new Option(Key.From(name, questions.Select(q => q.Key).ToHashSet(), "extra"), name, OptionRole.Extra)
                {
                    Ask = ask,
                    Values = values,
                }
            )
        );
    }

    /// <summary>A list of extras with one changed as its form shows it. The form's <c>act</c> moves it up or takes it or a value out,
    /// <c>more</c> adds values.</summary>
    public static Read<ImmutableArray<Option>> Edit(
        ImmutableArray<Option> list,
        IFormCollection form,
        string? act,
        Currency currency,
        IReadOnlyList<Option> questions
    )
    {
        var no = Read<ImmutableArray<Option>>.No;
        if (list.FirstOrDefault(e => e.Key.Text == form["extra"]) is not { } old)
            return no("That extra was removed meanwhile.");
        var at = list.IndexOf(old);
        if (act == "out")
            return Read<ImmutableArray<Option>>.Of(list.RemoveAt(at));
        if (act == "up" && at > 0)
            return Read<ImmutableArray<Option>>.Of(list.RemoveAt(at).Insert(at - 1, old));
        if (form["seen"].ToString() is { Length: > 0 } seen && seen != Seen(old))
            return no(
                $"{old.Label} was changed elsewhere meanwhile. What you typed is still here, not saved: save it again to put it in "
                    + "place of theirs."
            );
        var read = Read(old, form, currency, questions);
        if (!read.Ok)
            return no(read.Problem!);
        var changed = read.Value!;
        if (act?.StartsWith("out-", StringComparison.Ordinal) == true)
            changed = changed with
            {
                Values = changed.Values.RemoveAll(v => v.Key.Text == act[4..]),
                Default = changed.Default?.Text == act[4..] ? null : changed.Default,
                Preset = [.. changed.Preset.Where(p => p != act[4..])],
            };
        if (form["more"].ToString() is { Length: > 0 } more)
        {
            var (labels, problems) = TypedValues.Split(more, changed.Values.Select(v => v.Label));
            if (problems.Count > 0)
                return no(string.Join(' ', problems));
            var made = TypedValues.MakePriced(labels, changed.Values, currency);
            if (!made.Ok)
                return no(made.Problem!);
            changed = changed with { Values = [.. changed.Values, .. made.Value!.Select(v => v with { SkuCode = null })] };
        }
        return Read<ImmutableArray<Option>>.Of(list.SetItem(at, changed));
    }

    /// <summary>What a form was made from, so that a change made elsewhere is not overwritten unseen.</summary>
    public static string Seen(Option extra) =>
        Convert.ToHexString(
            SHA256.HashData(
                JsonSerializer.SerializeToUtf8Bytes(
                    DocumentWriter.Write(new Product(ProductCode.Of("X"), "x") { Extras = [extra] }, ListedVariants.None)["options"]
                )
            )
        )[..16];

    /// <summary>The extra as typed, or what is wrong with it.</summary>
    /// <param name="others">All questions of the product, for the second measure of a table.</param>
    public static Read<Option> Read(Option extra, IFormCollection form, Currency currency, IReadOnlyList<Option> others)
    {
        var typed = new TypedExtra(form);
        var label = string.Join(' ', typed.Of("label").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        if (label.Length is 0 or > TypedValues.LongestLabel)
            return Read<Option>.No("An extra needs a name of at most 120 characters.");
        var changed = extra with
        {
            Label = label,
            Ask = Named.Choice<Ask>(typed.Of("ask")) ?? extra.Ask,
            Required = typed.Of("required") == "yes",
            Help = typed.Of("help") is { Length: > 0 and <= 500 } help ? help : null,
            Default = null,
            Preset = [],
            Surcharge = null,
            Picks = default,
            MaxLength = null,
            Characters = null,
            Number = NumberLimits.None,
            Date = DateLimits.None,
        };
        var problem = (string?)null;
        changed = WithLimits(changed, typed);
        changed = changed.IsPicked
            ? changed with
            {
                Values = Values(extra, form, changed.Ask, currency, ref problem),
            }
            : changed with
            {
                Values = [],
                Surcharge = SurchargeOf(changed, typed, currency, others),
            };
        problem ??= typed.Problem ?? Contradiction(changed);
        return problem is null
            ? WithDefault(changed, form["default"].OfType<string>().Where(t => t.Length > 0).ToList())
            : Read<Option>.No(problem);
    }

    /// <summary>What stands in the form of an extra, and the first thing in it that could not be read.</summary>
    private sealed class TypedExtra(IFormCollection form)
    {
        public string? Problem { get; private set; }

        public IFormCollection Form => form;

        public string Of(string name) => form[name].ToString().Trim();

        public int? Whole(string name, int least, int most) => Take(TypedNumbers.Whole(Of(name), least, most));

        public decimal? Size(string name) => Of(name).Length == 0 ? null : Take(TypedNumbers.Number(Of(name), 3));

        public T? Take<T>(Read<T> read)
        {
            if (!read.Ok)
                Problem ??= read.Problem;
            return read.Value;
        }
    }

    private static Option WithLimits(Option extra, TypedExtra typed) =>
        extra.Ask switch
        {
            Ask.Several => extra with { Picks = new PickLimits(typed.Whole("min", 0, 1000) ?? 0, typed.Whole("max", 1, 1000)) },
            Ask.Text => extra with
            {
                MaxLength = typed.Whole("maxLength", 1, Option.LongestText),
                Characters = typed.Of("characters") is { Length: > 0 and <= 200 } some ? some : null,
            },
            Ask.Number => extra with
            {
                Number = new NumberLimits(
                    typed.Size("least"),
                    typed.Size("most"),
                    typed.Size("step"),
                    typed.Of("unit") is { Length: > 0 and <= 20 } unit ? unit : null
                ),
            },
            Ask.Date => extra with
            {
                Date = new DateLimits(
                    typed.Whole("earliest", 0, 3650),
                    typed.Whole("latest", 0, 3650),
                    [.. Days.Where(d => typed.Form["notOn"].Contains(d.ToString()))]
                ),
            },
            _ => extra,
        };

    /// <summary>What an answer that is typed adds: for a number also by a table, over one more measure.</summary>
    private static Surcharge? SurchargeOf(Option extra, TypedExtra typed, Currency currency, IReadOnlyList<Option> others)
    {
        if (extra.Ask != Ask.Number || typed.Of("table").Length == 0)
            return typed.Take(TypedSurcharge.Read(typed.Of("surcharge"), currency, extra.Ask));
        var by =
            Key.TryParse(typed.Of("by"), out var other) && others.Any(o => o.Key == other && o.Ask == Ask.Number && o.Key != extra.Key)
                ? other
                : (Key?)null;
        return typed.Take(TypedSurcharge.Table(typed.Form["table"].ToString(), by, currency));
    }

    /// <summary>Limits that leave nothing; null where they leave something.</summary>
    private static string? Contradiction(Option extra) =>
        extra.Picks.Max < extra.Picks.Min ? "The most picks are fewer than the least."
        : extra.Number.Max < extra.Number.Min ? "The largest number is below the smallest."
        : extra.Number.Step <= 0 ? "A step is above 0."
        : extra.Date.LatestInDays < extra.Date.EarliestInDays ? "The latest day is before the earliest."
        : extra.Date.NotOn.Length == 7 ? "No day of the week is left."
        : null;

    private static Read<Option> WithDefault(Option extra, List<string> texts)
    {
        var kept = extra.IsPicked ? texts.Where(t => Key.TryParse(t, out var k) && extra.Find(k) is not null).ToList() : texts;
        if (extra.Ask is Ask.One or Ask.YesNo)
            kept = [.. kept.Take(1)];
        var read = AnswerText.Read(extra, kept);
        if (!read.Ok)
            return Read<Option>.No(read.Problem!);
        var problem = read.Value is Answer.Date ? null : AnswerLimits.Problem(extra, read.Value!, default);
        if (problem is not null)
            return Read<Option>.No($"Beforehand: {problem}");
        return Read<Option>.Of(
            read.Value switch
            {
                Answer.None => extra,
                Answer.Value v => extra with { Default = v.Key },
                var answer => extra with { Preset = AnswerText.Write(answer!) },
            }
        );
    }

    private static ImmutableArray<OptionValue> Values(Option extra, IFormCollection form, Ask ask, Currency currency, ref string? problem)
    {
        var values = ImmutableArray.CreateBuilder<OptionValue>();
        foreach (var value in extra.Values)
        {
            string Of(string name) => form[$"v-{value.Key}-{name}"].ToString().Trim();
            if (!form.ContainsKey($"v-{value.Key}-label"))
            {
                values.Add(value);
                continue;
            }
            var named = TypedSwatch.Value(extra, value, Of("label"), null, Of("colour"));
            var surcharge = TypedSurcharge.Read(Of("surcharge"), currency, ask);
            var cost = TypedNumbers.Amount(Of("cost"), currency);
            var part = Part(Of("part"));
            problem ??= named.Problem
                ?? (surcharge.Ok ? null : $"{value.Label}: {surcharge.Problem}")
                ?? (cost.Ok ? null : $"{value.Label}, cost: {cost.Problem}")
                ?? (part.Ok ? null : $"{value.Label}: {part.Problem}");
            values.Add(
                named.Ok
                    ? named.Value! with
                    {
                        SkuCode = value.SkuCode,
                        Surcharge = surcharge.Value,
                        Cost = cost.Value,
                        Part = part.Value,
                    }
                    : value
            );
        }
        if (ask == Ask.YesNo)
            return
            [
                (values.FirstOrDefault(v => v.Key.Text == "yes") ?? values.FirstOrDefault() ?? new OptionValue(Key.Of("yes"), "Yes")) with
                {
                    Key = Key.Of("yes"),
                },
            ];
        return values.ToImmutable();
    }

    /// <summary>A part as typed: <c>STAND</c> or <c>2 × STAND</c>.</summary>
    private static Read<ValuePart?> Part(string typed)
    {
        if (typed.Length == 0)
            return Read<ValuePart?>.Of(null);
        var pieces =
            typed.Split('×', 'x', StringSplitOptions.TrimEntries) is [var n, var s]
            && int.TryParse(n, NumberStyles.None, CultureInfo.InvariantCulture, out var units)
            && units is > 0 and <= 10_000
                ? (Units: units, Sku: s)
                : (Units: 1, Sku: typed);
        var sku = Sku.Parse(pieces.Sku);
        return sku.Ok ? Read<ValuePart?>.Of(new ValuePart(sku.Value.Text, pieces.Units)) : Read<ValuePart?>.No(sku.Problem!);
    }

    public static string Written(ValuePart? part) =>
        part is null ? ""
        : part.Quantity == 1 ? part.Sku
        : $"{part.Quantity} × {part.Sku}";
}
