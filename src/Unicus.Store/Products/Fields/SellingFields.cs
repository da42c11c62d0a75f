using System.Collections.Immutable;
using System.Globalization;
using static Unicus.Store.FieldKinds;

namespace Unicus.Store;

/// <summary>How it is sold: counted or not, beyond stock, from how many and up to how many.</summary>
internal static class SellingFields
{
    public static IEnumerable<ProductField> Stock()
    {
        yield return Sell(
            "counted",
            "Counted",
            s => s.Counted == false ? "no" : "yes",
            (s, t, _) => Read<Selling>.Of(s with { Counted = t == "no" ? false : null })
        ) with
        {
            Look = FieldLook.Of(new("yes", "Counted"), new("no", "Not counted: always to be had")) with { Label = _ => "Is it counted?" },
        };
        yield return Sell(
            "offForNow",
            "Off for now",
            s => s.OffForNow is null ? "no" : "yes",
            (s, t, _) => Read<Selling>.Of(s with { OffForNow = t == "yes" ? s.OffForNow ?? new OffForNow(null) : null })
        ) with
        {
            Look = FieldLook.Of(new("no", "On sale"), new("yes", "Off for now")) with { Label = _ => "On sale?" },
        };
        yield return Sell(
            "back",
            "Back on",
            s => s.OffForNow?.Back?.ToString("yyyy-MM-dd") ?? "",
            (s, t, _) =>
                t.Length == 0 ? Read<Selling>.Of(s with { OffForNow = s.OffForNow is null ? null : new OffForNow(null) })
                : DateOnly.TryParse(t, CultureInfo.GetCultureInfo("en-GB"), out var day) || DateOnly.TryParseExact(t, "yyyy-MM-dd", out day)
                    ? Read<Selling>.Of(s with { OffForNow = new OffForNow(day) })
                : Read<Selling>.No($"“{t}” is not a day. Type it like 3 May 2027.")
        ) with
        {
            Look = new FieldLook(FieldBox.Line, "3 May 2027") { Label = _ => "Back on, if known" },
        };
    }

    public static IEnumerable<ProductField> Beyond()
    {
        yield return Sell(
            "beyond",
            "When none are left",
            s =>
                s.Beyond switch
                {
                    SellBeyond.OnOrder => "on-order",
                    SellBeyond.Unlimited => "unlimited",
                    SellBeyond.Units => "units",
                    _ => "none",
                },
            (s, t, _) =>
                t switch
                {
                    "none" or "" => Read<Selling>.Of(s with { Beyond = null }),
                    "on-order" => Read<Selling>.Of(s with { Beyond = new SellBeyond.OnOrder() }),
                    "unlimited" => Read<Selling>.Of(s with { Beyond = new SellBeyond.Unlimited() }),
                    "units" => Read<Selling>.Of(s with { Beyond = s.Beyond as SellBeyond.Units ?? new SellBeyond.Units(1) }),
                    _ => Read<Selling>.No("Nothing more is sold, or what is on order, or so many more, or without end."),
                }
        ) with
        {
            Look = FieldLook.Of(
                new("none", "Nothing more is sold"),
                new("on-order", "What is on order is sold"),
                new("units", "So many more are sold"),
                new("unlimited", "It is sold without end")
            ),
        };
        yield return Sell(
            "beyondUnits",
            "How many more",
            s => s.Beyond is SellBeyond.Units(var n) ? n.ToString(CultureInfo.InvariantCulture) : "",
            (s, t, _) =>
                TypedNumbers.Whole(t, 1, 1_000_000) is { Problem: null, Value: { } n }
                    ? Read<Selling>.Of(s with { Beyond = new SellBeyond.Units(n) })
                    : Read<Selling>.No("A whole number from 1 is needed; choose otherwise for none.")
        );
    }

    public static IEnumerable<ProductField> Orders()
    {
        yield return Sell(
            "shipped",
            "Sent",
            s => s.Shipped == false ? "no" : "yes",
            (s, t, _) => Read<Selling>.Of(s with { Shipped = t == "no" ? false : null })
        ) with
        {
            Look = FieldLook.Of(new("yes", "Sent"), new("no", "Not sent: a file or a service")) with { Label = _ => "Is it sent?" },
        };
        yield return Sell(
            "minimumQuantity",
            "Sold from",
            s => Shown(s.MinimumQuantity),
            (s, t, _) => Limited(t, units => s with { MinimumQuantity = units })
        ) with
        {
            Look = new FieldLook(FieldBox.Line, "1") { Label = _ => "Sold from how many up" },
        };
        yield return Sell(
            "maximumPerOrder",
            "At most in one order",
            s => Shown(s.MaximumPerOrder),
            (s, t, _) => Limited(t, units => s with { MaximumPerOrder = units })
        ) with
        {
            Look = new FieldLook(FieldBox.Line, "no limit"),
        };
        yield return Sell(
            "afterOrderNote",
            "Said once it is ordered",
            s => s.AfterOrderNote ?? "",
            (s, t, _) =>
                t.Length <= Selling.LongestNote
                    ? Read<Selling>.Of(s with { AfterOrderNote = t.Length == 0 ? null : t })
                    : Read<Selling>.No($"At most {Selling.LongestNote:N0} characters.")
        ) with
        {
            Look = new FieldLook(FieldBox.Area, "Where to find the instructions"),
        };
    }

    private static ProductField Sell(
        string name,
        string label,
        Func<Selling, string> show,
        Func<Selling, string, WorkingCopy, Read<Selling>> take
    ) =>
        new(
            name,
            label,
            c => show(c.Product.Selling),
            (c, typed) =>
            {
                var read = take(c.Product.Selling, typed.Trim(), c);
                return read.Ok ? Read<Product>.Of(c.Product with { Selling = read.Value! }) : Read<Product>.No(read.Problem!);
            }
        );

    private static string Shown(int? units) => units?.ToString("N0", CultureInfo.InvariantCulture) ?? "";

    /// <summary>Terms of selling with a number of units that was typed; nothing typed is no limit.</summary>
    private static Read<Selling> Limited(string typed, Func<int?, Selling> with)
    {
        var read = TypedNumbers.Whole(typed, 1, Selling.MostUnits);
        if (!read.Ok)
            return Read<Selling>.No(read.Problem!);
        var selling = with(read.Value);
        return selling.MaximumPerOrder < selling.Least
            ? Read<Selling>.No(
                $"It is sold from {selling.Least:N0} up and at most {selling.MaximumPerOrder:N0} in one order: none could be bought."
            )
            : Read<Selling>.Of(selling);
    }
}
