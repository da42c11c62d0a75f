using System.Text.Json;
using NpgsqlTypes;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>The shop: one row.</summary>
public sealed class ShopRow
{
    public int Id { get; set; } = 1;
    public string Name { get; set; } = "";
    public string TimeZone { get; set; } = "Europe/Dublin";

    /// <summary>Currency, tax mode, classes and destinations, as JSON.</summary>
    public string Terms { get; set; } = "{}";

    /// <summary>Whether the sign-in page offers the demo account.</summary>
    public bool OffersDemoAccount { get; set; }

    /// <summary>The hosts that films may come from, besides this shop.</summary>
    public string[] VideoHosts { get; set; } = [];

    /// <summary>SHA-256 of the one-time code that the first account needs; null where nobody was asked for one.</summary>
    public string? FirstCodeHash { get; set; }

    /// <summary>The language and country by which amounts are written for shoppers (BCP 47).</summary>
    public string Locale { get; set; } = PriceForm.UsualLocale;

    /// <summary>After so many months names and addresses are erased from orders that have ended; null: never by itself.</summary>
    public int? BuyersKeptMonths { get; set; }

    public int Version { get; set; }

    /// <summary>When the shop was ready to be served; null while it is being made, so that what was left half made is made
    /// anew.</summary>
    public DateTimeOffset? FoundedAt { get; set; }
}

/// <summary>A place where stock lies.</summary>
public sealed class LocationRow
{
    public int Id { get; set; }
    public required string Key { get; set; }
    public required string Name { get; set; }
    public int Position { get; set; }
}

/// <summary>A category of goods, in a tree.</summary>
public sealed class CategoryRow
{
    public int Id { get; set; }
    public required string Key { get; set; }
    public required string Name { get; set; }
    public int? ParentId { get; set; }

    /// <summary>A saved search whose products belong to it besides those that name it; null for none.</summary>
    public string? Search { get; set; }

    /// <summary>Keys of the library's options that its products usually have.</summary>
    public string[] Options { get; set; } = [];

    /// <summary>Labels of the specifications that its products usually have.</summary>
    public string[] Specifications { get; set; } = [];
}

/// <summary>An option kept once for the whole shop.</summary>
public sealed class LibraryOptionRow
{
    public int Id { get; set; }
    public required string Key { get; set; }
    public required string Label { get; set; }

    /// <summary>The option with its values, as in documents.</summary>
    public required string Document { get; set; }

    public int Version { get; set; }
}

/// <summary>A former address of the shop that leads to a product.</summary>
public sealed class AddressAlias
{
    public required string Address { get; set; }
    public int ProductId { get; set; }

    /// <summary>The variant that it meant, by the canonical text of its values; empty for the product.</summary>
    public string Values { get; set; } = "";
}

/// <summary>The working copy of a product; its variants are rows of their own.</summary>
public sealed class ProductRow
{
    public int Id { get; set; }
    public required string Code { get; set; }
    public required string Name { get; set; }

    /// <summary>The address of the working copy, unique in the shop.</summary>
    public required string Address { get; set; }

    /// <summary>The product document without variants.</summary>
    public required string Definition { get; set; }

    /// <summary>Counts up with every change; the entity tag of the HTTP interface.</summary>
    public int Version { get; set; }

    public DateTimeOffset ChangedAt { get; set; }
    public int? Edition { get; set; }
    public DateTimeOffset? PublishedAt { get; set; }

    /// <summary>The version that the newest edition was made from.</summary>
    public int? PublishedVersion { get; set; }

    /// <summary>Since when it is put away; null: it is not.</summary>
    public DateTimeOffset? PutAwayAt { get; set; }

    public string? PutAwayBy { get; set; }

    /// <summary>The edition that was on sale when it was put away, for when it is brought back.</summary>
    public int? AwayEdition { get; set; }

    /// <summary>The unit that a weight was last typed in.</summary>
    public string WeightUnit { get; set; } = "kg";

    /// <summary>The unit that a length was last typed in.</summary>
    public string LengthUnit { get; set; } = "cm";

    // A summary for lists: kept with every change, for very many variants when it is next asked for.

    /// <summary>The version that the summary is of.</summary>
    public int SummaryVersion { get; set; }

    public int VariantCount { get; set; }
    public int NotMadeCount { get; set; }

