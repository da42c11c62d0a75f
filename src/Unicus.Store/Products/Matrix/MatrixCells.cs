using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>One typed cell.</summary>
/// <param name="Was">What stood there when it was typed over.</param>
public sealed record CellEdit(string Values, string Figure, string Text, string? Was)
{
    private const int MostAtOnce = 5000;

    /// <summary>Where it is.</summary>
    public CellPlace Place => new(Values, Figure);

    /// <summary>Reads the cells that a page sends, or null where they are not understood or too many.</summary>
    public static List<CellEdit>? ReadAll(string json)
    {
        try
        {
            var list = JsonSerializer.Deserialize<List<CellEdit>>(json, JsonSerializerOptions.Web);
            if (list is null or { Count: > MostAtOnce } || list.Exists(e => e?.Values is null || e.Figure is null || e.Text is null))
                return null;
            return [.. list.Select(e => e with { Text = TypedText.Clean(e.Text) })];
        }
        catch (JsonException)
        {
            return null;
        }
    }
}

/// <summary>Writes typed cells of the matrix, and what is made and not made.</summary>
public sealed class MatrixCells(UnicusContext db, ChangeProduct products, TimeProvider clock)
{
    /// <summary>Writes typed cells, all or none.</summary>
    /// <param name="tryOnly">Whether the transaction is taken back in any case: only the faults are wanted.</param>
    /// <returns>Faults whose <see cref="Fault.Where"/> is the <see cref="CellPlace"/>.</returns>
    public async Task<Outcome> Write(string code, IReadOnlyList<CellEdit> edits, Actor by, bool tryOnly = false)
    {
        var stock = edits.Where(e => e.Figure == "stock").ToList();
        var figures = edits.Where(e => e.Figure != "stock").ToList();
        await using var transaction = db.Database.CurrentTransaction is null ? await db.Database.BeginTransactionAsync() : null;
        var faults = new List<Fault>();
        if (figures.Count > 0)
        {
            var asked = figures.Select(f => f.Values).ToHashSet();
            var copy = await WorkingCopy.Load(db, code, forChange: true, _ => new VariantScope(asked));
            if (copy is null)
                return Outcome.No("", $"There is no product {code}.");
            var after = ApplyAll(copy, figures, faults);
            if (faults.Count == 0 && after != copy.Product)
                faults.AddRange((await new WorkingCopies(db, clock).Write(copy, after, Sentence(copy, figures), by)).Faults);
        }
        if (stock.Count > 0 && faults.Count == 0)
            faults.AddRange(await Count(code, stock, by));
        if (faults.Count > 0)
            return new Outcome(faults.Count == 1 && edits.Count == 1 ? [faults[0] with { Where = edits[0].Place.ToString() }] : faults);
        if (transaction is not null && !tryOnly)
            await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>Marks combinations as not made, or as made again.</summary>
    public Task<Outcome> MarkMade(string code, IReadOnlyList<string> values, bool made, Actor by) =>
        products.Apply(
            code,
            made ? "Made again" : "Not made",
            by,
            copy =>
            {
                var marked = values.Select(Combination.Parse).ToList();
                if (!made)
                {
                    if (copy.Product.Options.IsEmpty)
                        return Read<Product>.No("This product is one variant. Take it off for now in Stock, or off the shelf.");
                    foreach (var m in marked)
                        if (copy.Matrix.Find(m) is { } v && copy.Stock.GetValueOrDefault(v.Sku) is { OnHand: > 0 } level)
                            return Read<Product>.No(
                                $"{v.Values.Name(copy.Product.Options)} has {level.OnHand:N0} on hand. Move or write them off in "
                                    + "Stock first."
                            );
                    var added = copy.Product.NotMade.AddRange(marked.Where(m => copy.Matrix.Find(m) is not null));
                    return Read<Product>.Of(
                        copy.Product with
                        {
                            NotMade = added,
                            Variants = [.. copy.Product.Variants.Where(v => !marked.Contains(v.Values))],
                        }
                    );
                }
                var left = copy.Product.NotMade.Where(n => !marked.Contains(n)).ToImmutableArray();
                var covering = left.Where(n => marked.Any(n.IsWithin)).ToList();
                foreach (var wide in covering)
                {
                    left = left.Remove(wide)
                        .AddRange(
                            copy.Matrix.Made.Options.Count == 0
                                ? []
                                : Enumerable
                                    .Range(0, copy.Matrix.Made.Combinations)
                                    .Select(n => copy.Matrix.Made.At(n))
                                    .Where(c => wide.IsWithin(c) && !marked.Contains(c))
                        );
                }
                return Read<Product>.Of(
                    copy.Product with
                    {
                        NotMade = left,
                        Variants = [.. copy.Product.Variants.Select(v => marked.Contains(v.Values) ? v with { Retired = false } : v)],
                    }
                );
            },
            scope: p =>
                made && p.Options.Any(o => o.SharesSku)
                    ? VariantScope.All
                    : VariantScope.Of(values.Select(Combination.Parse).Concat(Beside(p, values, made)))
        );

    /// <summary>What a wide mark takes out besides the combinations that are made again: rows that stay out, retired or not.</summary>
    private static IEnumerable<Combination> Beside(Product product, IReadOnlyList<string> values, bool made)
    {
        if (!made)
            return [];
        var marked = values.Select(Combination.Parse).ToList();
        var wide = product.NotMade.Where(n => marked.Any(n.IsWithin)).ToList();
        var all = new MadeSet(product.Options, []);
        return all.Made().Select(all.At).Where(c => wide.Exists(w => w.IsWithin(c)));
    }

    private static Product ApplyAll(WorkingCopy copy, List<CellEdit> edits, List<Fault> faults)
    {
        var variants = copy.Product.Variants.ToDictionary(v => v.Values.Text);
        var rules = copy.Product;
        foreach (var edit in edits)
        {
            var where = edit.Place.ToString();
            var figure = MatrixFigures.Find(edit.Figure);
            if (
                figure?.Take is null
                || !variants.TryGetValue(edit.Values, out var variant)
                || copy.Matrix.Find(variant.Values) is not { } cell
            )
            {
                faults.Add(new Fault(where, "This variant is no longer made. Load the page anew."));
                continue;
            }
            var (now, source) = figure.Show(copy, cell);
            if (edit.Was is not null && edit.Was != now && edit.Text != now)
            {
                faults.Add(
                    Clash(where, now, edit.Text, $"{(now.Length == 0 ? "It was cleared" : $"{now} was typed")} elsewhere meanwhile")
                );
                continue;
            }
            if (edit.Text == now && source != FigureSource.Own)
                continue;
            if (DatedPrices.RuleOf(edit.Figure) is { } rule)
            {
                var dated = DatedPrices.Take(rules, rule, cell, edit.Text.Trim(), copy.Shop.Currency);
                if (dated.Ok)
                    rules = dated.Value!;
                else
                    faults.Add(new Fault(where, dated.Problem!));
                continue;
            }
            var taken = figure.Take(copy, variant, edit.Text.Trim());
            if (taken.Ok)
                variants[edit.Values] = taken.Value!;
            else
                faults.Add(new Fault(where, taken.Problem!));
        }
        return rules with { Variants = [.. copy.Product.Variants.Select(v => variants[v.Values.Text])] };
    }

    /// <summary>What is said where somebody else wrote another figure meanwhile; the newest goes along, so that it can stand in the
    /// cell.</summary>
    private static Fault Clash(string where, string now, string typed, string what) =>
        new(where, $"{what}; your {(typed.Length == 0 ? "clearing" : typed)} is not saved. Type it again to replace that.")
        {
            With = new JsonObject { ["now"] = now },
        };

    /// <summary>The variants that have the same SKU as one of these, and so the same stock; their values.</summary>
    public Task<List<string>> Sharing(string code, IReadOnlyCollection<string> values)
    {
        var key = code.ToUpperInvariant();
        return (
            from p in db.Products
            join v in db.Variants on p.Id equals v.ProductId
            join other in db.Variants on v.SkuId equals other.SkuId
            where p.Code == key && other.ProductId == p.Id && values.Contains(v.Values) && other.Id != v.Id
            select other.Values
        )
            .Distinct()
            .ToListAsync();
    }

    /// <summary>Counts stock that was typed, within the caller's transaction.</summary>
    internal async Task<List<Fault>> Count(string code, IReadOnlyList<CellEdit> edits, Actor by)
    {
        var faults = new List<Fault>();
        var asked = edits.Select(e => e.Values).ToHashSet();
        var copy = (await WorkingCopy.Load(db, code, scope: _ => new VariantScope(asked)))!;
        var locations = await db.Locations.OrderBy(l => l.Position).ToListAsync();
        var counts = new List<CountedSku>();
        foreach (var edit in edits)
        {
            var where = new CellPlace(edit.Values, "stock").ToString();
            var read = TypedNumbers.Whole(edit.Text, 0, Movements.MostUnits);
            if (!read.Ok || copy.Matrix.Find(Combination.Parse(edit.Values)) is not { } variant)
            {
                faults.Add(new Fault(where, read.Problem ?? "This variant is no longer made."));
                continue;
            }
            var now = copy.Stock.GetValueOrDefault(variant.Sku).OnHand;
            if (read.Value is not { } counted || counted == now)
                continue;
            if (edit.Was is not null && edit.Was != now.ToString("N0", CultureInfo.InvariantCulture))
            {
                faults.Add(
                    Clash(
                        where,
                        now.ToString("N0", CultureInfo.InvariantCulture),
                        edit.Text,
                        $"Stock moved meanwhile: {now:N0} on hand now"
                    )
                );
                continue;
            }
            counts.Add(new CountedSku(copy.RowOf(variant.Values)!.SkuId, counted, where));
        }
        faults.AddRange(await Book(counts, locations, by));
        return faults;
    }

    /// <summary>A SKU with the units that were found of it.</summary>
    /// <param name="Where">The cell that they were typed in.</param>
    private sealed record CountedSku(int Id, int Units, string Where);

    /// <summary>Books counts in a few statements, however many they are: the first location takes the difference; with several locations
    /// holding some, only a rise can be booked there.</summary>
    private async Task<List<Fault>> Book(IReadOnlyList<CountedSku> counts, List<LocationRow> locations, Actor by)
    {
        var faults = new List<Fault>();
        if (counts.Count == 0)
            return faults;
        var (first, ledger) = (locations[0], new StockLedger(db));
        int[] skus = [.. counts.Select(c => c.Id)];
        var held = (await db.Levels.AsNoTracking().Where(l => skus.Contains(l.SkuId)).ToListAsync()).ToLookup(l => l.SkuId);
        var levels = await ledger.LockAll(skus, first.Id);
        var moves = new Dictionary<int, BulkMove>();
        foreach (var (sku, counted, where) in counts)
        {
            var elsewhere = held[sku].Where(l => l.LocationId != first.Id).Sum(l => l.OnHand);
            // Of two who type the first units at once, the later one counts what the earlier one brought.
            var kind = held[sku].Any() || levels[sku].OnHand > 0 ? MovementKind.Count : MovementKind.Receipt;
            var effect = Movements.Effect(kind, counted - elsewhere, levels[sku]);
            if (counted < elsewhere)
                faults.Add(new Fault(where, $"{elsewhere:N0} lie at other locations than {first.Name}. Count each location in Stock."));
            else if (!effect.Ok)
                faults.Add(new Fault(where, effect.Problem!));
            else
                moves[sku] = new BulkMove(sku, kind, effect.Value.OnHand);
        }
        await ledger.WriteAll(moves.Values, first.Id, by, clock.GetUtcNow(), "Typed in the matrix");
        return faults;
    }

    private static string Sentence(WorkingCopy copy, List<CellEdit> edits)
    {
        var label = MatrixFigures.Find(edits[0].Figure)!.Label;
        if (edits.Count != 1)
            return $"{label} of {edits.Count:N0} variants";
        var only = edits[0];
        var name = only.Values.Length == 0 ? copy.Product.Name : Combination.Parse(only.Values).Name(copy.Product.Options);
        return $"{label} of {name}: {(only.Text.Length == 0 ? "inherited" : only.Text)}";
    }
}
