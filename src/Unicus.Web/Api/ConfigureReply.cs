using System.Text.Json;
using Unicus.Store;

namespace Unicus.Web.Api;

/// <summary>The request of <c>configure</c>.</summary>
public static class ConfigureReply
{
    /// <summary>Reads the request and replies how its answers stand.</summary>
    /// <param name="edition">What is configured: an edition, or a working copy as it would be published.</param>
    /// <param name="range">With the parts that its extras name.</param>
    /// <param name="stock">Of its variants and of those parts.</param>
    public static IResult Make(
        JsonElement json,
        Edition edition,
        PublishedRange range,
        ShownStock stock,
        ShopSettings shop,
        RuleContext buying
    )
    {
        var faults = new List<Fault>();
        var root = new Node(json, "#", faults);
        if (!root.IsObject("a request"))
            return Problems.Unfit(faults);
        root.Only("answers", "parts", "quantity", "at", "why", "customerGroup", "coupons", "through", "destination");
        var quantity = root.Has("quantity") ? root.Whole("quantity", 1, Selling.MostUnits) ?? 1 : 1;
        var today = shop.DayAt(buying.At);
        var destination = root.Text("destination", 20);
        if (destination is not null && shop.Terms.Find(destination) is null)
            root.At("destination").Fault($"Nothing is sent to {destination}.");
        var configurator = edition.Configurator;
        var given = AnswerDocument.Read(root.At("answers"), configurator.Questions, today);
        var said = PartAnswersDocument.Read(root.At("parts"), edition, range, today);
        given = PartAnswersDocument.Picks(said, edition, given, root.At("parts"));
        if (configurator.PriceProblem(given) is { } beyond)
            root.At("answers").Fault(beyond);
        var why = ReadWhy(root.At("why"), configurator);
        var through = root.Text("through", 64);
        if (configurator.Faults.Length > 0)
            return Problems.Of(409, "The rules cannot be worked out.", configurator.Faults.Select(f => new Fault("#/rules", f.What)));
        if (faults.Count > 0)
            return Problems.Unfit(faults);
        var terms = new ConfigurationTerms(
            range,
            new StockOutlook(stock.Of, today),
            new RunTerms(shop.Terms, shop.Terms.Find(destination)) { Buying = buying },
            quantity,
            LineCompletion.Through(range, through, edition)
        );
        var status = ConfigurationStatus.Of(edition, given, Filling.None, terms, said);
        var conflict =
            why is { } w ? configurator.Why(given, w.Option, w.Value)
            : status.Reply.Valid ? null
            : configurator.Conflict(given);
        return Bodies.Json(ConfigureDocument.Write(status, conflict));
    }

    /// <summary>What is asked about besides the answers: the moment, the buyer's group and coupons.</summary>
    public static BasketRequest ReadBuyer(JsonElement json, ICollection<Fault> faults)
    {
        var root = new Node(json, "#", faults);
        if (json.ValueKind != JsonValueKind.Object)
            return new BasketRequest([], null);
        return new BasketRequest([], null, BasketRequest.ReadAt(root))
        {
            Coupons = BasketRequest.ReadCoupons(root),
            CustomerGroup = root.Text("customerGroup", 64),
        };
    }

    private static AskedWhy? ReadWhy(Node node, Configurator configurator)
    {
        if (!node.Exists || !node.IsObject("an option and a value"))
            return null;
        node.Only("option", "value");
        node.Require("option", "value");
        if (node.Key("option") is not { } o || node.Key("value") is not { } v)
            return null;
        if (configurator.Book.Find(o)?.Find(v) is not null)
            return new AskedWhy(o, v);
        node.Fault($"There is no {o} = {v}.");
        return null;
    }

    private sealed record AskedWhy(Key Option, Key Value);
}
