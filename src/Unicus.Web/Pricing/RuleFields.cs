using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Unicus.Web.Pricing;

/// <summary>A price rule as the fields of its sentence; each is a text, as typed.</summary>
public sealed class RuleFields
{
    private static readonly string[] Names =
    [
        "name",
        "goods",
        "which",
        "option",
        "value",
        "through",
        "effect",
        "amount",
        "unit",
        "rows",
        "mode",
        "across",
        "every",
        "units",
        "from",
        "until",
        "quantity",
        "basket",
        "group",
        "coupon",
        "codes",
        "combine",
        "priority",
        "perBuyer",
        "inAll",
        "notOnSets",
        .. Enum.GetValues<DayOfWeek>().Select(d => "on-" + d),
    ];

    private readonly Dictionary<string, string> _texts = [];

    /// <summary>The effects that a rule may have, with the words that stand in its sentence.</summary>
    public static IReadOnlyList<(string Key, string Label)> Effects { get; } =
    [
        ("reduce", "less for each"),
        ("setUnit", "as the price of each"),
        ("bands", "by quantity bands"),
        ("packs", "in packs"),
        ("cheapestOff", "the cheapest of several less"),
        ("setBySku", "prices by SKU"),
        ("reduceBasket", "less on the basket"),
        ("reduceDelivery", "less for delivery"),
    ];

    /// <summary>The kinds of goods that a rule may be about.</summary>
    public static IReadOnlyList<(string Key, string Label)> Goods { get; } =
    [("", "everything"), ("products", "the products"), ("categories", "the categories"), ("tags", "the tags"), ("skus", "the SKUs")];

    /// <summary>What stands in a field.</summary>
    public string this[string name]
    {
        get => _texts.GetValueOrDefault(name, "");
        set => _texts[name] = value;
    }

    /// <summary>Whether a box is ticked.</summary>
    public bool Is(string name) => this[name].Length > 0;

    /// <summary>The fields of a form.</summary>
    public static RuleFields Of(IFormCollection form)
    {
        var fields = new RuleFields();
        foreach (var name in Names)
            fields[name] = TypedText.Lines(form[name].ToString()).Trim();
        // Bands and packs come as two columns.
        var rows = form["row-at"].Zip(form["row-gets"], (at, gets) => (At: at?.Trim() ?? "", Gets: gets?.Trim() ?? ""));
        if (form.ContainsKey("row-at"))
            fields["rows"] = string.Join('\n', rows.Where(r => r.At.Length + r.Gets.Length > 0).Select(r => $"{r.At}: {r.Gets}"));
        return fields;
    }

    /// <summary>The fields of a rule that there is.</summary>
    /// <param name="zone">The shop's time zone, in which dates are typed.</param>
    public static RuleFields Of(PriceRule rule, TimeZoneInfo zone)
    {
        var fields = new RuleFields { ["name"] = rule.Name, ["effect"] = "reduce" };
        var scope = rule.Scope;
        (fields["goods"], var named) =
            !scope.Products.IsEmpty ? ("products", scope.Products)
            : !scope.Categories.IsEmpty ? ("categories", scope.Categories)
            : !scope.Tags.IsEmpty ? ("tags", scope.Tags)
            : !scope.Skus.IsEmpty ? ("skus", scope.Skus)
            : ("", []);
        fields["which"] = string.Join(", ", named);
        if (scope.Where is Condition.Is where)
            (fields["option"], fields["value"]) = (where.Question.Text!, string.Join(", ", where.Values));
        fields["through"] = scope.Through ?? "";
        fields.TakeEffect(rule);
        var when = rule.When;
        fields["from"] = Moment(when.From, zone);
        fields["until"] = Moment(when.Until, zone);
        fields["quantity"] = Number(when.QuantityAtLeast);
        fields["basket"] = when.BasketAtLeast is { } least ? Amount(least, rule.Currency) : "";
        fields["group"] = when.CustomerGroups is [var group, ..] ? group.Text! : "";
        fields["coupon"] = when.Coupon ?? "";
        fields["codes"] = when.Coupons?.Text ?? "";
        fields["combine"] = rule.Combine.ToString().ToLowerInvariant();
        fields["priority"] = rule.Priority == PriceRule.UsualPriority ? "" : Number(rule.Priority);
        fields["perBuyer"] = Number(rule.Limits.PerBuyer);
        fields["inAll"] = Number(rule.Limits.InAll);
        fields["notOnSets"] = rule.ReachesSets ? "" : "on";
        foreach (var day in when.Weekdays)
            fields["on-" + day] = "on";
        return fields;
    }

    /// <summary>The rule that the fields say, or what is wrong with it.</summary>
    /// <param name="state">Whether it is switched on.</param>
    public (PriceRule? Rule, IReadOnlyList<Fault> Faults) Read(Key key, Currency currency, TimeZoneInfo zone, RuleState state)
    {
        var faults = new List<Fault>();
        var json = Document(key, currency, zone, state, faults);
        using var document = JsonDocument.Parse(json.ToJsonString());
        var rule = new PriceRuleReader(currency).Rule(new Node(document.RootElement, "#", faults));
        return (faults.Count == 0 ? rule : null, faults);
    }