    /// <summary>Places for parts; 0 for a product without.</summary>
    public int SlotCount { get; set; }

    /// <summary>Whether its parts are sold separately.</summary>
    public bool IsGroup { get; set; }

    public decimal? LowestPrice { get; set; }
    public decimal? HighestPrice { get; set; }
    public decimal? LowestMargin { get; set; }
    public decimal? HighestMargin { get; set; }
    public int StopCount { get; set; }
    public int DoubtCount { get; set; }
    public bool Counted { get; set; } = true;

    /// <summary>Units available of all its SKUs, as they were when they were last added up.</summary>
    public long Available { get; set; }

    public string? Picture { get; set; }
    public string[] Categories { get; set; } = [];
    public string[] Tags { get; set; } = [];

    /// <summary>What a search looks at, folded by <see cref="SearchWords"/>.</summary>
    public string SearchText { get; set; } = "";

    /// <summary>The words of <see cref="SearchText"/>; made by the database.</summary>
    public NpgsqlTsVector Words { get; private set; } = null!;
}

/// <summary>A published product in the index that the shop's lists are read from.</summary>
public sealed class RangeEntryRow
{
    public int ProductId { get; set; }
    public required string Code { get; set; }

    /// <summary>The address of its page.</summary>
    public required string Address { get; set; }

    public required string Name { get; set; }

    /// <summary>The name as lists order it.</summary>
    public required string NameKey { get; set; }

    public string? Summary { get; set; }
    public string? Picture { get; set; }

    /// <summary>Its place in lists; those without one have the last.</summary>
    public int Position { get; set; }

    public bool Listed { get; set; }
    public bool Searchable { get; set; }

    /// <summary>Since when it is on sale, by its first edition.</summary>
    public DateTimeOffset Since { get; set; }

    /// <summary>The categories that hold it, with those above them.</summary>
    public int[] Categories { get; set; } = [];

    /// <summary>The products of the parts that its extras name.</summary>
    public int[] PartProducts { get; set; } = [];

    /// <summary>The categories that it names.</summary>
    public string[] Named { get; set; } = [];

    /// <summary>What saved searches of categories look at.</summary>
    public string Description { get; set; } = "";

    public string SearchText { get; set; } = "";
    public NpgsqlTsVector Words { get; private set; } = null!;

    /// <summary>The product's own words on its picture; empty for none.</summary>
    public string OwnBadge { get; set; } = "";

    /// <summary>Whether the start page leads with it now.</summary>
    public bool Featured { get; set; }

    /// <summary>What hangs on prices, stock and day.</summary>
    public RangeFiguresRow Figures { get; set; } = null!;
}

/// <summary>What lists show of a product that hangs on prices, stock and day. A row of its own, since a rule that starts changes those of
/// the whole range at once, and the indexes over words and categories need not be written with them.</summary>
public sealed class RangeFiguresRow
{
    public int ProductId { get; set; }

    /// <summary>The name as lists order it among equal prices.</summary>
    public required string NameKey { get; set; }

    /// <summary>The exact lowest price of what can be bought now; null where nothing can.</summary>
    public decimal? FromPrice { get; set; }

    /// <summary>Whether anything costs more than that.</summary>
    public bool Varies { get; set; }

    /// <summary>What needed answers add once for a line; null where they add nothing.</summary>
    public decimal? Once { get; set; }

    /// <summary>What the rules that bring the price down are called, with their last day; empty where none does.</summary>
    public string Badge { get; set; } = "";

    /// <summary>What stands in place of a price where nothing can be bought.</summary>
    public string NoneWords { get; set; } = "";

    /// <summary>The next moment at which the price or what can be had changes by itself; null where none is known.</summary>
    public DateTimeOffset? ChangesAt { get; set; }
}

/// <summary>What the figures of a product in lists start from, so that its document need not be read where only rules of prices
/// change.</summary>
public sealed class RangeBasisRow
{
    public int ProductId { get; set; }

    /// <summary>As JSON; written and read by nobody else.</summary>
    public required string Content { get; set; }
}

/// <summary>A combination of values of the library's options that variants of a published product have.</summary>
public sealed class RangeOfferRow
{
    public int ProductId { get; set; }
    public int Place { get; set; }

    /// <summary>Option and value, joined by an equals sign.</summary>
    public string[] Picks { get; set; } = [];

