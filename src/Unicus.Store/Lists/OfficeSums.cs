using System.Collections.Concurrent;

namespace Unicus.Store;

/// <summary>Keeps a few sums of the back office as long as nothing that they are made of changed.</summary>
public sealed class OfficeSums
{
    private readonly ConcurrentDictionary<string, StampedSum> _kept = new();

    private sealed record StampedSum(string Stamp, object Value);

    /// <summary>The sum that is kept under a name, or is found now.</summary>
    /// <param name="ofStock">Whether stock moves it too; else only products do.</param>
    public async Task<T> Of<T>(string name, Catalogue catalogue, Func<Task<T>> find, bool ofStock = false)
        where T : notnull
    {
        var stamp = ofStock ? $"{catalogue.Stamps.Products} {catalogue.Stamps.Stock}" : catalogue.Stamps.Products;
        if (catalogue.Stamps.AreTold && _kept.TryGetValue(name, out var kept) && kept.Stamp == stamp)
            return (T)kept.Value;
        var value = await find();
        _kept[name] = new StampedSum(stamp, value);
        return value;
    }
}
