namespace Unicus.Core.Pricing.Stages;

using Unicus.Core.Money;
using Unicus.Core.Variants;

/// <summary>What is sold on a line, as far as its price hangs on it; lines of the same variant have it in common.</summary>
/// <param name="Product">The code of the product.</param>
/// <param name="Sku">In capitals.</param>
/// <param name="Currency">Of all amounts.</param>
/// <param name="List">The list price of one unit, L, in minor units.</param>
/// <param name="Floor">What a unit is not pushed below without its answers, F, in minor units; null where nothing limits rules.</param>
internal sealed record LineGoods(string Product, string Sku, Currency Currency, long List, long? Floor)
{
    private WorkingStep? _step;

    /// <summary>A variant at any list price.</summary>
    /// <inheritdoc cref="LineGoods(string, string, Currency, long, long?)"/>
    public static LineGoods Of(MatrixVariant variant, long list, long? floor) =>
        new("", variant.Sku.Text.ToUpperInvariant(), variant.Price.Figure?.Currency ?? Currency.Euro, list, floor);

    /// <summary>How far rules may reduce one unit, R, in minor units; null where nothing limits them.</summary>
    public long? Room { get; } = Floor is { } floor ? Math.Max(0, List - floor) : null;

    /// <summary>What one unit costs the merchant, in minor units; null where it is not known, and for sets and groups.</summary>
    public long? Cost { get; init; }

    /// <summary>The key of the tax class in force; null where the shop has none, and for sets and groups.</summary>
    public string? TaxClass { get; init; }

    /// <summary>The step of the list price, put together once.</summary>
    /// <param name="title">Of the goods: always the same.</param>
    public WorkingStep Step(string title) => _step ??= new WorkingStep(PriceStep.List, title, MinorUnits.ToMoney(List, Currency));
}
