namespace Unicus.Core.Proof;

using System.Collections.Concurrent;
using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;

/// <content>How well surcharges and base prices fit the prices that are read.</content>
public sealed partial class PriceReading
{
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
        /// <param name="guess">What is taken to be so.</param>
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
        /// <param name="option">The place of the option.</param>
        /// <param name="value">The place of the value.</param>
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
    /// <param name="Basis">What surcharges in per cent are of, in minor units.</param>
    /// <param name="Counts">By how many of them, most first.</param>
    private sealed record Needs(long Basis, List<KeyValuePair<long, int>> Counts)
    {
        private readonly Dictionary<long, int> _counts = new(Counts);

        /// <summary>What most of them need.</summary>
        public IEnumerable<long> Most(int kinds) => Counts.Take(kinds).Select(c => c.Key);

        public int Count(long adds) => _counts.GetValueOrDefault(adds);
    }
}