    /// <summary>Whether a variant with them can be bought now.</summary>
    public bool Buyable { get; set; }
}

/// <summary>A product whose figures in lists are to be worked out anew, since its stock moved or other rules are in force.</summary>
public sealed class RangeDueRow
{
    public long Id { get; set; }
    public int ProductId { get; set; }

    /// <summary>Whether nothing but rules of prices changed.</summary>
    public bool PricesOnly { get; set; }
}

/// <summary>A word that stands in some product, so that slips of typing find it.</summary>
public sealed class SearchWordRow
{
    public required string Word { get; set; }
}

/// <summary>One made variant, or a retired one whose values are gone.</summary>
public sealed class VariantRow
{
    public int Id { get; set; }
    public int ProductId { get; set; }

    /// <summary>The canonical text of its combination.</summary>
    public required string Values { get; set; }

    public int SkuId { get; set; }

    /// <summary>The code of its SKU; not a column.</summary>
    public string SkuCode { get; set; } = "";

    public string? Gtin { get; set; }
    public decimal? Price { get; set; }
    public decimal? Rrp { get; set; }
    public decimal? Cost { get; set; }
    public int? WeightGrams { get; set; }
    public int? LengthMm { get; set; }
    public int? WidthMm { get; set; }
    public int? HeightMm { get; set; }
    public string? TaxClass { get; set; }
    public int? LeadTimeDays { get; set; }
    public int? LowLevel { get; set; }

    /// <summary>What one unit holds, with <see cref="NetUnit"/>.</summary>
    public decimal? NetQuantity { get; set; }

    public string? NetUnit { get; set; }
    public string? CustomsCode { get; set; }
    public string? Origin { get; set; }

    /// <summary>Its own terms of selling as JSON, or null.</summary>
    public string? Selling { get; set; }

    public bool Retired { get; set; }
    public string? Note { get; set; }
    public string? Picture { get; set; }

    /// <summary>The document of the product that it was before it was brought into this one, as JSON, or null.</summary>
    public string? Former { get; set; }

    public VariantRow Copy() => (VariantRow)MemberwiseClone();
}

/// <summary>A stock keeping unit. Never deleted while anything may still speak of it.</summary>
public sealed class SkuRow
{
    public int Id { get; set; }
    public required string Code { get; set; }

    /// <summary>The code in capitals; unique.</summary>
    public required string CodeKey { get; set; }

    public int ProductId { get; set; }
}

/// <summary>A former code of a SKU, so that editions and orders still find it.</summary>
public sealed class SkuAlias
{
    public required string CodeKey { get; set; }
    public required string Code { get; set; }
    public int SkuId { get; set; }
}

/// <summary>A published state of a product. Never changed.</summary>
public sealed class EditionRow
{
    public int ProductId { get; set; }
    public int Number { get; set; }
    public required string Document { get; set; }
    public DateTimeOffset PublishedAt { get; set; }
    public required string PublishedBy { get; set; }
}

/// <summary>One change of a working copy, in words, with what is needed to undo it.</summary>
public sealed class ProductChange
{
    public long Id { get; set; }
    public int ProductId { get; set; }

    /// <summary>The version that this change made.</summary>
    public int Version { get; set; }

    public required string Sentence { get; set; }
    public required string By { get; set; }
    public DateTimeOffset At { get; set; }

    /// <summary>What was before, as JSON; null where it cannot be undone.</summary>
    public string? Before { get; set; }

    /// <summary>What it had made, as JSON, once it is undone: to do it again.</summary>
    public string? After { get; set; }

    public bool Undone { get; set; }

    /// <summary>Whether it went on sale by itself, so that it does not wait to be published.</summary>
    public bool AtOnce { get; set; }

    /// <summary>Names the stay in a field in which it was typed, so that what is typed next there belongs to the same change; null
    /// otherwise.</summary>
    public string? Typing { get; set; }
}

/// <summary>A picture, re-encoded, in three sizes.</summary>
public sealed class ExtraSetRow
{
    public int Id { get; set; }
    public required string Key { get; set; }

    /// <summary>Name, reach, extras and rules, as JSON.</summary>
    public required string Definition { get; set; }

    public int Version { get; set; }
}

/// <summary>What a shared set of extras was before a change, so that it can be taken back.</summary>
public sealed class ExtraSetChange
{
    public int Id { get; set; }
    public required string Key { get; set; }
    public required string Name { get; set; }