    private JsonObject Document(Key key, Currency currency, TimeZoneInfo zone, RuleState state, List<Fault> faults)
    {
        string Money(string text, string where)
        {
            var read = TypedNumbers.Amount(text, currency);
            if (!read.Ok || read.Value is null)
                faults.Add(new Fault(where, read.Problem ?? "An amount is needed."));
            return read.Value?.ToString() ?? "0";
        }
        var scope = new JsonObject();
        if (this["goods"].Length > 0)
            scope[this["goods"]] = List(this["which"]);
        if (this["goods"].Length > 0 && this["which"].Length == 0)
            faults.Add(new Fault("#/scope", "Say which: names or codes, separated by commas."));
        if (this["option"].Length > 0)
            scope["where"] = new JsonObject { ["option"] = this["option"], ["is"] = List(this["value"]) };
        if (this["through"].Length > 0)
            scope["through"] = this["through"];
        var when = new JsonObject();
        PutMoment(when, "from", zone, faults);
        PutMoment(when, "until", zone, faults);
        PutWhole(when, "quantityAtLeast", "quantity", faults);
        if (this["basket"].Length > 0)
            when["basketAtLeast"] = Money(this["basket"], "#/when/basketAtLeast");
        if (this["group"].Length > 0)
            when["customerGroups"] = new JsonArray(this["group"]);
        if (this["coupon"].Length > 0)
            when["coupon"] = this["coupon"];
        if (this["codes"].Length > 0)
            when["coupons"] = this["codes"];
        var days = Enum.GetValues<DayOfWeek>().Where(d => Is("on-" + d)).Select(d => (JsonNode)PriceRuleWriter.NameOf(d)).ToArray();
        if (days.Length > 0)
            when["weekdays"] = new JsonArray(days);
        var limits = new JsonObject();
        PutWhole(limits, "perBuyer", "perBuyer", faults);
        PutWhole(limits, "inAll", "inAll", faults);
        var json = new JsonObject
        {
            ["key"] = key.Text,
            ["name"] = this["name"].Length > 0 ? this["name"] : key.Text,
            ["scope"] = scope,
            ["when"] = when,
            ["effect"] = Effect(Money, faults),
            ["limits"] = limits,
            ["state"] = state == RuleState.Draft ? "draft" : "on",
            ["reachesSets"] = !Is("notOnSets"),
        };
        if (this["effect"] is "reduce" or "setUnit" or "setBySku" or "reduceBasket" or "reduceDelivery" && this["combine"].Length > 0)
            json["combine"] = this["combine"];
        PutWhole(json, "priority", "priority", faults);
        return json;
    }

    private JsonObject Effect(Func<string, string, string> money, List<Fault> faults)
    {
        var kind = Effects.Any(e => e.Key == this["effect"]) ? this["effect"] : "reduce";
        JsonObject Off() =>
            this["unit"] == "amount"
                ? new JsonObject { ["amount"] = money(this["amount"], $"#/effect/{kind}") }
                : new JsonObject { ["percent"] = Percent(this["amount"], $"#/effect/{kind}", faults) };
        JsonNode inner = kind switch
        {
            "setUnit" => JsonValue.Create(money(this["amount"], "#/effect/setUnit")),
            "bands" => new JsonObject
            {
                ["mode"] = this["mode"].Length > 0 ? this["mode"] : "all-units",
                ["across"] = Is("across") ? "product" : "line",
                ["rows"] = new JsonArray([.. Rows().Select((r, i) => (JsonNode)Band(r, i, money, faults))]),
            },
            "packs" => new JsonArray([.. Rows().Select((r, i) => (JsonNode)Pack(r, i, money, faults))]),
            "setBySku" => new JsonObject(
                Rows().DistinctBy(r => r.Key).Select(r => KeyValuePair.Create(r.Key, (JsonNode?)money(r.Value, "#/effect/setBySku")))
            ),
            "cheapestOff" => new JsonObject
            {
                ["inEvery"] = Whole(this["every"]),
                ["units"] = Whole(this["units"].Length > 0 ? this["units"] : "1"),
                ["percent"] = Percent(this["amount"], "#/effect/cheapestOff", faults),
            },
            "reduceDelivery" => new JsonObject { ["percent"] = Percent(this["amount"], "#/effect/reduceDelivery", faults) },
            _ => Off(),
        };
        return new JsonObject { [kind] = inner };
    }

    private static JsonObject Band(Row row, int place, Func<string, string, string> money, List<Fault> faults)
    {
        var band = new JsonObject { ["from"] = Whole(row.Key) };
        var where = $"#/effect/bands/rows/{place}";
        if (row.Value.Contains('%'))
            band["percent"] = Percent(row.Value.Replace("%", ""), where, faults);
        else
            band["unit"] = money(row.Value, where);
        return band;
    }

    private static JsonObject Pack(Row row, int place, Func<string, string, string> money, List<Fault> faults) =>
        new JsonObject { ["units"] = Whole(row.Key), ["total"] = money(row.Value, $"#/effect/packs/{place}") };

