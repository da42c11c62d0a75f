namespace Unicus.Core.Rules;

using System.Collections;
using System.Collections.Frozen;
using System.Collections.Immutable;
using System.Numerics;
using Unicus.Core.Options;

/// <summary>The combinations of the variant options that are made: all of them less what is <em>not made</em>.</summary>
/// <remarks>
/// Combinations are numbered by mixed radix, the last option running fastest. The made ones are kept as one bit each, with the count of
/// made ones before every word of 64, so that a hundred thousand take twenty kilobytes and nothing is built for a combination until it is
/// asked for.
/// </remarks>
public sealed class MadeSet
{
    /// <summary>The most combinations that one product's matrix can hold.</summary>
    public const int MostVariants = 200_000;

    private const int WordSize = 64;

    private readonly int[] _strides;
    private readonly int[] _lengths;

    /// <summary>The places of the options in the order of their keys, as combinations write them.</summary>
    private readonly int[] _byKey;

    private readonly (Key Option, Key Value)[][] _pairs;
    private readonly string[][] _texts;
    private readonly FrozenDictionary<string, int>[] _shares;
    private readonly ulong[] _made;

    /// <summary>How many are made before each word.</summary>
    private readonly int[] _before;
    private readonly Numbers _numbers;

    /// <param name="options">The variant options, in order.</param>
    /// <param name="notMade">Each takes out every combination that holds its pairs; pairs of unknown options or values take out
    /// nothing.</param>
    /// <exception cref="ArgumentException">There are more than <see cref="MostVariants"/> combinations; ask <see cref="Size"/>
    /// first.</exception>
    public MadeSet(IReadOnlyList<Option> options, IEnumerable<Combination> notMade)
    {
        if (Size(options) > MostVariants)
            throw new ArgumentException("The matrix is larger than can be held.", nameof(options));
        Options = options;
        _lengths = [.. options.Select(o => o.Values.Length)];
        _strides = new int[options.Count];
        var stride = 1;
        for (var i = options.Count - 1; i >= 0; i--)
        {
            _strides[i] = stride;
            stride *= _lengths[i];
        }
        Combinations = stride;
        _byKey = [.. Enumerable.Range(0, options.Count).OrderBy(i => options[i].Key)];
        _pairs = [.. options.Select(o => o.Values.Select(v => (o.Key, v.Key)).ToArray())];
        _texts = [.. options.Select(o => o.Values.Select(v => $"{o.Key}={v.Key}").ToArray())];
        _shares = [.. _byKey.Select(i => _texts[i].Select((t, v) => (t, v)).ToFrozenDictionary(x => x.t, x => x.v * _strides[i]))];
        _made = new ulong[(Combinations + WordSize - 1) / WordSize];
        Array.Fill(_made, ulong.MaxValue);
        if (Combinations % WordSize is > 0 and var rest)
            _made[^1] = (1UL << rest) - 1;
        foreach (var combination in notMade)
            TakeOut(combination);
        _before = new int[_made.Length + 1];
        for (var i = 0; i < _made.Length; i++)
            _before[i + 1] = _before[i] + BitOperations.PopCount(_made[i]);
        _numbers = new Numbers(this);
    }

    /// <summary>The options, in order.</summary>
    public IReadOnlyList<Option> Options { get; }

    /// <summary>Π|values|: 1 for a product without options.</summary>
    public int Combinations { get; }

    /// <summary>How many combinations are made.</summary>
    public int Count => _before[^1];

    /// <summary>Π|values| of any size, to be told before anything is made.</summary>
    public static BigInteger Size(IEnumerable<Option> options) => options.Aggregate(BigInteger.One, (n, o) => n * o.Values.Length);

    /// <summary>Whether the combination with this number is made.</summary>
    public bool IsMade(int number) => (_made[number / WordSize] >> (number % WordSize) & 1) != 0;

    /// <summary>The numbers of all combinations that are made, in the order of the options.</summary>
    public IReadOnlyList<int> Made() => _numbers;

    /// <summary>The place of a number among the made ones, from 0; negative where it is not made.</summary>
    public int IndexOf(int number) =>
        number >= 0 && number < Combinations && IsMade(number)
            ? _before[number / WordSize] + BitOperations.PopCount(_made[number / WordSize] & ((1UL << (number % WordSize)) - 1))
            : -1;

