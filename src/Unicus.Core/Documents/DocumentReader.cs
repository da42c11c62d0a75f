using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;

namespace Unicus.Core;

/// <summary>What a product document says.</summary>
/// <param name="Product">Null where it has faults.</param>
/// <param name="Stock">The units that listed variants bring, by their values.</param>
/// <param name="Faults">What is wrong with it, each with its place.</param>
public sealed record ReadDocument(Product? Product, IReadOnlyDictionary<string, int> Stock, IReadOnlyList<Fault> Faults);

/// <summary>Reads the open product document, <c>unicus-product/1</c>, and reports every fault at once with its JSON pointer.</summary>
public static class DocumentReader
{
    /// <summary>The name of the format, with its version.</summary>
    public const string Format = "unicus-product/1";

    private const int MostRules = 5000;

    /// <summary>Reads a document.</summary>
    /// <param name="json">The parsed JSON.</param>
    /// <param name="currency">The shop's; amounts with more decimals than it has are a fault.</param>
    /// <param name="stored">Whether this program wrote it, so that the SKUs of all its variants need not be made just to compare
    /// them.</param>
    /// <param name="sets">The shared sets of the shop, whose questions rules may name.</param>
    /// <returns>The product, or null with the faults; and the stock that listed variants bring.</returns>
    public static ReadDocument Read(JsonElement json, Currency currency, bool stored = false, IReadOnlyList<ExtraSet>? sets = null)
    {
        var reader = new ProductReader(currency, stored, sets ?? []);
        var product = reader.Product(new Node(json, "#", reader.Faults));
        return new ReadDocument(reader.Faults.Count == 0 ? product : null, reader.Stock, reader.Faults);
    }

    /// <summary>Reads one option that this program wrote.</summary>
    /// <exception cref="InvalidOperationException">The stored option is damaged.</exception>
    public static Option ReadOption(string stored, Currency currency)
    {
        using var json = JsonDocument.Parse(stored);
        var reader = new ProductReader(currency, stored: true, []);
        var option = reader.Option(new Node(json.RootElement, "#", reader.Faults));
        return reader.Faults.Count == 0 && option is not null
            ? option
            : throw new InvalidOperationException($"A stored option cannot be read: {reader.Faults[0].Where} {reader.Faults[0].What}");
    }

    private sealed class ProductReader(Currency currency, bool stored, IReadOnlyList<ExtraSet> sets)
    {
        private static readonly string[] Fields =
        [
            "format",
            "code",
            "name",
            "webAddress",
            "summary",
            "description",
            "brand",
            "partNumber",
            "badge",
            "companions",
            "stepUps",
            "specifications",
            "passages",
            "categories",
            "tags",
            "pictures",
            "videos",
            "base",
            "selling",
            "shelf",
            "options",
            "notMade",
            "rules",
            "extraSets",
            "withoutSets",
            "priceRules",
            "floor",
            "parts",
            "skuPattern",
            "variants",
        ];

        public List<Fault> Faults { get; } = [];
        public Dictionary<string, int> Stock { get; } = [];

        public Product? Product(Node root)
        {
            if (!root.IsObject("a product document"))
                return null;
            root.Only(Fields);
            if (root.Text("format", 40) is { } format && format != Format)
                root.At("format").Fault($"This is “{format}”; “{Format}” is understood.");
            root.Require("format", "code", "name");
            var questions = root.Items("options").Select(Option).OfType<Option>().ToImmutableArray();
            Unique(root.At("options"), questions.Select(o => o.Key.Text), "An option");
            var options = questions.RemoveAll(o => o.Role == OptionRole.Extra);
            var name = root.Text("name", Core.Product.LongestName) ?? "";
            var code = root.Has("code") && root.Text("code", 100) is { } typed ? Code(root.At("code"), typed) : default;
            var product = new Product(code, name.Trim())
            {
                WebAddress = Address(root),
                Summary = root.Text("summary", Core.Product.LongestSummary),
                Description = root.Text("description", Core.Product.LongestDescription),
                Brand = root.Text("brand", 80),
                PartNumber = root.Text("partNumber", 80),
                Badge = root.Text("badge", Core.Product.LongestBadge),
                Companions = Codes(root, "companions", code),
                StepUps = Codes(root, "stepUps", code),
                Specifications = [.. root.Items("specifications").Select(Specification).OfType<Specification>()],
                Passages = [.. root.Items("passages").Select(Passage).OfType<Passage>()],
                Categories = root.Texts("categories", 80),
                Tags = root.Texts("tags", 80),
                Base = Figures(root.At("base")),
                Selling = SellingDocument.Read(root.At("selling")),
                Shelf = Shelf(root.At("shelf")),
                Options = options,
                Extras =
                [
                    .. questions
                        .Index()
                        .Where(q => q.Item.Role == OptionRole.Extra)
                        .Select(q => Placed(q.Item, questions.Take(q.Index).Count(o => o.Role == OptionRole.Variant), options.Length)),
                ],
                Rules = [.. root.Items("rules", MostRules).Select(ExtraReader.Rule).OfType<SelectionRule>()],
                ExtraSets = Keys(root, "extraSets"),
                WithoutSets = Keys(root, "withoutSets"),
                Parts = new PartsReader(currency, code.Text, questions, stored).Read(root.At("parts")),
                Floor = TermsDocument.ReadFloor(root.At("floor")),
                PriceRules = [.. PriceRules(root, questions).Select(r => r with { Owner = code.Text })],
            };
            Unique(root.At("priceRules"), product.PriceRules.Select(r => r.Key.Text), "A price rule");
            Unique(root.At("rules"), product.Rules.Select(r => r.Key.Text), "A rule");
            if (!stored && Faults.Count == 0)
                Sound(root, product);
            if (root.Has("name") && name.Trim().Length == 0)
                root.At("name").Fault("A product needs a name.");
            return WithVariants(root, product, questions);
        }

