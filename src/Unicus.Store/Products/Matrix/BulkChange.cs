using System.Collections.Immutable;

namespace Unicus.Store;

/// <summary>A bulk change as asked for.</summary>
/// <param name="Values">The variants meant one by one, by the text of their values; empty: those of <paramref name="Filter"/>.</param>
/// <param name="Figure">The name of one of <see cref="MatrixFigures.InBulk"/>, or of a text that <see
/// cref="MatrixFigures.IsTextInBulk"/>.</param>
/// <param name="Amount">As typed: an amount, a percentage such as -5, or for a copy the name of the other figure.</param>
/// <param name="Ending">As typed, such as .50 or .99: the result is raised to the next amount that ends so; blank leaves it.</param>
/// <param name="Down">Whether an ending is reached downwards.</param>
public sealed record BulkRequest(
    ImmutableArray<string> Values,
    string Figure,
    BulkOperation Operation,
    string? Amount,
    string? Ending,
    MatrixFilter? Filter = null,
    bool Down = false
)
{
    /// <summary>The figure that is stock rather than a figure of the product.</summary>
    public const string Stock = "stock";

    /// <summary>Why stock is moved; for the ledger.</summary>
    public string? Reason { get; init; }
}

/// <summary>One variant of a bulk change, old and new.</summary>
public sealed record BulkRow(MatrixVariant Variant, decimal? Old, decimal? New)
{
    /// <summary>The changed variant of a figure that is a text; null where it is a number.</summary>
    public Variant? Changed { get; init; }

    /// <summary>Old and new of a text, where they are shown; new is empty where it is inherited again.</summary>
    public (string Old, string New) Texts { get; init; } = ("", "");
}

/// <summary>What a bulk change would do.</summary>
/// <param name="Rows">Old and new; of a large product the first ones.</param>
/// <param name="Text">How a figure of these is written.</param>
public sealed record BulkPreview(int Count, ImmutableArray<BulkRow> Rows, Func<decimal, string> Text, string? Problem);

/// <summary>Previews and applies a change to many variants at once.</summary>
public sealed class BulkChange(UnicusContext db, ChangeProduct products, TimeProvider clock)
{
    private const int PreviewRows = 40;

    /// <summary>The count and the first old and new figures, or what is wrong with the request.</summary>
    public async Task<BulkPreview?> Preview(string code, BulkRequest request)
    {
        if (await WorkingCopy.Load(db, code, scope: Scope(request, PreviewRows)) is not { } copy)
            return null;
        var figure = Figure(request.Figure);
        var numbers = Numbers(copy, request);
        var rows = Work(copy, request, copy.IsWhole ? numbers : [.. numbers.Take(PreviewRows)], numbers.Count);
        return new BulkPreview(
            numbers.Count,
            rows.Ok ? rows.Value : [],
            n => figure?.Text(copy, n) ?? MatrixFigures.Whole((int)n),
            rows.Problem
        );
    }

    /// <summary>Applies it in one transaction, as one change that can be undone.</summary>
    public async Task<Outcome<int>> Apply(string code, BulkRequest request, Actor by)
    {
        if (request.Figure == BulkRequest.Stock)
            return await MoveAll(code, request, by);
        var count = 0;
        var sentence = $"{MatrixFigures.Find(request.Figure)?.Label ?? "Figure"}: {Words(request)}";
        var outcome = await products.Apply(
            code,
            sentence,
            by,
            copy =>
            {
                var numbers = Numbers(copy, request);
                var rows = Work(copy, request, numbers, numbers.Count);
                if (!rows.Ok)
                    return Read<Product>.No(rows.Problem!);
                if (rows.Value.IsEmpty)
                    return Read<Product>.No(numbers.Count == 0 ? "No variant fits." : "Type an amount first.");
                count = rows.Value.Length;
                var changed = new Dictionary<Variant, BulkRow>(ReferenceEqualityComparer.Instance);
                foreach (var row in rows.Value)
                    changed[row.Variant.Variant] = row;
                var figure = Figure(request.Figure);
                return Read<Product>.Of(
                    copy.Product with
                    {
                        Variants =
                        [
                            .. copy.Product.Variants.Select(v =>
                                changed.TryGetValue(v, out var row) ? row.Changed ?? figure!.Put(copy, v, row.New) : v
                            ),
                        ],
                    }
                );
            },
            scope: Scope(request, int.MaxValue)
        );
        return new Outcome<int>(count, outcome.Faults);
    }

    private async Task<Outcome<int>> MoveAll(string code, BulkRequest request, Actor by)
    {
        if (await WorkingCopy.Load(db, code, scope: Scope(request, int.MaxValue)) is not { } copy)
            return Outcome<int>.No("", $"There is no product {code}.");
        var numbers = Numbers(copy, request);
        if (numbers.Count == 0)
            return Outcome<int>.No("", "No variant fits.");
        return string.IsNullOrWhiteSpace(request.Amount)
            ? Outcome<int>.No("", "Type an amount first.")
            : await new BulkStock(db, clock).Apply(copy, request, numbers, by);
    }

    private static BulkFigure? Figure(string name) => MatrixFigures.InBulk.FirstOrDefault(f => f.Name == name);

    private static Func<Product, VariantScope> Scope(BulkRequest request, int most) =>
        p =>
        {
            if (MadeSet.Size(p.Options) <= WorkingCopy.SmallEnough || request.Filter?.LooksAtFigures == true)
                return VariantScope.All;
            if (request.Values.Length > 0)
                return new VariantScope([.. request.Values.Take(most)]);
            var made = new MadeSet(p.Options, p.NotMade);
            var numbers = (request.Filter ?? MatrixFilter.None).ByValues(made);
            return numbers.Count > made.Count / 2 && most > made.Count
                ? VariantScope.All
                : new VariantScope([.. numbers.Take(most).Select(made.TextAt)]);
        };

