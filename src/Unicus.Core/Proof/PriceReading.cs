namespace Unicus.Core.Proof;

using System.Collections.Concurrent;
using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Products;
using Unicus.Core.Variants;

/// <summary>The base prices and surcharges behind the prices of many variants.</summary>
/// <param name="Base">The price of the product, in minor units.</param>
/// <param name="BaseOption">The option whose values set base prices of their own; null for none.</param>
/// <param name="BasePrices">The base price of each of its values that has another than the product's, in minor units.</param>
/// <param name="Surcharges">Of values that have one.</param>
public sealed record PriceStructure(
    long Base,
    Key? BaseOption,
    ImmutableDictionary<Key, long> BasePrices,
    ImmutableDictionary<(Key Option, Key Value), Surcharge> Surcharges
)
{
    /// <summary>How many figures it takes: the base, prices set on values, and surcharges.</summary>
    public int Figures => 1 + BasePrices.Count + Surcharges.Count;

    /// <summary>The product with these prices on itself and its values, in place of those that it had there; variants keep their
    /// own.</summary>
    public Product On(Product product, Currency currency) =>
        product with
        {
            Base = product.Base with { Price = MinorUnits.ToMoney(Base, currency) },
            Options = [.. product.Options.Select(o => o with { Values = [.. o.Values.Select(v => On(o, v, currency))] })],
        };

    private OptionValue On(Option option, OptionValue value, Currency currency) =>
        value with
        {
            Surcharge = Surcharges.GetValueOrDefault((option.Key, value.Key)),
            Figures = value.Figures with
            {
                Price =
                    option.Key == BaseOption && BasePrices.TryGetValue(value.Key, out var price)
                        ? MinorUnits.ToMoney(price, currency)
                        : null,
            },
        };
}

/// <summary>Reads base and surcharges back from prices that were typed for each variant: those that leave the fewest own prices
/// over, and of these the ones that take the fewest figures.</summary>
/// <remarks>
/// For every two values of an option the difference that most pairs of variants agree on counts; the best supported differences are
/// joined into one for each value (a spanning tree), so that single prices that are out of line do not matter. Then each figure in turn
/// is set to what most variants need, as long as fewer are left over. It is tried without base prices on values, and with each option
/// as the one whose values set them; only there percentages and amounts are told apart.
/// </remarks>
public sealed partial class PriceReading
{
    private const int Sweeps = 12;
    private const int FewPrices = 1_500;
    private const int VeryFewPrices = 200;

    private readonly IReadOnlyList<Option> _options;
    private readonly int[][] _places;
    private readonly long[] _prices;

    private PriceReading(IReadOnlyList<Option> options, int[][] places, long[] prices) =>
        (_options, _places, _prices) = (options, places, prices);

    /// <summary>Reads the prices of all variants on offer that have one.</summary>
    /// <returns>Null where none has.</returns>
    public static PriceStructure? Of(VariantMatrix matrix)
    {
        var priced = matrix.Offered.Where(v => v.Price.Figure is not null).ToList();
        if (priced.Count == 0)
            return null;
        var index = matrix.Options.Select(o => o.Values.Index().ToDictionary(v => v.Item.Key, v => v.Index)).ToArray();
        var places = priced.Select(v => matrix.Options.Select((o, i) => index[i][v.Values[o.Key]!.Value]).ToArray()).ToArray();
        return new PriceReading(matrix.Options, places, [.. priced.Select(v => MinorUnits.Of(v.Price.Figure!.Value))]).Find(
            priced[0].Price.Figure!.Value.Currency
        );
    }

