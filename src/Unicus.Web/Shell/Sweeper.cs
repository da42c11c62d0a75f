using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>Takes out what was kept long enough, once an hour; of several processes one does it.</summary>
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
            }
            catch (Exception fault) when (!stoppingToken.IsCancellationRequested)
            {
                log.LogWarning(fault, "What was kept long enough could not be taken out; tried again in an hour");
            }
        } while (await timer.WaitForNextTickAsync(stoppingToken));
    }
}
