using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>A kept film as a stream that fetches a slice when it is read.</summary>
public sealed class FilmStream(VideoStore videos, KeptFilm film, FairShare share, string address) : Stream
{
    /// <summary>Bytes fetched at once.</summary>
    private const int SliceSize = 256 * 1024;

    private byte[] _slice = [];
    private long _from;

    public override bool CanRead => true;
    public override bool CanSeek => true;
    public override bool CanWrite => false;
    public override long Length => film.Length;
    public override long Position { get; set; }

    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        if (Position >= Length || buffer.IsEmpty)
            return 0;
        if (Position < _from || Position >= _from + _slice.Length)
        {
            _from = Position;
            await share.Run(
                address,
                async () => _slice = await videos.Slice(film, Position, SliceSize, cancellationToken),
                cancellationToken
            );
            if (_slice.Length == 0)
                return 0;
        }
        var at = (int)(Position - _from);
        var read = Math.Min(buffer.Length, _slice.Length - at);
        _slice.AsMemory(at, read).CopyTo(buffer);
        Position += read;
        return read;
    }

    public override Task<int> ReadAsync(byte[] buffer, int offset, int count, CancellationToken cancellationToken) =>
        ReadAsync(buffer.AsMemory(offset, count), cancellationToken).AsTask();

    public override long Seek(long offset, SeekOrigin origin) =>
        Position = origin switch
        {
            SeekOrigin.Begin => offset,
            SeekOrigin.Current => Position + offset,
            _ => Length + offset,
        };

    public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException("A film is read asynchronously.");

    public override void Flush() => throw new NotSupportedException();

    public override void SetLength(long value) => throw new NotSupportedException();

    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
}
