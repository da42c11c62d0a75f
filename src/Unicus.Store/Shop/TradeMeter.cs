using System.Diagnostics.Metrics;

namespace Unicus.Store;

/// <summary>Measures of the trade, for whoever watches the shop. They hold no names.</summary>
public static class TradeMeter
{
    /// <summary>By which they are collected.</summary>
    public const string Name = "Unicus";

    private static readonly Meter Meter = new(Name);

    /// <summary>Orders that were placed.</summary>
    public static Counter<long> OrdersPlaced { get; } = Meter.CreateCounter<long>("unicus.orders.placed");

    /// <summary>Orders that were refused: sold out, or another price than was shown.</summary>
    public static Counter<long> OrdersRefused { get; } = Meter.CreateCounter<long>("unicus.orders.refused");

    /// <summary>Editions that were published.</summary>
    public static Counter<long> EditionsPublished { get; } = Meter.CreateCounter<long>("unicus.editions.published");

    /// <summary>Tries to come in that were refused.</summary>
    public static Counter<long> SignInsRefused { get; } = Meter.CreateCounter<long>("unicus.sign_ins.refused");
}
