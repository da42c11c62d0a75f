using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;

namespace Unicus.Store;

/// <summary>What is kept of an import to be shown: all counts, and the first changes and faults.</summary>
public sealed record SheetReport(
    int Rows,
    int ChangeCount,
    int FaultCount,
    IReadOnlyList<SheetChange> Changes,
    IReadOnlyList<SheetFault> Faults,
    IReadOnlyList<string> UnknownColumns,
    int MadeCount,
    IReadOnlyList<SheetMade> Made,
    bool CanApply,
    string? Problem
)
{
    private const int MostShown = 300;

    public static SheetReport Of(SheetPlan plan, string? problem = null) =>
        new(
            plan.Rows,
            plan.Changes.Count,
            plan.Faults.Count,
            [.. plan.Changes.Take(MostShown)],
            [.. plan.Faults.Take(MostShown)],
            plan.UnknownColumns,
            plan.Made.Count,
            [.. plan.Made.Take(MostShown)],
            plan.CanApply,
            problem
        );

    public static SheetReport Of(string problem) => new(0, 0, 0, [], [], [], 0, [], false, problem);
}

/// <summary>How the work on a sheet stands.</summary>
/// <param name="Code">The product that it is of; null for the whole range.</param>
/// <param name="RowsTotal">0 while they are not counted yet.</param>
/// <param name="Beat">When it was last heard of.</param>
/// <param name="Report">What it did or would do; null while that is not known.</param>
public sealed record SheetState(
    Guid Id,
    string? Code,
    string FileName,
    DateTimeOffset At,
    SheetPhase Phase,
    int RowsDone,
    int RowsTotal,
    DateTimeOffset Beat,
    SheetReport? Report
);

/// <summary>Reads and writes sheets beside the request that sent them, with progress and a way to stop.</summary>
/// <remarks>
/// Progress, the wish to stop and the result stand in the row of the upload, so that any process can show them. Stopping cancels the
/// statement that runs just then; its transaction is taken back whole.
/// </remarks>
public sealed class SheetJobs(IServiceScopeFactory scopes, TimeProvider clock)
{
    private static readonly TimeSpan Beats = TimeSpan.FromMilliseconds(250);
    private static readonly TimeSpan Silence = TimeSpan.FromSeconds(30);

