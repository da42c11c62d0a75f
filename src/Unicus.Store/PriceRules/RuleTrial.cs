using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>What a trial found.</summary>
/// <param name="Prices">Every price that would change, the lowest margin first.</param>
/// <param name="Looked">How many prices were looked at.</param>
/// <param name="Reached">How many products the rules may reach; those that were looked at are the first by name.</param>
/// <param name="Products">How many products were looked at, with those that were left out before.</param>
/// <param name="Held">How many of the prices the floor would hold.</param>
/// <param name="LowestNow">The lowest margin of these as it is; null where no cost is known.</param>
/// <param name="LowestThen">The lowest as it would be.</param>
/// <param name="Orders">How many of the last orders were priced again.</param>
/// <param name="OrdersMoved">What they would have brought more or, negative, less.</param>
/// <param name="Then">What prices would go by.</param>
public sealed record TrialFound(
    IReadOnlyList<TriedPrice> Prices,
    int Looked,
    int Reached,
    int Products,
    int Held,
    decimal? LowestNow,
    decimal? LowestThen,
    int Orders,
    Money OrdersMoved,
    RunTerms Then
)
{
    /// <summary>Whether more products are in the scope than were looked at.</summary>
    public bool IsPart => Products < Reached;
}

/// <summary>Which products a trial looks at.</summary>
/// <param name="Skip">So many of those reached are left out, the first by name.</param>
/// <param name="Take">So many are looked at behind them.</param>
/// <param name="WithOrders">Whether the last orders are priced again.</param>
public sealed record TrialPart(int Skip = 0, int Take = int.MaxValue, bool WithOrders = true)
{
    /// <summary>All of them.</summary>
    public static TrialPart Whole { get; } = new();
}

/// <summary>Whether a rule does anything.</summary>
public enum RuleWorth
{
    /// <summary>Some price changes by it.</summary>
    Acts,

    /// <summary>What it hits costs less, or no more, without it.</summary>
    NeverWins,

    /// <summary>No goods on sale are in its scope.</summary>
    HitsNothing,

    /// <summary>Too much to look at.</summary>
    Unknown,
}

/// <summary>Tries price rules over the published range and the last orders, without changing anything.</summary>
public sealed class RuleTrial(UnicusContext db, Catalogue catalogue, TimeProvider clock)
{
    /// <summary>Variants of a product that are looked at to say that a rule never wins.</summary>
    public const int MostVariants = 5_000;

    private const int MostOrders = 200;

    /// <summary>So few products are kept compiled, as their pages keep them: rules about them are tried again and again.</summary>
    private const int MostKept = 20;

    /// <summary>Tries one rule in place of what is kept under its key, or besides what there is.</summary>
    /// <param name="at">The moment; null: when the rule starts, or now.</param>
    /// <param name="againstWithout">Whether it is held against the shop without it, instead of the shop as it is.</param>
    public async Task<TrialFound> Run(PriceRule rule, DateTimeOffset? at = null, bool againstWithout = false, TrialPart? part = null)
    {
        var book = await catalogue.Terms.Prices(db);
        var others = book.Rules.Where(r => r.Key != rule.Key).ToImmutableArray();
        var before = againstWithout ? others : book.Rules;
        return await Run(before, others.Add(rule with { State = RuleState.On }), [rule], at, part ?? TrialPart.Whole);
    }

    /// <summary>Tries a whole set of rules in place of the shop's.</summary>
    /// <param name="wanted">All rules of the shop as they would be.</param>
    /// <param name="changed">Those of them that the trial is about; they say which goods and which units are looked at.</param>
    /// <param name="at">The moment; null: when the last of them starts, or now.</param>
    public async Task<TrialFound> Run(ImmutableArray<PriceRule> wanted, IReadOnlyList<PriceRule> changed, DateTimeOffset? at = null) =>
        await Run((await catalogue.Terms.Prices(db)).Rules, wanted, changed, at, TrialPart.Whole);

    /// <summary>Whether a rule does anything to any price, looked at until the first one.</summary>
    /// <param name="known">Products that were read already; more are added.</param>
    /// <param name="most">Where it may reach more products, or one with more variants than <see cref="MostVariants"/>, it is not
    /// said.</param>
    public async Task<RuleWorth> WorthOf(PriceRule rule, Dictionary<int, Edition> known, int most)
    {
        var reached = await Reached([rule]);
        if (reached.Count > most)
            return RuleWorth.Unknown;
        await foreach (var edition in catalogue.Editions.Many(db, [.. reached.Where(r => !known.ContainsKey(r))]))
            known[edition.ProductId] = edition;
        var others = (await catalogue.Terms.Prices(db)).Rules.Where(r => r.Key != rule.Key).ToImmutableArray();
        var (old, then) = await Markets(others, others.Add(rule with { State = RuleState.On }), [rule], null);
        var trials = Trial.QuantitiesOf(rule).Select(q => new Trial(old, then, q, rule.Scope.Through)).ToList();
        var (hits, isLarge) = (false, false);
        foreach (var edition in reached.Select(r => known.GetValueOrDefault(r)).OfType<Edition>())
        {
            if (!then.Buying.Book.Reaching(edition).Any(r => r.Owner is null && r.Key == rule.Key))
                continue;
            hits = true;
            // What a set costs hangs on its parts, which are not read here.
            if (edition.Matrix.Made.Combinations > MostVariants || edition.Product.Parts is not null)
                isLarge = true;
            else if (trials.Exists(t => t.Of(edition).Any(p => p.Change != 0)))
                return RuleWorth.Acts;
        }
        return !hits ? RuleWorth.HitsNothing
            : isLarge ? RuleWorth.Unknown
            : RuleWorth.NeverWins;
    }

