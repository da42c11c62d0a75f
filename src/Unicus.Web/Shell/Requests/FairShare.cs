using System.Collections.Concurrent;
using System.Diagnostics;

namespace Unicus.Web.Shell;

/// <summary>
/// Shares the machine fairly among strangers. Each address has an account of working time; whoever has used up theirs is worked for on a
/// lane of its own, one request after the other and on half of the processors at most, so that the other half is always there for everybody
/// else.
/// </summary>
/// <remarks>
/// It does not matter what makes a request dear, and nobody is refused for it. A request is charged its time divided by how many are worked
/// on meanwhile, so that what others do is not charged to whoever waits for them; all charges together are never more than the time that
/// passes.
/// </remarks>
public sealed class FairShare(StrangerLimits limits)
{
    private const int MostAccounts = 20_000;

    /// <summary>Nobody is so deep in debt that they are out of it only after more than some seconds.</summary>
    private const double DeepestDebt = -500;

    private readonly SemaphoreSlim _lane = new(Math.Max(1, Environment.ProcessorCount / 2));
    private readonly ConcurrentDictionary<string, Account> _accounts = [];
    private int _active;

    /// <summary>Does work for an address, at once or on the lane.</summary>
    public async Task Run(string address, Func<Task> work, CancellationToken stop)
    {
        if (_accounts.Count > MostAccounts)
            Forget();
        var account = _accounts.GetOrAdd(address, _ => new Account(limits));
        var isSlow = account.IsUsedUp;
        if (isSlow)
            await _lane.WaitAsync(stop);
        var others = Interlocked.Increment(ref _active);
        var clock = Stopwatch.StartNew();
        try
        {
            await work();
        }
        finally
        {
            others = Math.Max(others, Interlocked.Decrement(ref _active) + 1);
            account.Charge(clock.Elapsed.TotalMilliseconds / others);
            if (isSlow)
                _lane.Release();
        }
    }

    /// <summary>Takes out the accounts that are as good as new.</summary>
    private void Forget()
    {
        foreach (var (address, account) in _accounts)
            if (account.IsFull)
                _accounts.TryRemove(address, out _);
    }

    /// <summary>Working time that an address has left, in milliseconds.</summary>
    private sealed class Account(StrangerLimits limits)
    {
        private readonly Lock _lock = new();
        private double _left = limits.WorkAtFirst;
        private long _at = Stopwatch.GetTimestamp();

        public bool IsUsedUp => Left() < 0;

        public bool IsFull => Left() >= limits.WorkAtFirst;

        public void Charge(double milliseconds)
        {
            lock (_lock)
                _left = Math.Max(DeepestDebt, Left() - milliseconds);
        }

        private double Left()
        {
            lock (_lock)
            {
                var now = Stopwatch.GetTimestamp();
                _left = Math.Min(limits.WorkAtFirst, _left + Stopwatch.GetElapsedTime(_at, now).TotalSeconds * limits.WorkPerSecond);
                _at = now;
                return _left;
            }
        }
    }
}

/// <summary>Leads the requests of strangers through <see cref="FairShare"/>.</summary>
public sealed class SharedFairly(RequestDelegate next, FairShare share)
{
    public Task Invoke(HttpContext context) =>
        Strangers.IsKnown(context) || Strangers.IsFile(context)
            ? next(context)
            : share.Run(Strangers.AddressOf(context), () => next(context), context.RequestAborted);
}
