namespace Unicus.Core.Documents;

using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Unicus.Core.Money;
using Unicus.Core.Stock;
using Unicus.Core.Variants;

/// <summary>Terms of selling as documents and the columns of variants have them.</summary>
public static class SellingDocument
{
    /// <summary>Reads what <see cref="Write"/> wrote.</summary>
    /// <exception cref="InvalidOperationException">The stored text is damaged.</exception>
    public static Selling ReadStored(string text)
    {
        using var json = JsonDocument.Parse(text);
        var faults = new List<Fault>();
        var selling = Read(new Node(json.RootElement, "#", faults));
        return faults.Count == 0
            ? selling
            : throw new InvalidOperationException($"Stored terms of selling cannot be read: {faults[0].Where} {faults[0].What}");
    }

    /// <summary>Writes terms of selling; null where all is inherited.</summary>
    public static JsonObject? Write(Selling selling)
    {
        if (selling == Selling.Inherited)
            return null;
        var json = new JsonObject();
        if (selling.Counted is { } counted)
            json["counted"] = counted;
        if (selling.Beyond is { } beyond)
            json["beyond"] = beyond switch
            {
                SellBeyond.Nothing => "none",
                SellBeyond.OnOrder => "on-order",
                SellBeyond.Unlimited => "unlimited",
                SellBeyond.Units(var units) => new JsonObject { ["units"] = units },
                _ => throw new InvalidOperationException("A kind of selling beyond stock without a form."),
            };
        if (selling.OffForNow is { } off)
            json["offForNow"] = new JsonObject { ["back"] = off.Back?.ToString("yyyy-MM-dd") };
        if (selling.Shipped is { } shipped)
            json["shipped"] = shipped;
        if (selling.MinimumQuantity is { } least)
            json["minimumQuantity"] = least;
        if (selling.MaximumPerOrder is { } most)
            json["maximumPerOrder"] = most;
        if (selling.AfterOrderNote is { } note)
            json["afterOrderNote"] = note;
        return json;
    }

    /// <summary>Reads terms of selling; what is left out is inherited.</summary>
    public static Selling Read(Node node)
    {
        if (!node.Exists || !node.IsObject("an object"))
            return Selling.Inherited;
        node.Only("counted", "beyond", "offForNow", "shipped", "minimumQuantity", "maximumPerOrder", "afterOrderNote");
        var (least, most) = (node.Whole("minimumQuantity", 1, Selling.MostUnits), node.Whole("maximumPerOrder", 1, Selling.MostUnits));
        if (most < least)
            node.At("maximumPerOrder").Fault($"It is sold from {least:N0} up, so {most:N0} in one order are none.");
        return new Selling
        {
            Counted = node.Flag("counted"),
            Beyond = Beyond(node.At("beyond")),
            OffForNow = Off(node.At("offForNow")),
            Shipped = node.Flag("shipped"),
            MinimumQuantity = least,
            MaximumPerOrder = most,
            AfterOrderNote = node.Text("afterOrderNote", Selling.LongestNote) is { Length: > 0 } note ? note : null,
        };
    }

    private static OffForNow? Off(Node node)
    {
        if (!node.Exists || !node.IsObject("an object"))
            return null;
        node.Only("back");
        var back = node.Text("back", 20);
        if (back is null)
            return new OffForNow(null);
        if (DateOnly.TryParseExact(back, "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var day))
            return new OffForNow(day);
        node.At("back").Fault("A date is written 2027-05-03.");
        return null;
    }

    private static SellBeyond? Beyond(Node node)
    {
        if (!node.Exists)
            return null;
        if (node.Kind == JsonValueKind.Object)
        {
            node.Only("units");
            node.Require("units");
            return node.Whole("units", 0, Movements.MostUnits) is { } units ? new SellBeyond.Units(units) : null;
        }
        switch (node.AsText())
        {
            case "none":
                return new SellBeyond.Nothing();
            case "on-order":
                return new SellBeyond.OnOrder();
            case "unlimited":
                return new SellBeyond.Unlimited();
            default:
                node.Fault("One of “none”, “on-order”, “unlimited” or {\"units\": n} is needed.");
                return null;
        }
    }
}