    /// <summary>The definition that was overwritten or removed.</summary>
    public required string Before { get; set; }

    public bool Removed { get; set; }
    public required string By { get; set; }
    public DateTimeOffset At { get; set; }
}

/// <summary>A picture in three sizes.</summary>
public sealed class PictureRow
{
    public int Id { get; set; }
    public required string File { get; set; }
    public required string ContentType { get; set; }
    public int Width { get; set; }
    public int Height { get; set; }
    public required byte[] Large { get; set; }
    public required byte[] Medium { get; set; }
    public required byte[] Small { get; set; }
}

/// <summary>The stock of one SKU at one location: the sum of its movements.</summary>
public sealed class LevelRow
{
    public int SkuId { get; set; }
    public int LocationId { get; set; }

    /// <summary>The product of the SKU, so that a product's stock is summed without going through its SKUs.</summary>
    public int ProductId { get; set; }

    public int OnHand { get; set; }
    public int Allocated { get; set; }
    public int OnHold { get; set; }
    public int OnOrder { get; set; }

    public StockLevel Level => new(OnHand, Allocated, OnHold, OnOrder);
}

/// <summary>One line of the ledger. Never changed.</summary>
public sealed class MovementRow
{
    public long Id { get; set; }
    public int SkuId { get; set; }
    public int LocationId { get; set; }
    public MovementKind Kind { get; set; }
    public int OnHand { get; set; }
    public int Allocated { get; set; }
    public int OnHold { get; set; }
    public int OnOrder { get; set; }
    public DateTimeOffset At { get; set; }
    public required string By { get; set; }
    public string? Reason { get; set; }
    public int? OrderNumber { get; set; }
}

/// <summary>A shopper's basket.</summary>
public sealed class BasketRow
{
    public Guid Id { get; set; }

    /// <summary>The lines as JSON.</summary>
    public string Lines { get; set; } = "[]";

    public DateTimeOffset ChangedAt { get; set; }

    /// <summary>Counts up with every change, so that what is ordered is what was looked at.</summary>
    public int Version { get; set; }

    /// <summary>Where it goes, as the shopper said; null while they have not.</summary>
    public string? Destination { get; set; }

    /// <summary>The coupons that the shopper typed.</summary>
    public string[] Coupons { get; set; } = [];

    /// <summary>The code of a customer group that the shopper typed; null for none.</summary>
    public string? GroupCode { get; set; }

    /// <summary>The version that became the newest order made of this basket; null while there is none.</summary>
    public int? OrderedVersion { get; set; }

    /// <summary>The address piece of that order.</summary>
    public string? OrderToken { get; set; }
}

public enum OrderState
{
    Placed,
    Dispatched,
    Cancelled,
}

/// <summary>An order. It keeps what was bought as it was then.</summary>
public sealed class OrderRow
{
    public int Number { get; set; }

    /// <summary>The unguessable piece of the shopper's address of this order.</summary>
    public required string Token { get; set; }

    public OrderState State { get; set; }
    public DateTimeOffset PlacedAt { get; set; }
    public DateTimeOffset? DispatchedAt { get; set; }
    public DateTimeOffset? CancelledAt { get; set; }

    /// <summary>Why it was cancelled; null while it is not.</summary>
    public string? CancelReason { get; set; }

    public string Buyer { get; set; } = "";
    public string Email { get; set; } = "";
    public string PostalAddress { get; set; } = "";

    /// <summary>When name, email and address were erased; null while they stand.</summary>
    public DateTimeOffset? ErasedAt { get; set; }

    public string? Destination { get; set; }
    public string? Payment { get; set; }
    public required string Currency { get; set; }
    public decimal Subtotal { get; set; }
    public decimal Delivery { get; set; }
    public decimal Tax { get; set; }
    public decimal Total { get; set; }
    public bool TaxIncluded { get; set; }

    /// <summary>The key of the way of delivery; null where nothing was sent.</summary>
    public string? Service { get; set; }

    /// <summary>The account that it was placed with; null for none.</summary>
    public int? CustomerId { get; set; }

    /// <summary>What reductions of the basket took off: <see cref="OrderedReduction"/>s as JSON.</summary>
    public string Reductions { get; set; } = "[]";

