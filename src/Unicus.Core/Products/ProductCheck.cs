namespace Unicus.Core.Products;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Pricing;
using Unicus.Core.Rules;
using Unicus.Core.Stock;
using Unicus.Core.Variants;

/// <summary>The chapters of the workbench, where things are mended.</summary>
public enum Chapter
{
    /// <summary>Facts.</summary>
    Facts,

    /// <summary>Money.</summary>
    Money,

    /// <summary>Options.</summary>
    Options,

    /// <summary>Extras.</summary>
    Extras,

    /// <summary>Rules.</summary>
    Rules,

    /// <summary>Matrix.</summary>
    Matrix,

    /// <summary>Price rules.</summary>
    Prices,

    /// <summary>Parts.</summary>
    Parts,

    /// <summary>Stock.</summary>
    Stock,

    /// <summary>Shelf.</summary>
    Shelf,

    /// <summary>Checks.</summary>
    Checks,
}

/// <summary>Something that stands between a product and publishing, or is doubtful.</summary>
/// <param name="Stops">Whether it keeps the product from being published; otherwise it is a warning.</param>
/// <param name="Text">What people read.</param>
/// <param name="Mend">The chapter where it is mended.</param>
public sealed record ProductCheck(bool Stops, string Text, Chapter Mend);

/// <summary>Looks a product over.</summary>
public static class ProductChecks
{
    /// <summary>Everything to mend, what stops first.</summary>
    /// <param name="product">The product.</param>
    /// <param name="matrix">Its variants.</param>
    /// <param name="terms">By what it is reckoned.</param>
    /// <param name="stock">On hand by SKU; SKUs that are missing have none.</param>
    /// <param name="configurator">For the health of its rules; null leaves that aside.</param>
    public static ImmutableArray<ProductCheck> Look(
        Product product,
        VariantMatrix matrix,
        TradeTerms terms,
        IReadOnlyDictionary<Sku, StockLevel> stock,
        Configurator? configurator = null
    )
    {
        var found = new List<ProductCheck>();
        void Stops(string text, Chapter mend) => found.Add(new ProductCheck(true, text, mend));
        void Doubt(string text, Chapter mend) => found.Add(new ProductCheck(false, text, mend));

        var offered = matrix.Offered.ToList();
        if (string.IsNullOrWhiteSpace(product.Name))
            Stops("It has no name.", Chapter.Facts);
        foreach (var option in product.Options.Where(o => o.Values.IsEmpty))
            Stops($"{option.Label} has no values, so there is nothing to pick.", Chapter.Options);
        if (offered.Count == 0 && product.Options.All(o => !o.Values.IsEmpty))
            Stops("Every combination is marked as not made: no variant is left to sell.", Chapter.Matrix);
        var priceless = offered.Where(v => v.Price.Figure is null).ToList();
        if (priceless.Count > 0 && product.Parts is null)
            Stops(
                product.Options.IsEmpty ? "It has no price." : $"{Several(priceless, matrix)} no price.",
                product.Options.IsEmpty ? Chapter.Money : Chapter.Matrix
            );

        if (configurator is not null)
            LookAtRules(product, configurator, Stops, Doubt);

        if (product.Pictures.IsEmpty)
            Doubt("It has no picture.", Chapter.Facts);
        if (product is { IsGroup: true, Parts.Arrangement: Arrangement.Lookbook, Parts.Pictures.IsEmpty: true })
            Doubt("Its page is led by pictures, and there is none with pins.", Chapter.Parts);
        foreach (var picture in product.Pictures.Where(p => p.Alt.Length == 0).Take(1))
            Doubt("A picture has no text for those who cannot see it.", Chapter.Facts);
        if (string.IsNullOrWhiteSpace(product.Summary))
            Doubt("It has no summary; lists and searches show one.", Chapter.Facts);
        var dear = offered.Where(v => Margins.Of(matrix, terms, v) is { Left.Amount: < 0 }).ToList();
        if (dear.Count > 0)
            Doubt(
                product.Options.IsEmpty
                    ? "The cost is above the price net of tax."
                    : $"{Several(dear, matrix)} a cost above the price net of tax.",
                product.Options.IsEmpty ? Chapter.Money : Chapter.Matrix
            );
        var wrongRrp = offered.Where(v => v.Rrp.Figure is { } rrp && v.Price.Figure is { } price && rrp <= price).ToList();
        if (wrongRrp.Count > 0)
            Doubt(
                product.Options.IsEmpty
                    ? "The RRP is not above the price, so it is not shown."
                    : $"{Several(wrongRrp, matrix)} an RRP that is not above the price, so it is not shown.",
                Chapter.Money
            );
        LookAtStock(product, matrix, stock, offered, Doubt);
        if (product.Selling.OffForNow is { Back: null })
            Doubt("It is off for now, with no day of return.", Chapter.Stock);
        LookAtPrices(product, matrix, terms, configurator, offered, Doubt);
        return [.. found.OrderByDescending(c => c.Stops)];
    }

