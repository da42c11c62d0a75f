using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Microsoft.Extensions.Primitives;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>Something of a group that can be bought: a variant with a box for its quantity.</summary>
/// <param name="Unit">What one costs; null where more than its variant has to be picked first.</param>
/// <param name="Typed">What stands in the box; empty for none.</param>
/// <param name="Problem">Why that cannot be had; null where it can.</param>
public sealed record PieceRow(VariantOnSale Goods, string Label, Money? Unit, Availability Available, string Typed, string? Problem)
{
    /// <summary>The name of its box.</summary>
    public string Name => GroupView.Prefix + Goods.Variant.Sku.Text;
}

/// <summary>A piece of a group.</summary>
/// <param name="Rows">Its variants; empty where it is picked on its own page.</param>
/// <param name="From">The lowest price; null where none can be bought.</param>
/// <param name="To">The highest price of any of it; null where it has none, or the group's price line does not say it.</param>
/// <param name="Shows">What is switched on for it.</param>
public sealed record GroupPiece(Slot Slot, Edition Edition, IReadOnlyList<PieceRow> Rows, Money? From, Money? To, PieceShows Shows)
{
    public bool ShowsPicture => Shows.HasFlag(PieceShows.Picture) && Picture is not null;
    public bool ShowsPrice => Shows.HasFlag(PieceShows.Price);
    public bool ShowsText => Shows.HasFlag(PieceShows.Text) && Edition.Product.Summary is not null;
    public bool ShowsLink => Shows.HasFlag(PieceShows.Link) && HasPage;
    public bool ShowsQuantity => Shows.HasFlag(PieceShows.Quantity);

    /// <summary>Whether it has a page of its own; what is sold only as a part has none.</summary>
    public bool HasPage => Edition.Product.Shelf.Alone;

    public string Page => $"/p/{Edition.Product.Address}";
    public string? Picture => Edition.Product.Pictures is [var first, ..] ? first.File : null;
}

/// <summary>The page of a group: pieces that are each bought by themselves, from one form.</summary>
public sealed class GroupView
{
    public const string Prefix = "n-";

    /// <summary>A piece of more variants is picked on its own page.</summary>
    private const int MostRows = 12;

    /// <summary>The same for a piece that has no page: it is picked here, whatever the length.</summary>
    private const int MostRowsWithoutPage = 500;

    private readonly BuySource _of;

    private GroupView(BuySource of) => _of = of;

    public Product Product => _of.Edition.Product;
    public SetParts Parts => Product.Parts!;
    public bool IsProof => _of.IsProof;
    public int? CountShownBelow => _of.CountShownBelow;
    public string Url => IsProof ? $"/office/products/{Product.Code}/proof" : $"/p/{Product.Address}";
    public required IReadOnlyList<GroupPiece> Pieces { get; init; }

    /// <summary>The group's own questions, answered once.</summary>
    public required BuyView Own { get; init; }

    /// <summary>What everything with a quantity comes to; null where nothing has one.</summary>
    public Money? Total { get; private set; }

    /// <summary>Units in all.</summary>
    public long Units { get; private set; }

    public string? Problem { get; set; }

    /// <summary>Where a pin leads to: the first piece of a slot; null for the others.</summary>
    public string? AnchorOf(GroupPiece piece) =>
        Pieces.First(p => p.Slot.Key == piece.Slot.Key) == piece ? $"piece-{piece.Slot.Key}" : null;

    /// <summary>What its price line says; null for nothing.</summary>
    public string? PriceLine
    {
        get
        {
            var prices = Pieces.Select(p => p.From).OfType<Money>().ToList();
            if (prices.Count == 0)
                return null;
            return Parts.PriceLine switch
            {
                Unicus.Core.Parts.PriceLine.None => null,
                Unicus.Core.Parts.PriceLine.Span when prices.Min() < Dearest =>
                    $"{prices.Min().ForShoppers()} to {Dearest.Value.ForShoppers()}",
                Unicus.Core.Parts.PriceLine.Default => "one of each "
                    + Pieces
                        .Where(p => p.From is not null)
                        .Select(p => p.From!.Value * (p.Slot.Quantity.Decided ?? p.Slot.Quantity.Min))
                        .Sum(prices[0].Currency)
                        .ForShoppers(),
                _ => $"from {prices.Min().ForShoppers()}",
            };
        }
    }

    private Money? Dearest =>
        Pieces.Where(p => p.From is not null).Select(p => p.To).OfType<Money>().Cast<Money?>().DefaultIfEmpty(null).Max();

    /// <summary>Makes the page from what was sent.</summary>
    public static GroupView Make(BuySource of, IEnumerable<KeyValuePair<string, StringValues>> sent, DateOnly today)
    {
        var all = sent.ToList();
        var typed = all.Where(s => s.Key.StartsWith(Prefix, StringComparison.Ordinal))
            .ToDictionary(s => s.Key[Prefix.Length..], s => s.Value.ToString());
        var own = BuyView.Make(of, BuyForm.Read(of.Edition.Configurator, all, today), TypedQuantity.Read(null));
        var view = new GroupView(of)
        {
            Own = own,
            Pieces =
            [
                .. of
                    .Edition.Product.SlotsInRange.SelectMany(s => s.Candidates.Select(c => (s.Slot, Part: PartOnSale.Of(c, of.Range))))
                    .Where(p => p.Part is { Edition.Product.IsGroup: false })
                    .Select(p => Piece(of, p.Slot, p.Part!, typed)),
            ],
        };
        view.Add();
        return view;
    }

