namespace Unicus.Core.Documents;

using System.Globalization;
using System.Text.Json.Nodes;
using Unicus.Core.Parts;

/// <summary>Writes what a product is put together from, as the open document has it.</summary>
internal static class PartsDocument
{
    public static JsonObject Write(SetParts parts)
    {
        var json = new JsonObject
        {
            ["sold"] = PartNames.Sold.Of(parts.Sold),
            ["stock"] = PartNames.Stock.Of(parts.Stock),
            ["price"] = Price(parts.Price),
        };
        if (parts.RulesReachParts)
            json["rulesReachParts"] = true;
        if (parts.TaxClass is { } taxClass)
            json["taxClass"] = taxClass;
        if (parts.Arrangement != Arrangement.List)
            json["arrangement"] = PartNames.Arrangement.Of(parts.Arrangement);
        if (parts.Shows != PieceShows.Everything)
            json["shows"] = Shows(parts.Shows);
        if (parts.PriceLine != PriceLine.From)
            json["priceLine"] = PartNames.PriceLine.Of(parts.PriceLine);
        if (!parts.Pictures.IsEmpty)
            json["pictures"] = new JsonArray([.. parts.Pictures.Select(Picture)]);
        json["slots"] = new JsonArray([.. parts.Slots.Select(Slot)]);
        return json;
    }

    private static JsonObject Price(SetPrice price) =>
        price switch
        {
            SetPrice.Fixed f => new JsonObject { ["rule"] = "fixed", ["amount"] = f.Amount.ToString() },
            SetPrice.Sum { Reduce: { } reduce } => new JsonObject { ["rule"] = "sum", ["reduce"] = Reduction(reduce) },
            _ => new JsonObject { ["rule"] = "sum" },
        };

    private static JsonObject Reduction(PartReduction reduce) =>
        reduce.Percent is { } percent
            ? new JsonObject { ["percent"] = Plain(percent) }
            : new JsonObject { ["amount"] = reduce.Amount!.Value.ToString() };

    private static JsonNode Slot(Slot slot)
    {
        var json = new JsonObject
        {
            ["key"] = slot.Key.Text,
            ["label"] = slot.Label,
            ["of"] = new JsonArray([.. slot.Of.Select(Entry)]),
            ["quantity"] = Quantity(slot.Quantity),
        };
        if (slot.Picks is { } picks)
            json["picks"] = picks.Max is { } most
                ? new JsonObject { ["min"] = picks.Min, ["max"] = most }
                : new JsonObject { ["min"] = picks.Min };
        json["pick"] = Pick(slot.Pick);
        if (slot.Optional)
            json["optional"] = true;
        if (slot.Reduce is { } reduce)
            json["reduce"] = Reduction(reduce);
        if (slot.SetUnit is { } unit)
            json["setUnit"] = unit.ToString();
        if (slot.Included)
            json["included"] = true;
        if (!slot.Default.IsEmpty)
            json["default"] = new JsonArray([.. slot.Default.Select(d => (JsonNode)d.Text!)]);
        if (slot.Shows is { } shows)
            json["shows"] = Shows(shows);
        return json;
    }

    private static JsonArray Shows(PieceShows shows) =>
        [.. PartNames.Shows.Pairs.Where(p => shows.HasFlag(p.Kind)).Select(p => (JsonNode)p.Name!)];

    private static JsonObject Quantity(SlotQuantity quantity) =>
        quantity.Default is { } usual
            ? new JsonObject
            {
                ["min"] = quantity.Min,
                ["max"] = quantity.Max,
                ["default"] = usual,
            }
            : new JsonObject { ["min"] = quantity.Min, ["max"] = quantity.Max };

    private static JsonNode Pick(SlotPick pick)
    {
        if (pick is not SlotPick.Follows follows)
            return pick is SlotPick.Fixed ? "fixed" : "shopper";
        var json = new JsonObject { ["follows"] = follows.Option.Text };
        if (follows.Table is { } table)
            json["table"] = new JsonObject(table.Select(t => KeyValuePair.Create(t.Key.Text, (JsonNode?)t.Value.Text)));
        return json;
    }

    private static JsonNode Entry(PartEntry entry)
    {
        var json = entry switch
        {
            PartEntry.OfProduct p => new JsonObject { ["product"] = p.Code },
            PartEntry.OfSku s => new JsonObject { ["sku"] = s.Code },
            PartEntry.OfCategory c => new JsonObject { ["category"] = c.Name },
            PartEntry.OfTag t => new JsonObject { ["tag"] = t.Name },
            _ => throw new InvalidOperationException("A kind of part that is not written."),
        };
        if (!entry.Variants.IsEmpty)
            json["variants"] = new JsonArray([
                .. entry.Variants.Select(v =>
                    (JsonNode)new JsonObject(v.Pairs.Select(p => KeyValuePair.Create(p.Option.Text, (JsonNode?)p.Value.Text)))
                ),
            ]);
        if (entry.Extra is { } extra)
            json["extra"] = extra.ToString();
        return json;
    }

    private static JsonNode Picture(LookbookPicture picture) =>
        new JsonObject
        {
            ["file"] = picture.File,
            ["alt"] = picture.Alt,
            ["pins"] = new JsonArray([
                .. picture.Pins.Select(p =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["slot"] = p.Slot.Text,
                            ["x"] = p.X,
                            ["y"] = p.Y,
                        }
                ),
            ]),
        };

    private static string Plain(decimal number) => number.ToString("0.############", CultureInfo.InvariantCulture);
}