        /// <summary>What names options and values: pictures, what is not made, the pattern of SKUs, the variants.</summary>
        private Product WithVariants(Node root, Product product, ImmutableArray<Option> questions)
        {
            var options = product.Options;
            product = product with
            {
                Pictures = [.. root.Items("pictures").Select(p => Picture(p, questions)).OfType<ProductPicture>()],
                Videos = [.. root.Items("videos").Select(Video).OfType<ProductVideo>()],
                NotMade =
                [
                    .. root.Items("notMade", MadeSet.MostVariants).Select(n => Pairs(n, options, whole: false)).OfType<Combination>(),
                ],
                SkuPattern = [.. root.Items("skuPattern").Select(p => Piece(p, options)).OfType<PatternPiece>()],
                Variants = [.. root.Items("variants", MadeSet.MostVariants).Select(v => Variant(v, options)).OfType<Variant>()],
            };
            Unique(root.At("variants"), product.Variants.Select(v => v.Values.Text), "A combination of values");
            Unique(root.At("variants"), product.Variants.Select(v => v.Gtin?.Padded).OfType<string>(), "A GTIN");
            if (MadeSet.Size(options) > MadeSet.MostVariants)
                root.At("options")
                    .Fault($"These options make {MadeSet.Size(options):N0} variants; at most {MadeSet.MostVariants:N0} can be held.");
            else if (Faults.Count == 0 && !stored)
                SkusDiffer(root, product);
            return product;
        }

        private IEnumerable<PriceRule> PriceRules(Node root, ImmutableArray<Option> questions)
        {
            var reader = new PriceRuleReader(currency);
            var options = questions.Where(q => q.Role == OptionRole.Variant).Select(q => q.Key).ToHashSet();
            var extras = questions.Where(q => q.Role == OptionRole.Extra).Select(q => q.Key).ToHashSet();
            // Where the program wrote it, an option that is gone meanwhile leaves the rule without goods; the checks say so.
            return root.Items("priceRules", PriceRuleReader.MostRules)
                .Select(n => reader.Rule(n, stored ? null : options, stored ? null : extras))
                .OfType<PriceRule>();
        }

        private static Option Placed(Option extra, int before, int all) => before == all ? extra : extra with { Behind = before };

        private static ImmutableArray<Key> Keys(Node root, string name) =>
            [
                .. root.Items(name)
                    .Select(
                        (n, i) =>
                        {
                            if (Core.Key.TryParse(n.AsText() ?? "", out var key))
                                return key;
                            n.Fault($"A key is {Core.Key.Shape}.");
                            return default;
                        }
                    ),
            ];

