using System.Text.Json;
using CsCheck;

namespace Unicus.CoreTests;

/// <summary>What lists show, found by looking at the variants, against what compiling rules and prices finds.</summary>
public class ListFigureTests
{
    private static readonly Gen<Surcharge?> Surcharges = Gen.Select(Gen.Int[0, 4], Gen.Int[-40, 900], Gen.Int[0, 9])
        .Select(
            (kind, cents, percent) =>
                kind switch
                {
                    0 => (Surcharge?)null,
                    1 => new Surcharge.Percent(new Percentage(percent)),
                    2 => new Surcharge.Once(Sample.Eur(Math.Abs(cents) / 100m)),
                    _ => new Surcharge.PerUnit(Sample.Eur(cents / 100m)),
                }
        );

    private static readonly Gen<Option> Extra = Gen.Select(Gen.Int[0, 2], Gen.Bool, Surcharges.Array[1, 3], Surcharges)
        .Select(
            (ask, required, values, own) =>
                ask == 2
                    ? new Option(Key.Of("e"), "E", OptionRole.Extra)
                    {
                        Ask = Ask.YesNo,
                        Required = required,
                        Surcharge = own,
                        Values = [new OptionValue(Key.Of("yes"), "Yes")],
                    }
                    : new Option(Key.Of("e"), "E", OptionRole.Extra)
                    {
                        Ask = ask == 0 ? Ask.One : Ask.Several,
                        Required = required,
                        Values = [.. values.Select((s, i) => new OptionValue(Key.Of($"v{i}"), $"V{i}") { Surcharge = s })],
                    }
        );

    /// <summary>Law: the short way says what the long way says, whatever the extras, the rules for prices, the floor and the
    /// stock.</summary>
    [Fact]
    public void Looking_at_variants_finds_what_compiling_finds() =>
        OverMany(
            (edition, terms) =>
            {
                var (quick, whole) = (ListFigures.Of(edition, terms), ListFigures.OfAny(edition, terms));
                Assert.Equal((whole.From, whole.Varies, whole.Once), (quick.From, quick.Varies, quick.Once));
            }
        );

    /// <summary>Law: a basis that was kept before there were any rules says of every rule that treats variants alike what the product
    /// itself says.</summary>
    [Fact]
    public void A_kept_basis_says_what_the_product_says()
    {
        var (found, left) = (0, 0);
        OverMany(
            (edition, terms) =>
            {
                var before = terms with { Run = terms.Run with { Buying = terms.Run.Buying with { Book = PriceBook.Empty } } };
                var text = JsonSerializer.Serialize(ListBasis.Of(edition, before)?.Kept());
                var skus = edition.Matrix.Variants.Select(v => v.Sku.Text.ToUpperInvariant()).ToHashSet();
                var basis = JsonSerializer.Deserialize<ListBasis>(text);
                var categories = edition.Product.Categories.ToHashSet(StringComparer.OrdinalIgnoreCase);
                if (basis?.Figures(categories, rule => rule.NamedSkus.Any(skus.Contains), terms.Run) is not var (kept, changes))
                {
                    Interlocked.Increment(ref left);
                    return;
                }
                Interlocked.Increment(ref found);
                var whole = ListFigures.Of(edition, terms);
                Assert.Equal((whole.From, whole.Varies, whole.Once), (kept.From, kept.Varies, kept.Once));
                Assert.Equal(whole.Acting.Select(r => r.Id), kept.Acting.Select(r => r.Id));
                var buying = terms.Run.Buying;
                Assert.Equal(buying.Book.NextChange(edition, buying.At, buying.Zone), changes);
            }
        );
        Assert.True(found > 500 && left > 500, $"{found} {left}");
    }

    /// <summary>Asks of many products with extras, rules for prices and stock.</summary>
    private static void OverMany(Action<Edition, ConfigurationTerms> ask) =>
        Gen.Select(RandomRules.Cases, Extra.Array[0, 3], Gen.Int[0, 2].Array[4])
            .Sample(
                (c, extras, units) =>
                {
                    foreach (var made in c.Editions)
                    {
                        var product = made.Product with
                        {
                            Extras = [.. extras.Select((e, i) => e with { Key = Key.Of($"e{i}"), Label = $"E{i}" })],
                        };
                        var edition = RandomRules.Edition(product, made.ProductId);
                        var numbers = edition.Matrix.Variants.Select((v, i) => (v.Sku, i)).ToDictionary(v => v.Sku, v => v.i);
                        var stock = new StockOutlook(sku => new StockLevel(units[numbers[sku]], 0, 0, 0), new DateOnly(2027, 3, 1));
                        var book = new PriceBook(c.Rules, []);
                        var buying = RuleContext.Anyone(DateTimeOffset.UnixEpoch, TimeZoneInfo.Utc, book);
                        ask(
                            edition,
                            new ConfigurationTerms(new PublishedRange.Of([edition]), stock, Sample.Plain with { Buying = buying })
                        );
                    }
                },
                iter: 2_000
            );
}
