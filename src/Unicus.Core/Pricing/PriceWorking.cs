using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>The stage of a price that a step belongs to.</summary>
public enum PriceStep
{
    List,
    Answer,
    Unit,
    Quantity,
    Basket,
    Floor,
}

/// <summary>One line of the working.</summary>
/// <param name="PerLine">Whether the amount is for the whole line; otherwise it is for each unit.</param>
/// <param name="Rule">The key of the price rule behind the step, or null.</param>
public sealed record WorkingStep(PriceStep Step, string Label, Money Amount, bool PerLine = false, string? Rule = null);

/// <summary>The step-by-step account of how a price came about: Σ unit steps × quantity + Σ line steps = total.</summary>
public sealed record PriceWorking(ImmutableArray<WorkingStep> Steps, int Quantity, Currency Currency)
{
    /// <summary>The price of one unit.</summary>
    public Money Unit => Steps.Where(s => !s.PerLine).Select(s => s.Amount).Sum(Currency);

    public Money Total => Unit * Quantity + Steps.Where(s => s.PerLine).Select(s => s.Amount).Sum(Currency);
}

/// <summary>The price of a line, stage by stage.</summary>
public static class PriceCalculator
{
    /// <summary>Prices one variant.</summary>
    /// <param name="name">The product's name, for the label of the first step.</param>
    /// <param name="quantity">Units, 1 or more.</param>
    /// <returns>Null where the variant has no price.</returns>
    public static PriceWorking? Price(string name, VariantMatrix matrix, MatrixVariant variant, int quantity)
    {
        if (variant.Price.Figure is not { } price)
            return null;
        return new PriceWorking(
            [new WorkingStep(PriceStep.List, Title(name, variant.Values, matrix.Options), price)],
            quantity,
            price.Currency
        );
    }

    /// <summary>How a list price is made up, for the merchant: base and one line a surcharge, or the variant's own price.</summary>
    public static ImmutableArray<WorkingStep> ListPrice(Figures product, VariantMatrix matrix, MatrixVariant variant)
    {
        if (variant.Price.Figure is not { } price)
            return [];
        if (variant.Variant.Own.Price is not null)
            return [new WorkingStep(PriceStep.List, "Own price of this variant", price)];
        var basis = matrix.Figures.Resolve<Money>(Figures.None, variant.Values, f => f.Price).Figure!.Value;
        var steps = ImmutableArray.CreateBuilder<WorkingStep>();
        steps.Add(new WorkingStep(PriceStep.List, basis == product.Price ? "Price of the product" : "Price set on a value", basis));
        foreach (var option in matrix.Options)
            if (variant.Values[option.Key] is { } v && option.Find(v) is { Surcharge: { } surcharge } value)
                steps.Add(
                    new WorkingStep(
                        PriceStep.List,
                        $"{option.Label}: {value.Label}{(surcharge is Surcharge.Percent p ? $", {p.Rate} % of {basis}" : "")}",
                        surcharge.On(basis)
                    )
                );
        return steps.ToImmutable();
    }

    /// <summary>“Garden hive, deep, cedar”.</summary>
    public static string Title(string name, Combination values, IEnumerable<Option> options)
    {
        var labels = options
            .Select(o =>
                values[o.Key] is { } v
                    ? o.Find(v) is { DoesNotApply: false } value
                        ? value.Label
                        : null
                    : null
            )
            .Where(l => l is not null)
            .Select(l => Wording.LowerFirst(l!));
        return string.Join(", ", labels.Prepend(name));
    }
}
