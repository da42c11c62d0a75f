using System.Text.Json;
using NpgsqlTypes;

namespace Unicus.Store;

/// <summary>A picture in three sizes.</summary>
internal sealed class PictureRow
{
    public int Id { get; set; }
    public required string File { get; set; }
    public required string ContentType { get; set; }
    public int Width { get; set; }
    public int Height { get; set; }
    public required byte[] Large { get; set; }
    public required byte[] Medium { get; set; }
    public required byte[] Small { get; set; }
}

/// <summary>A film that was sent.</summary>
internal sealed class VideoRow
{
    public int Id { get; set; }
    public required string File { get; set; }
    public required string ContentType { get; set; }
    public required byte[] Content { get; set; }
}
