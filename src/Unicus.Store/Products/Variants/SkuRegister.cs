using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>A row that is new and needs a SKU.</summary>
/// <param name="IsOwn">Whether the code was said; otherwise the pattern made it.</param>
internal sealed record WantedSku(VariantRow Row, string Code, bool IsOwn);

/// <summary>A row that stays and is to have another SKU.</summary>
/// <param name="KeepFormer">Whether the code was said, so that the former one leads here from then on.</param>
internal sealed record WantedCode(VariantRow Row, string Code, bool KeepFormer);

/// <summary>A SKU whose code was changed.</summary>
public sealed record RenamedSku(int Id, string From, string To);

/// <summary>Gives out SKUs for one change: unique in the shop, shared where an option shares them, free ones of the product used
/// again.</summary>
/// <param name="exact">Whether a SKU made by the pattern that is taken is a fault; otherwise it gets a number behind.</param>
internal sealed class SkuRegister(UnicusContext db, VariantTable table, ProductRow product, IReadOnlyList<Option> options, bool exact)
{
    private readonly Dictionary<string, (SkuRow Sku, bool InUse)> _known = [];
    private readonly Dictionary<string, SkuRow> _shared = [];
    private readonly List<SkuRow> _made = [];
    private readonly bool _shares = options.Any(o => o.SharesSku);

    public List<Fault> Faults { get; } = [];

    /// <summary>The codes that were changed: id, former and new.</summary>
    public List<RenamedSku> Renamed { get; } = [];

    /// <summary>Renames SKUs of rows that stay, then finds or makes one for each new row, and writes both unless there are
    /// faults.</summary>
    /// <param name="staying">Rows that stay, to share with; those that are out last.</param>
    public async Task Assign(IEnumerable<VariantRow> staying, IReadOnlyList<WantedCode> renames, IReadOnlyList<WantedSku> fresh)
    {
        var keys = fresh.Select(w => w.Code).Concat(renames.Select(r => r.Code)).Select(c => c.ToUpperInvariant()).Distinct().ToList();
        foreach (var (sku, inUse) in await table.SkusCalled(keys))
            _known[sku.CodeKey] = (sku, inUse);
        if (_shares)
            foreach (var row in staying)
                _shared.TryAdd(
                    Apart(row.Values),
                    new SkuRow
                    {
                        Id = row.SkuId,
                        Code = row.SkuCode,
                        CodeKey = row.SkuCode.ToUpperInvariant(),
                        ProductId = product.Id,
                    }
                );
        await Rename(renames);
        foreach (var wanted in fresh)
            if (!GiveFree(wanted))
                await Give(wanted);
        if (Faults.Count > 0)
            return;
        await table.RenameSkus([.. Renamed.Select(r => (r.Id, r.To))]);
        var ids = _made.Count == 0 ? [] : await table.NewIds("skus", _made.Count);
        for (var i = 0; i < ids.Length; i++)
            _made[i].Id = ids[i];
        await table.InsertSkus(_made);
        foreach (var wanted in fresh)
            wanted.Row.SkuId = _given[wanted.Row].Id;
    }

    private readonly Dictionary<VariantRow, SkuRow> _given = new(ReferenceEqualityComparer.Instance);

    private async Task Rename(IReadOnlyList<WantedCode> renames)
    {
        if (renames.Count == 0)
            return;
        var taken = new Dictionary<string, int>();
        var wanted = renames.Select(r => r.Code.ToUpperInvariant()).ToArray();
        var aliases = await db.SkuAliases.Where(a => wanted.Contains(a.CodeKey)).ToDictionaryAsync(a => a.CodeKey);
        if (!exact)
            renames = WithoutTaken(renames, aliases);
        var leaving = renames.Select(r => r.Row.SkuId).ToHashSet();
        foreach (var (row, code, keepFormer) in renames)
        {
            var key = code.ToUpperInvariant();
            if (Renamed.Any(r => r.Id == row.SkuId && r.To == code))
                continue;
            var clash =
                _known.TryGetValue(key, out var holder) && holder.Sku.Id != row.SkuId && !leaving.Contains(holder.Sku.Id)
                    ? await OwnerName(holder.Sku)
                    : null;
            if (taken.TryGetValue(key, out var other) && other != row.SkuId)
                clash = "another variant of this change";
            if (aliases.TryGetValue(key, out var former))
            {
                if (former.SkuId != row.SkuId && !leaving.Contains(former.SkuId))
                    clash ??=
                        $"{await OwnerName(await db.Skus.SingleAsync(s => s.Id == former.SkuId))}, whose former SKU it is: editions "
                        + "still name it";
                else if (former.SkuId == row.SkuId)
                    db.SkuAliases.Remove(former);
            }
            if (clash is not null)
            {
                Faults.Add(
                    new Fault(new CellPlace(row.Values, "sku").ToString(), $"Nothing was saved: the SKU {code} is already used by {clash}.")
                );
                continue;
            }
            taken[key] = row.SkuId;
            await Rename(row, code, keepFormer);
        }
    }

