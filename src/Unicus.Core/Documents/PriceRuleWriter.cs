namespace Unicus.Core.Documents;

using System.Globalization;
using System.Text.Json.Nodes;
using Unicus.Core.Money;
using Unicus.Core.Pricing;

/// <summary>Writes price rules as documents and the HTTP interface have them.</summary>
public sealed class PriceRuleWriter
{
    private readonly Currency _currency;

    private PriceRuleWriter(Currency currency) => _currency = currency;

    /// <summary>Writes a rule; what is as usual is left out.</summary>
    public static JsonObject Write(PriceRule rule) => new PriceRuleWriter(rule.Currency).Whole(rule);

    /// <summary>What a day of the week is called in documents: its first three letters.</summary>
    public static string NameOf(DayOfWeek day) => ExtraReader.NameOf(day);

    private JsonObject Whole(PriceRule rule)
    {
        var json = new JsonObject { ["key"] = rule.Key.Text, ["name"] = rule.Name };
        if (!rule.Scope.IsAll)
            json["scope"] = Scope(rule.Scope);
        if (When(rule.When) is { Count: > 0 } when)
            json["when"] = when;
        json["effect"] = Effect(rule.Effect);
        if (rule.Combine != Combine.Best)
            json["combine"] = rule.Combine == Combine.Adds ? "adds" : "alone";
        if (rule.Priority != PriceRule.UsualPriority)
            json["priority"] = rule.Priority;
        if (rule.Limits != RuleLimits.None)
            json["limits"] = Limits(rule.Limits);
        if (rule.State == RuleState.Draft)
            json["state"] = "draft";
        if (!rule.ReachesSets)
            json["reachesSets"] = false;
        return json;
    }

    private JsonObject Effect(PriceEffect effect) =>
        effect switch
        {
            PriceEffect.Reduce r => new JsonObject { ["reduce"] = Off(r.Percent, r.Amount) },
            PriceEffect.SetUnit s => new JsonObject { ["setUnit"] = Amount(s.Price) },
            PriceEffect.SetBySku b => new JsonObject
            {
                ["setBySku"] = new JsonObject(b.Prices.Select(p => KeyValuePair.Create(p.Key, (JsonNode?)Amount(p.Value)))),
            },
            PriceEffect.Bands b => new JsonObject { ["bands"] = Bands(b) },
            PriceEffect.Packs p => new JsonObject
            {
                ["packs"] = new JsonArray([
                    .. p.Rows.Select(r => (JsonNode)new JsonObject { ["units"] = r.Units, ["total"] = Amount(r.Total) }),
                ]),
            },
            PriceEffect.CheapestOff c => new JsonObject
            {
                ["cheapestOff"] = new JsonObject
                {
                    ["inEvery"] = c.InEvery,
                    ["units"] = c.Units,
                    ["percent"] = Plain(c.Percent),
                },
            },
            PriceEffect.ReduceBasket r => new JsonObject { ["reduceBasket"] = Off(r.Percent, r.Amount) },
            PriceEffect.ReduceDelivery d => new JsonObject { ["reduceDelivery"] = new JsonObject { ["percent"] = Plain(d.Percent) } },
            _ => throw new InvalidOperationException("A kind of effect without a form."),
        };

    private JsonObject Bands(PriceEffect.Bands bands) =>
        new()
        {
            ["mode"] = bands.Mode == BandMode.AllUnits ? "all-units" : "incremental",
            ["across"] = bands.AcrossProduct ? "product" : "line",
            ["rows"] = new JsonArray([.. bands.Rows.Select(r => (JsonNode)Row(r))]),
        };

    private JsonObject Row(BandRow row)
    {
        var json = new JsonObject { ["from"] = row.From };
        if (row.Unit is { } unit)
            json["unit"] = Amount(unit);
        else
            json["percent"] = Plain(row.Percent!.Value);
        return json;
    }

    private JsonObject Off(decimal? percent, long? amount) =>
        percent is { } p ? new JsonObject { ["percent"] = Plain(p) } : new JsonObject { ["amount"] = Amount(amount!.Value) };

    private static JsonObject Scope(PriceScope scope)
    {
        var json = new JsonObject();
        void Texts(string name, IReadOnlyCollection<string> texts)
        {
            if (texts.Count > 0)
                json[name] = new JsonArray([.. texts.Select(t => (JsonNode)t)]);
        }
        Texts("products", scope.Products);
        Texts("skus", scope.Skus);
        Texts("categories", scope.Categories);
        Texts("tags", scope.Tags);
        if (scope.Where is { } where)
            json["where"] = RuleWriter.Condition(where);
        if (scope.Through is { } through)
            json["through"] = through;
        return json;
    }

    private JsonObject When(PriceWhen when)
    {
        var json = new JsonObject();
        if (when.From is { } from)
            json["from"] = Moment(from);
        if (when.Until is { } until)
            json["until"] = Moment(until);
        if (when.QuantityAtLeast is { } quantity)
            json["quantityAtLeast"] = quantity;
        if (when.BasketAtLeast is { } basket)
            json["basketAtLeast"] = Amount(basket);
        if (!when.CustomerGroups.IsEmpty)
            json["customerGroups"] = new JsonArray([.. when.CustomerGroups.Select(g => (JsonNode)g.Text!)]);
        if (when.Coupon is { } coupon)
            json["coupon"] = coupon;
        if (when.Coupons is { } coupons)
            json["coupons"] = coupons.Text;
        if (!when.Weekdays.IsEmpty)
            json["weekdays"] = new JsonArray([.. when.Weekdays.Select(d => (JsonNode)ExtraReader.NameOf(d))]);
        return json;
    }

    private static JsonObject Limits(RuleLimits limits)
    {
        var json = new JsonObject();
        if (limits.PerBuyer is { } buyer)
            json["perBuyer"] = buyer;
        if (limits.InAll is { } all)
            json["inAll"] = all;
        return json;
    }

    private static string Moment(DateTimeOffset at) => at.UtcDateTime.ToString("yyyy-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture);

    private string Amount(long minor) => MinorUnits.ToMoney(minor, _currency).ToString();

    private static string Plain(decimal number) => number.ToString("0.############", CultureInfo.InvariantCulture);
}
