using System.Collections.Immutable;
using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;

namespace Unicus.Web.Office;

/// <summary>A row of a table of charges as typed.</summary>
public sealed class RateRow
{
    public string? Kilos { get; set; }
    public string? Centimetres { get; set; }
    public string? From { get; set; }
    public string? Charge { get; set; }
}

/// <summary>A way of delivery as typed.</summary>
public sealed class WayRow
{
    public string? Key { get; set; }
    public string? Label { get; set; }
    public string? TaxClass { get; set; }
    public string? BulkyAmount { get; set; }
    public string? BulkyTags { get; set; }
    public string? BulkyProducts { get; set; }
    public List<RateRow> Rates { get; set; } = [];
}

/// <summary>The ways in which goods are sent to a destination, with their tables of charges.</summary>
public sealed class DeliveryModel(ShopReading reading, ChangeSettings change, Shell.Visit visit) : PageModel
{
    private const int MostKilos = 1_000_000;
    private const int MostCentimetres = 10_000;
    private const int FreeRows = 2;

    private readonly List<Fault> _faults = [];

    [BindProperty]
    public List<WayRow> Ways { get; set; } = [];

    [BindProperty]
    public int Version { get; set; }

    public Destination To { get; private set; } = null!;
    public IReadOnlyList<TaxClass> Classes { get; private set; } = [];
    public bool Saved { get; private set; }

    public IEnumerable<string> FaultsOf(string where) => _faults.Where(f => f.Where == where).Select(f => f.What);

    public async Task<IActionResult> OnGet(string code, bool saved)
    {
        if (await Find(code) is not { } shop)
            return NotFound();
        (Saved, Version) = (saved, shop.Version);
        Ways = [.. To.Services.Select(Row)];
        Extend();
        return Page();
    }

    public async Task<IActionResult> OnPost(string code)
    {
        if (await Find(code) is not { } shop)
            return NotFound();
        var services = ImmutableArray.CreateBuilder<DeliveryService>();
        foreach (var (i, way) in Ways.Index())
            if (!string.IsNullOrWhiteSpace(way.Label) && Read(way, $"way{i}", shop.Currency, services) is { } service)
                services.Add(service);
        if (_faults.Count == 0)
        {
            var destinations = shop.Terms.Destinations.Replace(To, To with { Services = services.ToImmutable() });
            var wanted = WantedSettings.Of(shop) with { Terms = shop.Terms with { Destinations = destinations }, Seen = Version };
            var outcome = await change.Run(wanted, visit.Actor);
            if (outcome.Done)
                return Redirect($"/office/settings/delivery/{Uri.EscapeDataString(To.Code)}?saved=true");
            _faults.AddRange(outcome.Faults.Select(f => new Fault("", f.What)));
            Version = shop.Version;
        }
        Extend();
        return Page();
    }

    private async Task<ShopSettings?> Find(string code)
    {
        var shop = await reading.SettingsAfresh();
        if (shop.Terms.Find(code) is not { } destination)
            return null;
        (To, Classes) = (destination, shop.Terms.TaxClasses);
        return shop;
    }

    /// <summary>Empty rows to type into, and an empty way.</summary>
    private void Extend()
    {
        if (Ways is [] || !string.IsNullOrWhiteSpace(Ways[^1].Label))
            Ways.Add(new WayRow());
        foreach (var way in Ways)
            while (way.Rates.Count < FreeRows || way.Rates.TakeLast(FreeRows).Any(r => !IsEmpty(r)))
                way.Rates.Add(new RateRow());
    }

    private static bool IsEmpty(RateRow row) => new[] { row.Kilos, row.Centimetres, row.From, row.Charge }.All(string.IsNullOrWhiteSpace);

