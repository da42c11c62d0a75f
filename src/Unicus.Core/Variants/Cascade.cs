namespace Unicus.Core.Variants;

using Unicus.Core.Money;
using Unicus.Core.Options;

/// <summary>Where a figure of a variant comes from.</summary>
public enum FigureSource
{
    /// <summary>Set nowhere.</summary>
    None,

    /// <summary>From the product.</summary>
    Product,

    /// <summary>Set on one of the variant's values, or made up with a value's surcharge.</summary>
    Value,

    /// <summary>The variant's own.</summary>
    Own,
}

/// <summary>A figure in force and where it comes from.</summary>
public readonly record struct Resolved<T>(T? Figure, FigureSource Source);

/// <summary>Figures that flow down: a variant's own, else one set on its values (the first option in order that sets it wins), else the
/// product's.</summary>
public sealed class Cascade(Figures product, IReadOnlyList<Option> options)
{
    private readonly bool _valuesSetFigures = options.Any(o => o.Values.Any(v => !v.Figures.AreNone));
    private readonly bool _surcharges = options.Any(o => o.Values.Any(v => v.Surcharge is not null));

    /// <summary>The figure in force of a kind that is a class.</summary>
    public Resolved<T> Resolve<T>(Figures own, Combination values, Func<Figures, T?> figure)
        where T : class
    {
        if (figure(own) is { } mine)
            return new Resolved<T>(mine, FigureSource.Own);
        foreach (var value in ValuesThatSetFigures(values))
            if (figure(value.Figures) is { } set)
                return new Resolved<T>(set, FigureSource.Value);
        return figure(product) is { } all ? new Resolved<T>(all, FigureSource.Product) : default;
    }

    /// <summary>The figure in force of a kind that is a struct.</summary>
    public Resolved<T?> Resolve<T>(Figures own, Combination values, Func<Figures, T?> figure)
        where T : struct
    {
        if (figure(own) is { } mine)
            return new Resolved<T?>(mine, FigureSource.Own);
        foreach (var value in ValuesThatSetFigures(values))
            if (figure(value.Figures) is { } set)
                return new Resolved<T?>(set, FigureSource.Value);
        return figure(product) is { } all ? new Resolved<T?>(all, FigureSource.Product) : default;
    }

    /// <summary>The price of a variant: its own, else base + Σ surcharges of its values.</summary>
    /// <remarks>
    /// The base is the price set on a value, else the product's. A percentage is of that base and does not compound:
    /// 184.00, timber −32.00, depth +8 % → 166.72. Never below 0. Null where there is no base.
    /// </remarks>
    public Resolved<Money?> Price(Figures own, Combination values)
    {
        var basis = Resolve<Money>(own, values, f => f.Price);
        if (basis.Source is FigureSource.Own or FigureSource.None || !_surcharges)
            return basis;
        var start = basis.Figure!.Value;
        var price = start;
        var surcharged = false;
        foreach (var option in options)
        {
            if (values[option.Key] is not { } v || option.Find(v)?.Surcharge is not { } surcharge)
                continue;
            price += surcharge.On(start);
            surcharged = true;
        }
        if (price.Amount < 0)
            price = Money.Zero(price.Currency);
        return new Resolved<Money?>(price, surcharged ? FigureSource.Value : basis.Source);
    }

    private IEnumerable<OptionValue> ValuesThatSetFigures(Combination values)
    {
        if (!_valuesSetFigures)
            yield break;
        foreach (var option in options)
            if (values[option.Key] is { } v && option.Find(v) is { Figures.AreNone: false } value)
                yield return value;
    }
}
