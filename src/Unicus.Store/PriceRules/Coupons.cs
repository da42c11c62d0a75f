using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>How a list of codes stands.</summary>
public sealed record CouponList(string Key, int Codes, int Used);

/// <summary>Lists of codes that each work once, and the uses of rules.</summary>
public sealed class Coupons(UnicusContext db)
{
    /// <summary>Codes of a list at most.</summary>
    public const int MostCodes = 100_000;

    /// <summary>Characters of a code at most.</summary>
    public const int LongestCode = 64;

    /// <summary>Replaces the codes of a list; codes that were used stay, and stay used.</summary>
    /// <param name="codes">In any letter case; what stands twice counts once.</param>
    /// <param name="besides">Whether they come besides those that there are, instead of replacing them.</param>
    /// <returns>How the list stands now.</returns>
    public async Task<Outcome<CouponList>> Put(Key list, IReadOnlyList<string> codes, bool besides = false)
    {
        var faults = new List<Fault>();
        var wanted = new HashSet<string>();
        foreach (var (typed, i) in codes.Index().Select(c => (c.Item, c.Index)))
        {
            var code = typed.Trim().ToUpperInvariant();
            if (code.Length is 0 or > LongestCode || code.Any(char.IsControl))
                faults.Add(new Fault($"#/codes/{i}", $"A code is a text of 1 to {LongestCode} characters."));
            else
                wanted.Add(code);
            if (faults.Count == Node.MostFaults)
                break;
        }
        if (faults.Count > 0)
            return new Outcome<CouponList>(null, faults);
        await using var transaction = await db.Database.BeginTransactionAsync();
        await Locks.PriceRules(db);
        var (key, all) = (list.Text, wanted.ToArray());
        if (!besides)
            await db.Database.ExecuteSqlAsync(
                $"delete from coupon_codes where list = {key} and order_number is null and code <> all({all})"
            );
        await db.Database.ExecuteSqlAsync(
            $"insert into coupon_codes (list, code) select {key}, c from unnest({all}) c on conflict do nothing"
        );
        var stands = await Look(list);
        if (stands.Codes > MostCodes)
            return Outcome<CouponList>.No("#/codes", $"A list has at most {MostCodes:N0} codes; these would be {stands.Codes:N0}.");
        await transaction.CommitAsync();
        return Outcome<CouponList>.Of(stands);
    }

    /// <summary>How a list stands; no codes where there is none.</summary>
    public async Task<CouponList> Look(Key list) =>
        new(
            list.Text,
            await db.CouponCodes.CountAsync(c => c.List == list.Text),
            await db.CouponCodes.CountAsync(c => c.List == list.Text && c.OrderNumber != null)
        );

    /// <summary>What buyers named, with the lists that have it.</summary>
    public async Task<ImmutableArray<NamedCoupon>> Named(IReadOnlyCollection<string> typed)
    {
        var words = typed.Select(t => t.Trim()).DistinctBy(t => t.ToUpperInvariant()).ToList();
        if (words.Count == 0)
            return [];
        var codes = words.Select(w => w.ToUpperInvariant()).ToArray();
        var rows = await db.CouponCodes.AsNoTracking().Where(c => codes.Contains(c.Code)).ToListAsync();
        return
        [
            .. words.Select(word =>
            {
                var own = rows.Where(r => r.Code == word.ToUpperInvariant()).ToList();
                var open = own.Find(r => r.OrderNumber is null);
                return new NamedCoupon(word, open is null ? null : Key.Of(open.List), own.Count > 0 && open is null);
            }),
        ];
    }

    /// <summary>Of rules with limits those that are used up, in all or for a buyer.</summary>
    /// <param name="email">Empty: nobody in particular.</param>
    public async Task<ImmutableHashSet<string>> UsedUp(IEnumerable<PriceRule> rules, string email)
    {
        var limited = rules.Where(r => r.Limits != RuleLimits.None).ToList();
        if (limited.Count == 0)
            return [];
        var (ids, buyer) = (limited.Select(r => r.Id).ToArray(), BuyerKey(email));
        var uses = await db
            .RuleUses.Where(u => ids.Contains(u.Rule) && !u.GivenBack)
            .GroupBy(u => u.Rule)
            .Select(g => new
            {
                g.Key,
                All = g.Count(),
                Own = g.Count(u => u.Buyer == buyer),
            })
            .ToDictionaryAsync(u => u.Key);
        bool IsUsedUp(PriceRule rule) =>
            uses.TryGetValue(rule.Id, out var of) && (of.All >= rule.Limits.InAll || (buyer.Length > 0 && of.Own >= rule.Limits.PerBuyer));
        return [.. limited.Where(IsUsedUp).Select(r => r.Id)];
    }