    private static GroupPiece Piece(BuySource of, Slot slot, PartOnSale part, Dictionary<string, string> typed)
    {
        var edition = part.Edition;
        var terms = of.At(1) with { Through = of.Edition.Product.Code.Text };
        var given = part.Only is { } one ? Configuration.Of(one.Values) : Configuration.Empty;
        var from = ConfigurationStatus.From(edition, given, terms);
        var isSpan = of.Edition.Product.Parts!.PriceLine == Unicus.Core.Parts.PriceLine.Span;
        var to = isSpan ? ConfigurationStatus.Of(edition, given, Filling.None, terms).Price?.Highest : null;
        var most = edition.Product.Shelf.Alone ? MostRows : MostRowsWithoutPage;
        IReadOnlyList<MatrixVariant> variants = part.Only is { } only ? [only] : [.. edition.Matrix.Offered.Take(most + 1)];
        // What asks for more than its variant is picked where it is asked.
        var isPickedThere =
            variants.Count == 0
            || variants.Count > most
            || !ConfigurationStatus.Of(edition, Configuration.Of(variants[0].Values), Filling.Rest, terms).IsWhole;
        IReadOnlyList<PieceRow> rows = isPickedThere ? [] : [.. variants.Select(v => Row(of, edition, v, terms, typed))];
        return new GroupPiece(slot, edition, rows, from, to, of.Edition.Product.Parts!.ShowsOf(slot));
    }

    private static PieceRow Row(
        BuySource of,
        Edition edition,
        MatrixVariant variant,
        ConfigurationTerms terms,
        Dictionary<string, string> typed
    )
    {
        var text = typed.GetValueOrDefault(variant.Sku.Text, "").Trim();
        var units = UnitsOf(text);
        var status = ConfigurationStatus.Of(
            edition,
            Configuration.Of(variant.Values),
            Filling.Rest,
            terms with
            {
                Quantity = Math.Max(variant.Selling.Least, units ?? 1),
            }
        );
        var available = of.Stock.Of(variant);
        var problem =
            text.Length > 0 && units is null ? "A quantity is a whole number."
            : units > 0 && !available.CanSell(units.Value) ? $"Only {available.Units:N0} can be had"
            : units > 0 ? QuantityLimits.WhyNot(new VariantOnSale(edition, variant), units.Value, units.Value)
            : null;
        var label = edition.Matrix.Options.IsEmpty ? edition.Product.Name : variant.Values.Name(edition.Matrix.Options);
        return new PieceRow(
            new VariantOnSale(edition, variant),
            label,
            status.IsWhole ? status.Price?.Working.Unit : null,
            available,
            text,
            problem
        );
    }

    /// <summary>The units that are typed; 0 for none, null for what is no number.</summary>
    private static int? UnitsOf(string typed) =>
        typed.Trim().Length == 0 ? 0
        : TypedNumbers.Whole(typed, 0, Selling.MostUnits) is { Ok: true, Value: { } units } ? units
        : null;

    /// <summary>The lines that it is bought by: each piece with a quantity, then the group's own answers.</summary>
    public IReadOnlyList<LineRequest> Lines()
    {
        var code = Product.Code.Text;
        var lines = Pieces
            .SelectMany(p => p.Rows)
            .Where(r => r is { Problem: null, Unit: not null } && UnitsOf(r.Typed) > 0)
            .Select(r => new LineRequest(r.Goods.Edition.Product.Code.Text, null, AnswersOf(r.Goods), UnitsOf(r.Typed)!.Value, code))
            .ToList();
        if (lines.Count > 0 && Own.Answers.Given.Any(g => g.Answer is not Answer.None))
            lines.Add(new LineRequest(code, null, AnswerDocument.Write(Own.Answers, Product.Questions), 1, code));
        return lines;
    }

    private static JsonObject AnswersOf(VariantOnSale goods) =>
        AnswerDocument.Write(Configuration.Of(goods.Variant.Values), goods.Edition.Questions);

    private void Add()
    {
        var faults = new List<Fault>();
        var completion = new LineCompletion(_of.Range, _of.Stock.Today, _of.Terms);
        var lines = Lines().Select(l => completion.Complete(l, "#", faults)).OfType<RunLine>().ToList();
        Units = lines.Where(l => !l.IsOfGroup).Sum(l => (long)l.Quantity);
        if (Units > 0 && PriceRun.Of(lines, _of.Terms with { WithoutDelivery = true }, _of.Range, trace: false).Basket is { } basket)
            Total = basket.Subtotal;
    }

    /// <summary>The pins of a picture with the number of the piece that each leads to.</summary>
    public IEnumerable<(Pin Pin, int Number)> PinsOf(LookbookPicture picture) =>
        picture.Pins.Select(p => (p, Pieces.ToList().FindIndex(x => x.Slot.Key == p.Slot) + 1)).Where(p => p.Item2 > 0);
}