        /// <summary>Shared sets that there are; rules that name what is there, without a loop of visibility; tables that look at
        /// numbers.</summary>
        private void Sound(Node root, Product product)
        {
            foreach (var (set, i) in product.ExtraSets.Index().Select(s => (s.Item, s.Index)))
                if (sets.All(s => s.Key != set))
                    root.At("extraSets").Item(i).Fault($"There is no shared set {set}.");
            var whole = product.Taking(sets);
            var book = new RuleBook(whole.Questions, whole.Rules);
            var places = product.Rules.Index().ToDictionary(r => r.Item.Key.Text, r => r.Index);
            foreach (var fault in book.Broken.Where(b => places.TryGetValue(b.Where, out var at) && !MayBeInRange(product, at)))
                root.At("rules").Item(places[fault.Where]).Fault(fault.What);
            foreach (var loop in book.Loops)
                root.At("rules")
                    .Item(loop.Select(k => places.GetValueOrDefault(k.Text, -1)).FirstOrDefault(p => p >= 0))
                    .Fault(CompiledRules.LoopInWords(loop));
            foreach (var question in product.Extras)
                if (question.Surcharge is Surcharge.Table { By: { } by } && book.Find(by) is not { Ask: Ask.Number })
                    root.At("options").Fault($"The table of {question.Key} looks at {by}, which is not a number that is asked.");
        }

        /// <summary>Whether a rule names a slot whose goods are known by a category or tag only, so that what it names may be
        /// there.</summary>
        private static bool MayBeInRange(Product product, int rule)
        {
            var named = product.Rules[rule].When.Questions.Concat(product.Rules[rule].Then.SelectMany(t => t.Targets)).ToHashSet();
            return product.Parts is { } parts
                && parts.Slots.Any(s => named.Contains(s.Key) && s.Of.Any(e => e is PartEntry.OfCategory or PartEntry.OfTag));
        }

        private void SkusDiffer(Node root, Product product)
        {
            var matrix = product.Matrix();
            var seen = new HashSet<Sku>(matrix.Variants.Count);
            if (Enumerable.Range(0, matrix.Made.Count).All(i => seen.Add(matrix.SkuAt(i))))
                return;
            var sharing = product.Options.Where(o => o.SharesSku).Select(o => o.Key).ToList();
            foreach (var same in matrix.Variants.GroupBy(v => v.Sku).Where(g => g.Skip(1).Any()))
            {
                var apart = same.Select(v => sharing.Aggregate(v.Values, (c, k) => c.Without(k)).Text).Distinct().Count();
                if (apart > 1)
                    root.At("variants")
                        .Fault(
                            $"The SKU {same.Key} would belong to {apart} variants: "
                                + $"{string.Join("; ", same.Take(3).Select(v => v.Values.Name(product.Options)))}."
                        );
            }
        }

        private static ProductCode Code(Node node, string typed)
        {
            var code = ProductCode.Parse(typed);
            if (!code.Ok)
                node.Fault(code.Problem!);
            else if (code.Value.Text != typed)
                node.Fault($"A product code is written in capitals: {code.Value}.");
            return code.Value;
        }

        private static string? Address(Node root)
        {
            var address = root.Text("webAddress", 80);
            if (address is not null && !Core.Key.TryParse(address, out _))
                root.At("webAddress").Fault($"A web address is {Core.Key.Shape}.");
            return address;
        }

        private static Specification? Specification(Node node)
        {
            if (!node.IsObject("a specification"))
                return null;
            node.Only("label", "value");
            node.Require("label", "value");
            return new Specification(node.Text("label", 80) ?? "", node.Text("value", 400) ?? "");
        }

        private static Passage? Passage(Node node)
        {
            if (!node.IsObject("a passage"))
                return null;
            node.Only("heading", "text");
            node.Require("heading", "text");
            return new Passage(node.Text("heading", 120) ?? "", node.Text("text", Core.Product.LongestDescription) ?? "");
        }

        private static Shelf Shelf(Node node)
        {
            if (!node.Exists || !node.IsObject("an object"))
                return new Shelf();
            node.Only("listed", "searchable", "alone", "position", "from", "until", "featured", "password");
            return new Shelf
            {
                Days = Days(node),
                Featured = Featured(node.At("featured")),
                Password = node.Text("password", Core.Shelf.LongestPassword) is { Length: > 0 } password ? password : null,
                Listed = node.Flag("listed") ?? true,
                Searchable = node.Flag("searchable") ?? true,
                Alone = node.Flag("alone") ?? true,
                Position = node.Whole("position", 0, Core.Shelf.LastPosition),
            };
        }

        /// <summary>The days between <c>from</c> and <c>until</c>; null where neither is given.</summary>
        private static DaySpan? Days(Node node)
        {
            var (from, until) = (node.Day("from"), node.Day("until"));
            if (until < from)
                node.At("until").Fault("It ends before it begins.");
            return from is null && until is null ? null : new DaySpan(from, until);
        }

        /// <summary>True, or a span of days.</summary>
        private static DaySpan? Featured(Node node)
        {
            if (!node.Exists || node.Kind == System.Text.Json.JsonValueKind.False)
                return null;
            if (node.Kind == System.Text.Json.JsonValueKind.True)
                return new DaySpan(null, null);
            if (!node.IsObject("true, false or days"))
                return null;
            node.Only("from", "until");
            return Days(node) ?? new DaySpan(null, null);
        }

