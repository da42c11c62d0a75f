using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>The shop's name, time and terms of trade, in the form the core reckons with.</summary>
public sealed record ShopSettings(string Name, TimeZoneInfo TimeZone, TradeTerms Terms, bool OffersDemoAccount, int Version)
{
    /// <summary>The hosts that films may come from, besides this shop.</summary>
    public ImmutableArray<string> VideoHosts { get; init; } = [];

    /// <summary>After so many months names and addresses are erased from orders that have ended; null: never by itself.</summary>
    public int? BuyersKeptMonths { get; init; }

    /// <summary>The language and country by which amounts are written for shoppers (BCP 47).</summary>
    public string Locale { get; init; } = PriceForm.UsualLocale;

    /// <summary>How shoppers read amounts.</summary>
    public PriceForm PriceForm => PriceForm.Of(Locale, Currency) ?? PriceForm.Of(PriceForm.UsualLocale, Currency)!;

    public Currency Currency => Terms.Currency;

    /// <summary>The shop's calendar day at an instant.</summary>
    public DateOnly DayAt(DateTimeOffset at) => DateOnly.FromDateTime(TimeZoneInfo.ConvertTime(at, TimeZone).DateTime);

    public DateTime LocalTime(DateTimeOffset at) => TimeZoneInfo.ConvertTime(at, TimeZone).DateTime;

    /// <summary>A shop with EUR, prices that include tax, no tax rates and delivery for 0.00.</summary>
    public static TradeTerms EmptyTerms { get; } = new(Currency.Euro, true, [new TaxClass(Key.Of("standard"), "Standard")], []);

    public static async Task<ShopSettings> Load(UnicusContext db, CancellationToken stop = default) =>
        From(await db.Shops.AsNoTracking().SingleAsync(stop));

    internal static ShopSettings From(ShopRow row) =>
        new(row.Name, TimeZoneInfo.FindSystemTimeZoneById(row.TimeZone), ReadTerms(row.Terms), row.OffersDemoAccount, row.Version)
        {
            VideoHosts = [.. row.VideoHosts.Select(ProductVideo.InAscii)],
            BuyersKeptMonths = row.BuyersKeptMonths,
            Locale = row.Locale,
        };

    /// <summary>Terms as the shop's table keeps them.</summary>
    public static string WriteTerms(TradeTerms terms) => TermsDocument.Write(terms).ToJsonString();

    /// <summary>Reads what <see cref="WriteTerms"/> wrote.</summary>
    internal static TradeTerms ReadTerms(string text)
    {
        using var json = JsonDocument.Parse(text);
        var faults = new List<Fault>();
        var terms = TermsDocument.Read(new Node(json.RootElement, "#", faults), EmptyTerms);
        return faults.Count == 0
            ? terms
            : throw new InvalidOperationException($"The stored terms cannot be read: {faults[0].Where} {faults[0].What}");
    }
}

/// <summary>Settings as somebody wants them.</summary>
/// <param name="NewLocations">Names of stock locations to be added.</param>
/// <param name="Seen">The version that they looked at.</param>
public sealed record WantedSettings(
    string Name,
    string TimeZone,
    TradeTerms Terms,
    IReadOnlyList<string> NewLocations,
    IReadOnlyList<string> VideoHosts,
    int? BuyersKeptMonths,
    string Locale,
    int Seen
)
{
    /// <summary>The settings as they are, to be changed with <c>with</c>.</summary>
    public static WantedSettings Of(ShopSettings shop) =>
        new(shop.Name, shop.TimeZone.Id, shop.Terms, [], shop.VideoHosts, shop.BuyersKeptMonths, shop.Locale, shop.Version);
}

/// <summary>Changes the shop's settings; the version seen must still be the one in force.</summary>
public sealed class ChangeSettings(UnicusContext db, EventLog log, TimeProvider clock)
{
    /// <summary>Buyers may be kept for so many months at most, where the shop has a limit.</summary>
    public const int MostMonths = 240;

