using System.Collections.Concurrent;
using System.Globalization;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using Npgsql;

namespace Unicus.Store;

/// <summary>What changed.</summary>
public enum NewsKind
{
    /// <summary>A product: its working copy, edition or summary.</summary>
    Product,

    /// <summary>The stock of a product.</summary>
    Stock,

    /// <summary>The shop's settings.</summary>
    Shop,

    /// <summary>Shared sets of extras.</summary>
    Sets,

    /// <summary>Keys of the HTTP interface.</summary>
    Keys,

    /// <summary>Names of SKUs.</summary>
    Skus,

    /// <summary>What lists show.</summary>
    Lists,

    /// <summary>Categories or the option library.</summary>
    Names,

    /// <summary>Price rules and customer groups.</summary>
    Prices,
}

/// <summary>A change that some process committed.</summary>
/// <param name="Product">The number of the product; 0 where it is no product's.</param>
public readonly record struct News(NewsKind Kind, int Product);

/// <summary>Hears from PostgreSQL what any process changed, with the commit that changed it.</summary>
/// <remarks>
/// Triggers send the news, so no change can be forgotten. While the connection is down nothing is trusted that is older than a second; once
/// it is back, nothing that was known before.
/// </remarks>
public sealed class Telling(string connection, ILogger<Telling> log) : BackgroundService
{
    /// <summary>The channel that the triggers of the first migration send on.</summary>
    public const string Channel = "unicus";

    /// <summary>So long, in milliseconds, what is known is trusted without word from the database.</summary>
    private const long Moment = 1000;

    private static readonly TimeSpan Pulse = TimeSpan.FromMilliseconds(300);
    private static readonly TimeSpan Patience = TimeSpan.FromMilliseconds(500);

    private readonly ConcurrentDictionary<string, TaskCompletionSource> _marks = new();
    private long _heardAt = -Moment - 1;
    private long _generation;

    /// <summary>Told of every change, on the thread that hears it.</summary>
    public event Action<News>? Heard;

    /// <summary>Another number whenever changes may have been missed.</summary>
    public long Generation => Interlocked.Read(ref _generation);

    /// <summary>Whether every change is heard of.</summary>
    public bool IsHearing => Environment.TickCount64 - Interlocked.Read(ref _heardAt) <= Moment;

    /// <summary>Whether something that was read at a moment may still be used.</summary>
    /// <param name="generation">The generation in which it was read.</param>
    /// <param name="readAt">The moment by <see cref="Environment.TickCount64"/>.</param>
    public bool Trusts(long generation, long readAt) =>
        generation == Generation && (IsHearing || Environment.TickCount64 - readAt <= Moment);

    /// <summary>Forgets everything that was known before.</summary>
    public void StartAnew() => Interlocked.Increment(ref _generation);

    /// <summary>A mark to be sent with a transaction, so that its committer knows when its own news have been heard.</summary>
    public string NewMark()
    {
        var mark = Guid.NewGuid().ToString("N");
        _marks[mark] = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
        return mark;
    }

    /// <summary>Waits until the news of a committed transaction have been heard; where they do not come soon, everything is known
    /// anew.</summary>
    public async Task Await(string mark)
    {
        if (!_marks.TryGetValue(mark, out var heard))
            return;
        try
        {
            await heard.Task.WaitAsync(Patience);
        }
        catch (TimeoutException)
        {
            StartAnew();
        }
        finally
        {
            _marks.TryRemove(mark, out _);
        }
    }

    /// <summary>Lets go of a mark whose transaction came to nothing.</summary>
    public void Drop(string mark) => _marks.TryRemove(mark, out _);

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await Listen(stoppingToken);
            }
            catch (Exception fault) when (!stoppingToken.IsCancellationRequested)
            {
                log.LogWarning("The connection that tells of changes is down and is made anew: {Fault}", fault.Message);
            }
            Interlocked.Exchange(ref _heardAt, Environment.TickCount64 - Moment - 1);
            StartAnew();
            await Task.Delay(200, stoppingToken).ContinueWith(_ => { }, TaskScheduler.Default);
        }
    }

    private async Task Listen(CancellationToken stop)
    {
        var settings = new NpgsqlConnectionStringBuilder(connection)
        {
            Pooling = false,
            ApplicationName = "unicus telling",
            Timeout = 5,
        };
        await using var listening = new NpgsqlConnection(settings.ConnectionString);
        listening.Notification += (_, told) => Hear(told.Payload);
        await listening.OpenAsync(stop);
        await Run(listening, $"listen {Channel}", stop);
        // What was known before may have changed while nobody listened.
        StartAnew();
        while (true)
        {
            Interlocked.Exchange(ref _heardAt, Environment.TickCount64);
            if (!await listening.WaitAsync(Pulse, stop))
                await Run(listening, "select 1", stop);
        }
    }

    private static async Task Run(NpgsqlConnection listening, string sql, CancellationToken stop)
    {
        await using var command = new NpgsqlCommand(sql, listening) { CommandTimeout = 1 };
        await command.ExecuteNonQueryAsync(stop);
    }

    private void Hear(string payload)
    {
        var space = payload.IndexOf(' ');
        var (kind, rest) = space < 0 ? (payload, "") : (payload[..space], payload[(space + 1)..]);
        if (kind == "mark")
        {
            if (_marks.TryGetValue(rest, out var waiting))
                waiting.TrySetResult();
        }
        else if (Enum.TryParse<NewsKind>(kind, ignoreCase: true, out var known))
            Heard?.Invoke(new News(known, int.TryParse(rest, CultureInfo.InvariantCulture, out var product) ? product : 0));
    }
}
