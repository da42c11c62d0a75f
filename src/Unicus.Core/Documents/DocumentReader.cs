namespace Unicus.Core.Documents;

using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Pricing;
using Unicus.Core.Products;
using Unicus.Core.Rules;
using Unicus.Core.Stock;
using Unicus.Core.Variants;

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
        var faults = new List<Fault>();
        var option = new OptionReader(currency).Read(new Node(json.RootElement, "#", faults));
        return faults.Count == 0 && option is not null
            ? option
            : throw new InvalidOperationException($"A stored option cannot be read: {faults[0].Where} {faults[0].What}");
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

        private readonly OptionReader _options = new(currency);
        private readonly FiguresReader _figures = new(currency);

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
            var questions = root.Items("options").Select(_options.Read).OfType<Option>().ToImmutableArray();
            root.At("options").Unique(questions.Select(o => o.Key.Text), "An option");
            var options = questions.RemoveAll(o => o.Role == OptionRole.Extra);
            var name = root.Text("name", Products.Product.LongestName) ?? "";
            var code = root.Has("code") && root.Text("code", 100) is { } typed ? Code(root.At("code"), typed) : default;
            var product = new Product(code, name.Trim())
            {
                WebAddress = ShelfReader.Address(root),
                Summary = root.Text("summary", Products.Product.LongestSummary),
                Description = root.Text("description", Products.Product.LongestDescription),
                Brand = root.Text("brand", 80),
                PartNumber = root.Text("partNumber", 80),
                Badge = root.Text("badge", Products.Product.LongestBadge),
                Companions = Codes(root, "companions", code),
                StepUps = Codes(root, "stepUps", code),
                Specifications = [.. root.Items("specifications").Select(ShelfReader.Specification).OfType<Specification>()],
                Passages = [.. root.Items("passages").Select(ShelfReader.Passage).OfType<Passage>()],
                Categories = root.Texts("categories", 80),
                Tags = root.Texts("tags", 80),
                Base = _figures.Read(root.At("base")),
                Selling = SellingDocument.Read(root.At("selling")),
                Shelf = ShelfReader.Shelf(root.At("shelf")),
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
            root.At("priceRules").Unique(product.PriceRules.Select(r => r.Key.Text), "A price rule");
            root.At("rules").Unique(product.Rules.Select(r => r.Key.Text), "A rule");
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
                Pictures = [.. root.Items("pictures").Select(p => ShelfReader.Picture(p, questions)).OfType<ProductPicture>()],
                Videos = [.. root.Items("videos").Select(ShelfReader.Video).OfType<ProductVideo>()],
                NotMade =
                [
                    .. root.Items("notMade", MadeSet.MostVariants).Select(n => Pairs(n, options, whole: false)).OfType<Combination>(),
                ],
                SkuPattern = [.. root.Items("skuPattern").Select(p => Piece(p, options)).OfType<PatternPiece>()],
                Variants = [.. root.Items("variants", MadeSet.MostVariants).Select(v => Variant(v, options)).OfType<Variant>()],
            };
            root.At("variants").Unique(product.Variants.Select(v => v.Values.Text), "A combination of values");
            root.At("variants").Unique(product.Variants.Select(v => v.Gtin?.Padded).OfType<string>(), "A GTIN");
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
                            if (Key.TryParse(n.AsText() ?? "", out var key))
                                return key;
                            n.Fault($"A key is {Key.Shape}.");
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

        /// <summary>Codes of other products, each once.</summary>
        private ImmutableArray<ProductCode> Codes(Node root, string name, ProductCode own)
        {
            var codes = ImmutableArray.CreateBuilder<ProductCode>();
            foreach (var node in root.Items(name, Products.Product.MostSuggested))
                if (Code(node, node.AsText() ?? "") is var code && code != default)
                    if (code == own && !stored)
                        node.Fault("That is the product itself.");
                    else if (codes.Contains(code))
                        node.Fault($"{code} stands in it twice.");
                    else
                        codes.Add(code);
            return codes.ToImmutable();
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
                else if (!Key.TryParse(value.AsText() ?? "", out var key) || option.Find(key) is null)
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
            node.Only([.. FiguresReader.Names, "values", "sku", "gtin", "selling", "retired", "note", "picture", "stock"]);
            node.Require("values");
            if (!node.Has("values") || Pairs(node.At("values"), options, whole: true) is not { } values)
                return null;
            Sku? sku = null;
            if (node.Text("sku", 200) is { } typed)
            {
                var read = Sku.Parse(typed);
                if (!read.Ok)
                    node.At("sku").Fault(read.Problem!);
                else
                    sku = read.Value;
            }
            var gtin = Gtin.Parse(node.Text("gtin", 40));
            if (!gtin.Ok)
                node.At("gtin").Fault(gtin.Problem!);
            if (node.Whole("stock", 0, Movements.MostUnits) is { } stock)
                Stock[values.Text] = stock;
            return new Variant(values)
            {
                Sku = sku,
                Gtin = gtin.Value,
                Own = _figures.Among(node),
                Selling = SellingDocument.Read(node.At("selling")),
                Retired = node.Flag("retired") ?? false,
                Note = node.Text("note", 1000),
                Picture = node.Text("picture", 200),
            };
        }
    }
}