    /// <summary>Notes the new code of a row; the former one leads to it where editions still name it.</summary>
    private async Task Rename(VariantRow row, string code, bool keepFormer)
    {
        var (old, key) = (row.SkuCode.ToUpperInvariant(), code.ToUpperInvariant());
        if (keepFormer && old != key && await db.SkuAliases.FindAsync(old) is null)
            db.SkuAliases.Add(
                new SkuAlias
                {
                    CodeKey = old,
                    Code = row.SkuCode,
                    SkuId = row.SkuId,
                }
            );
        Renamed.Add(new RenamedSku(row.SkuId, row.SkuCode, code));
        _known.Remove(old);
        _known[key] = (
            new SkuRow
            {
                Id = row.SkuId,
                Code = code,
                CodeKey = key,
                ProductId = product.Id,
            },
            true
        );
    }

    /// <summary>A code that the pattern would make anew but somebody has is not taken: the row keeps the one it has, and so may others
    /// that wanted that.</summary>
    private List<WantedCode> WithoutTaken(IReadOnlyList<WantedCode> renames, Dictionary<string, SkuAlias> aliases)
    {
        var kept = renames.ToList();
        HashSet<int> leaving;
        do leaving = [.. kept.Select(r => r.Row.SkuId)];
        while (
            kept.RemoveAll(r =>
                !r.KeepFormer
                && (
                    (
                        _known.TryGetValue(r.Code.ToUpperInvariant(), out var holder)
                        && holder.Sku.Id != r.Row.SkuId
                        && !leaving.Contains(holder.Sku.Id)
                    )
                    || (
                        aliases.TryGetValue(r.Code.ToUpperInvariant(), out var former)
                        && former.SkuId != r.Row.SkuId
                        && !leaving.Contains(former.SkuId)
                    )
                )
            ) > 0
        );
        return kept;
    }

    /// <summary>Makes the SKU that is wanted if nobody has it: the way of nearly all.</summary>
    private bool GiveFree(WantedSku wanted)
    {
        var key = wanted.Code.ToUpperInvariant();
        var made = new SkuRow
        {
            Code = wanted.Code,
            CodeKey = key,
            ProductId = product.Id,
        };
        if (_shares || !_known.TryAdd(key, (made, true)))
            return false;
        _made.Add(made);
        _given[wanted.Row] = made;
        wanted.Row.SkuCode = made.Code;
        return true;
    }

    private async Task Give(WantedSku wanted)
    {
        var apart = _shares ? Apart(wanted.Row.Values) : null;
        if (apart is not null && !wanted.IsOwn && _shared.TryGetValue(apart, out var sharing))
        {
            Take(wanted, sharing, apart);
            return;
        }
        var code = wanted.Code;
        for (var n = 2; ; n++)
        {
            var key = code.ToUpperInvariant();
            if (!_known.TryGetValue(key, out var known))
            {
                var made = new SkuRow
                {
                    Code = code,
                    CodeKey = key,
                    ProductId = product.Id,
                };
                _made.Add(made);
                Take(wanted, made, apart);
                return;
            }
            var isShared = apart is not null && _shared.TryGetValue(apart, out var own) && own.CodeKey == key;
            if (isShared || (known.Sku.ProductId == product.Id && !known.InUse))
            {
                Take(wanted, known.Sku, apart);
                return;
            }
            if (exact || wanted.IsOwn)
            {
                Faults.Add(
                    new Fault("#/variants", $"Nothing was saved: the SKU {code} is already used by " + $"{await OwnerName(known.Sku)}.")
                );
                return;
            }
            code = $"{wanted.Code}-{n}";
            foreach (var (sku, inUse) in await table.SkusCalled([code.ToUpperInvariant()]))
                _known.TryAdd(sku.CodeKey, (sku, inUse));
        }
    }

    private void Take(WantedSku wanted, SkuRow sku, string? apart)
    {
        _known[sku.CodeKey] = (sku, true);
        if (apart is not null)
            _shared.TryAdd(apart, sku);
        _given[wanted.Row] = sku;
        wanted.Row.SkuCode = sku.Code;
    }

    private string Apart(string values) =>
        options.Where(o => o.SharesSku).Aggregate(Combination.Parse(values), (c, o) => c.Without(o.Key)).Text;

    private async Task<string> OwnerName(SkuRow sku)
    {
        if (sku.ProductId == product.Id && sku.Id == 0)
            return "another variant of this product";
        var owner = await db.Products.AsNoTracking().FirstOrDefaultAsync(p => p.Id == sku.ProductId);
        var values = await db.Variants.Where(v => v.SkuId == sku.Id).Select(v => v.Values).FirstOrDefaultAsync();
        if (owner is null)
            return "another product";
        var read = WorkingCopy.Read(owner.Definition, (await ShopSettings.Load(db)).Currency);
        return values is { Length: > 0 } ? PriceCalculator.Title(owner.Name, Combination.Parse(values), read.Options) : owner.Name;
    }
}
