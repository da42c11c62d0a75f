using System.Numerics;

namespace Unicus.Core;

/// <summary>The combinations of the variant options that are made: all of them less what is <em>not made</em>.</summary>
/// <remarks>Combinations are numbered by mixed radix, the last option running fastest, so that one is a single <see cref="long"/>.</remarks>
public sealed class MadeSet
{
    /// <summary>The most combinations that one product's matrix can hold.</summary>
    public const int MostVariants = 200_000;

    private readonly long[] _strides;
    private readonly HashSet<long> _single = [];
    private readonly List<(int Option, int Value)[]> _partial = [];

    /// <param name="options">The variant options, in order.</param>
    /// <param name="notMade">Each takes out every combination that holds its pairs; pairs of unknown options or values take out nothing.</param>
    /// <exception cref="ArgumentException">There are more than <see cref="MostVariants"/> combinations; ask <see cref="Size"/> first.</exception>
    public MadeSet(IReadOnlyList<Option> options, IEnumerable<Combination> notMade)
    {
        if (Size(options) > MostVariants) throw new ArgumentException("The matrix is larger than can be held.", nameof(options));
        Options = options;
        _strides = new long[options.Count];
        var stride = 1L;
        for (var i = options.Count - 1; i >= 0; i--)
        {
            _strides[i] = stride;
            stride *= options[i].Values.Length;
        }
        Combinations = (int)stride;
        foreach (var combination in notMade) TakeOut(combination);
    }

    public IReadOnlyList<Option> Options { get; }

    /// <summary>Π|values|: 1 for a product without options.</summary>
    public int Combinations { get; }

    /// <summary>Π|values| of any size, to be told before anything is made.</summary>
    public static BigInteger Size(IEnumerable<Option> options) => options.Aggregate(BigInteger.One, (n, o) => n * o.Values.Length);

    /// <summary>Whether the combination with this number is made.</summary>
    public bool IsMade(long number)
    {
        if (_single.Contains(number)) return false;
        foreach (var pairs in _partial)
        {
            var all = true;
            foreach (var (option, value) in pairs) all &= ValueAt(number, option) == value;
            if (all) return false;
        }
        return true;
    }

    /// <summary>The numbers of all combinations that are made, in the order of the options.</summary>
    public IEnumerable<long> Made()
    {
        for (long n = 0; n < Combinations; n++)
            if (IsMade(n)) yield return n;
    }

    /// <summary>The place of the value that the combination has for the option at place <paramref name="option"/>.</summary>
    public int ValueAt(long number, int option) => (int)(number / _strides[option] % Options[option].Values.Length);

    public Combination At(long number)
    {
        var pairs = new (Key, Key)[Options.Count];
        for (var i = 0; i < pairs.Length; i++) pairs[i] = (Options[i].Key, Options[i].Values[ValueAt(number, i)].Key);
        return Combination.Of(pairs);
    }

    /// <summary>The number of a full combination, or null if it does not belong to these options.</summary>
    public long? NumberOf(Combination combination)
    {
        if (combination.Pairs.Length != Options.Count) return null;
        var number = 0L;
        for (var i = 0; i < Options.Count; i++)
        {
            if (combination[Options[i].Key] is not { } value) return null;
            var place = Options[i].PlaceOf(value);
            if (place < 0) return null;
            number += place * _strides[i];
        }
        return number;
    }

    private void TakeOut(Combination combination)
    {
        if (NumberOf(combination) is { } number)
        {
            _single.Add(number);
            return;
        }
        var pairs = new List<(int, int)>();
        foreach (var (option, value) in combination.Pairs)
        {
            var place = PlaceOf(option);
            if (place < 0 || Options[place].PlaceOf(value) is not (>= 0 and var at)) return;
            pairs.Add((place, at));
        }
        if (pairs.Count > 0) _partial.Add([.. pairs]);
    }

    private int PlaceOf(Key option)
    {
        for (var i = 0; i < Options.Count; i++)
            if (Options[i].Key == option) return i;
        return -1;
    }
}