    private static WayRow Row(DeliveryService service) =>
        new()
        {
            Key = service.Key.Text,
            Label = service.Label,
            TaxClass = service.TaxClass,
            BulkyAmount = service.Bulky?.Amount.ForPeople(),
            BulkyTags = string.Join(", ", service.Bulky?.Tags ?? []),
            BulkyProducts = string.Join(", ", service.Bulky?.Products ?? []),
            Rates =
            [
                .. service.Rates.Select(r => new RateRow
                {
                    Kilos = Plain(r.WeightUpToGrams / 1000m),
                    Centimetres = Plain(r.LongestUpToMm / 10m),
                    From = r.FromBasket?.ForPeople(),
                    Charge = r.Amount.ForPeople(),
                }),
            ],
        };

    private static string? Plain(decimal? number) => number?.ToString("0.###", CultureInfo.InvariantCulture);

    private DeliveryService? Read(WayRow way, string place, Currency currency, IEnumerable<DeliveryService> before)
    {
        var label = TypedText.Line(way.Label);
        var taken = before.Select(s => s.Key).ToHashSet();
        var key = Key.TryParse(way.Key ?? "", out var known) && !taken.Contains(known) ? known : Key.From(label, taken, "way");
        var rates = way.Rates.Where(r => !IsEmpty(r)).Select(r => Read(r, place, currency)).OfType<DeliveryRate>().ToImmutableArray();
        if (rates.IsEmpty && !_faults.Exists(f => f.Where == place))
            _faults.Add(new Fault(place, $"{label} needs at least one row with a charge."));
        if (rates.Distinct().Count() < rates.Length)
            _faults.Add(new Fault(place, $"{label} has the same row twice."));
        return Classes.Any(c => c.Key.Text == way.TaxClass)
            ? new DeliveryService(key, label, way.TaxClass!, rates) { Bulky = ReadBulky(way, place, currency) }
            : Fault<DeliveryService>(place, "That tax class is no longer there.");
    }

    private DeliveryRate? Read(RateRow row, string place, Currency currency)
    {
        var charge = TypedNumbers.Amount(row.Charge, currency);
        var from = TypedNumbers.Amount(row.From, currency);
        if ((charge.Problem ?? from.Problem) is { } wrong)
            return Fault<DeliveryRate>(place, wrong);
        // A row without a charge is one that was cleared, or forgotten where something else stands in it.
        if (charge.Value is not { } amount)
            return Fault<DeliveryRate>(place, "A row with a weight, a length or an amount needs its charge; clear all of it to remove it.");
        var grams = Measure(row.Kilos, place, "kg", MostKilos, 1000);
        var longest = Measure(row.Centimetres, place, "cm", MostCentimetres, 10);
        return new DeliveryRate(grams, from.Value, amount) { LongestUpToMm = longest };
    }

    /// <summary>A weight or length above 0 in whole small units.</summary>
    private int? Measure(string? typed, string place, string unit, int most, int small)
    {
        if (string.IsNullOrWhiteSpace(typed))
            return null;
        var read = TypedNumbers.Number(typed.Trim(), small == 10 ? 1 : 3);
        if (read.Ok && read.Value > 0 && read.Value <= most)
            return (int)(read.Value * small);
        _faults.Add(new Fault(place, $"“{typed}” is no number of {unit} above 0{(small == 10 ? " with one decimal" : "")}."));
        return null;
    }

    private BulkyCharge? ReadBulky(WayRow way, string place, Currency currency)
    {
        var amount = TypedNumbers.Amount(way.BulkyAmount, currency);
        if (amount.Problem is { } wrong)
            return Fault<BulkyCharge>(place, wrong);
        var (tags, products) = (Typed(way.BulkyTags), Typed(way.BulkyProducts?.ToUpperInvariant()));
        if (amount.Value is { } charge && (tags.Length > 0 || products.Length > 0))
            return new BulkyCharge(tags, products, charge);
        return amount.Value is null && tags.IsEmpty && products.IsEmpty
            ? null
            : Fault<BulkyCharge>(
                place,
                "A charge for bulky goods needs its amount and which goods they are: by tags, or by product codes."
            );
    }

    private static ImmutableArray<string> Typed(string? list) =>
        [.. TypedText.Line(list).Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)];

    private T? Fault<T>(string place, string what)
        where T : class
    {
        _faults.Add(new Fault(place, what));
        return null;
    }
}
