using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Works out what a change of a product does to its rows of variants: which change, come, go or retire.</summary>
internal sealed class VariantLaying(UnicusContext db, WorkingCopy copy, Product after, IReadOnlyDictionary<string, Combination>? moved)
{
    private readonly bool _shares = after.Options.Any(o => o.SharesSku);
    private readonly Dictionary<Combination, VariantRow> _sharing = [];
    private ILookup<Sku, VariantRow>? _byCode;
    private readonly bool[] _changed = new bool[VariantTable.Columns.Count];

    /// <summary>The loaded rows as they were, by id.</summary>
    public Dictionary<int, VariantRow> Before { get; } = [];

    /// <summary>Rows that stay, as they are to be.</summary>
    public List<VariantRow> Staying { get; } = [];

    /// <summary>Those of them that change.</summary>
    public List<VariantRow> Updated { get; } = [];

    /// <summary>The columns that any of them changes in.</summary>
    public IEnumerable<VariantColumn> Changed => VariantTable.Columns.Where((_, i) => _changed[i]);

    public List<VariantRow> Deleted { get; } = [];
    public List<WantedSku> Fresh { get; } = [];
    public List<WantedCode> Renames { get; } = [];

    /// <summary>Rows that stay and get a SKU of their own, since their options no longer share one.</summary>
    public List<WantedSku> Parted { get; } = [];

    public async Task Work()
    {
        foreach (var row in copy.Rows)
            Before[row.Id] = row;
        // A product that was just made has its shape, and no rows yet.
        var isNew = copy.IsWhole && copy.Rows.Count == 0;
        if (moved is null && !isNew && SameShape(copy.Product, after))
            FiguresOnly();
        else
            await NewShape();
        var columns = VariantTable.Columns.ToArray();
        foreach (var row in Staying)
        {
            var before = Before[row.Id];
            var differs = false;
            for (var i = 0; i < columns.Length; i++)
                if (!columns[i].Same(row, before))
                    differs = _changed[i] = true;
            if (differs)
                Updated.Add(row);
        }
    }

    private static bool SameShape(Product a, Product b) =>
        a.NotMade.SequenceEqual(b.NotMade)
        && a.Options.Length == b.Options.Length
        && a.Options.Zip(b.Options)
            .All(p =>
                p.First.Key == p.Second.Key
                && p.First.SharesSku == p.Second.SharesSku
                && p.First.Values.Select(v => v.Key).SequenceEqual(p.Second.Values.Select(v => v.Key))
            );

    private void FiguresOnly()
    {
        // Nearly always the same variants in the same places, some of them changed.
        var before = copy.Product.Variants;
        var former = after.Variants.Length == before.Length ? null : before.ToHashSet(ReferenceEqualityComparer.Instance);
        for (var i = 0; i < after.Variants.Length; i++)
        {
            var variant = after.Variants[i];
            if (former?.Contains(variant) ?? ReferenceEquals(variant, before[i]))
                continue;
            if (copy.RowOf(variant.Values) is { } row)
                Stay(row, variant, variant.Sku);
        }
    }

    private async Task NewShape()
    {
        var matrix = after.Matrix();
        var landed = new Dictionary<int, VariantRow>();
        var leaving = new List<VariantRow>();
        foreach (var row in copy.Rows)
        {
            var target =
                moved is null ? row.Values
                : moved.TryGetValue(row.Values, out var to) ? to.Text
                : null;
            if (target is not null && matrix.Made.NumberOf(target) is { } number && matrix.Made.IsMade(number))
                landed[number] = row;
            else
                leaving.Add(row);
        }
        await Leave(leaving);
        var parted = PartedRows(landed);
        foreach (var (number, row) in landed.OrderBy(l => Returns(l.Value)))
        {
            var index = matrix.Made.IndexOf(number);
            var variant = matrix.Listed(number) ?? new Variant(matrix.Made.At(number));
            var sku = variant.Sku ?? matrix.PatternSku(index);
            if (parted.Contains(row))
                Part(row, variant, sku);
            else
                Stay(row, variant, sku, keepFormer: variant.Sku is not null);
        }
        for (var index = 0; index < matrix.Made.Count; index++)
        {
            var number = matrix.Made.Made()[index];
            if (landed.ContainsKey(number))
                continue;
            var values = matrix.Made.TextAt(number);
            // What is not loaded and was made before has its row already.
            if (!copy.IsWhole && copy.Matrix.Made.NumberOf(values) is { } was && copy.Matrix.Made.IsMade(was))
                continue;
            var row = new VariantRow { ProductId = copy.Row.Id, Values = values };
            var listed = matrix.Listed(number);
            if (listed is not null)
                WorkingCopy.ToRow(listed, row);
            Fresh.Add(new WantedSku(row, listed?.Sku?.Text ?? matrix.PatternSku(index).Text, listed?.Sku is not null));
        }
    }

