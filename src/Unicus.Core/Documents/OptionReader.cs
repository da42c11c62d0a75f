namespace Unicus.Core.Documents;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>Reads the options and extras of a product document.</summary>
/// <param name="currency">The shop's.</param>
internal sealed class OptionReader(Currency currency)
{
    private readonly FiguresReader _figures = new(currency);

    /// <summary>Reads an option or an extra; null where it has no key, or is none.</summary>
    public Option? Read(Node node)
    {
        if (!node.IsObject("an option"))
            return null;
        node.Require("key", "label", "role");
        switch (node.Text("role", 20))
        {
            case "extra":
                return Extra(node);
            case "variant":
                break;
            case { } role:
                node.At("role").Fault($"“{role}” is not a role that is understood: variant, extra.");
                break;
        }
        node.Only("key", "label", "role", "help", "library", "default", "sharesSku", "values");
        var key = node.Key("key");
        var values = node.Items("values").Select(v => Value(v, ofExtra: false)).OfType<OptionValue>().ToImmutableArray();
        if (values.IsEmpty)
            node.At("values").Fault("An option has at least one value.");
        if (values.Length > TypedValues.MostValues)
            node.At("values").Fault($"An option has at most {TypedValues.MostValues:N0} values.");
        node.At("values").Unique(values.Select(v => v.Key.Text), "A value");
        var option = new Option(key ?? default, node.Label("label"), OptionRole.Variant)
        {
            Help = node.Text("help", 500),
            Library = node.Has("library") ? node.Key("library") : null,
            Default = node.Has("default") ? node.Key("default") : null,
            SharesSku = node.Flag("sharesSku") ?? false,
            Values = values,
        };
        if (option.Default is { } d && option.Find(d) is null)
            node.At("default").Fault($"There is no value {d}.");
        return key is null ? null : option;
    }

    private ImmutableArray<OptionValue> ValuesOfExtra(Node node, Ask ask)
    {
        var values = node.Items("values").Select(v => Value(v, ofExtra: true)).OfType<OptionValue>().ToImmutableArray();
        if (ask == Ask.YesNo && values.IsEmpty)
            values = [new OptionValue(Key.Of("yes"), "Yes")];
        if (ask == Ask.YesNo && (values.Length != 1 || values[0].Key.Text != "yes"))
            node.At("values").Fault("A question of yes or no has the one value yes.");
        if (values.Length > TypedValues.MostValues)
            node.At("values").Fault($"An extra has at most {TypedValues.MostValues:N0} values.");
        node.At("values").Unique(values.Select(v => v.Key.Text), "A value");
        return values;
    }

    private Option? Extra(Node node)
    {
        node.Require("ask");
        if (!node.Has("ask") || ExtraReader.ReadAsk(node.At("ask")) is not { } ask)
            return null;
        string[] own = ask switch
        {
            Ask.Several => ["picks", "values"],
            Ask.Text => ["maxLength", "characters"],
            Ask.Number => ["number"],
            Ask.Date => ["date"],
            _ => ["values"],
        };
        node.Only(["key", "label", "role", "ask", "help", "library", "required", "default", "surcharge", .. own]);
        var key = node.Key("key");
        var values = own.Contains("values") ? ValuesOfExtra(node, ask) : [];
        string[] kinds =
        [
            "amount",
            "percent",
            "once",
            .. ask switch
            {
                Ask.Text => new[] { "perCharacter" },
                Ask.Number => ["perUnit", "table"],
                _ => [],
            },
        ];
        var extra = new Option(key ?? default, node.Label("label"), OptionRole.Extra)
        {
            Ask = ask,
            Help = node.Text("help", 500),
            Library = node.Has("library") ? node.Key("library") : null,
            Required = node.Flag("required") ?? false,
            Picks = ExtraReader.Picks(node.At("picks")),
            MaxLength = node.Whole("maxLength", 1, Option.LongestText),
            Characters = node.Text("characters", 200),
            Number = ExtraReader.Number(node.At("number")),
            Date = ExtraReader.Date(node.At("date")),
            Surcharge = ExtraReader.Surcharge(node.At("surcharge"), currency, kinds),
            Values = values,
        };
        // Yes has its surcharge at its one value, wherever it was written.
        if (ask == Ask.YesNo && extra.Surcharge is { } ofYes)
            extra = extra with { Surcharge = null, Values = [values[0] with { Surcharge = values[0].Surcharge ?? ofYes }] };
        if (ask is Ask.One or Ask.Several && extra.Surcharge is not null)
            node.At("surcharge").Fault("Where a list is picked from, each value has its own surcharge.");
        if (node.Has("default") && ExtraReader.Answer(node.At("default"), extra, null) is { } preset and not Answer.None)
            extra = preset is Answer.Value v ? extra with { Default = v.Key } : extra with { Preset = AnswerText.Write(preset) };
        return key is null ? null : extra;
    }

    private OptionValue? Value(Node node, bool ofExtra)
    {
        if (!node.IsObject("a value"))
            return null;
        node.Only(["key", "label", "sku", "swatch", "surcharge", .. ofExtra ? new[] { "cost", "part" } : ["figures", "doesNotApply"]]);
        node.Require("key", "label");
        var key = node.Key("key");
        var sku = node.Text("sku", 16);
        if (sku is not null && !Sku.Parse(sku).Ok)
            node.At("sku").Fault("A SKU code is 1 to 16 visible characters without blanks.");
        var value = new OptionValue(key ?? default, node.Label("label"))
        {
            SkuCode = sku,
            Swatch = Swatch(node.At("swatch")),
            DoesNotApply = node.Flag("doesNotApply") ?? false,
            Surcharge = ExtraReader.Surcharge(
                node.At("surcharge"),
                currency,
                ofExtra ? ["amount", "percent", "once"] : ["amount", "percent"]
            ),
            Cost = ofExtra ? node.Money("cost", currency) : null,
            Part = ofExtra ? Part(node.At("part")) : null,
            Figures = _figures.Read(node.At("figures")),
        };
        return key is null ? null : value;
    }

    private static Swatch? Swatch(Node node)
    {
        if (!node.Exists || !node.IsObject("a swatch"))
            return null;
        node.Only("colour", "stripes", "picture");
        if (node.Text("picture", 120) is { } file)
            return new Swatch.Picture(file);
        if (node.Has("stripes"))
            return new Swatch.Stripes([.. node.Items("stripes").Select(s => Colour(s, s.AsText())).OfType<string>()]);
        return Colour(node.At("colour"), node.Text("colour", 20)) is { } hex ? new Swatch.Colour(hex) : null;
    }

    private static string? Colour(Node node, string? hex)
    {
        if (hex is { Length: 7 } && hex[0] == '#' && hex.Skip(1).All(char.IsAsciiHexDigit))
            return hex.ToLowerInvariant();
        node.Fault("A colour is written #rrggbb.");
        return null;
    }

    private static ValuePart? Part(Node node)
    {
        if (!node.Exists || !node.IsObject("a part"))
            return null;
        node.Only("sku", "quantity");
        node.Require("sku");
        var sku = Sku.Parse(node.Text("sku", 200) ?? "");
        if (node.Has("sku") && !sku.Ok)
            node.At("sku").Fault(sku.Problem!);
        return sku.Ok ? new ValuePart(sku.Value.Text, node.Whole("quantity", 1, 10_000) ?? 1) : null;
    }
}
