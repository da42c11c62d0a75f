namespace Unicus.Core.Documents;

/// <summary>The JSON Schema (2020-12) of the product document, as shipped.</summary>
public static class ProductSchema
{
    /// <summary>The JSON Schema of product documents.</summary>
    public static string Text { get; } = Load();

    private static string Load()
    {
        using var stream = typeof(ProductSchema).Assembly.GetManifestResourceStream("product-1.schema.json")!;
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }
}
