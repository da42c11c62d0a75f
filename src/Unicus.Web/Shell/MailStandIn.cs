using MimeKit;
using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>The simulated stand-in for mail: lays each message of the outbox as a file (RFC 5322) into the folder that <c>UNICUS_MAIL</c>
/// names, so that an owner who cannot come in can still read theirs. Without a folder messages only stand in the outbox.</summary>
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
                // Messages hold links that open accounts: they are their owner's alone.
                if (OperatingSystem.IsWindows())
                    Directory.CreateDirectory(folder);
                else
                    Directory.CreateDirectory(folder, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
                await using var scope = scopes.CreateAsyncScope();
                var outbox = scope.ServiceProvider.GetRequiredService<Outbox>();
                while (await outbox.Send(AtOnce, message => Lay(message, folder, stoppingToken), stoppingToken) == AtOnce) { }
            }
            catch (Exception fault) when (!stoppingToken.IsCancellationRequested)
            {
                log.LogWarning(fault, "Messages could not be sent; tried again in a moment");
            }
        } while (await timer.WaitForNextTickAsync(stoppingToken));
    }

    /// <summary>Heads and bodies in UTF-8, as people read them (RFC 6532).</summary>
    private static FormatOptions Readable { get; } =
        new()
        {
            International = true,
            NewLineFormat = NewLineFormat.Unix,
            ParameterEncodingMethod = ParameterEncodingMethod.Rfc2231,
        };

    private static MimeMessage Written(Message message)
    {
        var mime = new MimeMessage
        {
            Date = message.At,
            Subject = TypedText.Line(message.Subject),
            Body = new TextPart("plain") { Text = message.Body, ContentTransferEncoding = ContentEncoding.EightBit },
        };
        if (MailboxAddress.TryParse(message.To, out var to))
            mime.To.Add(to);
        return mime;
    }

    private static async Task Lay(Message message, string folder, CancellationToken stop)
    {
        var options = new FileStreamOptions { Mode = FileMode.Create, Access = FileAccess.Write };
        if (!OperatingSystem.IsWindows())
            options.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        await using var file = new FileStream(Path.Combine(folder, $"{message.Id:D8}.eml"), options);
        await Written(message).WriteToAsync(Readable, file, stop);
    }
}