    /// <summary>The rows as two columns, and some empty ones behind them.</summary>
    public IEnumerable<(string At, string Gets)> RowCells =>
        Rows().Select(r => (r.Key, r.Value)).Concat(Enumerable.Repeat(("", ""), this["rows"].Length == 0 ? 3 : 2));

    /// <summary>A typed row: what stands before its last gap, and behind it.</summary>
    private sealed record Row(string Key, string Value);

    /// <summary>“12: 9.20”, “12 9.20”, “12 → 5 %”: one a line.</summary>
    private IEnumerable<Row> Rows()
    {
        foreach (var line in this["rows"].Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            var cut = line.IndexOfAny([':', '\t', '=', ';']);
            if (cut < 0)
                cut = line.IndexOf(' ');
            yield return cut < 0 ? new Row(line, "") : new Row(line[..cut].Trim(), line[(cut + 1)..].Trim());
        }
    }

    private void TakeEffect(PriceRule rule)
    {
        void Off(decimal? percent, long? amount) =>
            (this["amount"], this["unit"]) = percent is { } p ? (Plain(p), "percent") : (Amount(amount!.Value, rule.Currency), "amount");
        this["effect"] = PriceRuleWriter.Write(rule)["effect"]!.AsObject().First().Key;
        switch (rule.Effect)
        {
            case PriceEffect.Reduce r:
                Off(r.Percent, r.Amount);
                break;
            case PriceEffect.ReduceBasket r:
                Off(r.Percent, r.Amount);
                break;
            case PriceEffect.ReduceDelivery d:
                Off(d.Percent, null);
                break;
            case PriceEffect.SetUnit s:
                this["amount"] = Amount(s.Price, rule.Currency);
                break;
            case PriceEffect.CheapestOff c:
                (this["every"], this["units"], this["amount"]) = (Number(c.InEvery), Number(c.Units), Plain(c.Percent));
                break;
            case PriceEffect.Bands b:
                (this["mode"], this["across"]) = (b.Mode == BandMode.AllUnits ? "all-units" : "incremental", b.AcrossProduct ? "on" : "");
                this["rows"] = string.Join(
                    '\n',
                    b.Rows.Select(r => $"{r.From}: {(r.Unit is { } u ? Amount(u, rule.Currency) : $"{Plain(r.Percent!.Value)} %")}")
                );
                break;
            case PriceEffect.Packs p:
                this["rows"] = string.Join('\n', p.Rows.Select(r => $"{r.Units}: {Amount(r.Total, rule.Currency)}"));
                break;
            case PriceEffect.SetBySku s:
                this["rows"] = string.Join('\n', s.Prices.Select(x => $"{x.Key}: {Amount(x.Value, rule.Currency)}"));
                break;
        }
    }

    private static JsonArray List(string text) =>
        new([.. text.Split([',', '\n'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).Select(t => (JsonNode)t!)]);

    private static string Percent(string text, string where, List<Fault> faults)
    {
        var read = TypedNumbers.Percent(text.Trim());
        if (read.Value is { } percent)
            return percent.ToString();
        faults.Add(new Fault(where, read.Problem ?? "How many per cent?"));
        return "1";
    }

    private static JsonNode? Whole(string text) =>
        int.TryParse(text.Replace(",", ""), NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : text;

    private void PutWhole(JsonObject json, string member, string field, List<Fault> faults)
    {
        if (this[field].Length == 0)
            return;
        if (int.TryParse(this[field].Replace(",", ""), NumberStyles.None, CultureInfo.InvariantCulture, out var number))
            json[member] = number;
        else
            faults.Add(new Fault($"#/{member}", $"“{this[field]}” is no whole number."));
    }

    private void PutMoment(JsonObject json, string name, TimeZoneInfo zone, List<Fault> faults)
    {
        if (this[name].Length == 0)
            return;
        if (DateTime.TryParse(this[name], CultureInfo.InvariantCulture, DateTimeStyles.None, out var local) && !zone.IsInvalidTime(local))
            json[name] = TimeZoneInfo
                .ConvertTimeToUtc(DateTime.SpecifyKind(local, DateTimeKind.Unspecified), zone)
                .ToString("yyyy-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture);
        else
            faults.Add(new Fault($"#/when/{name}", $"There is no {this[name]}. Type a day, or a day and a time: 2027-03-01 00:00."));
    }

    private static string Moment(DateTimeOffset? at, TimeZoneInfo zone) =>
        at is not { } moment ? ""
        : TimeZoneInfo.ConvertTime(moment, zone) is var local
            ? local.ToString(local.Second == 0 ? "yyyy-MM-dd HH:mm" : "yyyy-MM-dd HH:mm:ss", CultureInfo.InvariantCulture)
        : "";

    private static string Number(int? number) => number?.ToString(CultureInfo.InvariantCulture) ?? "";

    private static string Plain(decimal number) => number.ToString("0.######", CultureInfo.InvariantCulture);

    private static string Amount(long minor, Currency currency) => MinorUnits.ToMoney(minor, currency).ToString();
}