    /// <summary>Keeps a file and begins to read it.</summary>
    /// <returns>The upload, and the task that ends when everything it would do is known.</returns>
    public async Task<(Guid Id, Task Done)> Read(string? code, byte[] content, string fileName, Actor by)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<UnicusContext>();
        var now = clock.GetUtcNow();
        var upload = new SheetUpload
        {
            Id = Guid.NewGuid(),
            Code = code,
            FileName = fileName,
            Content = content,
            At = now,
            Beat = now,
        };
        db.SheetUploads.Add(upload);
        await db.SaveChangesAsync();
        return (upload.Id, Task.Run(() => Work(upload.Id, by, write: false)));
    }

    /// <summary>Begins to write a file that was read; null if it is not there or not ready.</summary>
    public async Task<Task?> Write(Guid id, Actor by)
    {
        await using var scope = scopes.CreateAsyncScope();
        var now = clock.GetUtcNow();
        var taken = await scope
            .ServiceProvider.GetRequiredService<UnicusContext>()
            .SheetUploads.Where(u => u.Id == id && u.Phase == SheetPhase.Known)
            .ExecuteUpdateAsync(u =>
                u.SetProperty(x => x.Phase, SheetPhase.Writing)
                    .SetProperty(x => x.RowsDone, 0)
                    .SetProperty(x => x.Stop, false)
                    .SetProperty(x => x.Beat, now)
            );
        return taken == 0 ? null : Task.Run(() => Work(id, by, write: true));
    }

    /// <summary>How a sheet stands; null where it is no longer kept.</summary>
    /// <param name="code">The product that it is of; null for the whole range.</param>
    public async Task<SheetState?> Find(Guid id, string? code)
    {
        await using var scope = scopes.CreateAsyncScope();
        var found = await scope
            .ServiceProvider.GetRequiredService<UnicusContext>()
            .SheetUploads.Where(u => u.Id == id && u.Code == code)
            .Select(u => new
            {
                u.FileName,
                u.At,
                u.Phase,
                u.RowsDone,
                u.RowsTotal,
                u.Beat,
                u.Report,
            })
            .FirstOrDefaultAsync();
        if (found is null)
            return null;
        var report = found.Report is { } text ? JsonSerializer.Deserialize<SheetReport>(text) : null;
        return new SheetState(id, code, found.FileName, found.At, found.Phase, found.RowsDone, found.RowsTotal, found.Beat, report);
    }

    /// <summary>Asks whoever works on a sheet to stop.</summary>
    public async Task Stop(Guid id)
    {
        await using var scope = scopes.CreateAsyncScope();
        await scope
            .ServiceProvider.GetRequiredService<UnicusContext>()
            .SheetUploads.Where(u => u.Id == id)
            .ExecuteUpdateAsync(u => u.SetProperty(x => x.Stop, true));
    }

    /// <summary>Whether a job that should be running has not been heard of for long: its process ended.</summary>
    public bool IsLost(SheetState upload) =>
        upload.Phase is SheetPhase.Reading or SheetPhase.Comparing or SheetPhase.Trying or SheetPhase.Writing
        && clock.GetUtcNow() - upload.Beat > Silence;

    private async Task Work(Guid id, Actor by, bool write)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<UnicusContext>();
        await db.Database.OpenConnectionAsync();
        var process = ((NpgsqlConnection)db.Database.GetDbConnection()).ProcessID;
        using var stop = new CancellationTokenSource();
        using var ended = new CancellationTokenSource();
        var progress = new SheetProgress { Phase = write ? SheetPhase.Writing : SheetPhase.Reading };
        var watch = Watch(id, progress, process, stop, write, ended.Token);
        var (phase, report) = (SheetPhase.Failed, SheetReport.Of("The sheet could not be worked on. Send it again."));
        try
        {
            var upload = await db.SheetUploads.AsNoTracking().SingleAsync(u => u.Id == id, CancellationToken.None);
            var import = scope.ServiceProvider.GetRequiredService<SheetImport>();
            var outcome = write
                ? await import.Run(upload.Code, upload.Content, upload.FileName, by, progress, stop.Token)
                : await import.DryRun(upload.Code, upload.Content, upload.FileName, by, progress, stop.Token);
            (phase, report) =
                !outcome.Done ? (SheetPhase.Failed, SheetReport.Of(outcome.Faults[0].What))
                : !write ? (SheetPhase.Known, SheetReport.Of(outcome.Result!))
                : outcome.Result!.CanApply ? (SheetPhase.Written, SheetReport.Of(outcome.Result))
                : (
                    SheetPhase.Known,
                    SheetReport.Of(
                        outcome.Result,
                        "Nothing was written: something was changed meanwhile. This is how the file stands now."
                    )
                );
        }
        catch (Exception e)
            when (stop.IsCancellationRequested
                && e is OperationCanceledException or PostgresException or NpgsqlException or DbUpdateException or InvalidOperationException
            )
        {
            (phase, report) = (SheetPhase.Stopped, SheetReport.Of("Stopped. Nothing was written."));
        }
        finally
        {
            await ended.CancelAsync();
            await watch;
            await Finish(id, phase, report);
        }
    }

    private async Task Finish(Guid id, SheetPhase phase, SheetReport report)
    {
        await using var scope = scopes.CreateAsyncScope();
        var text = JsonSerializer.Serialize(report);
        await scope
            .ServiceProvider.GetRequiredService<UnicusContext>()
            .SheetUploads.Where(u => u.Id == id)
            .ExecuteUpdateAsync(u => u.SetProperty(x => x.Phase, phase).SetProperty(x => x.Report, text));
    }

    /// <summary>Writes down how far the job is, and stops it when asked to, until it has ended.</summary>
    private async Task Watch(
        Guid id,
        SheetProgress progress,
        int process,
        CancellationTokenSource stop,
        bool write,
        CancellationToken ended
    )
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<UnicusContext>();
        while (!ended.IsCancellationRequested)
        {
            var (phase, done, total, now) = (write ? SheetPhase.Writing : progress.Phase, progress.Done, progress.Total, clock.GetUtcNow());
            await db
                .SheetUploads.Where(u => u.Id == id)
                .ExecuteUpdateAsync(
                    u =>
                        u.SetProperty(x => x.Phase, phase)
                            .SetProperty(x => x.RowsDone, done)
                            .SetProperty(x => x.RowsTotal, total)
                            .SetProperty(x => x.Beat, now),
                    CancellationToken.None
                );
            if (
                !stop.IsCancellationRequested
                && await db.SheetUploads.Where(u => u.Id == id).Select(u => u.Stop).FirstOrDefaultAsync(CancellationToken.None)
            )
            {
                await stop.CancelAsync();
                if (!ended.IsCancellationRequested)
                    await db.Database.ExecuteSqlAsync($"select pg_cancel_backend({process})", CancellationToken.None);
            }
            await Task.Delay(Beats, ended)
                .ContinueWith(_ => { }, CancellationToken.None, TaskContinuationOptions.None, TaskScheduler.Default);
        }
    }
}
