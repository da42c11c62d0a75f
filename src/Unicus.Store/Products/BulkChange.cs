using System.Collections.Immutable;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>What is done to a figure of many variants.</summary>
public enum BulkOperation
{
    Set,
    Add,
    Subtract,
    Percent,
    Clear,
}

/// <summary>A bulk change as asked for.</summary>
/// <param name="Figure">price, cost or rrp.</param>
/// <param name="Amount">As typed: an amount, or a percentage such as -5.</param>
/// <param name="Ending">As typed, such as .50 or .99: the result is raised to the next amount that ends so; blank leaves it.</param>
public sealed record BulkRequest(ImmutableArray<string> Values, string Figure, BulkOperation Operation, string? Amount, string? Ending);

/// <summary>One variant of a bulk change, old and new.</summary>
public sealed record BulkRow(MatrixVariant Variant, Money? Old, Money? New);

/// <summary>Previews and applies a change to many variants at once.</summary>
public sealed class BulkChange(ChangeProduct products)
{
    /// <summary>Old and new figures of every variant named, or what is wrong with the request.</summary>
    public static Read<ImmutableArray<BulkRow>> Preview(WorkingCopy copy, BulkRequest request)
    {
        var figure = request.Figure;
        if (figure is not ("price" or "cost" or "rrp")) return Read<ImmutableArray<BulkRow>>.No("Price, cost and RRP can be changed at once.");
        var amount = TypedNumbers.Amount(request.Amount, copy.Shop.Currency);
        var percent = TypedNumbers.Percent(request.Amount);
        var ending = TypedNumbers.Amount(request.Ending, copy.Shop.Currency);
        if (request.Operation == BulkOperation.Percent ? !percent.Ok : request.Operation != BulkOperation.Clear && !amount.Ok)
            return Read<ImmutableArray<BulkRow>>.No((request.Operation == BulkOperation.Percent ? percent.Problem : amount.Problem)!);
        if (!ending.Ok || ending.Value?.Amount >= 100) return Read<ImmutableArray<BulkRow>>.No("An ending is an amount below 100, such as .50 or 9.99.");
        if (request.Operation != BulkOperation.Clear && (request.Operation == BulkOperation.Percent ? percent.Value is null : amount.Value is null))
            return Read<ImmutableArray<BulkRow>>.Of([]);

        var rows = ImmutableArray.CreateBuilder<BulkRow>();
        foreach (var values in request.Values)
        {
            if (copy.Matrix.Find(values) is not { } variant) continue;
            var old = figure switch { "price" => variant.Price.Figure, "cost" => variant.Cost.Figure, _ => variant.Rrp.Figure };
            var changed = request.Operation switch
            {
                BulkOperation.Set => amount.Value,
                BulkOperation.Add => old + amount.Value,
                BulkOperation.Subtract => old - amount.Value,
                BulkOperation.Percent => old is { } o ? o + percent.Value!.Value.Of(o) : null,
                _ => null,
            };
            if (changed is { } c)
            {
                if (ending.Value is { } e) c = UpTo(c, e);
                if (c.Amount < 0) return Read<ImmutableArray<BulkRow>>.No($"{variant.Values.Name(copy.Product.Options)} would fall below 0.");
                changed = c;
            }
            rows.Add(new BulkRow(variant, old, changed));
        }
        return Read<ImmutableArray<BulkRow>>.Of(rows.ToImmutable());
    }

    /// <summary>Applies it in one transaction, as one change that can be undone.</summary>
    public Task<Outcome> Apply(string code, BulkRequest request, Actor by) => products.Apply(code, $"{request.Figure} of {request.Values.Length:N0} variants: {request.Operation.ToString().ToLowerInvariant()} {request.Amount}", by, copy =>
    {
        var preview = Preview(copy, request);
        if (!preview.Ok) return Read<Product>.No(preview.Problem!);
        if (preview.Value.IsEmpty) return Read<Product>.No("Type an amount first.");
        var changed = preview.Value.ToDictionary(r => r.Variant.Values.Text, r => r.New);
        return Read<Product>.Of(copy.Product with
        {
            Variants = [.. copy.Product.Variants.Select(v => !changed.TryGetValue(v.Values.Text, out var m) ? v : request.Figure switch
            {
                "price" => v with { Own = v.Own with { Price = m } },
                "cost" => v with { Own = v.Own with { Cost = m } },
                _ => v with { Own = v.Own with { Rrp = m } },
            })],
        });
    }, scope: _ => VariantScope.All);

    /// <summary>The next amount, at or above this one, that ends as asked: 178.00 up to .50 is 178.50; 183.60 up to 9.99 is 189.99.</summary>
    public static Money UpTo(Money amount, Money ending)
    {
        var step = ending.Amount < 1 ? 1m : ending.Amount < 10 ? 10m : 100m;
        var below = Math.Floor(amount.Amount / step) * step + ending.Amount;
        return new Money(below >= amount.Amount ? below : below + step, amount.Currency);
    }
}
