namespace Unicus.Core.Rules;

/// <summary>What was worked out for answers, kept as long as there is room for it. It can always be worked out again.</summary>
/// <remarks>
/// Which answers are asked about is up to strangers, so neither one product nor all together may keep more than fits: of one product the
/// oldest goes first, of all products the one that was not asked longest. Bytes are counted, not entries, since one span of a large product
/// weighs as much as thousands of small ones.
/// </remarks>
internal sealed class KeptAnswers<TKey, TValue>(Func<TValue, long> weigh) : AnswerMemory.IOwner
    where TKey : notnull
{
    /// <summary>So many bytes one product keeps, and always its newest.</summary>
    private const long Most = 64L * 1024 * 1024;

    private readonly Dictionary<TKey, (TValue Value, long Bytes)> _kept = [];
    private readonly Queue<TKey> _order = [];
    private readonly Lock _lock = new();
    private bool _isKnown;

    public long Bytes { get; private set; }

    public long LastAsked { get; private set; }

    /// <summary>What is kept under the key; else it is made, which two may do at the same time.</summary>
    public TValue GetOrMake(TKey key, Func<TKey, TValue> make)
    {
        LastAsked = AnswerMemory.NextMoment();
        lock (_lock)
            if (_kept.TryGetValue(key, out var found))
                return found.Value;
        var value = make(key);
        var bytes = weigh(value);
        Keep(key, value, bytes);
        AnswerMemory.MakeRoom(this, bytes, ref _isKnown);
        return value;
    }

    public void Clear()
    {
        lock (_lock)
        {
            _kept.Clear();
            _order.Clear();
            Bytes = 0;
        }
    }

    private void Keep(TKey key, TValue value, long bytes)
    {
        lock (_lock)
        {
            if (!_kept.TryAdd(key, (value, bytes)))
                return;
            _order.Enqueue(key);
            Bytes += bytes;
            while (Bytes > Most && _order.Count > 1)
                if (_kept.Remove(_order.Dequeue(), out var oldest))
                    Bytes -= oldest.Bytes;
        }
    }
}

/// <summary>Watches over what all products of the process keep for answers.</summary>
internal static class AnswerMemory
{
    /// <summary>So many bytes are kept in all.</summary>
    private const long Most = 96L * 1024 * 1024;

    /// <summary>Owners may be tens of thousands, so bytes are added up only when so many were kept since the last time.</summary>
    private const long Step = Most / 16;

    private static readonly List<WeakReference<IOwner>> Owners = [];
    private static readonly Lock Lock = new();
    private static long _moment;
    private static long _keptSince;

    /// <summary>Something that keeps answers.</summary>
    public interface IOwner
    {
        long Bytes { get; }

        /// <summary>A number that is the larger the later it was asked.</summary>
        long LastAsked { get; }

        void Clear();
    }

    public static long NextMoment() => Interlocked.Increment(ref _moment);

    /// <summary>Makes room where more is kept than fits, by the owners that were not asked longest.</summary>
    /// <param name="owner">Has just kept something; it stays.</param>
    /// <param name="bytes">That much.</param>
    /// <param name="isKnown">Whether the owner was here before.</param>
    public static void MakeRoom(IOwner owner, long bytes, ref bool isKnown)
    {
        lock (Lock)
        {
            if (!isKnown)
                Owners.Add(new WeakReference<IOwner>(owner));
            isKnown = true;
            _keptSince += bytes;
            if (_keptSince < Step)
                return;
            _keptSince = 0;
            Owners.RemoveAll(o => !o.TryGetTarget(out _));
            var alive = Owners.Select(o => o.TryGetTarget(out var target) ? target : null).OfType<IOwner>().ToList();
            var total = alive.Sum(o => o.Bytes);
            foreach (var other in alive.Where(o => o != owner).OrderBy(o => o.LastAsked))
            {
                if (total <= Most)
                    return;
                total -= other.Bytes;
                other.Clear();
            }
        }
    }
}
