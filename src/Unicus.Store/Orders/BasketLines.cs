using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>The lines of kept baskets, as JSON.</summary>
public static class BasketLines
{
    /// <summary>Lines that name a product name the SKU instead, so that they still mean the same once the product is part of
    /// another.</summary>
    /// <param name="sku">The SKU for the answers of a line, or null where there is none.</param>
    public static string Lead(string lines, string product, Func<JsonObject, string?> sku)
    {
        var read = JsonSerializer.Deserialize<ImmutableArray<LineRequest>>(lines);
        return JsonSerializer.Serialize(
            read.Select(l => l.Product == product && sku(l.Answers) is { } code ? l with { Product = null, Sku = code, Answers = [] } : l)
        );
    }
}
