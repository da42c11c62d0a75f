using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Unicus.Store;

namespace Unicus.Demo;

/// <summary>Thistle &amp; Skep, a made-up supplier for beekeepers.</summary>
public static class DemoShop
{
    public const string User = "maren@thistle-and-skep.example";

    /// <summary>The demo account's password; it opens nothing but made-up data, and sign-in offers it only in a demo shop.</summary>
    public const string Password = "Skep-and-thistle-1";

    private static readonly Actor Maren = new("Maren");

    /// <summary>Adds the people: the demo account, and one who helps at the weekend.</summary>
    public static async Task AddPeople(UnicusContext db)
    {
        if (await db.People.AnyAsync())
            return;
        db.People.AddRange(
            Person(User, "Maren", Roles.Owner, Passwords.Hash(Password)),
            Person("ivo@thistle-and-skep.example", "Ivo", Roles.Staff, null)
        );
        await db.SaveChangesAsync();
    }

    private static PersonRow Person(string email, string name, string role, string? password) =>
        new()
        {
            Email = email,
            EmailKey = Entrance.KeyOf(email),
            Name = name,
            Role = role,
            AddedAt = DateTimeOffset.UtcNow,
            PasswordHash = password,
            Stamp = Secrets.New(),
        };

    /// <summary>Fills the shop: terms, pictures, products, editions, a draft, orders of the last weeks.</summary>
    public static async Task Fill(IServiceProvider provider)
    {
        await In(provider, async s => await Settings(s.GetRequiredService<UnicusContext>()));
        await In(provider, async s => await Pictures(s.GetRequiredService<UnicusContext>()));
        await In(provider, async s => await Library(s.GetRequiredService<OptionLibrary>(), s.GetRequiredService<UnicusContext>()));
        foreach (var (name, json) in Resources(".json"))
            await In(provider, async s =>
            {
                using var document = JsonDocument.Parse(json);
                var code = document.RootElement.GetProperty("code").GetString()!;
                var (result, faults) = await s.GetRequiredService<PutProduct>().Run(code, document.RootElement, Maren);
                if (result != PutResult.Created)
                    throw new InvalidOperationException($"{name}: {string.Join(' ', faults)}");
            });
        await In(provider, async s =>
            await s.GetRequiredService<ChangeField>()
                .Run("COOP", "until", DateTime.UtcNow.AddDays(40).ToString("yyyy-MM-dd", CultureInfo.InvariantCulture), null, Maren)
        );
        await In(provider, async s => await Wrapping(s.GetRequiredService<UnicusContext>()));
        // Parts of other goods come first.
        string[] last = ["GH1", "ROLL", "FYK", "FRAMESET", "APIARY", "COOP"];
        foreach (var code in (await Codes(provider)).OrderBy(c => Array.IndexOf(last, c)))
            if (code != "EX4")
                await In(provider, async s => await Published(s, code));
        await In(provider, async s =>
            await DemoPrices.Make(
                at => new ChangePriceRules(s.GetRequiredService<UnicusContext>(), new ClockAt(at)),
                s.GetRequiredService<Coupons>(),
                Maren,
                new DateTimeOffset(DateTime.UtcNow.Date, TimeSpan.Zero)
            )
        );
        await Orders(provider);
        await In(provider, async s => await s.GetRequiredService<FindTogether>().Run());
        // A working copy that differs from what is on sale, as there always is one.
        await In(provider, async s =>
            await s.GetRequiredService<ChangeField>()
                .Run("SMK", "summary", "Stainless steel with a guard, leather bellows and a hook for the hive.", null, Maren)
        );
    }

    /// <summary>Puts a product on sale, as it was done some weeks ago.</summary>
    private static Task<Outcome<int>> Published(IServiceProvider services, string code) =>
        new PublishEdition(
            services.GetRequiredService<UnicusContext>(),
            services.GetRequiredService<Catalogue>(),
            services.GetRequiredService<RangeEntries>(),
            new ClockAt(DateTimeOffset.UtcNow.AddDays(-70))
        ).Run(code, Maren);

