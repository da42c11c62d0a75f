namespace Unicus.Store;

/// <summary>Reads another stream up to a number of bytes, whatever it says of its own length.</summary>
internal sealed class BoundedStream(Stream inner, long most) : Stream
{
    private long _left = most;

    public override bool CanRead => true;
    public override bool CanSeek => false;
    public override bool CanWrite => false;
    public override long Length => throw new NotSupportedException();

    public override long Position
    {
        get => throw new NotSupportedException();
        set => throw new NotSupportedException();
    }

    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    /// <exception cref="SheetTooLargeException">There is more than is read.</exception>
    public override int Read(Span<byte> buffer)
    {
        var read = inner.Read(buffer);
        if ((_left -= read) < 0)
            throw new SheetTooLargeException("The file unpacks to more than is read at once. Send it in parts.");
        return read;
    }

    public override void Flush() => throw new NotSupportedException();

    public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

    public override void SetLength(long value) => throw new NotSupportedException();

    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    protected override void Dispose(bool disposing)
    {
        if (disposing)
            inner.Dispose();
        base.Dispose(disposing);
    }
}