        /// <summary>Codes of other products, each once.</summary>
        private ImmutableArray<ProductCode> Codes(Node root, string name, ProductCode own)
        {
            var codes = ImmutableArray.CreateBuilder<ProductCode>();
            foreach (var node in root.Items(name, Core.Product.MostSuggested))
                if (Code(node, node.AsText() ?? "") is var code && code != default)
                    if (code == own && !stored)
                        node.Fault("That is the product itself.");
                    else if (codes.Contains(code))
                        node.Fault($"{code} stands in it twice.");
                    else
                        codes.Add(code);
            return codes.ToImmutable();
        }

        public Option? Option(Node node)
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
            Unique(node.At("values"), values.Select(v => v.Key.Text), "A value");
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
                values = [new OptionValue(Core.Key.Of("yes"), "Yes")];
            if (ask == Ask.YesNo && (values.Length != 1 || values[0].Key.Text != "yes"))
                node.At("values").Fault("A question of yes or no has the one value yes.");
            if (values.Length > TypedValues.MostValues)
                node.At("values").Fault($"An extra has at most {TypedValues.MostValues:N0} values.");
            Unique(node.At("values"), values.Select(v => v.Key.Text), "A value");
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
                MaxLength = node.Whole("maxLength", 1, Core.Option.LongestText),
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
            if (sku is not null && !Core.Sku.Parse(sku).Ok)
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
                Figures = Figures(node.At("figures")),
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
            var sku = Core.Sku.Parse(node.Text("sku", 200) ?? "");
            if (node.Has("sku") && !sku.Ok)
                node.At("sku").Fault(sku.Problem!);
            return sku.Ok ? new ValuePart(sku.Value.Text, node.Whole("quantity", 1, 10_000) ?? 1) : null;
        }

        private static readonly string[] FigureNames =
        [
            "price",
            "rrp",
            "cost",
            "weightGrams",
            "sizeMm",
            "taxClass",
            "leadTimeDays",
            "lowLevel",
            "netContent",
            "customsCode",
            "origin",
        ];

        private Figures Figures(Node node)
        {
            if (!node.Exists || !node.IsObject("an object of figures"))
                return Core.Figures.None;
            node.Only(FigureNames);
            return ReadFigures(node);
        }

        private Figures ReadFigures(Node node) =>
            new()
            {
                Price = node.Money("price", currency),
                Rrp = node.Money("rrp", currency),
                Cost = node.Money("cost", currency),
                WeightGrams = node.Whole("weightGrams", 0, 100_000_000),
                SizeMm = Size(node.At("sizeMm")),
                TaxClass = node.Has("taxClass") ? node.Key("taxClass")?.Text : null,
                LeadTimeDays = node.Whole("leadTimeDays", 0, 3650),
                LowLevel = node.Whole("lowLevel", 0, 10_000_000),
                NetContent = Content(node.At("netContent")),
                CustomsCode = Matching(node, "customsCode", CustomsText.IsCode, CustomsText.CodeShape),
                Origin = Matching(node, "origin", CustomsText.IsCountry, CustomsText.CountryShape),
            };

        private static string? Matching(Node node, string name, Func<string, bool> fits, string shape)
        {
            if (node.Text(name, 40) is not { } text)
                return null;
            if (fits(text))
                return text;
            node.At(name).Fault(shape);
            return null;
        }

        private static NetContent? Content(Node node)
        {
            if (!node.Exists || !node.IsObject("net content"))
                return null;
            node.Only("quantity", "unit");
            node.Require("quantity", "unit");
            var (quantity, unit) = (node.Decimal("quantity", 0, NetContent.Most), node.Text("unit", 20));
            if (quantity is 0)
                node.At("quantity").Fault("Content is above 0.");
            if (unit is not null && !NetContent.Units.Contains(unit))
                node.At("unit").Fault($"A unit is one of {string.Join(", ", NetContent.Units)}.");
            return quantity is > 0 and var q && unit is not null && NetContent.Units.Contains(unit) ? new NetContent(q, unit) : null;
        }

        private static SizeMm? Size(Node node)
        {
            if (!node.Exists || !node.IsObject("a size"))
                return null;
            node.Only("length", "width", "height");
            node.Require("length", "width", "height");
            return
                node.Whole("length", 0, 100_000) is { } l
                && node.Whole("width", 0, 100_000) is { } w
                && node.Whole("height", 0, 100_000) is { } h
                ? new SizeMm(l, w, h)
                : null;
        }