    /// <summary>What became of the coupons that were named: <see cref="CouponReply"/>s as JSON.</summary>
    public string Coupons { get; set; } = "[]";

    /// <summary>The key of the customer group that it was priced for; null for none.</summary>
    public string? CustomerGroup { get; set; }

    public List<OrderLineRow> Lines { get; set; } = [];

    /// <summary>What is said about its goods now that they are ordered, each once.</summary>
    public IEnumerable<string> Notes => Lines.OrderBy(l => l.Position).Select(l => l.Note).OfType<string>().Distinct();

    /// <summary>What was paid back (simulated): all of a cancelled order, else what parts that were cancelled had cost.</summary>
    public decimal Refunded => State == OrderState.Cancelled ? Total : Lines.SelectMany(l => l.Leaves).Sum(l => l.Refunded);

    /// <summary>What has not been given back.</summary>
    public OrderStanding Standing
    {
        get
        {
            if (State == OrderState.Cancelled)
                return new OrderStanding(0, 0, 0, 0);
            var leaves = Lines.SelectMany(l => l.Leaves).ToList();
            var goods = Lines.Sum(l => l.Total + l.Reduction) - leaves.Sum(l => l.GivenBack(l.Allocated, this));
            var tax = Tax - leaves.Sum(l => l.GivenBack(l.Tax, this));
            return new OrderStanding(goods, Delivery, tax, goods + Delivery + (TaxIncluded ? 0 : tax));
        }
    }

    /// <summary>What lists show of it: what stands, and of a cancelled one what it was.</summary>
    public decimal ListedTotal => State == OrderState.Cancelled ? Total : Standing.Total;

    /// <summary>Whether some of it was sent or cancelled before the rest.</summary>
    public bool IsBegun => Lines.SelectMany(l => l.Leaves).Any(l => l.Sent + l.Dropped > 0);

    /// <summary>What reductions of the basket took off.</summary>
    public IReadOnlyList<OrderedReduction> TakenOff() =>
        JsonSerializer.Deserialize<List<OrderedReduction>>(Reductions, JsonSerializerOptions.Web)!;

    /// <summary>What became of the coupons that were named.</summary>
    public IReadOnlyList<CouponReply> CouponReplies() => JsonSerializer.Deserialize<List<CouponReply>>(Coupons, JsonSerializerOptions.Web)!;
}

/// <summary>What of an order has not been given back.</summary>
/// <param name="Subtotal">Of the goods, reductions of the basket taken off.</param>
/// <param name="Tax">Contained in, or added to, goods and delivery.</param>
/// <param name="Total">What is still paid for it.</param>
public sealed record OrderStanding(decimal Subtotal, decimal Delivery, decimal Tax, decimal Total);

/// <summary>What a rule took off the basket of an order.</summary>
/// <param name="Rule">As workings name it.</param>
public sealed record OrderedReduction(string Rule, string Name, decimal Amount);

/// <summary>A line of an order, as it was then.</summary>
public sealed class OrderLineRow
{
    public int Id { get; set; }
    public int OrderNumber { get; set; }
    public int Position { get; set; }
    public int ProductId { get; set; }
    public required string ProductCode { get; set; }
    public int Edition { get; set; }
    public int SkuId { get; set; }
    public required string Sku { get; set; }
    public required string Title { get; set; }

    /// <summary>The configuration: <see cref="OrderedAnswer"/>s as JSON.</summary>
    public required string Configuration { get; set; }

    /// <summary>The same answers as they are asked for again, as JSON.</summary>
    public string? Asked { get; set; }

    /// <summary>What was asked of the parts of a set, as JSON; null for nothing.</summary>
    public string? AskedParts { get; set; }

    /// <summary>The working: <see cref="OrderedStep"/>s as JSON.</summary>
    public required string Working { get; set; }

    public int Quantity { get; set; }
    public decimal Unit { get; set; }
    public decimal Total { get; set; }

    /// <summary>Its share of the basket's reductions; 0 or less.</summary>
    public decimal Reduction { get; set; }

    public decimal Tax { get; set; }
    public decimal? Cost { get; set; }

    /// <summary>The page that it was bought through.</summary>
    public required string Through { get; set; }

    /// <summary>What is said now that it is ordered; null for nothing.</summary>
    public string? Note { get; set; }

    /// <summary>What it takes of stock, the goods themselves first.</summary>
    public List<OrderLeafRow> Leaves { get; set; } = [];