    private static async Task Settings(UnicusContext db)
    {
        var shop = await db.Shops.SingleAsync();
        Money Euro(decimal amount) => new(amount, Currency.Euro);
        ImmutableSortedDictionary<string, decimal> Rates(decimal standard, decimal reduced) =>
            ImmutableSortedDictionary<string, decimal>.Empty.Add("standard", standard).Add("reduced", reduced);
        shop.Name = "Thistle & Skep";
        shop.TimeZone = "Europe/Dublin";
        shop.OffersDemoAccount = true;
        var courier = new DeliveryService(
            Key.Of("courier"),
            "Courier, next working day",
            "standard",
            [new DeliveryRate(5_000, null, Euro(11.50m)), new DeliveryRate(25_000, null, Euro(18.00m)) { LongestUpToMm = 1_200 }]
        );
        shop.Terms = ShopSettings.WriteTerms(
            new TradeTerms(
                Currency.Euro,
                true,
                [
                    new TaxClass(Key.Of("standard"), "Standard"),
                    new TaxClass(Key.Of("reduced"), "Reduced"),
                    new TaxClass(Key.Of("zero"), "Zero"),
                ],
                [
                    new Destination("IE", "Ireland", Rates(23, 13.5m), [DeliveryService.Flat(Euro(6.50m), "standard"), courier]),
                    new Destination("DE", "Germany", Rates(19, 7), [DeliveryService.Flat(Euro(14.00m), "standard")]),
                    new Destination("FR", "France", Rates(20, 5.5m), [DeliveryService.Flat(Euro(14.00m), "standard")]),
                ]
            )
            {
                Floor = new Percentage(20),
            }
        );
        var first = await db.Locations.SingleAsync();
        (first.Key, first.Name) = ("barn", "Barn");
        db.Locations.Add(
            new LocationRow
            {
                Key = "shop",
                Name = "Shop",
                Position = 2,
            }
        );
        await db.SaveChangesAsync();
    }

    /// <summary>Options that several goods share, and a category that fills itself.</summary>
    private static async Task Library(OptionLibrary library, UnicusContext db)
    {
        await library.Create("Timber", "Cedar, Larch, Pine, Douglas fir");
        await library.Create("Cloth", "White cotton, Grey linen");
        string[] colours = ["#a8623a", "#d7a86a", "#ead7ae", "#c98b5b"];
        var timber = (await library.Find("timber"))!;
        await library.Change(
            "timber",
            timber.Version,
            o => Read<Option>.Of(o with { Values = [.. o.Values.Select((v, i) => v with { Swatch = new Swatch.Colour(colours[i]) })] }),
            Maren
        );
        var honey = new CategoryRow
        {
            Key = "honey-house",
            Name = "Honey house",
            Specifications = ["Holds", "Lid"],
        };
        db.Categories.AddRange(
            honey,
            new CategoryRow
            {
                Key = "hives",
                Name = "Hives",
                Options = ["timber"],
                Specifications = ["Frames", "Bee space"],
            },
            new CategoryRow
            {
                Key = "clothing",
                Name = "Clothing",
                Options = ["size", "cloth"],
            }
        );
        await db.SaveChangesAsync();
        db.Categories.Add(
            new CategoryRow
            {
                Key = "glass",
                Name = "Glass",
                ParentId = honey.Id,
                Search = "glass",
            }
        );
        await db.SaveChangesAsync();
    }

    /// <summary>Gift wrapping for everything, with a card where it is wrapped.</summary>
    private static async Task Wrapping(UnicusContext db)
    {
        Money Euro(decimal amount) => new(amount, Currency.Euro);
        var (wrap, card, paper) = (Key.Of("wrap"), Key.Of("card"), Key.Of("paper-of-gift"));
        OptionValue[] papers =
        [
            new(Key.Of("plain"), "Plain paper"),
            new(Key.Of("hessian"), "Hessian") { Surcharge = new Surcharge.PerUnit(Euro(2.00m)) },
        ];
        var set = new ExtraSet(
            Key.Of("gift-wrapping"),
            "Gift wrapping",
            Everything: true,
            [],
            [
                new Option(wrap, "Gift wrapping", OptionRole.Extra)
                {
                    Ask = Ask.YesNo,
                    Values =
                    [
                        new OptionValue(Key.Of("yes"), "Wrap it") { Surcharge = new Surcharge.PerUnit(Euro(4.50m)), Cost = Euro(1.60m) },
                    ],
                },
                new Option(paper, "Wrapped in", OptionRole.Extra)
                {
                    Ask = Ask.One,
                    Required = true,
                    Default = Key.Of("plain"),
                    Values = [.. papers],
                },
                new Option(card, "Words on the card", OptionRole.Extra) { Ask = Ask.Text, MaxLength = 120 },
            ],
            [new SelectionRule(Key.Of("wrapped"), new Condition.Is(wrap, [Key.Of("yes")]), [new Effect.Show([paper, card])])]
        );
        db.ExtraSets.Add(new ExtraSetRow { Key = set.Key.Text, Definition = ExtraSetDocument.Write(set).ToJsonString() });
        await db.SaveChangesAsync();
    }

    private static async Task Pictures(UnicusContext db)
    {
        foreach (var (name, svg) in Resources(".svg"))
        {
            var bytes = Encoding.UTF8.GetBytes(svg);
            db.Pictures.Add(
                new PictureRow
                {
                    File = name,
                    ContentType = "image/svg+xml",
                    Width = 320,
                    Height = 240,
                    Large = bytes,
                    Medium = bytes,
                    Small = bytes,
                }
            );
        }
        await db.SaveChangesAsync();
    }

