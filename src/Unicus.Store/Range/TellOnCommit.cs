using System.Collections.Concurrent;
using System.Data.Common;
using Microsoft.EntityFrameworkCore.Diagnostics;

namespace Unicus.Store;

/// <summary>Lets a process see its own changes: what commits here returns when its news have been heard here too.</summary>
public sealed class TellOnCommit(Telling telling) : DbTransactionInterceptor
{
    private readonly ConcurrentDictionary<Guid, string> _marks = new();

    /// <inheritdoc/>
    public override async ValueTask<InterceptionResult> TransactionCommittingAsync(
        DbTransaction transaction,
        TransactionEventData eventData,
        InterceptionResult result,
        CancellationToken cancellationToken = default
    )
    {
        if (telling.IsHearing)
        {
            var mark = telling.NewMark();
            await using var command = transaction.Connection!.CreateCommand();
            command.Transaction = transaction;
            command.CommandText = $"select pg_notify('{Telling.Channel}', 'mark {mark}')";
            await command.ExecuteNonQueryAsync(cancellationToken);
            _marks[eventData.TransactionId] = mark;
        }
        return result;
    }

    /// <inheritdoc/>
    public override async Task TransactionCommittedAsync(
        DbTransaction transaction,
        TransactionEndEventData eventData,
        CancellationToken cancellationToken = default
    )
    {
        if (_marks.TryRemove(eventData.TransactionId, out var mark))
            await telling.Await(mark);
        else
            telling.StartAnew();
    }

    /// <inheritdoc/>
    public override void TransactionCommitted(DbTransaction transaction, TransactionEndEventData eventData) => telling.StartAnew();

    /// <inheritdoc/>
    public override Task TransactionFailedAsync(
        DbTransaction transaction,
        TransactionErrorEventData eventData,
        CancellationToken cancellationToken = default
    )
    {
        if (_marks.TryRemove(eventData.TransactionId, out var mark))
            telling.Drop(mark);
        return Task.CompletedTask;
    }
}