    /// <summary>Lets nobody else use these rules and codes till the end of the transaction.</summary>
    public async Task Lock(IEnumerable<PriceRule> rules, IEnumerable<NamedCoupon> named)
    {
        foreach (var id in rules.Where(r => r.Limits != RuleLimits.None).Select(r => r.Id).Distinct().Order(StringComparer.Ordinal))
            await Locks.RuleUses(db, id);
        foreach (var coupon in named.Where(n => n.List is not null).OrderBy(n => n.Code, StringComparer.OrdinalIgnoreCase))
        {
            var (list, code) = (coupon.List!.Value.Text, coupon.Code.Trim().ToUpperInvariant());
            await db.Database.ExecuteSqlAsync($"select 1 from coupon_codes where list = {list} and code = {code} for update");
        }
    }

    /// <summary>Counts the uses of an order within its transaction.</summary>
    public async Task Record(Order order, PricedBasket basket)
    {
        foreach (var acted in basket.Acted.DistinctBy(a => a.Rule.Id))
        {
            var list = acted.Rule.When.Coupons;
            var coupon = list is null ? null : basket.Terms.Buying.Coupons.FirstOrDefault(c => c.List == list);
            var use = new RuleUseRow
            {
                OrderNumber = order.Number,
                Rule = acted.Rule.Id,
                Buyer = BuyerKey(order.Buyer.Email),
                Amount = acted.Amount.Amount,
                At = order.PlacedAt,
                List = coupon?.List?.Text,
                Code = coupon?.Code.Trim().ToUpperInvariant(),
            };
            db.RuleUses.Add(use);
            if (coupon is not null)
                await Mark(use, order.Number);
        }
    }

    /// <summary>Gives the uses of a cancelled order back.</summary>
    public async Task GiveBack(int order)
    {
        foreach (var use in await db.RuleUses.Where(u => u.OrderNumber == order).ToListAsync())
        {
            use.GivenBack = true;
            await Mark(use, null);
        }
    }

    /// <summary>Counts them again where the cancelling is taken back; limits hold as for a new order.</summary>
    /// <param name="rules">Those in force, products' own included.</param>
    /// <returns>What stands in the way, in a sentence; null where nothing does.</returns>
    public async Task<string?> TakeAgain(int order, IEnumerable<PriceRule> rules)
    {
        var uses = await db.RuleUses.Where(u => u.OrderNumber == order && u.GivenBack).ToListAsync();
        var ids = uses.Select(u => u.Rule).ToHashSet();
        var limited = rules.Where(r => ids.Contains(r.Id)).ToList();
        await Lock(limited, []);
        if (uses.Count > 0 && await UsedUp(limited, uses[0].Buyer) is { IsEmpty: false } usedUp)
            return $"{limited.First(r => usedUp.Contains(r.Id)).Name} is used up meanwhile. Take a new order instead.";
        foreach (var use in uses)
        {
            use.GivenBack = false;
            if (use.Code is not null && !await Mark(use, order))
                return await db.CouponCodes.AnyAsync(c => c.List == use.List && c.Code == use.Code)
                    ? $"The coupon {use.Code} was used by another order meanwhile. Take a new order instead."
                    : $"The coupon {use.Code} was taken off its list. Take a new order instead.";
        }
        return null;
    }

    /// <summary>Marks the code of a use as used by an order, or as free again.</summary>
    /// <returns>Whether it could be.</returns>
    private async Task<bool> Mark(RuleUseRow use, int? order) =>
        use.Code is null
        || await db
            .CouponCodes.Where(c => c.List == use.List && c.Code == use.Code && (order == null || c.OrderNumber == null))
            .ExecuteUpdateAsync(u => u.SetProperty(c => c.OrderNumber, order)) > 0;

    private static string BuyerKey(string email) => TypedEmail.KeyOf(email);
}