        private static ProductVideo? Video(Node node)
        {
            if (!node.IsObject("a video"))
                return null;
            node.Only("address", "title");
            node.Require("address");
            var address = node.Text("address", 400) ?? "";
            if (!ProductVideo.IsAddress(address))
                node.At("address").Fault($"An address of a video begins with {ProductVideo.Kept} or https://.");
            return new ProductVideo(address, node.Text("title", 120) ?? "");
        }

        private static ProductPicture? Picture(Node node, ImmutableArray<Option> questions)
        {
            if (!node.IsObject("a picture"))
                return null;
            node.Only("file", "alt", "shows");
            node.Require("file");
            (Key, Key)? shows = null;
            var target = node.At("shows");
            if (target.Exists && target.IsObject("an option and a value"))
            {
                target.Only("option", "value");
                target.Require("option", "value");
                if (target.Key("option") is { } o && target.Key("value") is { } v)
                {
                    if (questions.FirstOrDefault(x => x.Key == o)?.Find(v) is null)
                        target.Fault($"There is no {o} = {v}.");
                    shows = (o, v);
                }
            }
            return node.Text("file", 200) is { } file ? new ProductPicture(file, node.Text("alt", 500) ?? "", shows) : null;
        }

        private static Combination? Pairs(Node node, ImmutableArray<Option> options, bool whole)
        {
            if (!node.IsObject("an object of option and value"))
                return null;
            var pairs = new List<(Key, Key)>();
            foreach (var (name, value) in node.Members())
            {
                var option = options.FirstOrDefault(o => o.Key.Text == name);
                if (option is null)
                    value.Fault($"There is no option {name}.");
                else if (!Core.Key.TryParse(value.AsText() ?? "", out var key) || option.Find(key) is null)
                    value.Fault($"{name} has no such value.");
                else
                    pairs.Add((option.Key, key));
            }
            if (!whole && pairs.Count == 0)
                node.Fault("At least one option and value is needed.");
            if (whole && pairs.Count < options.Length)
                node.Fault("Every variant option needs its value here.");
            return Combination.Of(pairs);
        }

        private static PatternPiece? Piece(Node node, ImmutableArray<Option> options)
        {
            if (!node.IsObject("a piece"))
                return null;
            node.Only("code", "text", "option", "counter");
            if (node.Has("text"))
                return node.Text("text", 32) is { } text ? new PatternPiece.Text(text) : null;
            if (node.Has("counter"))
                return node.Whole("counter", 1, 9) is { } width ? new PatternPiece.Counter(width) : null;
            if (!node.Has("option"))
            {
                if (node.Flag("code") != true)
                    node.Fault("A piece is {\"code\": true}, {\"text\": …}, {\"option\": …} or {\"counter\": …}.");
                return new PatternPiece.Code();
            }
            if (node.Key("option") is not { } key)
                return null;
            if (options.All(o => o.Key != key))
                node.At("option").Fault($"There is no option {key}.");
            return new PatternPiece.OfOption(key);
        }

        private Variant? Variant(Node node, ImmutableArray<Option> options)
        {
            if (!node.IsObject("a variant"))
                return null;
            node.Only([.. FigureNames, "values", "sku", "gtin", "selling", "retired", "note", "picture", "stock"]);
            node.Require("values");
            if (!node.Has("values") || Pairs(node.At("values"), options, whole: true) is not { } values)
                return null;
            Sku? sku = null;
            if (node.Text("sku", 200) is { } typed)
            {
                var read = Core.Sku.Parse(typed);
                if (!read.Ok)
                    node.At("sku").Fault(read.Problem!);
                else
                    sku = read.Value;
            }
            var gtin = Core.Gtin.Parse(node.Text("gtin", 40));
            if (!gtin.Ok)
                node.At("gtin").Fault(gtin.Problem!);
            if (node.Whole("stock", 0, Movements.MostUnits) is { } stock)
                Stock[values.Text] = stock;
            return new Variant(values)
            {
                Sku = sku,
                Gtin = gtin.Value,
                Own = ReadFigures(node),
                Selling = SellingDocument.Read(node.At("selling")),
                Retired = node.Flag("retired") ?? false,
                Note = node.Text("note", 1000),
                Picture = node.Text("picture", 200),
            };
        }

        private static void Unique(Node node, IEnumerable<string> names, string what)
        {
            foreach (var twice in names.GroupBy(n => n).Where(g => g.Skip(1).Any()))
                node.Fault($"{what} stands here {twice.Count()} times: {twice.Key}.");
        }
    }
}