    public async Task<Outcome> Run(WantedSettings wanted, Actor by)
    {
        var (terms, locations) = (wanted.Terms, wanted.NewLocations);
        var videoHosts = wanted.VideoHosts.Select(ProductVideo.InAscii).ToList();
        var faults = FaultsIn(wanted, videoHosts);
        await using var transaction = await db.Database.BeginTransactionAsync();
        var row = await db.Shops.FromSql($"select * from shop for update").SingleAsync();
        if (row.Version != wanted.Seen)
            faults.Add(
                new Fault(
                    "",
                    "Nothing was saved: somebody else changed the settings meanwhile. What you see now is theirs; make your "
                        + "change again."
                )
            );
        if (await WhyNot(ShopSettings.From(row).Currency, terms.Currency) is { } stays)
            faults.Add(new Fault("currency", stays));
        var existing = await db.Locations.ToListAsync();
        if (existing.Count == 0 && locations.Count == 0)
            faults.Add(new Fault("locations", "A shop needs at least one stock location."));
        if (faults.Count > 0)
            return new Outcome(faults);

        log.Note(EventKind.Settings, by.Name, "", $"Changed the settings: {string.Join(", ", Changed(ShopSettings.From(row), wanted))}");
        row.Name = wanted.Name.Trim();
        row.Locale = wanted.Locale;
        row.BuyersKeptMonths = wanted.BuyersKeptMonths;
        row.TimeZone = wanted.TimeZone;
        row.VideoHosts = [.. videoHosts];
        row.Terms = ShopSettings.WriteTerms(terms);
        row.Version++;
        AddLocations(existing, locations);
        await db.SaveChangesAsync();
        await PriceHistory.Note(db, clock.GetUtcNow());
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>What of them no shop can have.</summary>
    /// <param name="videoHosts">As they are kept.</param>
    private static List<Fault> FaultsIn(WantedSettings wanted, IReadOnlyList<string> videoHosts)
    {
        var (faults, terms) = (new List<Fault>(), wanted.Terms);
        if (wanted.BuyersKeptMonths is < 1 or > MostMonths)
            faults.Add(new Fault("buyersKeptMonths", $"Buyers are kept for 1 to {MostMonths} months, or for ever when it is empty."));
        if (string.IsNullOrWhiteSpace(wanted.Name) || wanted.Name.Length > 120)
            faults.Add(new Fault("name", "A shop needs a name of 1 to 120 characters."));
        if (PriceForm.Of(wanted.Locale, terms.Currency) is null)
            faults.Add(new Fault("locale", $"“{wanted.Locale}” is no language and country, such as en-IE."));
        if (!TimeZoneInfo.TryFindSystemTimeZoneById(wanted.TimeZone, out _))
            faults.Add(new Fault("timeZone", $"“{wanted.TimeZone}” is not a time zone. Type one like Europe/Dublin."));
        foreach (var twice in terms.Destinations.GroupBy(d => d.Code, StringComparer.OrdinalIgnoreCase).Where(g => g.Skip(1).Any()))
            faults.Add(new Fault("destinations", $"The destination {twice.Key} stands here twice."));
        if (terms.TaxClasses.IsEmpty)
            faults.Add(new Fault("taxClasses", "A shop needs at least one tax class."));
        foreach (var host in videoHosts.Where(h => Uri.CheckHostName(h) != UriHostNameType.Dns || !h.Contains('.')))
            faults.Add(new Fault("videoHosts", $"“{host}” is not the name of a host, such as films.example.org."));
        return faults;
    }

    private void AddLocations(IReadOnlyList<LocationRow> existing, IReadOnlyList<string> labels)
    {
        var keys = existing.Select(l => Key.Of(l.Key)).ToHashSet();
        foreach (var label in labels.Where(l => existing.All(e => !string.Equals(e.Name, l, StringComparison.OrdinalIgnoreCase))))
        {
            var key = Key.From(label, keys, "location");
            keys.Add(key);
            db.Locations.Add(
                new LocationRow
                {
                    Key = key.Text,
                    Name = label,
                    Position = keys.Count,
                }
            );
        }
    }

    /// <summary>Why the currency cannot become another; null: it can. Amounts stay as they are typed.</summary>
    private async Task<string?> WhyNot(Currency old, Currency wanted)
    {
        if (old == wanted)
            return null;
        if (await db.Orders.AnyAsync())
            return "The currency stays: something was sold in it.";
        return wanted.MinorUnits < old.MinorUnits && (await db.Products.AnyAsync() || await db.PriceRules.AnyAsync())
            ? $"{wanted.Code} has {wanted.MinorUnits} digits after the point, {old.Code} has {old.MinorUnits}: amounts of products "
                + "and rules would be cut. Choose it before there are any."
            : null;
    }

    /// <summary>What differs, in words.</summary>
    private static IEnumerable<string> Changed(ShopSettings before, WantedSettings wanted)
    {
        if (before.Name != wanted.Name.Trim())
            yield return "name";
        if (before.TimeZone.Id != wanted.TimeZone)
            yield return "time zone";
        if (before.Currency != wanted.Terms.Currency)
            yield return $"currency {wanted.Terms.Currency.Code}";
        if (ShopSettings.WriteTerms(before.Terms) != ShopSettings.WriteTerms(wanted.Terms with { Currency = before.Currency }))
            yield return "taxes, destinations and delivery";
        if (wanted.NewLocations.Count > 0)
            yield return "stock locations";
        if (!before.VideoHosts.SequenceEqual(wanted.VideoHosts.Select(ProductVideo.InAscii)))
            yield return "hosts of films";
        if (before.Locale != wanted.Locale)
            yield return "how prices look";
        if (before.BuyersKeptMonths != wanted.BuyersKeptMonths)
            yield return "how long buyers are kept";
    }
}
