using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>What a trial found.</summary>
/// <param name="Prices">Every price that would change, the lowest margin first.</param>
/// <param name="Looked">How many prices were looked at.</param>
/// <param name="IsPart">Whether more products are in the scope than were looked at.</param>
/// <param name="Held">How many of them the floor would hold.</param>
/// <param name="LowestNow">The lowest margin of these as it is; null where no cost is known.</param>
/// <param name="LowestThen">The lowest as it would be.</param>
/// <param name="Orders">How many of the last orders were priced again.</param>
/// <param name="OrdersMoved">What they would have brought more or, negative, less.</param>
public sealed record TrialFound(
    IReadOnlyList<TriedPrice> Prices,
    int Looked,
    bool IsPart,
    int Held,
    decimal? LowestNow,
    decimal? LowestThen,
    int Quantity,
    int Orders,
    Money OrdersMoved
);

/// <summary>Tries price rules over the published range and the last orders, without changing anything.</summary>
public sealed class RuleTrial(UnicusContext db, Catalogue catalogue, TimeProvider clock)
{
    private const int MostOrders = 200;

    /// <summary>Tries one rule in place of what is kept under its key, or besides what there is.</summary>
    /// <param name="at">The moment; null: when the rule starts, or now.</param>
    /// <param name="againstWithout">Whether it is held against the shop without it, instead of the shop as it is.</param>
    /// <param name="mostProducts">So many products are looked at, the first by name.</param>
    public async Task<TrialFound> Run(
        PriceRule rule,
        DateTimeOffset? at = null,
        bool againstWithout = false,
        int mostProducts = int.MaxValue
    )
    {
        var book = await catalogue.Prices(db);
        var others = book.Rules.Where(r => r.Key != rule.Key).ToImmutableArray();
        return await Run(againstWithout ? others : book.Rules, others.Add(rule with { State = RuleState.On }), [rule], at, mostProducts);
    }

    /// <summary>Tries a whole set of rules in place of the shop's.</summary>
    /// <param name="wanted">All rules of the shop as they would be.</param>
    /// <param name="changed">Those of them that the trial is about; they say which goods and which units are looked at.</param>
    /// <param name="at">The moment; null: when the last of them starts, or now.</param>
    public async Task<TrialFound> Run(ImmutableArray<PriceRule> wanted, IReadOnlyList<PriceRule> changed, DateTimeOffset? at = null) =>
        await Run((await catalogue.Prices(db)).Rules, wanted, changed, at, int.MaxValue);

    private async Task<TrialFound> Run(
        ImmutableArray<PriceRule> before,
        ImmutableArray<PriceRule> wanted,
        IReadOnlyList<PriceRule> changed,
        DateTimeOffset? at,
        int mostProducts
    )
    {
        var (shop, tree) = (await catalogue.Settings(db), await PriceBooks.Tree(db));
        var groups = (await catalogue.Prices(db)).Groups;
        var (now, starts) = (clock.GetUtcNow(), changed.Select(r => r.When.From).Max());
        var moment = at ?? (starts > now ? starts.Value : now);
        var (old, then) = (Market(before, now), Market(wanted, moment));
        var quantity = changed.Select(Trial.UnitsFor).DefaultIfEmpty(1).Max();
        var trial = new Trial(old, then, quantity, changed.Select(r => r.Scope.Through).FirstOrDefault(t => t is not null));
        var prices = new List<TriedPrice>();
        var reached = await Reached(changed);
        foreach (var product in reached.Take(mostProducts))
            if (await catalogue.Latest(db, product) is { } edition)
                prices.AddRange(trial.Of(edition));
        var (moved, orders) = await OverOrders(old, then, shop);
        return new TrialFound(
            [.. prices.Where(p => p.Change != 0).OrderBy(p => p.MarginThen ?? 1000).ThenBy(p => p.Change)],
            prices.Count,
            reached.Count > mostProducts,
            prices.Count(p => p.AtFloor),
            prices.Min(p => p.MarginNow),
            prices.Min(p => p.MarginThen),
            quantity,
            orders,
            moved
        );

        RunTerms Market(ImmutableArray<PriceRule> rules, DateTimeOffset when) =>
            new(shop.Terms, null)
            {
                Buying = new Buying(when, shop.TimeZone)
                {
                    Book = new PriceBook(rules, tree) { Groups = groups },
                    Groups = [.. changed.SelectMany(r => r.When.CustomerGroups).Distinct()],
                    Coupons = [.. changed.Select(r => Naming(r.When)).OfType<NamedCoupon>()],
                },
            };
    }

    /// <summary>The coupon that a rule asks for, as if somebody named it; null where it asks for none.</summary>
    private static NamedCoupon? Naming(PriceWhen when) =>
        when.Coupon is { } word ? new NamedCoupon(word)
        : when.Coupons is { } list ? new NamedCoupon(list.Text!, list)
        : null;

    /// <summary>The products that a rule may reach, found by the index.</summary>
    private async Task<IReadOnlyList<int>> Reached(IReadOnlyList<PriceRule> rules)
    {
        var all = db.RangeEntries.AsNoTracking().OrderBy(e => e.NameKey);
        if (rules.All(r => !r.Scope.Products.IsEmpty))
        {
            var codes = rules.SelectMany(r => r.Scope.Products).Distinct().ToArray();
            return await all.Where(e => codes.Contains(e.Code)).Select(e => e.ProductId).ToListAsync();
        }
        if (rules.All(r => !r.Scope.Categories.IsEmpty))
        {
            var names = rules.SelectMany(r => r.Scope.Categories).ToHashSet(StringComparer.OrdinalIgnoreCase);
            var ids = (await PriceBooks.Tree(db)).Where(c => names.Contains(c.Name)).Select(c => c.Id).ToArray();
            return await all.Where(e => e.Categories.Any(c => ids.Contains(c))).Select(e => e.ProductId).ToListAsync();
        }
        return await all.Select(e => e.ProductId).ToListAsync();
    }

    /// <summary>What the last orders would have come to, by what stands of them: goods and quantities without their answers, and without
    /// the coupons that are tried.</summary>
    private async Task<(Money Moved, int Orders)> OverOrders(RunTerms now, RunTerms then, ShopSettings shop)
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
        var range = await catalogue.Range(db, [], orders.SelectMany(o => o.Lines).Select(l => l.Sku).Distinct());
        var moved = Money.Zero(shop.Currency);
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
                return PriceRun.Of(lines, terms with { Buying = buyer }, range, trace: false).Basket?.Total ?? Money.Zero(shop.Currency);
            }
            moved += Total(then) - Total(now);
        }
        return (moved, orders.Count);
    }

    private static LeafNeed Own(VariantOnSale goods) => new(LeafPath.Own, goods, 1, "");
}
