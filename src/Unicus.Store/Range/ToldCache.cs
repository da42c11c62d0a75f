using System.Collections.Concurrent;
using Microsoft.Extensions.Caching.Memory;

namespace Unicus.Store;

/// <summary>Something that is kept in memory, for whoever wants to know what there is.</summary>
public interface IKept
{
    /// <summary>What it is, in words.</summary>
    string What { get; }

    /// <summary>So many bytes are kept in all, about.</summary>
    long MostBytes { get; }

    /// <summary>The news by which some of it is forgotten.</summary>
    IReadOnlyCollection<NewsKind> ForgottenBy { get; }
}

/// <summary>Keeps what was read as long as nobody tells of a change and there is room, by weight; what was not asked longest goes
/// first.</summary>
/// <param name="what">What it keeps, in words.</param>
/// <param name="mostBytes">So much is kept in all.</param>
/// <param name="weigh">About how many bytes a value takes.</param>
internal sealed class ToldCache<TKey, TValue>(Telling telling, string what, long mostBytes, Func<TValue, long> weigh) : IKept, IDisposable
    where TKey : notnull
    where TValue : class
{
    private readonly Dictionary<NewsKind, Func<News, TKey>> _forgetting = [];

    /// <inheritdoc/>
    public string What => what;

    /// <inheritdoc/>
    public long MostBytes => mostBytes;

    /// <inheritdoc/>
    public IReadOnlyCollection<NewsKind> ForgottenBy => _forgetting.Keys;

    /// <summary>Forgets by news, from now on.</summary>
    /// <param name="key">What of it.</param>
    public ToldCache<TKey, TValue> ForgetBy(Func<News, TKey> key, params NewsKind[] kinds)
    {
        if (_forgetting.Count == 0)
            telling.Heard += Hear;
        foreach (var kind in kinds)
            _forgetting[kind] = key;
        return this;
    }

    private readonly MemoryCache _kept = new(new MemoryCacheOptions { SizeLimit = mostBytes });
    private readonly ConcurrentDictionary<TKey, Reading> _reading = new();
    private readonly Lock _lock = new();

    private sealed record Kept(TValue Value, long Generation, long ReadAt);

    private sealed record Reading(Lazy<Task<TValue?>> Task, long Generation, long StartedAt);

    /// <summary>What is kept under the key, or what is read now; of many who ask at the same time one reads. A null is not
    /// kept.</summary>
    public ValueTask<TValue?> Get(TKey key, Func<Task<TValue?>> read) =>
        _kept.TryGetValue(key, out Kept? kept) && telling.Trusts(kept!.Generation, kept.ReadAt)
            ? new ValueTask<TValue?>(kept.Value)
            : new ValueTask<TValue?>(Read(key, read));

    /// <summary>Forgets a key; what is being read of it is not kept either.</summary>
    public void Forget(TKey key)
    {
        lock (_lock)
        {
            _reading.TryRemove(key, out _);
            _kept.Remove(key);
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        telling.Heard -= Hear;
        _kept.Dispose();
    }

    private void Hear(News news)
    {
        if (_forgetting.TryGetValue(news.Kind, out var key))
            Forget(key(news));
    }

    private async Task<TValue?> Read(TKey key, Func<Task<TValue?>> read)
    {
        var mine = new Reading(new Lazy<Task<TValue?>>(read), telling.Generation, Environment.TickCount64);
        var reading = _reading.AddOrUpdate(key, mine, (_, other) => other.Generation == mine.Generation ? other : mine);
        try
        {
            var value = await reading.Task.Value;
            lock (_lock)
                if (_reading.TryRemove(new KeyValuePair<TKey, Reading>(key, reading)) && value is not null)
                    _kept.Set(
                        key,
                        new Kept(value, reading.Generation, reading.StartedAt),
                        new MemoryCacheEntryOptions { Size = weigh(value) }
                    );
            return value;
        }
        catch
        {
            _reading.TryRemove(new KeyValuePair<TKey, Reading>(key, reading));
            throw;
        }
    }
}
