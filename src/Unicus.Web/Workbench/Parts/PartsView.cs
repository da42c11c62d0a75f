using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Workbench;

/// <summary>A set as the merchant sees it beside its slots.</summary>
/// <param name="Counts">How many can be sold; null for a group.</param>
/// <param name="Price">Of one with what is picked beforehand; null where nothing valid has one.</param>
/// <param name="Rows">What is in one, with its share of the price.</param>
/// <param name="Margin">Of the whole, in per cent; null where a cost is not known.</param>
/// <param name="Alone">What the parts cost bought one by one; null while something is open.</param>
/// <param name="Root">Of the tree of parts.</param>
/// <param name="Troubles">Parts that are not on sale, and other reasons why it cannot be put together.</param>
public sealed record PartsView(
    SetCounts? Counts,
    ConfiguredPrice? Price,
    IReadOnlyList<PartRow> Rows,
    decimal? Margin,
    Money? Alone,
    PartNode? Root,
    IReadOnlyList<string> Troubles
)
{
    /// <summary>Of a product without parts.</summary>
    public static PartsView Nothing { get; } = new(null, null, [], null, null, null, []);

    /// <summary>The set as its working copy stands, with prices, stock and its tree.</summary>
    public static async Task<PartsView> Now(string code, ShopReading reading, Visit visit)
    {
        if (await reading.Working(code) is not { Draft: { Product.Parts: not null } draft })
            return Nothing;
        return Of(draft, await reading.TermsOf(draft, await visit.Today(), await visit.PublicTerms()));
    }

    /// <summary>Looks a draft over.</summary>
    public static PartsView Of(Edition draft, ConfigurationTerms terms)
    {
        var tree = new PartTree(terms);
        var root = tree.Of(draft);
        if (!draft.Product.IsSet)
            return Nothing with { Root = root, Troubles = tree.Troubles };
        var status = ConfigurationStatus.Of(draft, Configuration.Empty, Filling.Rest, terms);
        var (rows, margin) = RowsOf(draft, status, terms);
        var troubles = tree.Troubles.ToList();
        if (status.Assembled?.Problem is { } problem && !troubles.Contains(problem))
            troubles.Add(problem);
        if (status is { PartsAlone: { } alone, Price: { } one } && alone < one.Working.Unit)
            troubles.Add($"Together it costs more than its parts one by one: {one.Working.Unit.ForPeople()} and {alone.ForPeople()}.");
        var first = ConfigurationStatus.Of(draft, Configuration.Empty, Filling.Beforehand, terms);
        return new PartsView(SetCounts.Of(first), first.Price, rows, margin, status.PartsAlone, root, troubles);
    }

    private static (IReadOnlyList<PartRow> Rows, decimal? Margin) RowsOf(
        Edition draft,
        ConfigurationStatus status,
        ConfigurationTerms terms
    )
    {
        if (status is not { IsWhole: true, Variant: { } variant } || status.Assembled is not { } assembled)
            return ([], null);
        var line = new RunLine(new VariantOnSale(draft, variant), status.Shown, 1, status.Needs.Value, draft.Product.Code.Text)
        {
            Assembled = assembled,
        };
        if (PriceRun.Of([line], terms.Run with { WithoutDelivery = true }, terms.Range).Basket is not { } basket)
            return ([], null);
        var priced = basket.Lines[0];
        decimal? MarginOf(Money paid, Money? cost)
        {
            if (cost is not { } known || paid.IsZero)
                return null;
            var tax = terms.Run.Trade.PricesIncludeTax ? priced.Tax.Amount * paid.Amount / Math.Max(0.01m, priced.Total.Amount) : 0;
            var net = paid.Amount - tax;
            return MarginBasis.Of(net, known.Amount);
        }
        return (
            [
                .. priced.Leaves.Select(l => new PartRow(
                    l.Path.Text,
                    l.Goods.Figures.Name,
                    l.Goods.Variant.Sku.Text,
                    l.Units,
                    l.Allocated,
                    MarginOf(l.Allocated, l.Cost)
                )),
            ],
            MarginOf(priced.Total, priced.Cost)
        );
    }
}

