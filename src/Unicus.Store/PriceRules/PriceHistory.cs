using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Unicus.Store;

/// <summary>What public prices were: from every edition, every state of the shop's rules and of its terms, each kept with its
/// moment.</summary>
public sealed class PriceHistory(Catalogue catalogue) : IDisposable
{
    private const int MostPrior = 20_000;
    private const int MostEditions = 200;

    private readonly MemoryCache _prior = new(new MemoryCacheOptions { SizeLimit = MostPrior });
    private readonly MemoryCache _editions = new(new MemoryCacheOptions { SizeLimit = MostEditions });
    private KeptSpells _spells = new(PriceBook.Empty, []);

    private sealed record KeptPrior(long? Price);

    private sealed record KeptSpells(PriceBook Of, IReadOnlyList<PriceSpell> Spells);

    /// <summary>Keeps what changed of rules and terms since it was last kept, within the caller's transaction.</summary>
    /// <remarks>The terms stand under an empty key; a rule that is archived or gone has no document.</remarks>
    public static Task Note(UnicusContext db, DateTimeOffset at) =>
        db.Database.ExecuteSqlAsync(
            $"""
            insert into price_history (key, document, at)
            select coalesce(n.key, h.key), n.document, {at.ToUniversalTime()}
            from (select key, document from price_rules where not archived union all select '', terms::jsonb from shop) n
            full join (select distinct on (key) key, document from price_history order by key, id desc) h on h.key = n.key
            where n.document is distinct from h.document
            """
        );

    /// <summary>The was price of a variant, without answers; null where its price is not reduced, or it was not on sale before.</summary>
    /// <param name="edition">What is on sale; for a proof what would be, from now on.</param>
    public async Task<Money?> Prior(UnicusContext db, Edition edition, MatrixVariant variant, RunTerms terms)
    {
        var buying = terms.Buying;
        var stamp = buying.Book.StampAt(edition.Product, buying.At, buying.Day);
        var key = (edition.ProductId, edition.Number, variant.Values.Text, stamp, TimeZoneInfo.ConvertTime(buying.At, buying.Zone).Date);
        if (edition.Number == 0 || !_prior.TryGetValue(key, out KeptPrior? kept))
        {
            kept = new KeptPrior(await Find(db, edition, variant, terms));
            if (edition.Number > 0)
                _prior.Set(key, kept, new MemoryCacheEntryOptions { Size = 1 });
        }
        return kept!.Price is { } price ? MinorUnits.ToMoney(price, terms.Trade.Currency) : null;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _prior.Dispose();
        _editions.Dispose();
    }

    private async Task<long?> Find(UnicusContext db, Edition edition, MatrixVariant variant, RunTerms terms)
    {
        var prior = new PriorPrice();
        var (until, now) = (DateTimeOffset.MaxValue, terms.Buying.At);
        var spells = await Spells(db, terms);
        // A proof is held against what is on sale until now.
        var published = await db
            .Editions.AsNoTracking()
            .Where(e => e.ProductId == edition.ProductId && e.PublishedAt <= now && (edition.Number == 0 || e.Number <= edition.Number))
            .OrderByDescending(e => e.Number)
            .Select(e => new { e.Number, e.PublishedAt })
            .ToListAsync();
        if (edition.Number == 0)
            Take(edition, now);
        foreach (var row in published)
        {
            if (!prior.IsOpen)
                break;
            Take(row.Number == edition.Number ? edition : await EditionOf(db, edition, row.Number), row.PublishedAt);
        }
        return prior.Found;

        void Take(Edition sold, DateTimeOffset from)
        {
            foreach (var spell in spells)
            {
                var (begins, ends) = (spell.From > from ? spell.From : from, spell.Until < until ? spell.Until : until);
                // What is to come is no price yet.
                if (begins >= ends || begins > now)
                    continue;
                var asked = spell with { From = begins, Until = ends > now ? now.AddTicks(1) : ends };
                foreach (var stretch in PublicPrices.Of(sold, variant, asked))
                {
                    prior.Take(stretch);
                    if (!prior.IsOpen)
                        return;
                }
            }
            until = from;
        }
    }

    /// <summary>An older edition, of which only the prices are asked.</summary>
    private async Task<Edition> EditionOf(UnicusContext db, Edition newer, int number)
    {
        var key = (newer.ProductId, number);
        if (_editions.TryGetValue(key, out Edition? kept))
            return kept!;
        var row = await db.Editions.AsNoTracking().SingleAsync(e => e.ProductId == newer.ProductId && e.Number == number);
        var product = WorkingCopy.Read(row.Document, (await catalogue.Terms.Settings(db)).Currency);
        var edition = new Edition(newer.ProductId, number, row.PublishedAt, product, product.Matrix()) { Sets = newer.Sets };
        return _editions.Set(key, edition, new MemoryCacheEntryOptions { Size = 1 });
    }

    /// <summary>What prices went by at all times, the newest first.</summary>
    private async Task<IReadOnlyList<PriceSpell>> Spells(UnicusContext db, RunTerms terms)
    {
        var kept = _spells;
        if (ReferenceEquals(kept.Of, terms.Buying.Book))
            return kept.Spells;
        var rows = await db.PriceHistory.AsNoTracking().OrderBy(h => h.At).ThenBy(h => h.Id).ToListAsync();
        var tree = await PriceBooks.Tree(db);
        var (rules, trade) = (new SortedDictionary<string, PriceRule>(StringComparer.Ordinal), terms.Trade);
        var spells = new List<PriceSpell>();
        var (first, zone) = (DateTimeOffset.MinValue, terms.Buying.Zone);
        foreach (var moment in rows.GroupBy(r => r.At))
        {
            spells.Add(new PriceSpell(first, moment.Key, trade, zone, new PriceBook(rules.Values, tree)));
            foreach (var row in moment)
                if (row.Key.Length == 0)
                    trade = ShopSettings.ReadTerms(row.Document!);
                else if (row.Document is null)
                    rules.Remove(row.Key);
                else
                    rules[row.Key] = PriceBooks.Read(row.Document, terms.Trade.Currency);
            first = moment.Key;
        }
        // The last one is what is in force: that of the proof too.
        spells.Add(new PriceSpell(first, DateTimeOffset.MaxValue, terms.Trade, zone, terms.Buying.Book));
        spells.Reverse();
        _spells = new KeptSpells(terms.Buying.Book, spells);
        return spells;
    }
}
