using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Finds products that would contain themselves, through slots or through what comes with answers.</summary>
public sealed class PartLoops(UnicusContext db, Currency currency)
{
    private readonly Dictionary<string, IReadOnlyList<string>> _known = [];

    /// <summary>A fault for each way in which a product with these parts would contain itself, with the path named.</summary>
    /// <param name="published">Whether the newest editions of other products are looked at; otherwise their working copies.</param>
    public async Task<IReadOnlyList<Fault>> Of(Product product, bool published)
    {
        var faults = new List<Fault>();
        async Task Look(string? part, string where, bool mayBeItself)
        {
            var code = product.Code.Text;
            if (part is null || (part == code && mayBeItself) || await Path(part, code, [], published) is not { } path)
                return;
            var chain = string.Join(" in ", path.AsEnumerable().Reverse().Append(code));
            faults.Add(new Fault(where, $"{product.Code} would contain itself: {chain}."));
        }
        foreach (var (i, slot) in (product.Parts?.Slots ?? []).Index())
            foreach (var (j, entry) in slot.Of.Index())
                await Look(await CodeOf(entry), $"#/parts/slots/{i}/of/{j}", mayBeItself: false);
        // A second one of the same goods may come with an answer: what does not come apart is no loop.
        foreach (var (i, option) in product.Questions.Index())
            foreach (var (j, value) in option.Values.Index())
                if (value.Part is { } part)
                    await Look(await CodeOf(part.Sku), $"#/options/{i}/values/{j}/part", mayBeItself: product.Parts is null);
        return faults;
    }

    /// <summary>From a product down to the one that is looked for; null where it does not contain it.</summary>
    private async Task<List<string>?> Path(string at, string wanted, HashSet<string> seen, bool published)
    {
        if (at == wanted)
            return [at];
        if (!seen.Add(at) || seen.Count > 2_000)
            return null;
        foreach (var code in await PartsOf(at, published))
            if (await Path(code, wanted, seen, published) is { } path)
                return [at, .. path];
        return null;
    }

    private async Task<string?> CodeOf(PartEntry entry) =>
        entry switch
        {
            PartEntry.OfProduct p => p.Code,
            PartEntry.OfSku s => await CodeOf(s.Code),
            _ => null,
        };

    private Task<string?> CodeOf(string sku)
    {
        var code = sku.ToUpperInvariant();
        return (
            from k in db.Skus
            where k.Code == code
            join p in db.Products on k.ProductId equals p.Id
            select p.Code
        ).FirstOrDefaultAsync();
    }

    /// <summary>The codes of what a product takes.</summary>
    private async Task<IReadOnlyList<string>> PartsOf(string code, bool published)
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
        var takes = new List<string>();
        if (document is not null && document.Contains("\"part", StringComparison.Ordinal))
        {
            var product = WorkingCopy.Read(document, currency);
            foreach (var entry in (product.Parts?.Slots ?? []).SelectMany(s => s.Of))
                if (await CodeOf(entry) is { } part)
                    takes.Add(part);
            foreach (var sku in product.Extras.SelectMany(o => o.Values).Select(v => v.Part?.Sku).OfType<string>())
                if (await CodeOf(sku) is { } part && part != code)
                    takes.Add(part);
        }
        return _known[code] = takes;
    }
}
