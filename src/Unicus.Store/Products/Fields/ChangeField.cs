using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Changes one field of a product; what was changed elsewhere since the typist saw it is never overwritten unseen.</summary>
public sealed class ChangeField(UnicusContext db, ChangeProduct products)
{
    /// <param name="was">The text that stood in the field when it was shown; null means whatever is there now.</param>
    public async Task<Outcome> Run(string code, string field, string typed, string? was, Actor by)
    {
        if (!ProductFields.All.TryGetValue(field, out var f))
            return Outcome.No(field, "There is no such field.");
        if (field is "companions" or "stepUps")
            typed = await Codes(typed);
        return await products.Apply(
            code,
            f.Label,
            by,
            copy =>
            {
                var now = f.Show(copy);
                return was is not null && was.ReplaceLineEndings() != now.ReplaceLineEndings() && typed != now
                    ? Read<Product>.No(
                        $"Changed elsewhere meanwhile to “{(now.Length > 60 ? now[..60] + "…" : now)}”. Yours is not saved; leave "
                            + "the field again to replace theirs."
                    )
                    : f.Take(copy, typed);
            },
            field,
            ProductFields.IsOfTheOne(field) ? p => p.Options.IsEmpty ? VariantScope.All : VariantScope.None : null
        );
    }

    /// <summary>The same list with codes in place of names, and of SKUs, that stand for one product each.</summary>
    private async Task<string> Codes(string typed)
    {
        var pieces = typed.Split([',', ';', '\n', '\r', '\t'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        // More are refused, whatever they are.
        if (pieces.Length > Product.MostSuggested)
            return typed;
        var found = new List<string>();
        foreach (var piece in pieces)
        {
            var (name, code) = (piece.ToLowerInvariant(), piece.ToUpperInvariant());
            var ids = db.Skus.Where(s => s.CodeKey == code).Select(s => s.ProductId);
            var codes = await db
                .Products.Where(p => p.Code == code || p.Name.ToLower() == name || ids.Contains(p.Id))
                .OrderBy(p => p.Code != code)
                .Select(p => p.Code)
                .Take(2)
                .ToListAsync();
            found.Add(codes is [var only] || codes.Contains(code) ? codes[0] : piece);
        }
        return string.Join(", ", found);
    }
}