    private PriceStructure Find(Currency currency)
    {
        var all = Enumerable.Range(0, _prices.Length).ToList();
        var everywhere = _options.Select((_, o) => Differences(o, all)).ToArray();
        var guesses = new List<Func<Guess>> { () => new Guess(this, -1, _ => everywhere) };
        for (var o = 0; o < _options.Count; o++)
            if (_options.Count > 1 && _options[o].Values.Length > 1)
            {
                var baseOption = o;
                guesses.Add(() => new Guess(this, baseOption, _ => everywhere));
                guesses.Add(() => Guess.BySlice(this, baseOption));
                // Of very few prices most that are out of line may have one base: what values add is taken from each of the others too.
                for (var v = 0; v < _options[o].Values.Length && _prices.Length <= VeryFewPrices; v++)
                {
                    var slice = v;
                    guesses.Add(() => Guess.OfSlice(this, baseOption, slice));
                }
            }
        // One at a time for each processor: some take far longer than others.
        var oneByOne = Partitioner.Create(guesses.Index(), EnumerablePartitionerOptions.NoBuffering);
        var fits = oneByOne.AsParallel().Select(g => (g.Index, Fit: BestOf(g.Item()))).ToList();
        return fits.OrderBy(f => f.Fit.Missed).ThenBy(f => f.Fit.Figures).ThenBy(f => f.Index).First().Fit.ToStructure(_options, currency);
    }

    /// <summary>The best fit from a guess, whichever value of each option is the one without a surcharge.</summary>
    private Fit BestOf(Guess guess)
    {
        var (best, isFew) = (new Fit(guess, guess.UsualReferences()), _prices.Length <= FewPrices);
        if (guess.BaseOption < 0)
        {
            best.Improve();
            return best;
        }
        // Where there are many, one look around is enough.
        for (var before = int.MaxValue; best.Missed < before && (isFew || before == int.MaxValue);)
        {
            before = best.Missed;
            best = Neighbours(guess, best).Aggregate(best, (b, fit) => fit.Missed < b.Missed ? fit : b);
        }
        best.Improve();
        // Where there are few, what comes of each neighbour is looked at to the end.
        foreach (var fit in isFew ? Neighbours(guess, best).ToList() : [])
        {
            fit.Improve();
            if (fit.Missed < best.Missed)
                best = fit;
        }
        return best;
    }

    /// <summary>Fits that leave another value of one option without a surcharge.</summary>
    private IEnumerable<Fit> Neighbours(Guess guess, Fit fit)
    {
        for (var o = 0; o < _options.Count; o++)
            for (var v = 0; v < _options[o].Values.Length; v++)
            {
                if (o == guess.BaseOption || v == fit.References[o])
                    continue;
                var tried = (int[])fit.References.Clone();
                tried[o] = v;
                yield return new Fit(guess, tried);
            }
    }

    /// <summary>The value that stands most often; the smaller on a tie.</summary>
    private static (long Value, int Count) Mode(IEnumerable<long> values)
    {
        var counts = new Dictionary<long, int>();
        var (best, most) = (0L, 0);
        foreach (var value in values)
        {
            var count = counts[value] = counts.GetValueOrDefault(value) + 1;
            if (count > most || (count == most && value < best))
                (best, most) = (value, count);
        }
        return (best, most);
    }

    /// <summary>For each value what it adds to the first, by the differences that most pairs of cells agree on.</summary>
    /// <param name="option">The place of the option.</param>
    /// <param name="cells">The cells that are looked at.</param>
    private long[] Differences(int option, IReadOnlyList<int> cells)
    {
        var values = _options[option].Values.Length;
        var lines = new Dictionary<long, int[]>();
        foreach (var cell in cells)
        {
            var key = 0L;
            for (var o = 0; o < _options.Count; o++)
                key = key * _options[o].Values.Length + (o == option ? 0 : _places[cell][o]);
            if (!lines.TryGetValue(key, out var line))
            {
                lines[key] = line = new int[values];
                Array.Fill(line, -1);
            }
            line[_places[cell][option]] = cell;
        }
        var edges = new List<Step>();
        for (var a = 0; a < values; a++)
            for (var b = a + 1; b < values; b++)
            {
                var (by, count) = Mode(lines.Values.Where(l => l[a] >= 0 && l[b] >= 0).Select(l => _prices[l[b]] - _prices[l[a]]));
                if (count > 0)
                    edges.Add(new Step(a, b, by, count));
            }
        return Joined(values, edges);
    }

