using System.Security.Cryptography;
using System.Text;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Names a call of the HTTP interface that is to be done once, however often it is sent.</summary>
/// <param name="Key">The address together with the key that the caller chose.</param>
/// <param name="Body">What was sent.</param>
public sealed record CallKey(string Key, string Body)
{
    internal string BodyHash => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(Body)));
}

/// <summary>What a call came to.</summary>
/// <param name="Made">The reply, of this time or of the first; null where nothing was made, and nothing is kept.</param>
/// <param name="WasOther">Whether the key came with another body before; then nothing was done.</param>
public sealed record CallReply(string? Made, bool WasOther = false);

/// <summary>Replies kept under the keys of calls: the same key and body give the first reply again.</summary>
public sealed class RepeatedCalls(UnicusContext db, TimeProvider clock)
{
    private const int Created = 201;

    /// <summary>Runs work once per key. The key's row and the work are one transaction, so that a second process waits and then repeats the
    /// reply.</summary>
    /// <param name="call">Null: the work commits itself, and nothing is kept.</param>
    /// <param name="work">Gives the reply; null where nothing was made, which takes everything back.</param>
    public async Task<CallReply> Once(CallKey? call, Func<Task<string?>> work)
    {
        if (call is null)
            return new CallReply(await work());
        await using var transaction = await db.Database.BeginTransactionAsync();
        if (await Begin(call) is { } earlier)
            return earlier;
        if (await work() is not { } made)
            return new CallReply(null);
        await Keep(call, made);
        await transaction.CommitAsync();
        return new CallReply(made);
    }

    /// <summary>Takes a key for the transaction that runs, or says what became of it before.</summary>
    /// <returns>Null where it is new.</returns>
    internal async Task<CallReply?> Begin(CallKey call)
    {
        var isNew =
            await db.Database.ExecuteSqlAsync(
                $"""
                insert into kept_replies (key, body_hash, status, body, at) values ({call.Key}, {call.BodyHash}, 0, '', {clock.GetUtcNow()})
                on conflict do nothing
                """
            ) == 1;
        if (isNew)
            return null;
        var kept = await db.KeptReplies.AsNoTracking().SingleAsync(k => k.Key == call.Key);
        return kept.BodyHash == call.BodyHash ? new CallReply(kept.Body) : new CallReply(null, WasOther: true);
    }

    /// <summary>Keeps the reply under the key that was taken.</summary>
    internal Task Keep(CallKey call, string made) =>
        db
            .KeptReplies.Where(k => k.Key == call.Key)
            .ExecuteUpdateAsync(u => u.SetProperty(k => k.Status, Created).SetProperty(k => k.Body, made));
}
