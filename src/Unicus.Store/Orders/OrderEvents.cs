using System.Collections.Immutable;
using System.Text.Json;

namespace Unicus.Store;

/// <summary>The events of orders as they are kept.</summary>
internal static class OrderEvents
{
    /// <summary>What is kept beside kind, moment and person.</summary>
    /// <param name="Units">Line, leaf and units of what was ended.</param>
    /// <param name="At">Line, leaf, location and units of what was set aside.</param>
    /// <param name="Beyond">Line, leaf and units of what was not in stock.</param>
    private sealed record Data(int[][]? Units, int[][]? At, int[][]? Beyond, string? Reason, bool? WithOrder);

    private static readonly JsonSerializerOptions Form = new(JsonSerializerOptions.Web)
    {
        DefaultIgnoreCondition = System.Text.Json.Serialization.JsonIgnoreCondition.WhenWritingNull,
    };

    /// <param name="sequence">Its place in the order's course, from 0.</param>
    public static OrderEventRow Write(OrderEvent happened, int order, int sequence)
    {
        var (kind, data) = happened switch
        {
            OrderPlaced placed => ("placed", SetAside(placed.Allocations)),
            UnitsSent sent => ("sent", new Data(Units(sent.Units), null, null, null, null)),
            UnitsDropped dropped => (
                "dropped",
                new Data(Units(dropped.Units), null, null, dropped.Reason, dropped.WithOrder ? true : null)
            ),
            OrderReinstated again => ("reinstated", SetAside(again.Allocations)),
            _ => throw new InvalidOperationException("A kind of event that is not kept."),
        };
        return new OrderEventRow
        {
            OrderNumber = order,
            Sequence = sequence,
            Kind = kind,
            At = happened.At,
            By = happened.By,
            Data = JsonSerializer.Serialize(data, Form),
        };
    }

    public static OrderEvent Read(OrderEventRow row)
    {
        var data = JsonSerializer.Deserialize<Data>(row.Data, Form)!;
        return row.Kind switch
        {
            "placed" => new OrderPlaced(row.At, row.By, SetAside(data)),
            "sent" => new UnitsSent(row.At, row.By, Units(data)),
            "dropped" => new UnitsDropped(row.At, row.By, Units(data), data.Reason ?? "", data.WithOrder == true),
            "reinstated" => new OrderReinstated(row.At, row.By, SetAside(data)),
            _ => throw new InvalidOperationException($"An event of a kind that is not known: {row.Kind}."),
        };
    }

    private static int[][] Units(ImmutableArray<LeafUnits> units) => [.. units.Select(u => new[] { u.Of.Line, u.Of.Leaf, u.Units })];

    private static ImmutableArray<LeafUnits> Units(Data data) =>
        [.. (data.Units ?? []).Select(u => new LeafUnits(new LeafPlace(u[0], u[1]), u[2]))];

    private static Data SetAside(ImmutableArray<LeafAllocation> allocations)
    {
        int[][] at = [.. allocations.SelectMany(a => a.Taken.At.Select(t => new[] { a.Of.Line, a.Of.Leaf, t.Location, t.Units }))];
        int[][] beyond = [.. allocations.Where(a => a.Taken.Beyond > 0).Select(a => new[] { a.Of.Line, a.Of.Leaf, a.Taken.Beyond })];
        return new Data(null, at, beyond.Length > 0 ? beyond : null, null, null);
    }

    private static ImmutableArray<LeafAllocation> SetAside(Data data)
    {
        var beyond = (data.Beyond ?? []).ToDictionary(b => new LeafPlace(b[0], b[1]), b => b[2]);
        return
        [
            .. from a in data.At ?? []
            group new UnitsAt(a[2], a[3]) by new LeafPlace(a[0], a[1]) into leaf
            select new LeafAllocation(leaf.Key, new AllocatedUnits([.. leaf], beyond.GetValueOrDefault(leaf.Key))),
        ];
    }
}