    /// <summary>A SKU that is left out is one that nobody has seen yet: it is made anew, and its former code is free again.</summary>
    private void Stay(VariantRow row, Variant variant, Sku? sku, bool keepFormer = true)
    {
        var changed = row.Copy();
        changed.Values = variant.Values.Text;
        WorkingCopy.ToRow(variant, changed);
        var rename = sku is { } wanted && wanted.Text != row.SkuCode ? wanted : (Sku?)null;
        if (_shares)
        {
            var apart = OptionChange.Apart(variant.Values, after.Options);
            var holder = rename is { } other ? Sharing(apart, other) : null;
            if (holder is null && _sharing.TryGetValue(apart, out var first) && Returns(row))
                holder = first;
            if (holder is not null)
                (changed.SkuId, changed.SkuCode, rename) = (holder.SkuId, holder.SkuCode, null);
            _sharing.TryAdd(apart, changed);
        }
        if (rename is { } code)
            Renames.Add(new WantedCode(row, code.Text, keepFormer));
        Staying.Add(changed);
    }

    /// <summary>Whether a row was out, and so takes the SKU that is shared now instead of the one it had.</summary>
    private bool Returns(VariantRow row) => row.Retired || copy.Matrix.Find(row.Values) is null;

    /// <summary>A row that has the SKU wanted, where the options say that it is shared with these values.</summary>
    private VariantRow? Sharing(Combination apart, Sku wanted)
    {
        _byCode ??= copy.Rows.ToLookup(r => Sku.Of(r.SkuCode));
        return _byCode[wanted]
            .FirstOrDefault(r =>
                (moved is null ? Combination.Parse(r.Values) : moved.GetValueOrDefault(r.Values)) is { } there
                && OptionChange.Apart(there, after.Options) == apart
            );
    }

    private void Part(VariantRow row, Variant variant, Sku sku)
    {
        var changed = row.Copy();
        (changed.Values, changed.SkuId) = (variant.Values.Text, 0);
        WorkingCopy.ToRow(variant, changed);
        Staying.Add(changed);
        Parted.Add(new WantedSku(changed, sku.Text, IsOwn: false));
    }

    /// <summary>Rows that have one SKU together and may not any more, all but the first of each.</summary>
    private HashSet<VariantRow> PartedRows(Dictionary<int, VariantRow> landed)
    {
        var made = new MadeSet(after.Options, []);
        return
        [
            .. landed
                .GroupBy(l => l.Value.SkuId)
                .Where(g => g.Skip(1).Any())
                .SelectMany(g =>
                    g.OrderBy(l => l.Key)
                        .GroupBy(l => OptionChange.Apart(made.At(l.Key), after.Options))
                        .Skip(1)
                        .SelectMany(x => x.Select(l => l.Value))
                ),
        ];
    }

    /// <summary>A row that has history or stock is retired; any other is deleted.</summary>
    private async Task Leave(List<VariantRow> leaving)
    {
        if (leaving.Count == 0)
            return;
        var skus = leaving.Select(r => r.SkuId).Distinct().ToArray();
        var history = (await db.Movements.Where(m => skus.Contains(m.SkuId)).Select(m => m.SkuId).Distinct().ToListAsync()).ToHashSet();
        history.UnionWith(await db.OrderLeaves.Where(l => skus.Contains(l.SkuId)).Select(l => l.SkuId).Distinct().ToListAsync());
        foreach (var row in leaving)
        {
            if (!history.Contains(row.SkuId))
            {
                Deleted.Add(row);
                continue;
            }
            var retired = row.Copy();
            retired.Retired = true;
            Staying.Add(retired);
        }
    }
}