    private static void LookAtStock(
        Product product,
        VariantMatrix matrix,
        IReadOnlyDictionary<Sku, StockLevel> stock,
        List<MatrixVariant> offered,
        Action<string, Chapter> doubt
    )
    {
        var takesParts = product.Parts is { IsMadeUp: false };
        var none = offered
            .Where(v =>
                !takesParts
                && v.Selling is { Counted: not false, Beyond: null or SellBeyond.Nothing }
                && stock.GetValueOrDefault(v.Sku).Available <= 0
            )
            .ToList();
        if (none.Count > 0 && none.Count == offered.Count)
            doubt("None can be bought now: nothing is in stock.", Chapter.Stock);
        else if (none.Count > 0)
            doubt($"{Several(none, matrix)} none in stock.", Chapter.Stock);
    }

    /// <summary>Price rules of its own, the floor, and surcharges that bring a price below 0.</summary>
    private static void LookAtPrices(
        Product product,
        VariantMatrix matrix,
        TradeTerms terms,
        Configurator? configurator,
        IReadOnlyList<MatrixVariant> offered,
        Action<string, Chapter> doubt
    )
    {
        foreach (var rule in product.PriceRules.Where(r => r.State == RuleState.On))
            if (Idle(rule, product) is { } why)
                doubt($"The price rule {rule.Name} hits nothing: {why}", Chapter.Prices);
        foreach (var check in PriceRuleChecks.Look(product.PriceRules))
            doubt($"The price rule {product.PriceRules.First(r => r.Id == check.Rule).Name}: {check.Text}", Chapter.Prices);
        var margin = product.Floor ?? terms.Floor;
        var low = offered.Where(v => margin is { Value: > 0 } && IsBelow(matrix, terms, v, margin.Value)).ToList();
        if (low.Count > 0)
            doubt($"{Several(low, matrix)} a list price below the floor of {margin} %, so no rule lowers it.", Chapter.Money);
        if (
            configurator is { Faults.IsEmpty: true }
            && !product.Extras.IsEmpty
            && configurator.Span(Configuration.Empty, _ => null) is { Lowest.Amount: < 0 } span
        )
            doubt($"Some answers together bring the price down to {span.Lowest.ForPeople()}; that cannot be bought.", Chapter.Extras);
    }

    /// <summary>Whether a list price brings less than the margin of the floor; what costs more than it brings is said elsewhere.</summary>
    private static bool IsBelow(VariantMatrix matrix, TradeTerms terms, MatrixVariant variant, Percentage margin) =>
        Margins.Of(matrix, terms, variant) is { Left.Amount: >= 0, Margin: { } left } && left < margin.Value;

    /// <summary>Why a price rule of the product's own can never act; null where it can.</summary>
    private static string? Idle(PriceRule rule, Product product)
    {
        var gone = rule.Scope.Where?.Questions.FirstOrDefault(q => product.Options.All(o => o.Key != q));
        if (gone is { Text: not null } option)
            return $"there is no option {option}.";
        if (!rule.Scope.Products.IsEmpty && !rule.Scope.Products.Contains(product.Code.Text))
            return "it names other products only.";
        return rule.When.Until <= rule.When.From ? "it ends before it begins." : null;
    }

    private static void LookAtRules(
        Product product,
        Configurator configurator,
        Action<string, Chapter> stops,
        Action<string, Chapter> doubt
    )
    {
        foreach (var extra in product.Extras.Where(e => e.IsPicked && e.Values.IsEmpty))
            doubt($"{extra.Label} has no values, so there is nothing to pick.", Chapter.Extras);
        foreach (var broken in configurator.Book.Broken.Where(b => configurator.Book.Rules.Any(r => r.Key.Text == b.Where && !r.Off)))
            (NamesSlot(configurator.Book.Rules.First(r => r.Key.Text == broken.Where), product) ? doubt : stops)(
                $"A rule is broken: {configurator.Words.Sentence(configurator.Book.Rules.First(r => r.Key.Text == broken.Where))} "
                    + $"{broken.What}",
                Chapter.Rules
            );
        if (configurator.Book.Acting.IsEmpty && product.Extras.IsEmpty)
            return;
        foreach (var fault in configurator.Faults)
            stops(fault.What, Chapter.Rules);
        if (!configurator.Faults.IsEmpty)
            return;
        var health = configurator.Health;
        foreach (var finding in health.Findings(configurator.Book))
            (finding.Stops ? stops : doubt)(finding.Text, Chapter.Rules);
        string Sentence(Key rule) => configurator.Words.Sentence(configurator.Book.Rules.First(r => r.Key == rule));
        foreach (var rule in health.NeverHolds)
            doubt($"This rule never holds: {Sentence(rule)}", Chapter.Rules);
        foreach (var rule in health.ChangesNothing)
            doubt($"This rule changes nothing: {Sentence(rule)}", Chapter.Rules);
    }

    /// <summary>Whether a rule names a slot: what lay in it may be gone, and then the rule rests.</summary>
    private static bool NamesSlot(SelectionRule rule, Product product) =>
        product.Parts?.Slots.Any(s => rule.When.Questions.Concat(rule.Then.SelectMany(t => t.Targets)).Contains(s.Key)) == true;

    private static string Several(List<MatrixVariant> variants, VariantMatrix matrix)
    {
        var first = variants[0].Values.Name(matrix.Options);
        return variants.Count switch
        {
            1 => $"{first} has",
            2 => $"{first} and {variants[1].Values.Name(matrix.Options)} have",
            _ => $"{first} and {variants.Count - 1:N0} more variants have",
        };
    }
}
