using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>Takes out what was kept long enough and finds what was bought together, once an hour; of several processes one
/// does it.</summary>
public sealed class Sweeper(IServiceScopeFactory scopes, ILogger<Sweeper> log) : BackgroundService
{
    private static readonly TimeSpan Pause = TimeSpan.FromHours(1);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Pause);
        do
        {
            try
            {
                await using var scope = scopes.CreateAsyncScope();
                await scope.ServiceProvider.GetRequiredService<TakeOutOld>().Run(stoppingToken);
                await scope.ServiceProvider.GetRequiredService<FindTogether>().Run(stoppingToken);
            }
            catch (Exception fault) when (!stoppingToken.IsCancellationRequested)
            {
                log.LogWarning(fault, "The hourly work could not be done; tried again in an hour");
            }
        } while (await timer.WaitForNextTickAsync(stoppingToken));
    }
}
