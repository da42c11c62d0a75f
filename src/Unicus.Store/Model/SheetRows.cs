using System.Text.Json;
using NpgsqlTypes;

namespace Unicus.Store;

/// <summary>A sheet that was sent, kept for a day while it is read, looked at and written; any process can say how far it is.</summary>
internal sealed class SheetUpload
{
    public Guid Id { get; set; }

    /// <summary>The product it is for; null: the whole range.</summary>
    public string? Code { get; set; }

    public required string FileName { get; set; }
    public required byte[] Content { get; set; }
    public DateTimeOffset At { get; set; }
    public SheetPhase Phase { get; set; }
    public int RowsDone { get; set; }
    public int RowsTotal { get; set; }

    /// <summary>When the process that works on it was last heard of.</summary>
    public DateTimeOffset Beat { get; set; }

    /// <summary>Whether somebody asked to stop it.</summary>
    public bool Stop { get; set; }

    /// <summary>A <see cref="SheetReport"/> as JSON, once there is one.</summary>
    public string? Report { get; set; }
}

/// <summary>Where an import stands.</summary>
public enum SheetPhase
{
    Reading,
    Comparing,
    Trying,

    /// <summary>Everything that it would do is known.</summary>
    Known,

    Writing,
    Written,
    Stopped,
    Failed,
}
