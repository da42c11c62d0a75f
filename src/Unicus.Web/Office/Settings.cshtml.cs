using System.Collections.Immutable;
using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Web.Office;

/// <summary>One row of the destinations as typed.</summary>
public sealed class DestinationRow
{
    public string? Code { get; set; }
    public string? Label { get; set; }
    public List<string?> Rates { get; set; } = [];
    public string? Delivery { get; set; }
    public string? DeliveryTaxClass { get; set; }
}

/// <summary>The shop's name, currency, tax, destinations and stock locations.</summary>
public sealed class SettingsModel(ShopReading reading, StockReading stock, ChangeSettings change, Shell.Visit visit) : PageModel
{
    [BindProperty]
    public string? Name { get; set; }

    [BindProperty]
    public string? TimeZone { get; set; }

    [BindProperty]
    public string? Currency { get; set; }

    [BindProperty]
    public bool PricesIncludeTax { get; set; }

    [BindProperty]
    public string? TaxClasses { get; set; }

    [BindProperty]
    public List<DestinationRow> Destinations { get; set; } = [];

    [BindProperty]
    public string? NewLocations { get; set; }

    [BindProperty]
    public string? VideoHosts { get; set; }

    [BindProperty]
    public string? CountShownBelow { get; set; }

    [BindProperty]
    public string? Locale { get; set; }

    /// <summary>An amount as shoppers read it now.</summary>
    public string? Sample { get; private set; }

    [BindProperty]
    public string? BuyersKeptMonths { get; set; }

    [BindProperty]
    public int Version { get; set; }

    public IReadOnlyList<TaxClass> Classes { get; private set; } = [];
    public IReadOnlyList<string> LocationNames { get; private set; } = [];
    public bool Saved { get; private set; }
    private List<Fault> _faults = [];
    private HashSet<string> _known = [];

    /// <summary>Whether a row is about a destination that is kept already.</summary>
    public bool IsKnown(DestinationRow row) => row.Code is { Length: > 0 } code && _known.Contains(code);

    public IEnumerable<string> FaultsOf(string where) => _faults.Where(f => f.Where == where).Select(f => f.What);

    public async Task OnGet(bool saved)
    {
        Saved = saved;
        var shop = await reading.SettingsAfresh();
        _known = [.. shop.Terms.Destinations.Select(d => d.Code)];
        (Name, TimeZone, Currency, PricesIncludeTax, Version) = (
            shop.Name,
            shop.TimeZone.Id,
            shop.Currency.Code,
            shop.Terms.PricesIncludeTax,
            shop.Version
        );
        TaxClasses = string.Join(", ", shop.Terms.TaxClasses.Select(c => c.Label));
        VideoHosts = string.Join(", ", shop.VideoHosts);
        CountShownBelow = shop.Terms.CountShownBelow?.ToString("N0", CultureInfo.InvariantCulture);
        (Locale, Sample) = (shop.Locale, shop.PriceForm.Text(new Money(1340.5m, shop.Currency)));
        BuyersKeptMonths = shop.BuyersKeptMonths?.ToString(CultureInfo.InvariantCulture);
        Classes = shop.Terms.TaxClasses;
        Destinations =
        [
            .. shop.Terms.Destinations.Select(d => new DestinationRow
            {
                Code = d.Code,
                Label = d.Label,
                Rates = [.. Classes.Select(c => d.RateOf(c.Key.Text).ToString())],
                Delivery = d.Services is [] ? "" : d.Services[0].FlatCharge?.ForPeople(),
                DeliveryTaxClass = d.Services.FirstOrDefault()?.TaxClass,
            }),
            new DestinationRow(),
            new DestinationRow(),
        ];
        LocationNames = [.. (await stock.Locations()).Select(l => l.Name)];
    }