    /// <summary>The leaves that are parts of it, in their order.</summary>
    public IEnumerable<OrderLeafRow> PartLeaves() => Leaves.Where(l => l.Path.Length > 0 || l.MadeUp).OrderBy(l => l.Position);

    /// <summary>What is sent or cancelled by one press with a leaf, it first: where a set was made up ahead, that and all that is in it;
    /// else the leaf alone.</summary>
    public IReadOnlyList<OrderLeafRow> GoesWith(OrderLeafRow leaf)
    {
        var made = Leaves.Where(l => l.MadeUp && l.Holds(leaf)).MinBy(l => l.Path.Length);
        return made is null ? [leaf] : [made, .. Leaves.Where(l => l != made && made.Holds(l)).OrderBy(l => l.Position)];
    }

    /// <summary>The answers to extras; those that make the variant stand in its title.</summary>
    public IEnumerable<OrderedAnswer> Extras() =>
        System
            .Text.Json.JsonSerializer.Deserialize<List<OrderedAnswer>>(Configuration, System.Text.Json.JsonSerializerOptions.Web)!
            .Where(a => a.Extra);

    /// <summary>The steps of the working.</summary>
    public IReadOnlyList<OrderedStep> Steps() =>
        System.Text.Json.JsonSerializer.Deserialize<List<OrderedStep>>(Working, System.Text.Json.JsonSerializerOptions.Web)!;

    /// <summary>What rules moved, as shoppers read it.</summary>
    /// <param name="currency">Of the order.</param>
    public IEnumerable<WorkingStep> Moved(Currency currency) => WorkingIn(currency).Moved;

    /// <summary>How its price came about.</summary>
    /// <param name="currency">Of the order.</param>
    public PriceWorking WorkingIn(Currency currency) =>
        new(
            [
                .. Steps()
                    .Select(s => new WorkingStep(
                        BasketDocument.StepNamed(s.Step),
                        s.Label,
                        new Money(s.Amount, currency),
                        s.PerLine,
                        s.Rule
                    )),
            ],
            Quantity,
            currency
        );

    /// <summary>What of the line was beyond stock, in a sentence; empty where nothing was.</summary>
    public string BeyondWords() =>
        string.Join(
            ' ',
            Leaves
                .Where(l => l.Beyond > 0)
                .OrderBy(l => l.Position)
                .Select(l => (l.Position == 0 ? "" : $"{l.Name}: ") + Availability.BeyondWords(l.Units, l.Beyond))
        );
}

/// <summary>A stocked variant that a line of an order takes.</summary>
public sealed class OrderLeafRow
{
    public int Id { get; set; }
    public int OrderLineId { get; set; }

    /// <summary>0 for the goods themselves.</summary>
    public int Position { get; set; }

    /// <summary>Where in the line it comes from; empty for the goods themselves.</summary>
    public required string Path { get; set; }

    public int ProductId { get; set; }
    public int SkuId { get; set; }
    public required string Sku { get; set; }
    public required string Name { get; set; }

    /// <summary>For the whole line.</summary>
    public int Units { get; set; }

    /// <summary>Its share of what was paid for the line.</summary>
    public decimal Allocated { get; set; }

    /// <summary>What its units cost; null where that was not known.</summary>
    public decimal? Cost { get; set; }

    public string? TaxClass { get; set; }

    /// <summary>For customs; null where it was not known.</summary>
    public string? CustomsCode { get; set; }

    /// <summary>The country of origin; null where it was not known.</summary>
    public string? Origin { get; set; }

    /// <summary>What one unit weighed; null where it was not known, or it is not shipped.</summary>
    public int? WeightGrams { get; set; }

    /// <summary>Whether it is sent at all.</summary>
    public bool Shipped { get; set; } = true;

    /// <summary>The units of it that were beyond stock when it was placed.</summary>
    public int Beyond { get; set; }

    /// <summary>Whether it is a set that was made up ahead and taken as it was; what was paid stands with what is in it.</summary>
    public bool MadeUp { get; set; }

    /// <summary>Whether another leaf is within this one, or is it.</summary>
    internal bool Holds(OrderLeafRow other) =>
        Path.Length == 0 || other.Path == Path || other.Path.StartsWith(Path + "/", StringComparison.Ordinal);