    /// <summary>Tries a product's own rule on its working copy.</summary>
    /// <param name="draft">As it would be published.</param>
    /// <param name="rule">With the product as its owner; it stands in place of what the product has under its key.</param>
    /// <param name="againstWithout">Whether it is held against the product without it, instead of as it is.</param>
    public async Task<TrialFound> Own(Edition draft, PriceRule rule, bool againstWithout)
    {
        var book = await catalogue.Terms.Prices(db);
        var own = draft.Product.PriceRules;
        var bare = draft with { Product = draft.Product with { PriceRules = own.RemoveAll(r => r.Key == rule.Key) } };
        var before = againstWithout ? book.Rules : book.Rules.AddRange(own.Where(r => r.Key == rule.Key));
        var about = own.Where(r => r.Key == rule.Key).Append(rule).ToList();
        var (old, then) = await Markets(before, book.Rules.Add(rule with { State = RuleState.On }), [rule], null);
        return Found([bare], 1, 1, old, then, about, Money.Zero(old.Trade.Currency), 0);
    }

    private async Task<TrialFound> Run(
        ImmutableArray<PriceRule> before,
        ImmutableArray<PriceRule> wanted,
        IReadOnlyList<PriceRule> changed,
        DateTimeOffset? at,
        TrialPart part
    )
    {
        var (old, then) = await Markets(before, wanted, changed, at);
        // Goods that a rule reached before change their price as well where it no longer does.
        List<PriceRule> about = [.. (await catalogue.Terms.Prices(db)).Rules.Where(r => changed.Any(c => c.Key == r.Key)), .. changed];
        var reached = await Reached(about);
        var looked = reached.Skip(part.Skip).Take(part.Take).ToList();
        var (moved, orders) = part.WithOrders ? await OverOrders(old, then) : (Money.Zero(old.Trade.Currency), 0);
        var editions = new List<Edition>();
        if (looked.Count <= MostKept)
            foreach (var product in looked)
            {
                if (await catalogue.Editions.Latest(db, product) is { } edition)
                    editions.Add(edition);
            }
        else
            await foreach (var edition in catalogue.Editions.Many(db, looked))
                editions.Add(edition);
        // Sets are priced from their parts, so what they are made of is read too.
        var ranges = new Dictionary<int, PublishedRange>();
        foreach (var set in editions.Where(e => e.Product.IsSet))
            ranges[set.ProductId] = await catalogue.Editions.Range(db, set);
        return Found(editions, reached.Count, part.Skip + looked.Count, old, then, about, moved, orders, ranges);
    }

    private static TrialFound Found(
        IReadOnlyList<Edition> editions,
        int reached,
        int products,
        RunTerms old,
        RunTerms then,
        IReadOnlyList<PriceRule> about,
        Money moved,
        int orders,
        Dictionary<int, PublishedRange>? ranges = null
    )
    {
        var trials = Trials(about, old, then);
        var tried = editions
            .AsParallel()
            .AsOrdered()
            .SelectMany(e => trials.SelectMany(t => t.Of(e, ranges?.GetValueOrDefault(e.ProductId))));
        // Bought by one or by another, a price is told once: as it changes most.
        var prices = (
            trials.Count == 1 ? tried : tried.GroupBy(p => (p.Goods.Variant.Sku, p.Quantity)).Select(g => g.MaxBy(p => Math.Abs(p.Change))!)
        ).ToList();
        return new TrialFound(
            [.. prices.Where(p => p.Change != 0).OrderBy(p => p.MarginThen ?? 1000).ThenBy(p => p.Change)],
            prices.Count,
            reached,
            products,
            prices.Count(p => p.AtFloor),
            prices.Min(p => p.MarginNow),
            prices.Min(p => p.MarginThen),
            orders,
            moved,
            then
        );
    }