    /// <summary>The place of the value that the combination has for the option at place <paramref name="option"/>.</summary>
    public int ValueAt(int number, int option) => number / _strides[option] % _lengths[option];

    /// <summary>How far the number of a combination moves with the next value of the option at this place.</summary>
    internal int StrideOf(int option) => _strides[option];

    /// <summary>The combination with a number.</summary>
    public Combination At(int number) => At(number, TextAt(number));

    /// <summary>The combination with this number.</summary>
    /// <param name="number">Its place, from 0.</param>
    /// <param name="text">Its canonical text, which is taken as it is.</param>
    public Combination At(int number, string text)
    {
        var pairs = new (Key, Key)[_byKey.Length];
        for (var i = 0; i < pairs.Length; i++)
            pairs[i] = _pairs[_byKey[i]][ValueAt(number, _byKey[i])];
        return Combination.Sorted(pairs, text);
    }

    /// <summary>The canonical text of the combination with this number.</summary>
    public string TextAt(int number)
    {
        var texts = new string[_byKey.Length];
        for (var i = 0; i < texts.Length; i++)
            texts[i] = _texts[_byKey[i]][ValueAt(number, _byKey[i])];
        return string.Join(',', texts);
    }

    /// <summary>The number of a full combination, or null if it does not belong to these options.</summary>
    public int? NumberOf(Combination combination) => NumberOf(combination.Text);

    /// <summary>The number of a full combination by its canonical text, or null if it does not belong to these options.</summary>
    public int? NumberOf(ReadOnlySpan<char> text)
    {
        if (_byKey.Length == 0)
            return text.IsEmpty ? 0 : null;
        var number = 0;
        for (var i = 0; i < _byKey.Length; i++)
        {
            var end = text.IndexOf(',');
            if (end < 0 != (i == _byKey.Length - 1))
                return null;
            var pair = end < 0 ? text : text[..end];
            if (!_shares[i].GetAlternateLookup<ReadOnlySpan<char>>().TryGetValue(pair, out var share))
                return null;
            number += share;
            if (end >= 0)
                text = text[(end + 1)..];
        }
        return number;
    }

    private void TakeOut(Combination combination)
    {
        if (NumberOf(combination) is { } number)
        {
            TakeOut(number);
            return;
        }
        var pairs = new List<(int Option, int Value)>();
        foreach (var (option, value) in combination.Pairs)
        {
            var place = PlaceOf(option);
            if (place < 0 || Options[place].PlaceOf(value) is not (>= 0 and var at))
                return;
            pairs.Add((place, at));
        }
        if (pairs.Count == 0)
            return;
        for (var n = 0; n < Combinations; n++)
            if (pairs.TrueForAll(p => ValueAt(n, p.Option) == p.Value))
                TakeOut(n);
    }

    private void TakeOut(int number) => _made[number / WordSize] &= ~(1UL << (number % WordSize));

    private int PlaceOf(Key option)
    {
        for (var i = 0; i < Options.Count; i++)
            if (Options[i].Key == option)
                return i;
        return -1;
    }

    /// <summary>The made numbers as a list, found by their place without being written out.</summary>
    private sealed class Numbers(MadeSet set) : IReadOnlyList<int>
    {
        public int Count => set.Count;

        public int this[int index]
        {
            get
            {
                ArgumentOutOfRangeException.ThrowIfNegative(index);
                ArgumentOutOfRangeException.ThrowIfGreaterThanOrEqual(index, Count);
                if (Count == set.Combinations)
                    return index;
                var word = Array.BinarySearch(set._before, index);
                // Of several words that begin with this count the last one holds it; the others are empty.
                if (word < 0)
                    word = ~word - 1;
                else
                    while (set._before[word + 1] == index)
                        word++;
                var bits = set._made[word];
                for (var skip = index - set._before[word]; skip > 0; skip--)
                    bits &= bits - 1;
                return word * WordSize + BitOperations.TrailingZeroCount(bits);
            }
        }

        public IEnumerator<int> GetEnumerator()
        {
            for (var word = 0; word < set._made.Length; word++)
                for (var bits = set._made[word]; bits != 0; bits &= bits - 1)
                    yield return word * WordSize + BitOperations.TrailingZeroCount(bits);
        }

        IEnumerator IEnumerable.GetEnumerator() => GetEnumerator();
    }
}
