using Microsoft.AspNetCore.Http.Extensions;
using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Shop;

/// <summary>A value as the shopper sees it.</summary>
/// <param name="Why">Why it cannot be picked; null when it can.</param>
public sealed record ShownValue(OptionValue Value, bool Picked, string? Why);

/// <summary>A question as the shopper sees it; answered already when only one value is left.</summary>
public sealed record ShownQuestion(Option Option, IReadOnlyList<ShownValue> Values, bool IsFact);

/// <summary>The buyable heart of a product page: picks, price with working, availability. The proof and the shop show the same.</summary>
public sealed class BuyView
{
    public const string Prefix = "o-";

    public required string Code { get; init; }
    public required Product Product { get; init; }
    public required IReadOnlyList<ShownQuestion> Questions { get; init; }
    public required Answers Answers { get; init; }
    public required int Quantity { get; init; }
    public required Currency Currency { get; init; }
    public required bool IsProof { get; init; }

    /// <summary>The decided variant, or null while several agree.</summary>
    public required MatrixVariant? Variant { get; init; }

    public required Availability? Available { get; init; }
    public required PriceSpan? Span { get; init; }
    public required PriceWorking? Working { get; init; }
    public required IReadOnlyList<WorkingStep> ListPrice { get; init; }
    public required Money? Rrp { get; init; }
    public string? Problem { get; set; }

    public string Url => IsProof ? $"/office/products/{Code}/proof" : $"/p/{Product.Address}";

    public IReadOnlyList<ProductPicture> Pictures => Variant is { } v ? Product.PicturesFor(v.Variant) : Product.PicturesFor(Answers);

    public bool CanBuy => Variant is not null && Working is not null && Available!.CanSell(Quantity);

    /// <summary>Answers as they stand in an address.</summary>
    public static string Query(IEnumerable<KeyValuePair<Key, Key>> answers, int quantity = 1)
    {
        var query = new QueryBuilder(answers.OrderBy(a => a.Key).Select(a => KeyValuePair.Create(Prefix + a.Key.Text, a.Value.Text)));
        if (quantity > 1) query.Add("quantity", quantity.ToString());
        return query.ToString();
    }

    /// <summary>Reads answers from a form or an address; what is unknown or cannot stand any more is left out.</summary>
    public static Answers Read(VariantMatrix matrix, IEnumerable<KeyValuePair<string, Microsoft.Extensions.Primitives.StringValues>> sent)
    {
        var answers = Answers.None;
        foreach (var (name, value) in sent)
        {
            if (!name.StartsWith(Prefix, StringComparison.Ordinal)) continue;
            var option = matrix.Options.FirstOrDefault(o => o.Key.Text == name[Prefix.Length..]);
            if (option is null || !Key.TryParse(value.ToString(), out var key) || option.Find(key) is null) continue;
            var next = answers.With(option.Key, key);
            if (matrix.Configurator.Answer(next).Valid) answers = next;
        }
        return answers;
    }

    public static BuyView Make(string code, Product product, VariantMatrix matrix, IReadOnlyDictionary<Sku, StockLevel> stock, Answers given, int quantity, Currency currency, DateOnly today, bool isProof)
    {
        var answers = AnswerReader.Filled(matrix.Configurator, given);
        var state = matrix.Configurator.Answer(answers);
        var agreeing = state.Agreeing.Select(matrix.At).ToList();
        var variant = state.Complete ? agreeing[0] : null;
        var buyable = BuyableValues(matrix, answers, stock, today);
        var questions = new List<ShownQuestion>();
        for (var i = 0; i < state.Questions.Length; i++)
        {
            var q = state.Questions[i];
            var values = q.Option.Values.Select((v, j) => new ShownValue(v, q.Answer == v.Key, q.Possible[j] ? buyable[i][j] ? null : WhySoldOut(q.Option, answers) : WhyNotMade(matrix, answers, q.Option, v))).ToList();
            var applying = values.FindAll(v => !v.Value.DoesNotApply);
            // Where only “does not apply” is left, the question does not arise.
            if (applying.Count == values.Count || applying.Exists(v => v.Why is null || v.Picked)) questions.Add(new ShownQuestion(q.Option, applying, applying.Count == 1));
        }
        return new BuyView
        {
            Code = code,
            Product = product,
            Questions = questions,
            Answers = answers,
            Quantity = quantity,
            Currency = currency,
            IsProof = isProof,
            Variant = variant,
            Available = variant is null ? null : Availability.Of(variant.Selling, stock.GetValueOrDefault(variant.Sku), today),
            Span = PriceSpan.Of(agreeing.Where(v => CanBeBought(v, stock, today)).Select(v => v.Price.Figure)) ?? PriceSpan.Of(agreeing.Select(v => v.Price.Figure)),
            Working = variant is null ? null : PriceCalculator.Price(product.Name, matrix, variant, quantity),
            ListPrice = variant is null ? [] : PriceCalculator.ListPrice(product.Base, matrix, variant),
            Rrp = variant?.Rrp.Figure is { } rrp && rrp > variant.Price.Figure ? rrp : null,
        };
    }

    /// <summary>For each value, whether any variant that has it and agrees with the other answers can be bought now.</summary>
    private static bool[][] BuyableValues(VariantMatrix matrix, Answers answers, IReadOnlyDictionary<Sku, StockLevel> stock, DateOnly today)
    {
        var options = matrix.Options;
        var buyable = options.Select(o => new bool[o.Values.Length]).ToArray();
        foreach (var variant in matrix.Offered)
        {
            var differing = -1;
            var differences = 0;
            for (var i = 0; i < options.Length && differences < 2; i++)
                if (answers.Given.TryGetValue(options[i].Key, out var given) && variant.Values[options[i].Key] != given) (differing, differences) = (i, differences + 1);
            if (differences > 1 || !CanBeBought(variant, stock, today)) continue;
            for (var i = 0; i < options.Length; i++)
                if (differences == 0 || i == differing) buyable[i][matrix.Made.ValueAt(variant.Number, i)] = true;
        }
        return buyable;
    }

    private static bool CanBeBought(MatrixVariant variant, IReadOnlyDictionary<Sku, StockLevel> stock, DateOnly today) =>
        Availability.Of(variant.Selling, stock.GetValueOrDefault(variant.Sku), today).CanSell(1);

    private static string WhySoldOut(Option option, Answers answers) => answers.Given.Any(a => a.Key != option.Key) ? "none left in this" : "none left";

    private static string WhyNotMade(VariantMatrix matrix, Answers answers, Option option, OptionValue value)
    {
        var conflict = matrix.Configurator.Why(answers, option.Key, value.Key);
        var others = conflict?.Answers.Where(k => k != option.Key).Select(k => matrix.Options.First(o => o.Key == k).Find(answers.Given[k])!.Label.ToLowerInvariant()).ToList() ?? [];
        return others.Count == 0 ? "not made" : $"not made in {string.Join(" and ", others)}";
    }
}