/// <summary>A leaf of one set with its share of the price.</summary>
public sealed record PartRow(string Path, string Name, string Sku, long Units, Money Share, decimal? Margin);

/// <summary>A product in the tree of parts.</summary>
/// <param name="Units">On the edge that leads to it, as merchants write them; empty for the root.</param>
/// <param name="Available">How many there are; null where nothing limits or several variants differ.</param>
/// <param name="Slot">The label of the slot that it fills.</param>
/// <param name="IsFirstOut">Whether it runs out first.</param>
public sealed record PartNode(
    string Code,
    string Name,
    string Slot,
    string Units,
    long? Available,
    bool IsFirstOut,
    bool IsGone,
    IReadOnlyList<PartNode> Parts
)
{
    /// <summary>The key of the slot that it fills; null for the root.</summary>
    public Key? SlotKey { get; init; }

    /// <summary>It and everything below it, with how deep it lies; the outermost first.</summary>
    public IEnumerable<(PartNode Node, int Depth)> All(int depth = 0) => Parts.SelectMany(p => p.All(depth + 1)).Prepend((this, depth));
}

/// <summary>Draws up what contains what, through every level.</summary>
internal sealed class PartTree(ConfigurationTerms terms)
{
    private const int MostNodes = 300;

    private readonly List<string> _troubles = [];
    private int _nodes;

    /// <summary>Parts that are not on sale.</summary>
    public IReadOnlyList<string> Troubles => _troubles;

    /// <summary>The tree below a product.</summary>
    public PartNode Of(Edition draft)
    {
        var status = draft.Product.IsSet ? ConfigurationStatus.Of(draft, Configuration.Empty, Filling.Beforehand, terms) : null;
        var counts = status is null ? null : SetCounts.Of(status);
        var runsOut = counts?.RunsOut.Select(g => g.Edition.Product.Code.Text).ToHashSet() ?? [];
        return Node(draft, null, counts?.Most, runsOut, 0);
    }

    private PartNode Node(Edition edition, Slot? slot, long? available, HashSet<string> runsOut, int depth)
    {
        _nodes++;
        var product = edition.Product;
        var parts = new List<PartNode>();
        if (depth < SetParts.MostLevels)
            foreach (var filled in product.SlotsInRange)
                foreach (var candidate in filled.Candidates.TakeWhile(_ => _nodes < MostNodes))
                    parts.Add(Node(filled, candidate, runsOut, depth));
        var (label, units) = (slot?.Label ?? "", slot is null ? "" : PartWords.Of(slot.Quantity));
        return new PartNode(product.Code.Text, product.Name, label, units, available, runsOut.Contains(product.Code.Text), false, parts)
        {
            SlotKey = slot?.Key,
        };
    }

    private PartNode Node(FilledSlot filled, Candidate candidate, HashSet<string> runsOut, int depth)
    {
        var slot = filled.Slot;
        if (PartOnSale.Of(candidate, terms.Range) is not { } part)
        {
            _troubles.Add($"{slot.Label}: {candidate.Label} is not on sale.");
            return new PartNode(
                candidate.Product ?? candidate.Label,
                candidate.Label,
                slot.Label,
                PartWords.Of(slot.Quantity),
                0,
                false,
                true,
                []
            )
            {
                SlotKey = slot.Key,
            };
        }
        long? available =
            part.Edition.Product.IsSet ? SetCounts.Of(ConfigurationStatus.Of(part.Edition, Configuration.Empty, Filling.None, terms))?.Most
            : part.Only is { } only ? terms.Stock.Of(only).Units
            : part.Edition.Matrix.OfferedCount > MostNodes ? null
            : Sum(part.Edition.Matrix.Offered.Select(v => (long?)terms.Stock.Of(v).Units));
        return Node(part.Edition, slot, available, runsOut, depth + 1);
    }

    private static long? Sum(IEnumerable<long?> units)
    {
        var sum = 0L;
        foreach (var some in units)
            if (some is not { } known)
                return null;
            else
                sum += known;
        return sum;
    }
}
