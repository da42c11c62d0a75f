using System.Text.Json;
using Unicus.Store;

namespace Unicus.Web.Pricing;

/// <summary>A tried price as a line.</summary>
public sealed record TriedLine(string Goods, int Quantity, long Now, long Then, decimal? MarginNow, decimal? MarginThen, bool AtFloor);

/// <summary>What a rule does to the prices of a category.</summary>
/// <param name="Now">Σ of the prices that change, as they are.</param>
/// <param name="Then">Σ of the same as they would be.</param>
public sealed record CategorySum(string Name, int Prices, long Now, long Then);

/// <summary>A trial over the whole range, put together slice by slice. It goes back and forth with the page, so that any process can
/// take the next slice.</summary>
public sealed class WholeTrial
{
    /// <summary>So many lines are kept, for each order that they can be shown in.</summary>
    private const int MostLines = 100;

    public int Products { get; set; }
    public int Reached { get; set; }
    public int Looked { get; set; }
    public int Changed { get; set; }
    public int Held { get; set; }
    public decimal? LowestNow { get; set; }
    public decimal? LowestThen { get; set; }
    public List<TriedLine> ByMargin { get; set; } = [];
    public List<TriedLine> ByChange { get; set; } = [];
    public List<CategorySum> Categories { get; set; } = [];

    public bool IsDone => Products >= Reached;

    /// <summary>What was found before; nothing where it cannot be read.</summary>
    public static WholeTrial Read(string? state)
    {
        try
        {
            return string.IsNullOrEmpty(state) ? new WholeTrial() : JsonSerializer.Deserialize<WholeTrial>(state) ?? new WholeTrial();
        }
        catch (JsonException)
        {
            return new WholeTrial();
        }
    }

    public string Write() => JsonSerializer.Serialize(this);

    /// <summary>Adds the next slice.</summary>
    public void Add(TrialFound slice)
    {
        (Products, Reached) = (slice.Products, slice.Reached);
        (Looked, Changed, Held) = (Looked + slice.Looked, Changed + slice.Prices.Count, Held + slice.Held);
        LowestNow = Lower(LowestNow, slice.LowestNow);
        LowestThen = Lower(LowestThen, slice.LowestThen);
        var lines = slice
            .Prices.Select(p => new TriedLine(p.Goods.Figures.Name, p.Quantity, p.Now, p.Then, p.MarginNow, p.MarginThen, p.AtFloor))
            .ToList();
        ByMargin = [.. ByMargin.Concat(lines).OrderBy(l => l.MarginThen ?? 1000).Take(MostLines)];
        ByChange = [.. ByChange.Concat(lines).OrderBy(l => l.Then - l.Now).Take(MostLines)];
        var sums = slice
            .Prices.SelectMany(p =>
                p.Goods.Edition.Product.Categories.DefaultIfEmpty("without a category").Select(c => (Name: c, Price: p))
            )
            .Select(p => new CategorySum(p.Name, 1, p.Price.Now, p.Price.Then));
        Categories =
        [
            .. Categories
                .Concat(sums)
                .GroupBy(c => c.Name)
                .Select(g => new CategorySum(g.Key, g.Sum(c => c.Prices), g.Sum(c => c.Now), g.Sum(c => c.Then)))
                .OrderBy(c => c.Name),
        ];
    }

    private static decimal? Lower(decimal? a, decimal? b) => a is null || b < a ? b : a;
}

/// <summary>The whole trial with the sheet that it is of.</summary>
/// <param name="Order"><c>change</c>: by change; else by margin.</param>
public sealed record WholeTrialView(WholeTrial Sum, RuleSheet Sheet, string Order)
{
    public IEnumerable<TriedLine> Lines => Order == "change" ? Sum.ByChange : Sum.ByMargin;
}

/// <summary>The product with the lowest margin so far.</summary>
public sealed record LowestSoFar(int Product, decimal Margin);

/// <summary>The proof of the lowest margin, put together slice by slice like <see cref="WholeTrial"/>.</summary>
public sealed class WholeProof
{
    public int Products { get; set; }
    public int Reached { get; set; }
    public LowestSoFar? Lowest { get; set; }

    /// <summary>A product that can be had for nothing.</summary>
    public int? Free { get; set; }

    /// <summary>Sets of which it could not be proven.</summary>
    public int SetsLeftOut { get; set; }
    public bool IsExact { get; set; } = true;
    public int Unknown { get; set; }

    public BasketMargin Basket { get; set; } = new();

    /// <inheritdoc cref="WholeTrial.Read"/>
    public static WholeProof Read(string? state)
    {
        try
        {
            return string.IsNullOrEmpty(state) ? new WholeProof() : JsonSerializer.Deserialize<WholeProof>(state) ?? new WholeProof();
        }
        catch (JsonException)
        {
            return new WholeProof();
        }
    }

    public string Write() => JsonSerializer.Serialize(this);

    /// <summary>Adds the next slice.</summary>
    /// <param name="looked">Products of the slice.</param>
    /// <param name="all">Products in all.</param>
    public void Add(ProvenProducts slice, int looked, int all)
    {
        (Products, Reached) = (Products + looked, all);
        SetsLeftOut += slice.SetsLeftOut;
        foreach (var (product, proven) in slice.Found)
        {
            if (proven.Lowest?.Margin is { } margin && !(margin >= Lowest?.Margin))
                Lowest = new LowestSoFar(product, margin);
            if (proven.Free is not null)
                Free ??= product;
            IsExact &= proven.IsExact;
            Unknown += proven.Unknown;
            Basket = Basket.With(proven);
        }
    }
}

/// <summary>The proof as it is shown.</summary>
/// <param name="GetUrl">Where the next slice is asked for; null where the form is sent along.</param>
/// <param name="PostUrl">Where the next slice is asked for with the rule as it is typed.</param>
public sealed record WholeProofView(WholeProof Sum, string? GetUrl, string? PostUrl)
{
    public SoldAt? Proven { get; init; }
    public PriceWorking? Working { get; init; }

    /// <summary>What is sold at the lowest margin, in words.</summary>
    public string Sold { get; init; } = "";

    /// <summary>What can be had for nothing, in words; null where nothing can.</summary>
    public string? Free { get; init; }
}
