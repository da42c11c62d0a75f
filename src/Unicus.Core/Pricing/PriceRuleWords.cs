namespace Unicus.Core.Pricing;

using System.Globalization;
using Unicus.Core.Money;
using Unicus.Core.Rules;

/// <summary>A piece of a sentence.</summary>
/// <param name="Text">What people read.</param>
/// <param name="IsValue">Whether it is one of the rule's own figures or names, to be shown stronger.</param>
public readonly record struct Phrase(string Text, bool IsValue);

/// <summary>Says price rules as sentences of the shop's own words.</summary>
/// <param name="zone">The shop's time zone, for dates.</param>
/// <param name="names">The name of a product by its code; null where there is none.</param>
/// <param name="groups">The shop's customer groups.</param>
public sealed class PriceRuleWords(TimeZoneInfo zone, Func<string, string?> names, IReadOnlyList<CustomerGroup> groups)
{
    /// <summary>The sentence without the dates, which stand beside it.</summary>
    public IReadOnlyList<Phrase> Sentence(PriceRule rule)
    {
        var said = new List<Phrase>();
        void Say(string text) => said.Add(new Phrase(text, false));
        void Value(string text) => said.Add(new Phrase(text, true));
        Beginning(rule, Say, Value);
        Effect(rule, Say, Value);
        Ending(rule, Say, Value);
        Say(".");
        var first = said.FindIndex(p => p.Text.Length > 0);
        said[first] = said[first] with { Text = char.ToUpperInvariant(said[first].Text[0]) + said[first].Text[1..] };
        return said;
    }

    private void Effect(PriceRule rule, Action<string> say, Action<string> value)
    {
        switch (rule.Effect)
        {
            case PriceEffect.Reduce r:
                Goods(rule, value);
                say(" cost ");
                value(Off(r.Percent, r.Amount, rule.Currency));
                say(" less");
                break;
            case PriceEffect.SetUnit s:
                Goods(rule, value);
                say(" cost ");
                value(Amount(s.Price, rule.Currency));
                break;
            case PriceEffect.SetBySku b:
                value($"{b.Prices.Count:N0} {(b.Prices.Count == 1 ? "SKU" : "SKUs")}");
                say(" have prices of their own");
                break;
            case PriceEffect.Bands b:
                Bands(rule, b, say, value);
                break;
            case PriceEffect.Packs p:
                Goods(rule, value);
                say(" come in packs: ");
                foreach (var (pack, i) in p.Rows.Index().Select(r => (r.Item, r.Index)))
                {
                    say(i == 0 ? "" : ", ");
                    value($"{pack.Units:N0} for {Amount(pack.Total, rule.Currency)}");
                }
                break;
            case PriceEffect.CheapestOff c:
                say("of every ");
                value($"{c.InEvery:N0}");
                say(" of ");
                Goods(rule, value);
                say(c.Units == 1 ? ", the cheapest is " : $", the {c.Units:N0} cheapest are ");
                value(c.Percent == 100 ? "free" : $"{Plain(c.Percent)} % less");
                break;
            case PriceEffect.ReduceBasket r:
                value(Off(r.Percent, r.Amount, rule.Currency));
                say(" less on baskets");
                if (!rule.Scope.IsAll)
                {
                    say(" of ");
                    Goods(rule, value);
                }
                break;
            case PriceEffect.ReduceDelivery d:
                value(d.Percent == 100 ? "delivery is free" : $"delivery costs {Plain(d.Percent)} % less");
                break;
        }
    }

    private void Bands(PriceRule rule, PriceEffect.Bands b, Action<string> say, Action<string> value)
    {
        Goods(rule, value);
        say(b.Mode == BandMode.AllUnits ? " cost " : " cost, each unit in its own band, ");
        foreach (var (row, i) in b.Rows.Index().Select(r => (r.Item, r.Index)))
        {
            say(i == 0 ? "" : ", ");
            value(row.Unit is { } unit ? Amount(unit, rule.Currency) : $"{Plain(row.Percent!.Value)} % less");
            say(" from ");
            value(row.From.ToString("N0", CultureInfo.InvariantCulture));
        }
        if (b.AcrossProduct)
            say(", variants mixed");
    }

    /// <summary>The sentence as one text.</summary>
    public string Text(PriceRule rule) => string.Concat(Sentence(rule).Select(p => p.Text));

    /// <summary>A moment as people read it: “1 March 2027, 00:00”.</summary>
    public string Moment(DateTimeOffset at) =>
        TimeZoneInfo.ConvertTime(at, zone).ToString("d MMMM yyyy, HH:mm", CultureInfo.InvariantCulture);

