namespace Unicus.Core.Pricing;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Variants;

/// <summary>The stage of a price that a step belongs to.</summary>
public enum PriceStep
{
    /// <summary>Stage 1: the list price.</summary>
    List,

    /// <summary>Stage 2: what answers add.</summary>
    Answer,

    /// <summary>Stage 3: rules for a unit.</summary>
    Unit,

    /// <summary>Stage 4: bands and packs.</summary>
    Quantity,

    /// <summary>Stage 5: the cheapest of several.</summary>
    CheapestOff,

    /// <summary>What a stage took beyond the room that the floor leaves, given back behind that stage.</summary>
    Floor,

    /// <summary>Stage 6: the line's part of a reduction of the basket; only where a basket of one line is explained.</summary>
    Basket,
}

/// <summary>One line of the working.</summary>
/// <param name="Step">Which step it is.</param>
/// <param name="Label">What people read.</param>
/// <param name="Amount">What it comes to.</param>
/// <param name="PerLine">Whether the amount is for the whole line; otherwise it is for each unit.</param>
/// <param name="Rule">The key of the price rule behind the step, or null.</param>
public sealed record WorkingStep(PriceStep Step, string Label, Money Amount, bool PerLine = false, string? Rule = null);

/// <summary>The step-by-step account of how a price came about: Σ unit steps × quantity + Σ line steps = total.</summary>
/// <param name="Steps">In the order of the stages.</param>
/// <param name="Quantity">Units of the line; 1 or more.</param>
/// <param name="Currency">In which amounts are.</param>
public sealed record PriceWorking(ImmutableArray<WorkingStep> Steps, int Quantity, Currency Currency)
{
    /// <summary>The price of one unit after stage 3 with its floor; what later stages do stands in steps of the line.</summary>
    public Money Unit => Steps.Where(s => !s.PerLine).Select(s => s.Amount).Sum(Currency);

    /// <summary>What rules move, as shoppers read it: one step for a unit and one for the line, each with what the floor gives back in
    /// it, under the names of its rules.</summary>
    public IEnumerable<WorkingStep> Moved =>
        Steps
            .Where(s => s.Step is not (PriceStep.List or PriceStep.Answer))
            .GroupBy(s => s.PerLine)
            .Select(g => new WorkingStep(
                g.First().Step,
                string.Join(", ", g.Where(s => s.Rule is not null).Select(s => s.Label).Distinct()),
                g.Select(s => s.Amount).Sum(Currency),
                g.Key
            ))
            .Where(s => !s.Amount.IsZero);

    /// <summary>The line after stage 5, <em>once</em> surcharges included.</summary>
    public Money Total => Unit * Quantity + Steps.Where(s => s.PerLine).Select(s => s.Amount).Sum(Currency);
}

/// <summary>How list prices and titles of variants are made up.</summary>
public static class PriceCalculator
{
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
