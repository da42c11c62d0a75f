using System.Collections.Concurrent;
using System.Collections.Immutable;

namespace Unicus.Core;

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
public sealed class PriceReading
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
    /// <param name="Count">How many lines say so.</param>
    private sealed record Step(int From, int To, long By, int Count);

    /// <summary>What a value adds: an amount, or a percentage of the base.</summary>
    private readonly record struct Adding(long Amount, decimal Percent)
    {
        public long On(long basis) => Amount + (Percent == 0 ? 0 : ConfigurationCost.Share(basis, new Percentage(Percent)));

        public bool IsNothing => Amount == 0 && Percent == 0;
    }

    /// <summary>What values add to the first of their option, by which a fit begins.</summary>
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

    /// <summary>Figures that are being fitted.</summary>
    private sealed class Fit
    {
        private readonly PriceReading _of;
        private readonly Guess _guess;
        private readonly int _baseOption;
        private readonly long[] _base;
        private readonly Adding[][] _adds;

        /// <summary>What each value of each option comes to in each slice; zeros for the option that sets base prices.</summary>
        private readonly long[][] _on;

        /// <summary>Begins with a guess.</summary>
        /// <param name="references">For each option the value without a surcharge.</param>
        public Fit(Guess guess, int[] references)
        {
            (_of, _guess, _baseOption, References) = (guess.Of, guess, guess.BaseOption, references);
            _base = new long[_baseOption < 0 ? 1 : _of._options[_baseOption].Values.Length];
            _adds = [.. _of._options.Select(o => new Adding[o.Values.Length])];
            _on = [.. _of._options.Select(o => new long[o.Values.Length * _base.Length])];
            foreach (var (slice, cells) in guess.Slices)
            {
                foreach (var o in Others())
                    for (var v = 0; v < _adds[o].Length; v++)
                        _on[o][(v * _base.Length) + slice] = guess.Adds(slice, o, v, references);
                _base[slice] = Mode(cells.Select(c => _of._prices[c] - Predicted(c))).Value;
            }
            foreach (var o in Others())
                for (var v = 0; v < _adds[o].Length; v++)
                    _adds[o][v] = Adds([.. guess.Slices.Keys.Select(s => new Needs(_base[s], [new(guess.Adds(s, o, v, references), 1)]))]);
            foreach (var (slice, cells) in guess.Slices)
            {
                WorkOut(slice);
                Missed += Misses(cells);
            }
        }

        public int Missed { get; private set; }

        /// <summary>For each option the value without a surcharge.</summary>
        public int[] References { get; }

        public int Figures
        {
            get
            {
                var usual = Mode(_base).Value;
                return 1 + _base.Count(b => b != usual) + _adds.Sum(option => option.Count(a => !a.IsNothing));
            }
        }

        /// <summary>Sets each figure in turn to what most cells need.</summary>
        public void Improve()
        {
            var byValue = Others()
                .Select(o =>
                    (
                        Option: o,
                        Cells: Enumerable
                            .Range(0, _of._prices.Length)
                            .GroupBy(c => _of._places[c][o])
                            .Select(g =>
                                (Value: g.Key, Cells: g.ToList(), Slices: g.GroupBy(Slice).ToDictionary(s => s.Key, s => s.ToList()))
                            )
                            .ToList()
                    )
                )
                .ToList();
            for (var sweep = 0; sweep < Sweeps && Missed > 0; sweep++)
            {
                var before = Missed;
                foreach (var (slice, cells) in _guess.Slices)
                    Try(_base[slice], Base(slice, cells), cells, basis => SetBase(slice, basis));
                foreach (var (option, values) in byValue)
                    foreach (var (value, cells, slices) in values)
                        Try(_adds[option][value], Needed(slices, option, value), cells, adds => SetAdding(option, value, adds));
                if (Missed == before)
                    break;
            }
        }

        public PriceStructure ToStructure(IReadOnlyList<Option> options, Currency currency)
        {
            var usual = Mode(_base).Value;
            var surcharges = ImmutableDictionary.CreateBuilder<(Key, Key), Surcharge>();
            foreach (var (o, option) in options.Index())
                foreach (var (v, value) in option.Values.Index())
                    if (_adds[o][v] is { IsNothing: false } adds)
                        surcharges[(option.Key, value.Key)] =
                            adds.Percent != 0
                                ? new Surcharge.Percent(new Percentage(adds.Percent))
                                : new Surcharge.PerUnit(MinorUnits.ToMoney(adds.Amount, currency));
            var prices =
                _baseOption < 0
                    ? ImmutableDictionary<Key, long>.Empty
                    : options[_baseOption]
                        .Values.Index()
                        .Where(v => _base[v.Index] != usual)
                        .ToImmutableDictionary(v => v.Item.Key, v => _base[v.Index]);
            return new PriceStructure(usual, _baseOption < 0 ? null : options[_baseOption].Key, prices, surcharges.ToImmutable());
        }

        private IEnumerable<int> Others() => Enumerable.Range(0, _of._options.Count).Where(o => o != _baseOption);

        private int Slice(int cell) => _of.SliceOf(cell, _baseOption);

        private void SetBase(int slice, long basis)
        {
            _base[slice] = basis;
            WorkOut(slice);
        }

        private void SetAdding(int option, int value, Adding adds)
        {
            _adds[option][value] = adds;
            for (var slice = 0; slice < _base.Length; slice++)
                _on[option][(value * _base.Length) + slice] = adds.On(_base[slice]);
        }

        /// <summary>Works out what values add in a slice: a percentage once for all the cells with it.</summary>
        private void WorkOut(int slice)
        {
            foreach (var o in Others())
                for (var v = 0; v < _adds[o].Length; v++)
                    _on[o][(v * _base.Length) + slice] = _adds[o][v].On(_base[slice]);
        }

        private long Predicted(int cell)
        {
            var (slice, slices, places) = (Slice(cell), _base.Length, _of._places[cell]);
            var price = _base[slice];
            for (var o = 0; o < places.Length; o++)
                price += o == _baseOption ? 0 : _on[o][(places[o] * slices) + slice];
            return price;
        }

        private int Misses(List<int> cells)
        {
            var missed = 0;
            foreach (var cell in cells)
                missed += Predicted(cell) == _of._prices[cell] ? 0 : 1;
            return missed;
        }

        /// <summary>Sets a figure where fewer of its cells are left over then.</summary>
        private void Try<T>(T figure, T setting, List<int> cells, Action<T> set)
        {
            var missed = Misses(cells);
            set(setting);
            var then = Misses(cells);
            if (then < missed)
                Missed += then - missed;
            else
                set(figure);
        }

        /// <summary>The base that most cells of a slice need.</summary>
        private long Base(int slice, List<int> cells)
        {
            // Without percentages it is what remains; with some about that, as it is looked at again by what it leaves over.
            var hasPercent = _adds.Any(option => option.Any(a => a.Percent != 0));
            return Mode(cells.Select(c => hasPercent ? WithPercent(c) : _of._prices[c] - Predicted(c) + _base[slice])).Value;

            long WithPercent(int cell)
            {
                var (amount, percent) = (0L, 0.0);
                foreach (var o in Others())
                {
                    var adds = _adds[o][_of._places[cell][o]];
                    (amount, percent) = (amount + adds.Amount, percent + (double)adds.Percent);
                }
                return (long)Math.Round((_of._prices[cell] - amount) / (1 + percent / 100));
            }
        }

        /// <summary>What most cells with a value need it to add.</summary>
        /// <param name="slices">Its cells by their slices.</param>
        private Adding Needed(Dictionary<int, List<int>> slices, int option, int value) =>
            Adds([
                .. slices.Select(s => new Needs(
                    _base[s.Key],
                    s.Value.CountBy(c => _of._prices[c] - Predicted(c) + _on[option][(value * _base.Length) + s.Key])
                        .OrderByDescending(n => n.Value)
                        .ThenBy(n => n.Key)
                        .ToList()
                )),
            ]);

        /// <summary>The amount or percentage that fits most cells; an amount on a tie.</summary>
        private static Adding Adds(List<Needs> slices)
        {
            var amount = slices.SelectMany(s => s.Most(int.MaxValue)).Distinct().MaxBy(a => slices.Sum(s => s.Count(a)));
            var (best, hits) = (new Adding(amount, 0), slices.Sum(s => s.Count(amount)));
            if (slices.Count < 2)
                return best;
            // Most slices point at the same percentage.
            var looked = new HashSet<decimal> { 0 };
            foreach (var slice in slices.Where(s => s.Basis > 0))
                foreach (var adds in slice.Most(2))
                {
                    var exact = adds * 100m / slice.Basis;
                    for (var decimals = 0; decimals <= 2; decimals++)
                    {
                        var tried = new Adding(0, Math.Round(exact, decimals, MidpointRounding.AwayFromZero));
                        if (looked.Add(tried.Percent) && slices.Sum(s => s.Count(tried.On(s.Basis))) is var fits && fits > hits)
                            (best, hits) = (tried, fits);
                    }
                }
            return best;
        }
    }

    /// <summary>What the cells with one value and one base price need the value to add.</summary>
    /// <param name="Counts">By how many of them, most first.</param>
    private sealed record Needs(long Basis, List<KeyValuePair<long, int>> Counts)
    {
        private readonly Dictionary<long, int> _counts = new(Counts);

        /// <summary>What most of them need.</summary>
        public IEnumerable<long> Most(int kinds) => Counts.Take(kinds).Select(c => c.Key);

        public int Count(long adds) => _counts.GetValueOrDefault(adds);
    }
}
