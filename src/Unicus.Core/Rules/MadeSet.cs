using System.Collections;
using System.Collections.Frozen;
using System.Collections.Immutable;
using System.Numerics;

namespace Unicus.Core;

/// <summary>The combinations of the variant options that are made: all of them less what is <em>not made</em>.</summary>
/// <remarks>
/// Combinations are numbered by mixed radix, the last option running fastest. The made ones are kept as one bit each and as one ascending
/// list of numbers, so that a hundred thousand take half a megabyte and nothing is built for a combination until it is asked for.
/// </remarks>
public sealed class MadeSet
{
    /// <summary>The most combinations that one product's matrix can hold.</summary>
    public const int MostVariants = 200_000;

    private readonly int[] _strides;
    private readonly int[] _lengths;

    /// <summary>The places of the options in the order of their keys, as combinations write them.</summary>
    private readonly int[] _byKey;

    private readonly (Key Option, Key Value)[][] _pairs;
    private readonly string[][] _texts;
    private readonly FrozenDictionary<string, int>[] _shares;
    private readonly BitArray _out;
    private readonly int[] _made;

    /// <param name="options">The variant options, in order.</param>
    /// <param name="notMade">Each takes out every combination that holds its pairs; pairs of unknown options or values take out nothing.</param>
    /// <exception cref="ArgumentException">There are more than <see cref="MostVariants"/> combinations; ask <see cref="Size"/> first.</exception>
    public MadeSet(IReadOnlyList<Option> options, IEnumerable<Combination> notMade)
    {
        if (Size(options) > MostVariants) throw new ArgumentException("The matrix is larger than can be held.", nameof(options));
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
        _out = new BitArray(Combinations);
        foreach (var combination in notMade) TakeOut(combination);
        _made = [.. Enumerable.Range(0, Combinations).Where(n => !_out[n])];
    }

    public IReadOnlyList<Option> Options { get; }

    /// <summary>Π|values|: 1 for a product without options.</summary>
    public int Combinations { get; }

    /// <summary>How many combinations are made.</summary>
    public int Count => _made.Length;

    /// <summary>Π|values| of any size, to be told before anything is made.</summary>
    public static BigInteger Size(IEnumerable<Option> options) => options.Aggregate(BigInteger.One, (n, o) => n * o.Values.Length);

    /// <summary>Whether the combination with this number is made.</summary>
    public bool IsMade(int number) => !_out[number];

    /// <summary>The numbers of all combinations that are made, in the order of the options.</summary>
    public IReadOnlyList<int> Made() => _made;

    /// <summary>The place of a number among the made ones, from 0; negative where it is not made.</summary>
    public int IndexOf(int number) => Array.BinarySearch(_made, number);

    /// <summary>The place of the value that the combination has for the option at place <paramref name="option"/>.</summary>
    public int ValueAt(int number, int option) => number / _strides[option] % _lengths[option];

    public Combination At(int number)
    {
        var pairs = new (Key, Key)[_byKey.Length];
        for (var i = 0; i < pairs.Length; i++) pairs[i] = _pairs[_byKey[i]][ValueAt(number, _byKey[i])];
        return Combination.Sorted(pairs, TextAt(number));
    }

    /// <summary>The canonical text of the combination with this number.</summary>
    public string TextAt(int number)
    {
        var texts = new string[_byKey.Length];
        for (var i = 0; i < texts.Length; i++) texts[i] = _texts[_byKey[i]][ValueAt(number, _byKey[i])];
        return string.Join(',', texts);
    }

    /// <summary>The number of a full combination, or null if it does not belong to these options.</summary>
    public int? NumberOf(Combination combination) => NumberOf(combination.Text);

    /// <summary>The number of a full combination by its canonical text, or null if it does not belong to these options.</summary>
    public int? NumberOf(ReadOnlySpan<char> text)
    {
        if (_byKey.Length == 0) return text.IsEmpty ? 0 : null;
        var number = 0;
        for (var i = 0; i < _byKey.Length; i++)
        {
            var end = text.IndexOf(',');
            if (end < 0 != (i == _byKey.Length - 1)) return null;
            var pair = end < 0 ? text : text[..end];
            if (!_shares[i].GetAlternateLookup<ReadOnlySpan<char>>().TryGetValue(pair, out var share)) return null;
            number += share;
            if (end >= 0) text = text[(end + 1)..];
        }
        return number;
    }

    private void TakeOut(Combination combination)
    {
        if (NumberOf(combination) is { } number)
        {
            _out[number] = true;
            return;
        }
        var pairs = new List<(int Option, int Value)>();
        foreach (var (option, value) in combination.Pairs)
        {
            var place = PlaceOf(option);
            if (place < 0 || Options[place].PlaceOf(value) is not (>= 0 and var at)) return;
            pairs.Add((place, at));
        }
        if (pairs.Count == 0) return;
        for (var n = 0; n < Combinations; n++)
            if (pairs.TrueForAll(p => ValueAt(n, p.Option) == p.Value)) _out[n] = true;
    }

    private int PlaceOf(Key option)
    {
        for (var i = 0; i < Options.Count; i++)
            if (Options[i].Key == option) return i;
        return -1;
    }
}