    /// <summary>Its share of the line's tax.</summary>
    public decimal Tax { get; set; }

    /// <summary>The units that left before the rest of the order, or with it.</summary>
    public int Sent { get; set; }

    /// <summary>The units that were cancelled by themselves.</summary>
    public int Dropped { get; set; }

    /// <summary>What was refunded of it for them.</summary>
    public decimal Refunded { get; set; }

    /// <summary>The part of an amount of it that was given back for the units that were cancelled, to the last cent once all are.</summary>
    /// <param name="amount">What was allocated to it, or its tax.</param>
    public decimal GivenBack(decimal amount, OrderRow order) =>
        Math.Round(amount * Dropped / Units, Currency.Of(order.Currency).MinorUnits, MidpointRounding.AwayFromZero);

    /// <summary>The units that are still to be sent.</summary>
    public int Left => Units - Sent - Dropped;

    /// <summary>The locations that stock was allocated at; none where it is not counted.</summary>
    public int[] Locations { get; set; } = [];

    /// <summary>The units that were allocated: fewer than <see cref="Units"/> where some were in a set that was made up ahead.</summary>
    public int Allotted => UnitsAt.Sum();

    /// <summary>The units allocated at each of <see cref="Locations"/>.</summary>
    public int[] UnitsAt { get; set; } = [];
}

/// <summary>Products that were bought together more often than by chance.</summary>
public sealed class BoughtTogetherRow
{
    public int ProductId { get; set; }
    public int OtherId { get; set; }

    /// <summary>Orders that hold both.</summary>
    public int Orders { get; set; }

    /// <summary>How many times as often as by chance.</summary>
    public double Lift { get; set; }
}

/// <summary>An answer in an order's line, as it was read then.</summary>
/// <param name="Extra">Whether it answers an extra; else it makes the variant.</param>
public sealed record OrderedAnswer(string Option, string Value, bool Extra);

/// <summary>A step of the working of an order's line.</summary>
/// <param name="Step">As documents call it.</param>
/// <param name="PerLine">Whether the amount is for the line; else for each unit.</param>
public sealed record OrderedStep(string Step, string Label, decimal Amount, bool PerLine, string? Rule);

/// <summary>A reply kept under its idempotency key.</summary>
public sealed class KeptReply
{
    public required string Key { get; set; }
    public required string BodyHash { get; set; }
    public int Status { get; set; }
    public string Body { get; set; } = "";
    public DateTimeOffset At { get; set; }
}

/// <summary>A message that the shop would send: the simulated stand-in for mail.</summary>
public sealed class OutboxMessage
{
    public int Id { get; set; }
    public DateTimeOffset At { get; set; }
    public required string To { get; set; }
    public required string Subject { get; set; }
    public required string Body { get; set; }

    /// <summary>Whether it holds a link that opens an account: only owners read it in the back office.</summary>
    public bool IsPrivate { get; set; }

    /// <summary>When the stand-in for mail took it; null while it waits.</summary>
    public DateTimeOffset? SentAt { get; set; }
}

/// <summary>A sheet that was sent, kept for a day while it is read, looked at and written; any process can say how far it is.</summary>
public sealed class SheetUpload
{
    public Guid Id { get; set; }

    /// <summary>The product it is for; null: the whole range.</summary>
    public string? Code { get; set; }

    public required string FileName { get; set; }
    public required byte[] Content { get; set; }
    public DateTimeOffset At { get; set; }
    public SheetPhase Phase { get; set; }
    public int RowsDone { get; set; }
    public int RowsTotal { get; set; }

    /// <summary>When the process that works on it was last heard of.</summary>
    public DateTimeOffset Beat { get; set; }

    /// <summary>Whether somebody asked to stop it.</summary>
    public bool Stop { get; set; }

    /// <summary>A <see cref="SheetReport"/> as JSON, once there is one.</summary>
    public string? Report { get; set; }
}

/// <summary>Where an import stands.</summary>
public enum SheetPhase
{
    Reading,
    Comparing,
    Trying,

    /// <summary>Everything that it would do is known.</summary>
    Known,

    Writing,
    Written,
    Stopped,
    Failed,
}

/// <summary>A film that was sent.</summary>
public sealed class VideoRow
{
    public int Id { get; set; }
    public required string File { get; set; }
    public required string ContentType { get; set; }
    public required byte[] Content { get; set; }
}
