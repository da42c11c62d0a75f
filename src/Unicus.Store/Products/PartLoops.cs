using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>Finds products that would contain themselves.</summary>
public sealed class PartLoops(UnicusContext db, Currency currency)
{
    private readonly Dictionary<string, SetParts?> _known = [];

    /// <summary>A fault for each way in which a product with these parts would contain itself, with the path named.</summary>
    /// <param name="published">Whether the newest editions of other products are looked at; otherwise their working copies.</param>
    public async Task<IReadOnlyList<Fault>> Of(Product product, bool published)
    {
        var faults = new List<Fault>();
        foreach (var (i, slot) in (product.Parts?.Slots ?? []).Index())
            foreach (var (j, entry) in slot.Of.Index())
                if (await CodeOf(entry) is { } code && await Path(code, product.Code.Text, [], published) is { } path)
                {
                    var chain = string.Join(" in ", path.AsEnumerable().Reverse().Append(product.Code.Text));
                    faults.Add(new Fault($"#/parts/slots/{i}/of/{j}", $"{product.Code} would contain itself: {chain}."));
                }
        return faults;
    }

    /// <summary>From a product down to the one that is looked for; null where it does not contain it.</summary>
    private async Task<List<string>?> Path(string at, string wanted, HashSet<string> seen, bool published)
    {
        if (at == wanted)
            return [at];
        if (!seen.Add(at) || seen.Count > 2_000 || await PartsOf(at, published) is not { } parts)
            return null;
        foreach (var entry in parts.Slots.SelectMany(s => s.Of))
            if (await CodeOf(entry) is { } code && await Path(code, wanted, seen, published) is { } path)
                return [at, .. path];
        return null;
    }

    private async Task<string?> CodeOf(PartEntry entry) =>
        entry switch
        {
            PartEntry.OfProduct p => p.Code,
            PartEntry.OfSku s => await (
                from k in db.Skus
                where k.Code == s.Code
                join p in db.Products on k.ProductId equals p.Id
                select p.Code
            ).FirstOrDefaultAsync(),
            _ => null,
        };

    private async Task<SetParts?> PartsOf(string code, bool published)
    {
        if (_known.TryGetValue(code, out var known))
            return known;
        var document = published
            ? await (
                from p in db.Products
                where p.Code == code
                join e in db.Editions on new { p.Id, Number = p.Edition } equals new { Id = e.ProductId, Number = (int?)e.Number }
                select e.Document
            ).FirstOrDefaultAsync()
            : await db.Products.Where(p => p.Code == code).Select(p => p.Definition).FirstOrDefaultAsync();
        return _known[code] =
            document is null || !document.Contains("\"parts\"", StringComparison.Ordinal)
                ? null
                : WorkingCopy.Read(document, currency).Parts;
    }
}