    private static readonly string[] Buyers =
    [
        "Orla Brennan",
        "Tomás Keane",
        "Greta Lindqvist",
        "Jonas Weber",
        "Aoife Nolan",
        "Piet de Wit",
        "Claire Moreau",
        "Sean Hartigan",
        "Ines Albrecht",
        "Ruth Okafor",
        "Henrik Dahl",
        "Bríd Ní Laoire",
    ];

    private static readonly string[] OrderedSkus =
    [
        "SUIT-172-C-R",
        "GH1-M-LA",
        "FD2",
        "JAR-250-G",
        "FRM-S",
        "SMK",
        "HT-J",
        "GLV-M",
        "DAY1",
        "JAR-500-K",
        "FRM-D",
        "FD1",
        "GH1-D-CE",
        "SUIT-180-L-F",
        "GLV-L",
        "FD4",
    ];

    /// <summary>Some seventy orders over nine weeks, always the same ones relative to today.</summary>
    private static async Task Orders(IServiceProvider provider)
    {
        var now = DateTimeOffset.UtcNow;
        uint seed = 7;
        int Next(int below) => (int)((seed = seed * 1664525 + 1013904223) >> 8) % below;
        for (var i = 0; i < 72; i++)
        {
            var buyer = Buyers[Next(Buyers.Length)];
            var placed = now.AddDays(-62 + i * 0.86).AddMinutes(Next(600));
            var lines = Enumerable
                .Range(0, 1 + Next(3))
                .Select(_ => OrderedSkus[Next(OrderedSkus.Length)])
                .Distinct()
                .Select(sku => new LineRequest(
                    null,
                    sku,
                    [],
                    sku.StartsWith("JAR", StringComparison.Ordinal) ? 12 * (1 + Next(6))
                        : sku.StartsWith("FRM", StringComparison.Ordinal) ? 10 * (1 + Next(3))
                        : 1,
                    null
                ))
                .ToImmutableArray();
            string[] countries = ["IE", "IE", "IE", "DE", "FR"];
            var request = new BasketRequest(lines, countries[Next(5)]);
            await In(provider, async s =>
            {
                var db = s.GetRequiredService<UnicusContext>();
                var clock = new ClockAt(placed > now ? now : placed);
                var done = await new PlaceOrder(
                    db,
                    s.GetRequiredService<Catalogue>(),
                    s.GetRequiredService<BasketPricing>(),
                    new Coupons(db),
                    new RepeatedCalls(db, clock),
                    clock
                ).Run(
                    request,
                    new Buyer(
                        buyer,
                        Slug.From(buyer, 30).Replace('-', '.') + "@example.org",
                        "1 Skep Lane\nExampleton",
                        "Paid (simulated)"
                    ),
                    Actor.Shopper
                );
                if (done.Order is { } order && i < 66)
                    await End(
                        s,
                        order.Number,
                        isCalledOff: i % 19 == 11,
                        clock.GetUtcNow().AddHours(20) is var end && end > now ? now : end
                    );
            });
        }
        await In(provider, async s =>
            await s.GetRequiredService<UnicusContext>().Outbox.Where(m => m.At < now.AddDays(-7)).ExecuteDeleteAsync()
        );
    }

    private static Task<Outcome> End(IServiceProvider services, int order, bool isCalledOff, DateTimeOffset at)
    {
        var db = services.GetRequiredService<UnicusContext>();
        var end = new EndOrder(db, services.GetRequiredService<Catalogue>(), new Coupons(db), new ClockAt(at));
        return isCalledOff ? end.Cancel(order, "The buyer changed their mind.", Maren) : end.Dispatch(order, Maren);
    }

    private static async Task<List<string>> Codes(IServiceProvider provider)
    {
        await using var scope = provider.CreateAsyncScope();
        return await scope.ServiceProvider.GetRequiredService<UnicusContext>().Products.Select(p => p.Code).ToListAsync();
    }

    private static async Task In(IServiceProvider provider, Func<IServiceProvider, Task> work)
    {
        await using var scope = provider.CreateAsyncScope();
        await work(scope.ServiceProvider);
    }

    private static IEnumerable<(string Name, string Text)> Resources(string ending)
    {
        var assembly = typeof(DemoShop).Assembly;
        foreach (
            var resource in assembly
                .GetManifestResourceNames()
                .Where(n => n.EndsWith(ending, StringComparison.Ordinal))
                .Order(StringComparer.Ordinal)
        )
        {
            using var reader = new StreamReader(assembly.GetManifestResourceStream(resource)!);
            yield return (string.Join('.', resource.Split('.')[^2..]), reader.ReadToEnd());
        }
    }

    private sealed class ClockAt(DateTimeOffset at) : TimeProvider
    {
        public override DateTimeOffset GetUtcNow() => at;
    }
}
