using System.Collections.Concurrent;
using Microsoft.Extensions.Caching.Memory;

namespace Unicus.Store;

/// <summary>Keeps what was read as long as nobody tells of a change and there is room, by weight; what was not asked longest goes
/// first.</summary>
/// <param name="mostBytes">So much is kept in all.</param>
/// <param name="weigh">About how many bytes a value takes.</param>
internal sealed class ToldCache<TKey, TValue>(Telling telling, long mostBytes, Func<TValue, long> weigh) : IDisposable
    where TKey : notnull
    where TValue : class
{
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
    public void Dispose() => _kept.Dispose();

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