    public async Task<IActionResult> OnPost()
    {
        var shop = await reading.SettingsAfresh();
        _known = [.. shop.Terms.Destinations.Select(d => d.Code)];
        var currency = Unicus.Core.Money.Currency.Find(Currency ?? "");
        if (currency is null)
            _faults.Add(new Fault("currency", $"“{Currency}” is not a currency code of ISO 4217, such as EUR."));
        var old = shop.Terms.TaxClasses;
        Classes = old;
        var classes = MakeClasses(old);
        var destinations = Destinations
            .Where(d => !string.IsNullOrWhiteSpace(d.Code))
            .Select(d => ReadDestination(d, currency ?? shop.Currency, shop.Terms))
            .ToImmutableArray();
        var below = TypedNumbers.Whole(CountShownBelow, 1, 1_000_000);
        if (below.Problem is { } wrong)
            _faults.Add(new Fault("countShownBelow", wrong));
        var months = TypedNumbers.Whole(BuyersKeptMonths, 1, ChangeSettings.MostMonths);
        if (months.Problem is { } wrongMonths)
            _faults.Add(new Fault("buyersKeptMonths", wrongMonths));
        if (_faults.Count == 0)
        {
            var terms = shop.Terms with
            {
                Currency = currency!,
                PricesIncludeTax = PricesIncludeTax,
                TaxClasses = classes,
                Destinations = destinations,
                CountShownBelow = below.Value,
            };
            var outcome = await change.Run(
                new WantedSettings(
                    Name ?? "",
                    TimeZone ?? "",
                    terms,
                    Typed(NewLocations),
                    Typed(VideoHosts?.ToLowerInvariant()),
                    months.Value,
                    TypedText.Line(Locale),
                    Version
                ),
                visit.Actor
            );
            if (outcome.Done)
                return Redirect("/office/settings?saved=true");
            _faults = [.. outcome.Faults];
        }
        LocationNames = [.. (await stock.Locations()).Select(l => l.Name)];
        Version = (await reading.SettingsAfresh()).Version;
        return Page();
    }

    private static string[] Typed(string? list) =>
        (list ?? "").Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);

    /// <summary>Keeps the key of a class whose label stays, or that stands at the same place.</summary>
    private ImmutableArray<TaxClass> MakeClasses(ImmutableArray<TaxClass> old)
    {
        var labels = TypedValues.Split(TaxClasses ?? "", []).Labels;
        var keys = old.Select(c => c.Key).ToHashSet();
        var made = ImmutableArray.CreateBuilder<TaxClass>();
        foreach (var label in labels)
        {
            var known = old.FirstOrDefault(c => c.Label == label);
            var key = known?.Key ?? Key.From(label, keys, "tax");
            keys.Add(key);
            made.Add(new TaxClass(key, label));
        }
        return made.ToImmutable();
    }

    private Destination ReadDestination(DestinationRow row, Currency currency, TradeTerms before)
    {
        var classes = before.TaxClasses;
        var rates = ImmutableSortedDictionary.CreateBuilder<string, decimal>();
        for (var i = 0; i < classes.Length && i < row.Rates.Count; i++)
        {
            var rate = TypedNumbers.Percent(row.Rates[i]);
            if (!rate.Ok || rate.Value?.Value is < 0 or > 100)
                _faults.Add(new Fault("destinations", $"{row.Code}: a tax rate lies between 0 and 100 %."));
            else if (rate.Value is { Value: not 0 } r)
                rates[classes[i].Key.Text] = r.Value;
        }
        var delivery = TypedNumbers.Amount(row.Delivery, currency);
        if (!delivery.Ok)
            _faults.Add(new Fault("destinations", $"{row.Code}: {delivery.Problem}"));
        var code = row.Code!.Trim().ToUpperInvariant();
        var taxClass = row.DeliveryTaxClass ?? classes[0].Key.Text;
        return new Destination(
            code,
            string.IsNullOrWhiteSpace(row.Label) ? row.Code!.Trim() : row.Label.Trim(),
            rates.ToImmutable(),
            Services(
                before.Destinations.FirstOrDefault(d => d.Code == code),
                delivery.Value ?? Money.Zero(currency),
                row.Delivery,
                taxClass
            )
        );
    }

    /// <summary>One charge for everything; tables of charges, which have a page of their own, stay while the box is left empty.</summary>
    private static ImmutableArray<DeliveryService> Services(Destination? before, Money charge, string? typed, string taxClass) =>
        before is { Services: [var first, ..] services }
            ? string.IsNullOrWhiteSpace(typed) && first.FlatCharge is null
                ? services
                : services.SetItem(0, first with { TaxClass = taxClass, Rates = [new DeliveryRate(null, null, charge)] })
            : [DeliveryService.Flat(charge, taxClass)];
}
