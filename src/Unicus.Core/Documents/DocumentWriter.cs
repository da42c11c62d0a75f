namespace Unicus.Core.Documents;

using System.Globalization;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Unicus.Core.Options;
using Unicus.Core.Products;
using Unicus.Core.Variants;

/// <summary>Which variants a document lists.</summary>
public enum ListedVariants
{
    /// <summary>None: the definition alone.</summary>
    None,

    /// <summary>Those that differ from what the document would make by itself.</summary>
    Differing,

    /// <summary>Every made one.</summary>
    All,
}

/// <summary>Writes the open product document. Reading what is written gives the same product.</summary>
public static class DocumentWriter
{
    /// <summary>How documents are written: indented, letters of every script as they are.</summary>
    public static JsonSerializerOptions Style { get; } =
        new() { WriteIndented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary>The document as JSON.</summary>
    /// <param name="product">The product.</param>
    /// <param name="list">Of one unit, in minor units.</param>
    /// <param name="onHand">Units on hand by SKU, to be written as <c>stock</c>; null leaves them out.</param>
    public static JsonObject Write(Product product, ListedVariants list, IReadOnlyDictionary<Sku, int>? onHand = null)
    {
        var json = new JsonObject
        {
            ["format"] = DocumentReader.Format,
            ["code"] = product.Code.Text,
            ["name"] = product.Name,
        };
        Put(json, "webAddress", product.WebAddress);
        Put(json, "summary", product.Summary);
        Put(json, "description", product.Description);
        Put(json, "brand", product.Brand);
        Put(json, "partNumber", product.PartNumber);
        Put(json, "badge", product.Badge);
        Put(json, "companions", product.Companions.Select(c => (JsonNode)c.Text!));
        Put(json, "stepUps", product.StepUps.Select(c => (JsonNode)c.Text!));
        Put(
            json,
            "specifications",
            product.Specifications.Select(s => (JsonNode)new JsonObject { ["label"] = s.Label, ["value"] = s.Value })
        );
        Put(json, "passages", product.Passages.Select(s => (JsonNode)new JsonObject { ["heading"] = s.Heading, ["text"] = s.Text }));
        Put(json, "categories", product.Categories.Select(c => (JsonNode)c!));
        Put(json, "tags", product.Tags.Select(t => (JsonNode)t!));
        Put(json, "pictures", product.Pictures.Select(Picture));
        Put(
            json,
            "videos",
            product.Videos.Select(v =>
                (JsonNode)(
                    v.Title.Length == 0
                        ? new JsonObject { ["address"] = v.Address }
                        : new JsonObject { ["address"] = v.Address, ["title"] = v.Title }
                )
            )
        );
        Put(json, "base", Figures(product.Base));
        Put(json, "selling", SellingDocument.Write(product.Selling));
        if (product.Shelf != new Shelf())
            json["shelf"] = Write(product.Shelf);
        Put(json, "options", product.Questions.Where(q => q.FromSet is null && !q.IsSlot).Select(Option));
        Put(json, "notMade", product.NotMade.Select(Pairs));
        Put(json, "rules", product.Rules.Where(r => r.FromSet is null).Select(RuleWriter.Rule));
        Put(json, "extraSets", product.ExtraSets.Select(k => (JsonNode)k.Text!));
        Put(json, "withoutSets", product.WithoutSets.Select(k => (JsonNode)k.Text!));
        Put(json, "priceRules", product.PriceRules.Select(r => (JsonNode)PriceRuleWriter.Write(r)));
        if (product.Parts is { } parts)
            json["parts"] = PartsDocument.Write(parts);
        Put(json, "floor", TermsDocument.WriteFloor(product.Floor));
        Put(json, "skuPattern", product.SkuPattern.Select(Piece));
        if (list != ListedVariants.None)
            Put(json, "variants", Variants(product, list, onHand));
        return json;
    }

    private static JsonObject Write(Shelf shelf)
    {
        var json = new JsonObject { ["listed"] = shelf.Listed, ["searchable"] = shelf.Searchable };
        if (!shelf.Alone)
            json["alone"] = false;
        if (shelf.Position is { } position)
            json["position"] = position;
        if (shelf.Days is { } days)
            Put(json, days);
        if (shelf.Featured is { } featured)
        {
            var span = new JsonObject();
            Put(span, featured);
            json["featured"] = span.Count > 0 ? span : true;
        }
        Put(json, "password", shelf.Password);
        return json;
    }

    private static void Put(JsonObject json, DaySpan days)
    {
        Put(json, "from", days.From?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
        Put(json, "until", days.Until?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
    }

    private static IEnumerable<JsonNode> Variants(Product product, ListedVariants list, IReadOnlyDictionary<Sku, int>? onHand)
    {
        var matrix = product.Matrix();
        var counted = new HashSet<Sku>();
        for (var i = 0; i < matrix.Made.Count; i++)
        {
            // What nothing is listed of is as the document makes it.
            if (list == ListedVariants.Differing && onHand is null && matrix.Listed(matrix.Made.Made()[i]) is null)
                continue;
            var variant = matrix.Variants[i];
            var stock = onHand is not null && onHand.TryGetValue(variant.Sku, out var units) && counted.Add(variant.Sku) ? units : 0;
            var ownSku = variant.Sku.Text != matrix.PatternSku(i).Text;
            if (
                list == ListedVariants.Differing
                && !ownSku
                && stock == 0
                && variant.Variant with { Sku = null, Former = null } == new Variant(variant.Values)
            )
                continue;
            var json = new JsonObject { ["values"] = Pairs(variant.Values) };
            if (ownSku || list == ListedVariants.All)
                json["sku"] = variant.Sku.Text;
            Put(json, "gtin", variant.Variant.Gtin?.Text);
            if (Figures(variant.Variant.Own) is { } figures)
                foreach (var (name, figure) in figures.ToList())
                {
                    figures.Remove(name);
                    json[name] = figure;
                }
            Put(json, "selling", SellingDocument.Write(variant.Variant.Selling));
            if (variant.Variant.Retired)
                json["retired"] = true;
            Put(json, "note", variant.Variant.Note);
            if (product.PictureOf(variant.Variant) is { Source: FigureSource.Own, Picture: { } own })
                json["picture"] = own.File;
            if (stock != 0)
                json["stock"] = stock;
            yield return json;
        }
    }

    /// <summary>Writes one option or extra.</summary>
    public static JsonObject Option(Option option)
    {
        var json = new JsonObject
        {
            ["key"] = option.Key.Text,
            ["label"] = option.Label,
            ["role"] = option.Role == OptionRole.Extra ? "extra" : "variant",
        };
        if (option.Role == OptionRole.Extra)
        {
            json["ask"] = ExtraReader.NameOf(option.Ask);
            if (option.Required)
                json["required"] = true;
            if (option.Picks != default)
                Put(json, "picks", Limits(("min", option.Picks.Min), ("max", option.Picks.Max)));
            Put(json, "maxLength", option.MaxLength);
            Put(json, "characters", option.Characters);
            if (option.Number != NumberLimits.None)
            {
                var number = Limits(
                    ("min", Plain(option.Number.Min)),
                    ("max", Plain(option.Number.Max)),
                    ("step", Plain(option.Number.Step))
                );
                Put(number, "unit", option.Number.Unit);
                Put(json, "number", number);
            }
            if (option.Date != DateLimits.None)
            {
                var date = Limits(("earliestInDays", option.Date.EarliestInDays), ("latestInDays", option.Date.LatestInDays));
                Put(date, "notOn", option.Date.NotOn.Select(d => (JsonNode)ExtraReader.NameOf(d)!));
                Put(json, "date", date);
            }
            if (option.Surcharge is { } surcharge)
                json["surcharge"] = RuleWriter.Surcharge(surcharge);
            if (!option.Preset.IsEmpty)
                json["default"] =
                    option.Ask == Ask.Several ? new JsonArray([.. option.Preset.Select(t => (JsonNode)t!)]) : option.Preset[0];
        }
        Put(json, "help", option.Help);
        Put(json, "library", option.Library?.Text);
        Put(json, "default", option.Default?.Text);
        if (option.SharesSku)
            json["sharesSku"] = true;
        Put(json, "values", option.Values.Select(Value));
        return json;
    }

    private static JsonNode Value(OptionValue value)
    {
        var json = new JsonObject { ["key"] = value.Key.Text, ["label"] = value.Label };
        Put(json, "sku", value.SkuCode);
        if (value.Swatch is Swatch.Colour colour)
            json["swatch"] = new JsonObject { ["colour"] = colour.Hex };
        if (value.Swatch is Swatch.Stripes stripes)
            json["swatch"] = new JsonObject { ["stripes"] = new JsonArray([.. stripes.Hexes.Select(h => (JsonNode)h!)]) };
        if (value.Swatch is Swatch.Picture picture)
            json["swatch"] = new JsonObject { ["picture"] = picture.File };
        if (value.DoesNotApply)
            json["doesNotApply"] = true;
        if (value.Surcharge is { } surcharge)
            json["surcharge"] = RuleWriter.Surcharge(surcharge);
        Put(json, "cost", value.Cost?.ToString());
        if (value.Part is { } part)
            json["part"] = new JsonObject { ["sku"] = part.Sku, ["quantity"] = part.Quantity };
        Put(json, "figures", Figures(value.Figures));
        return json;
    }

    private static JsonObject Limits(params (string Name, JsonNode? Value)[] limits) =>
        new(limits.Where(l => l.Value is not null).Select(l => KeyValuePair.Create(l.Name, l.Value)));

    private static JsonNode? Plain(decimal? number) =>
        number is { } n ? n.ToString(System.Globalization.CultureInfo.InvariantCulture) : null;

    private static JsonObject? Figures(Figures figures)
    {
        if (figures.AreNone)
            return null;
        var json = new JsonObject();
        Put(json, "price", figures.Price?.ToString());
        Put(json, "rrp", figures.Rrp?.ToString());
        Put(json, "cost", figures.Cost?.ToString());
        Put(json, "weightGrams", figures.WeightGrams);
        if (figures.SizeMm is { } size)
            json["sizeMm"] = new JsonObject
            {
                ["length"] = size.Length,
                ["width"] = size.Width,
                ["height"] = size.Height,
            };
        Put(json, "taxClass", figures.TaxClass);
        Put(json, "leadTimeDays", figures.LeadTimeDays);
        Put(json, "lowLevel", figures.LowLevel);
        if (figures.NetContent is { } content)
            json["netContent"] = new JsonObject { ["quantity"] = Plain(content.Quantity), ["unit"] = content.Unit };
        Put(json, "customsCode", figures.CustomsCode);
        Put(json, "origin", figures.Origin);
        return json;
    }

    private static JsonNode Picture(ProductPicture picture)
    {
        var json = new JsonObject { ["file"] = picture.File, ["alt"] = picture.Alt };
        if (picture.Shows is { } shows)
            json["shows"] = new JsonObject { ["option"] = shows.Option.Text, ["value"] = shows.Value.Text };
        return json;
    }

    private static JsonObject Pairs(Combination values) =>
        new(values.Pairs.Select(p => KeyValuePair.Create(p.Option.Text, (JsonNode?)p.Value.Text)));

    private static JsonNode Piece(PatternPiece piece) =>
        piece switch
        {
            PatternPiece.Code => new JsonObject { ["code"] = true },
            PatternPiece.Text p => new JsonObject { ["text"] = p.Literal },
            PatternPiece.OfOption p => new JsonObject { ["option"] = p.Option.Text },
            PatternPiece.Counter p => new JsonObject { ["counter"] = p.Width },
            _ => throw new InvalidOperationException("A kind of pattern piece without a form."),
        };

    private static void Put(JsonObject json, string name, string? text)
    {
        if (text is not null)
            json[name] = text;
    }

    private static void Put(JsonObject json, string name, int? number)
    {
        if (number is { } n)
            json[name] = n;
    }

    private static void Put(JsonObject json, string name, JsonObject? child)
    {
        if (child is not null)
            json[name] = child;
    }

    private static void Put(JsonObject json, string name, IEnumerable<JsonNode> items)
    {
        var array = new JsonArray([.. items]);
        if (array.Count > 0)
            json[name] = array;
    }
}