    /// <summary>The differences to the first value along the best supported edges.</summary>
    private static long[] Joined(int values, List<Step> edges)
    {
        var (found, adds) = (new bool[values], new long[values]);
        for (var start = 0; start < values; start++)
        {
            // Values that share no line with those before begin anew.
            if (found[start])
                continue;
            found[start] = true;
            while (edges.Where(e => found[e.From] != found[e.To]).OrderByDescending(e => e.Count).ToList() is [var next, ..])
                if (found[next.From])
                    (found[next.To], adds[next.To]) = (true, adds[next.From] + next.By);
                else
                    (found[next.From], adds[next.From]) = (true, adds[next.To] - next.By);
        }
        return adds;
    }

    /// <summary>By how much one value mostly lies above another.</summary>
    /// <param name="From">Where it begins.</param>
    /// <param name="To">Where it ends.</param>
    /// <param name="By">Who did it.</param>
    /// <param name="Count">How many lines say so.</param>
    private sealed record Step(int From, int To, long By, int Count);

    /// <summary>What a value adds: an amount, or a percentage of the base.</summary>
    private readonly record struct Adding(long Amount, decimal Percent)
    {
        public long On(long basis) => Amount + (Percent == 0 ? 0 : ConfigurationCost.Share(basis, new Percentage(Percent)));

        public bool IsNothing => Amount == 0 && Percent == 0;
    }

    /// <summary>What values add to the first of their option, by which a fit begins.</summary>
    /// <param name="of">What the line is of.</param>
    /// <param name="baseOption">The option whose values set base prices; −1 for none.</param>
    /// <param name="differences">By the place of a value of that option, for each option and value.</param>
    private sealed class Guess(PriceReading of, int baseOption, Func<int, long[][]> differences)
    {
        public PriceReading Of => of;
        public int BaseOption => baseOption;
        public Dictionary<int, List<int>> Slices { get; } =
            Enumerable.Range(0, of._prices.Length).GroupBy(c => of.SliceOf(c, baseOption)).ToDictionary(g => g.Key, g => g.ToList());

        /// <summary>For each value that sets a base price by itself.</summary>
        public static Guess BySlice(PriceReading of, int baseOption)
        {
            var found = Enumerable
                .Range(0, of._prices.Length)
                .GroupBy(c => of.SliceOf(c, baseOption))
                .ToDictionary(g => g.Key, g => of._options.Select((_, o) => of.Differences(o, [.. g])).ToArray());
            return new Guess(of, baseOption, slice => found[slice]);
        }

        /// <summary>As in the slice of one value that sets a base price.</summary>
        public static Guess OfSlice(PriceReading of, int baseOption, int slice)
        {
            int[] cells = [.. Enumerable.Range(0, of._prices.Length).Where(c => of.SliceOf(c, baseOption) == slice)];
            var found = of._options.Select((_, o) => of.Differences(o, cells)).ToArray();
            return new Guess(of, baseOption, _ => found);
        }

        /// <summary>What a value adds to the one without a surcharge.</summary>
        public long Adds(int slice, int option, int value, int[] references)
        {
            var adds = differences(slice)[option];
            return adds[value] - adds[references[option]];
        }

        /// <summary>The values that leave most others without a surcharge; the first on a tie.</summary>
        public int[] UsualReferences() =>
            [
                .. of._options.Select(
                    (option, o) =>
                        Enumerable
                            .Range(0, option.Values.Length)
                            .MaxBy(v => Slices.Keys.Sum(s => differences(s)[o].Count(other => other == differences(s)[o][v])))
                ),
            ];
    }

    private int SliceOf(int cell, int baseOption) => baseOption < 0 ? 0 : _places[cell][baseOption];
}