    /// <summary>The variants meant; the retired ones are left alone.</summary>
    private static List<int> Numbers(WorkingCopy copy, BulkRequest request)
    {
        var numbers =
            request.Values.Length > 0
                ? request.Values.Select(v => copy.Matrix.Made.NumberOf(v)).OfType<int>().Where(copy.Matrix.Made.IsMade)
                : (request.Filter ?? MatrixFilter.None).Find(copy);
        return [.. numbers.Where(n => copy.Matrix.Listed(n) is not { Retired: true })];
    }

    private static Read<ImmutableArray<BulkRow>> Work(WorkingCopy copy, BulkRequest request, List<int> numbers, int count)
    {
        if (request.Figure == BulkRequest.Stock)
            return BulkStock.Rows(copy, request, numbers, count, v => copy.Stock.GetValueOrDefault(v.Sku).OnHand);
        if (MatrixFigures.IsTextInBulk(request.Figure))
            return Texts(copy, request, numbers);
        if (Figure(request.Figure) is not { } figure)
            return Read<ImmutableArray<BulkRow>>.No("That figure is typed one by one.");
        var number = MatrixFigures.Find(request.Figure)!.Number!;
        var amount = request.Operation switch
        {
            BulkOperation.Percent => TypedNumbers.Percent(request.Amount) is var p && p.Ok
                ? Read<decimal?>.Of(p.Value?.Value)
                : Read<decimal?>.No(p.Problem!),
            BulkOperation.Clear or BulkOperation.Copy or BulkOperation.Round => Read<decimal?>.Of(0),
            _ => figure.Amount(copy, request.Amount),
        };
        if (!amount.Ok)
            return Read<ImmutableArray<BulkRow>>.No(amount.Problem!);
        var ending = string.IsNullOrWhiteSpace(request.Ending) ? Read<decimal?>.Of(null) : figure.Amount(copy, request.Ending);
        if (!ending.Ok || ending.Value >= 100)
            return Read<ImmutableArray<BulkRow>>.No("An ending is an amount below 100, such as .50 or 9.99.");
        if (amount.Value is not { } typed || (request.Operation == BulkOperation.Round && ending.Value is null))
            return Read<ImmutableArray<BulkRow>>.Of([]);
        var other =
            request.Operation == BulkOperation.Copy
                ? MatrixFigures.InBulk.Any(f => f.Name == request.Amount)
                    ? MatrixFigures.Find(request.Amount!)!.Number
                    : null
                : null;
        if (request.Operation == BulkOperation.Copy && (other is null || (request.Amount == "weight") != (request.Figure == "weight")))
            return Read<ImmutableArray<BulkRow>>.No("Choose a figure of the same kind to copy from.");
        var arithmetic = new BulkArithmetic(
            request.Operation,
            typed,
            ending.Value is { } e ? new PriceEnding(e, request.Down) : null,
            figure.Decimals < 0 ? copy.Shop.Currency.MinorUnits : figure.Decimals
        );
        ImmutableArray<decimal> shares = request.Operation == BulkOperation.Split ? arithmetic.Shares(count) : [];
        var rows = ImmutableArray.CreateBuilder<BulkRow>(numbers.Count);
        for (var i = 0; i < numbers.Count; i++)
        {
            var variant = copy.Matrix.At(numbers[i]);
            var old = number(copy, variant);
            var changed = arithmetic.Of(old, other?.Invoke(copy, variant), shares.IsEmpty ? 0 : shares[i]);
            if (changed < 0)
                return Read<ImmutableArray<BulkRow>>.No($"{variant.Values.Name(copy.Product.Options)} would fall below 0.");
            rows.Add(new BulkRow(variant, old, changed));
        }
        return Read<ImmutableArray<BulkRow>>.Of(rows.ToImmutable());
    }

    private static Read<ImmutableArray<BulkRow>> Texts(WorkingCopy copy, BulkRequest request, List<int> numbers)
    {
        if (request.Operation is not (BulkOperation.Set or BulkOperation.Clear))
            return Read<ImmutableArray<BulkRow>>.No($"{MatrixFigures.Find(request.Figure)!.Label} is set or inherited again.");
        var text = request.Operation == BulkOperation.Set ? request.Amount?.Trim() ?? "" : "";
        if (text.Length == 0 && request.Operation == BulkOperation.Set)
            return Read<ImmutableArray<BulkRow>>.Of([]);
        var figure = MatrixFigures.Find(request.Figure)!;
        var rows = ImmutableArray.CreateBuilder<BulkRow>(numbers.Count);
        foreach (var number in numbers)
        {
            var variant = copy.Matrix.At(number);
            var taken = figure.Take!(copy, variant.Variant, text);
            if (!taken.Ok)
                return Read<ImmutableArray<BulkRow>>.No(taken.Problem!);
            rows.Add(
                new BulkRow(variant, null, null)
                {
                    Changed = taken.Value,
                    Texts = rows.Count < PreviewRows ? (figure.Show(copy, variant).Text, text) : ("", ""),
                }
            );
        }
        return Read<ImmutableArray<BulkRow>>.Of(rows.ToImmutable());
    }

    private static string Words(BulkRequest request)
    {
        var of =
            request.Values.Length > 0 ? $"{request.Values.Length:N0} variants"
            : request.Filter is null or { IsNone: true } ? "all variants"
            : "the variants chosen";
        return $"{request.Operation.ToString().ToLowerInvariant()} {request.Amount} "
            + $"{(string.IsNullOrWhiteSpace(request.Ending) ? "" : $"to {request.Ending} ")}for {of}".Replace("  ", " ");
    }
}