    /// <summary>What some rules are called beside goods.</summary>
    public static string Badges(IEnumerable<PriceRule> rules, TimeZoneInfo zone) => string.Join(", ", rules.Select(r => Badge(r, zone)));

    /// <summary>What a rule is called beside goods while it runs: “Spring prices until 31 March”, its last day in the shop.</summary>
    public static string Badge(PriceRule rule, TimeZoneInfo zone) =>
        rule.When.Until is { } until
            ? $"{rule.Name} until {TimeZoneInfo.ConvertTime(until.AddTicks(-1), zone).ToString("d MMMM", CultureInfo.InvariantCulture)}"
            : rule.Name;

    /// <summary>The goods of a rule: “Hives”, “Garden hive and Smoker, timber pine”.</summary>
    public string Goods(PriceScope scope)
    {
        var pieces = new List<string>();
        if (!scope.Products.IsEmpty)
            pieces.Add(Listed(scope.Products.Select(c => names(c) ?? c)));
        if (!scope.Skus.IsEmpty)
            pieces.Add(scope.Skus.Length > 3 ? $"{scope.Skus.Length:N0} SKUs" : Listed(scope.Skus));
        if (!scope.Categories.IsEmpty)
            pieces.Add($"everything in {Listed(scope.Categories)}");
        if (!scope.Tags.IsEmpty)
            pieces.Add($"everything tagged {Listed(scope.Tags)}");
        if (pieces.Count == 0)
            pieces.Add("everything");
        if (scope.Where is { } where)
            pieces.Add(Said(where));
        return string.Join(", ", pieces);
    }

    private void Goods(PriceRule rule, Action<string> value) =>
        value(rule.Owner is { } owner && rule.Scope.IsAll ? names(owner) ?? owner : Goods(rule.Scope));

    private void Beginning(PriceRule rule, Action<string> say, Action<string> value)
    {
        if (!rule.When.CustomerGroups.IsEmpty)
        {
            say("for ");
            value(Listed(rule.When.CustomerGroups.Select(g => groups.FirstOrDefault(x => x.Key == g)?.Label ?? g.Text)));
            say(", ");
        }
        if (rule.When.Coupon is { } word)
        {
            say("with the coupon ");
            value(word);
            say(", ");
        }
        if (rule.When.Coupons is { } list)
        {
            say("with a code of ");
            value(list.Text!);
            say(", ");
        }
        if (rule.Scope.Through is { } page)
        {
            say("bought through ");
            value(names(page) ?? page);
            say(", ");
        }
    }

    private static void Ending(PriceRule rule, Action<string> say, Action<string> value)
    {
        if (rule.When.QuantityAtLeast is { } quantity)
        {
            say(" from ");
            value($"{quantity:N0}");
            say(" units");
        }
        if (rule.When.BasketAtLeast is { } basket)
        {
            say(" from ");
            value(Amount(basket, rule.Currency));
        }
        if (!rule.When.Weekdays.IsEmpty)
        {
            say(" on ");
            value(Listed(rule.When.Weekdays.Select(d => d.ToString())));
        }
        if (rule.Limits.PerBuyer is { } each)
            say(each == 1 ? ", once a buyer" : $", {each:N0} times a buyer");
        if (rule.Limits.InAll is { } all)
            say($", {all:N0} times in all");
        if (!rule.ReachesSets)
            say(", not on sets");
    }

    private static string Said(Condition where) =>
        where switch
        {
            Condition.Is i => $"{i.Question} {string.Join(" or ", i.Values)}",
            Condition.Answered a => $"with {a.Question}",
            Condition.All a => string.Join(" and ", a.Of.Select(Said)),
            Condition.Any a => string.Join(" or ", a.Of.Select(Said)),
            Condition.Not n => $"not {Said(n.Of)}",
            _ => "",
        };

    private static string Off(decimal? percent, long? amount, Currency currency) =>
        percent is { } p ? $"{Plain(p)} %" : Amount(amount!.Value, currency);

    private static string Amount(long minor, Currency currency) => MinorUnits.ToMoney(minor, currency).ForPeople();

    private static string Plain(decimal number) => number.ToString("0.######", CultureInfo.InvariantCulture);

    private static string Listed(IEnumerable<string> words)
    {
        var all = words.ToList();
        return all.Count < 2 ? all.FirstOrDefault() ?? "" : $"{string.Join(", ", all.SkipLast(1))} and {all[^1]}";
    }
}
