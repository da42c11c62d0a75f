using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace Unicus.Store;

/// <summary>Works out in the background what lists show of products whose stock moved or whose day has come.</summary>
public sealed class RangeKeeper(IServiceScopeFactory scopes, ILogger<RangeKeeper> log) : BackgroundService
{
    private const int AtOnce = 600;

    /// <summary>Of very many some are read and written while others are worked out.</summary>
    private const int Hands = 2;
    private const int SummariesAtOnce = 20;
    private static readonly TimeSpan Pause = TimeSpan.FromMilliseconds(500);

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await Work(stoppingToken);
            }
            catch (Exception fault) when (!stoppingToken.IsCancellationRequested)
            {
                log.LogWarning("Lists could not be brought up to date; tried again soon: {Fault}", fault.Message);
            }
            await Task.Delay(Pause, stoppingToken).ContinueWith(_ => { }, TaskScheduler.Default);
        }
    }

    private async Task Work(CancellationToken stop)
    {
        if (await WorkOnce() >= AtOnce)
            await Task.WhenAll(Enumerable.Range(0, Hands).Select(_ => WorkOff(stop)));
        int done;
        do
        {
            await using var scope = scopes.CreateAsyncScope();
            done = await Summaries.RefreshSome(scope.ServiceProvider.GetRequiredService<UnicusContext>(), SummariesAtOnce);
        } while (done >= SummariesAtOnce && !stop.IsCancellationRequested);
    }

    private async Task WorkOff(CancellationToken stop)
    {
        while (!stop.IsCancellationRequested && await WorkOnce() >= AtOnce) { }
    }

    private async Task<int> WorkOnce()
    {
        await using var scope = scopes.CreateAsyncScope();
        return await scope.ServiceProvider.GetRequiredService<RangeFigures>().Work(AtOnce);
    }
}