    /// <summary>A trial for each quantity at which one of some rules begins to act, and for everybody that they ask for.</summary>
    private static List<Trial> Trials(IReadOnlyList<PriceRule> about, RunTerms old, RunTerms then)
    {
        var quantities = about.SelectMany(Trial.QuantitiesOf).DefaultIfEmpty(1).Distinct().Order().ToList();
        var buyers = about.Select(BuyerOf).DefaultIfEmpty(BuyingWith.Nothing).DistinctBy(BuyerInWords).ToList();
        return
        [
            .. from q in quantities
            from b in buyers
            select new Trial(old with { Buying = b.Under(old.Buying) }, then with { Buying = b.Under(then.Buying) }, q, b.Through),
        ];
    }

    /// <summary>Somebody whom a rule may act for.</summary>
    private static BuyingWith BuyerOf(PriceRule rule) =>
        new(
            rule.When.CustomerGroups.IsEmpty ? null : rule.When.CustomerGroups[0],
            NamedCoupon.AskedBy(rule.When) is { } coupon ? [coupon] : [],
            rule.Scope.Through
        );

    private static string BuyerInWords(BuyingWith buyer) =>
        $"{buyer.Group} {string.Join(' ', buyer.Coupons.Select(c => c.Code))} {buyer.Through}";

    /// <summary>What prices go by before and after; the buyer is one of the groups, and names the coupons, that the rules ask
    /// for.</summary>
    private async Task<(RunTerms Before, RunTerms Then)> Markets(
        ImmutableArray<PriceRule> before,
        ImmutableArray<PriceRule> wanted,
        IReadOnlyList<PriceRule> changed,
        DateTimeOffset? at
    )
    {
        var (shop, tree) = (await catalogue.Terms.Settings(db), await PriceBooks.Tree(db));
        var groups = (await catalogue.Terms.Prices(db)).Groups;
        var (now, starts) = (clock.GetUtcNow(), changed.Select(r => r.When.From).Max());
        return (Market(before, now), Market(wanted, at ?? (starts > now ? starts.Value : now)));

        RunTerms Market(ImmutableArray<PriceRule> rules, DateTimeOffset when) =>
            new(shop.Terms, null)
            {
                Buying = new RuleContext(when, shop.TimeZone)
                {
                    Book = new PriceBook(rules, tree) { Groups = groups },
                    Groups = [.. changed.SelectMany(r => r.When.CustomerGroups).Distinct()],
                    Coupons = [.. changed.Select(r => NamedCoupon.AskedBy(r.When)).OfType<NamedCoupon>()],
                },
            };
    }

    /// <summary>The products that rules may reach by name, and behind them what takes any of them as a part.</summary>
    private async Task<IReadOnlyList<int>> Reached(IReadOnlyList<PriceRule> rules)
    {
        string[] documents = [.. rules.Select(r => PriceRuleWriter.Write(r).ToJsonString())];
        return await db
            .Database.SqlQuery<int>(
                $"""
                with reached as materialized (
                  select distinct r.product from unnest({documents}) rule, rule_reaches(rule::jsonb) r(product))
                select e.product_id as "Value" from range_entries e left join reached r on r.product = e.product_id
                where r.product is not null or e.part_products && (select array_agg(product) from reached)
                order by r.product is null, e.name_key
                """
            )
            .ToListAsync();
    }

    /// <summary>What the last orders would have come to, by what stands of them: goods and quantities without their answers, and without
    /// the coupons that are tried.</summary>
    private async Task<(Money Moved, int Orders)> OverOrders(RunTerms now, RunTerms then)
    {
        var orders = await db
            .Orders.AsNoTracking()
            .Where(o => o.State != OrderState.Cancelled)
            .OrderByDescending(o => o.Number)
            .Take(MostOrders)
            .Select(o => new
            {
                o.CustomerGroup,
                Lines = o
                    .Lines.OrderBy(l => l.Position)
                    .Select(l => new
                    {
                        l.Sku,
                        l.Quantity,
                        l.Through,
                    })
                    .ToList(),
            })
            .ToListAsync();
        var range = await catalogue.Editions.Range(db, [], orders.SelectMany(o => o.Lines).Select(l => l.Sku).Distinct());
        var currency = now.Trade.Currency;
        var moved = Money.Zero(currency);
        foreach (var order in orders)
        {
            var lines = order
                .Lines.Select(l => (Line: l, Goods: range.Sku(l.Sku)))
                .Where(l => l.Goods?.Variant.Price.Figure is not null)
                .Select(l => new RunLine(l.Goods!, Configuration.Empty, l.Line.Quantity, [Own(l.Goods!)], l.Line.Through))
                .ToList();
            if (lines.Count == 0)
                continue;
            Money Total(RunTerms terms)
            {
                var buyer = terms.Buying with { Groups = [.. terms.Buying.Book.GroupsCalled(order.CustomerGroup)], Coupons = [] };
                return PriceRun.Of(lines, terms with { Buying = buyer }, range, trace: false).Basket?.Total ?? Money.Zero(currency);
            }
            moved += Total(then) - Total(now);
        }
        return (moved, orders.Count);
    }

    private static LeafNeed Own(VariantOnSale goods) => new(LeafPath.Own, goods, 1, "");
}
