using System.Collections.Immutable;

namespace Unicus.CoreTests;

/// <summary>What strangers and merchants may ask without end: it stays within its bounds.</summary>
public class BoundsTests
{
    private static readonly DateOnly Today = new(2027, 3, 1);

    private static Option Number(Surcharge? surcharge = null) =>
        new(Key.Of("length"), "Length", OptionRole.Extra) { Ask = Ask.Number, Surcharge = surcharge };

    [Theory]
    [InlineData("1000000000000000")]
    [InlineData("-1000000000000000")]
    public void A_number_without_a_maximum_has_one_all_the_same(string size) =>
        Assert.Contains(
            "lies between",
            AnswerLimits.Problem(Number(), new Answer.Number(decimal.Parse(size)), Today),
            StringComparison.Ordinal
        );

    [Fact]
    public void An_answer_that_comes_to_more_than_can_be_charged_is_refused_before_it_is_priced()
    {
        var dear = Number(new Surcharge.PerMeasure(Sample.Eur(999_999_999)));
        var product = Sample.Hive with { Extras = [dear] };
        var configurator = new Configurator(product, product.Matrix());
        var given = Configuration.Empty.With(dear.Key, new Answer.Number(1_000_000_000m));
        Assert.Equal("Length 1000000000 comes to more than can be charged.", configurator.PriceProblem(given));
        Assert.Null(configurator.PriceProblem(Configuration.Empty.With(dear.Key, new Answer.Number(1))));
    }

    /// <summary>Rules that can be worked out, and answered, but whose health would need a diagram beyond the bound.</summary>
    [Fact]
    public void Health_that_cannot_be_told_is_said_to_be_unknown()
    {
        var random = new Random(7);
        var questions = Enumerable
            .Range(0, 40)
            .Select(i => Sample.Option($"q{i}", "a", "b", "c", "d") with { Role = OptionRole.Extra, Ask = Ask.One })
            .ToImmutableArray();
        var rules = Enumerable
            .Range(0, 100)
            .Select(i =>
            {
                var (when, then) = (questions[random.Next(40)], questions[random.Next(40)]);
                Key Value() => Key.Of("abcd"[random.Next(4)].ToString());
                return new SelectionRule(Key.Of($"r{i}"), new Condition.Is(when.Key, [Value()]), [new Effect.Forbid(then.Key, [Value()])]);
            })
            .ToImmutableArray();
        var product = Sample.Hive with { Extras = questions, Rules = rules };
        var configurator = new Configurator(product, product.Matrix());
        // Whatever the bound allows: an answer or a plain sentence, never an exception.
        var isKnown = configurator.Faults.IsEmpty && configurator.Health.IsKnown;
        var terms = new TradeTerms(Currency.Euro, true, [new TaxClass(Key.Of("standard"), "Standard")], []);
        var checks = ProductChecks.Look(product, product.Matrix(), terms, new Dictionary<Sku, StockLevel>(), configurator);
        Assert.True(isKnown || checks.Any(c => c.Text.Contains("interwoven", StringComparison.Ordinal)));
    }

    /// <summary>Law: whatever is asked in whatever order, one owner keeps at most its bound and always its newest; all together at most
    /// theirs.</summary>
    [Fact]
    public void What_is_kept_for_answers_is_bounded_by_its_size()
    {
        const long Megabyte = 1024 * 1024;
        var owners = Enumerable.Range(0, 12).Select(_ => new KeptAnswers<int, byte[]>(b => b.Length * Megabyte)).ToList();
        var random = new Random(3);
        for (var i = 0; i < 3000; i++)
        {
            var owner = owners[random.Next(owners.Count)];
            var key = random.Next(200);
            Assert.Equal(key % 20, owner.GetOrMake(key, k => new byte[k % 20]).Length);
            Assert.InRange(owner.Bytes, key % 20 * Megabyte, 64 * Megabyte);
            Assert.InRange(owners.Sum(o => o.Bytes), 0, 256 * Megabyte + 64 * Megabyte);
        }
    }
}
