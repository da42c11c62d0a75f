using System.Text;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>The simulated stand-in for mail: lays each message of the outbox as a file into the folder that <c>UNICUS_MAIL</c> names, so
/// that an owner who cannot come in can still read theirs. Without a folder messages only stand in the outbox.</summary>
public sealed class MailStandIn(IServiceScopeFactory scopes, ILogger<MailStandIn> log) : BackgroundService
{
    private const int AtOnce = 50;
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(2);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (Environment.GetEnvironmentVariable("UNICUS_MAIL") is not { Length: > 0 } folder)
            return;
        using var timer = new PeriodicTimer(Pause);
        do
        {
            try
            {
                Directory.CreateDirectory(folder);
                await using var scope = scopes.CreateAsyncScope();
                while (await Send(scope.ServiceProvider.GetRequiredService<UnicusContext>(), folder, stoppingToken) == AtOnce) { }
            }
            catch (Exception fault) when (!stoppingToken.IsCancellationRequested)
            {
                log.LogWarning(fault, "Messages could not be sent; tried again in a moment");
            }
        } while (await timer.WaitForNextTickAsync(stoppingToken));
    }

    /// <summary>Of several processes each message is taken by one.</summary>
    private static async Task<int> Send(UnicusContext db, string folder, CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var messages = await db
            .Outbox.FromSql($"select * from outbox where sent_at is null order by id limit {AtOnce} for update skip locked")
            .ToListAsync(stop);
        foreach (var message in messages)
        {
            var text = $"Date: {message.At:R}\nTo: {message.To}\nSubject: {message.Subject}\n\n{message.Body}\n";
            await File.WriteAllTextAsync(Path.Combine(folder, $"{message.Id:D8}.txt"), text, Encoding.UTF8, stop);
            message.SentAt = DateTimeOffset.UtcNow;
        }
        await db.SaveChangesAsync(stop);
        await transaction.CommitAsync(stop);
        db.ChangeTracker.Clear();
        return messages.Count;
    }
}
