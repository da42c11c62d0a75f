namespace Unicus.Core.Documents.Baskets;

using System.Text.Json;
using System.Text.Json.Nodes;
using Unicus.Core.Assembling;
using Unicus.Core.Money;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Rules;
using Unicus.Core.Stock;
using Unicus.Core.Variants;

/// <summary>Completes lines as asked for: finds their goods, fills in what was left out and says what is missing.</summary>
/// <param name="range">Where goods and parts are looked up.</param>
/// <param name="today">The shop's day, which dates are counted from.</param>
/// <param name="terms">What prices go by.</param>
public sealed class LineCompletion(PublishedRange range, DateOnly today, RunTerms terms)
{
    /// <summary>Completes one line.</summary>
    /// <param name="request">The line.</param>
    /// <param name="pointer">Of the line in its document.</param>
    /// <param name="faults">Takes what is wrong; at most <see cref="Node.MostFaults"/>.</param>
    /// <returns>Null where something is wrong.</returns>
    public RunLine? Complete(LineRequest request, string pointer, List<Fault> faults)
    {
        var before = faults.Count;
        var told = new LineFaults(pointer, faults);
        if (Goods(request, told) is not { } found)
            return null;
        var page = Through(range, request.Through, found.Edition);
        if (!found.Edition.Product.Shelf.Alone && page == found.Edition.Product.Code.Text)
        {
            told.No($"{found.Edition.Product.Name} is sold only as a part of others.");
            return null;
        }
        if (WhyNotNow(found.Edition, page) is { } closed)
        {
            told.No(closed);
            return null;
        }
        if (request.IsOfGroup && !found.Edition.Product.IsGroup)
        {
            told.No($"{found.Edition.Product.Code} is no group, so it has no pieces.");
            return null;
        }
        var answers = new Node(JsonSerializer.SerializeToElement(request.Answers), $"{pointer}/answers", faults);
        var given = AnswerDocument.Read(answers, found.Edition.Questions, today);
        if (faults.Count > before)
            return null;
        if (found.BySku is { } variant)
            given = variant.Values.Pairs.Aggregate(given, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));
        var parts = new Node(JsonSerializer.SerializeToElement(request.Parts), $"{pointer}/parts", faults);
        var said = PartAnswersDocument.Read(parts, found.Edition, range, today);
        given = PartAnswersDocument.Picks(said, found.Edition, given, parts);
        return faults.Count > before ? null : Complete(request, found.Edition, given, said, told);
    }

    /// <summary>Why goods, or the page that they are bought through, are not sold on this day; null where they are.</summary>
    private string? WhyNotNow(Edition edition, string page) =>
        today == default
            ? null
            : edition.Product.WhyNotOn(today) ?? (page == edition.Product.Code.Text ? null : range.Product(page)?.Product.WhyNotOn(today));

    private RunLine? Complete(LineRequest request, Edition edition, Configuration given, PartAnswers said, LineFaults told)
    {
        var stock = StockOutlook.Empty(today);
        var status = ConfigurationStatus.Of(
            edition,
            given,
            Filling.Rest,
            new ConfigurationTerms(range, stock, terms, request.Quantity),
            said
        );
        if (!status.Reply.Valid && edition.Configurator.Conflict(status.Answers) is { } conflict)
            return told.No(conflict.Text, new JsonObject { ["conflict"] = ConfigureDocument.Conflict(conflict.Conflict, conflict.Text) });
        if (!status.Reply.Complete || status.IsOpen)
        {
            var open = status.OpenKeys.ToList();
            return told.No(
                $"Still open: {string.Join(", ", open)}.",
                new JsonObject { ["open"] = new JsonArray([.. open.Select(o => (JsonNode)o!)]) }
            );
        }
        if (edition.Configurator.PriceProblem(status.Answers) is { } beyond)
            return told.No(beyond);
        if (!status.Needs.Ok)
            return told.No(status.Needs.Problem!);
        foreach (var need in status.Needs.Value)
            if ((long)need.PerUnit * request.Quantity > Movements.MostUnits)
                return told.No($"{need.Label} would need more than {Movements.MostUnits:N0} of {need.Goods.Variant.Sku}.");
        var goods = new VariantOnSale(edition, status.Variant!);
        // What a group asks for besides is answered, charged and taken once.
        var quantity = edition.Product.IsGroup ? 1 : request.Quantity;
        return new RunLine(goods, status.Shown, quantity, status.Needs.Value, Through(range, request.Through, edition))
        {
            Assembled = status.Assembled,
            AskedParts = edition.Product.IsSet ? request.Parts : null,
        };
    }

    /// <summary>The page that goods are bought through, if it is published and holds them; else their own.</summary>
    /// <param name="range">Where parts are looked up.</param>
    /// <param name="page">The code that was named; null for none.</param>
    /// <param name="edition">The product.</param>
    public static string Through(PublishedRange range, string? page, Edition edition) =>
        page is not null && range.Product(page) is { } holder && (holder.ProductId == edition.ProductId || Holds(holder, edition))
            ? holder.Product.Code.Text
            : edition.Product.Code.Text;

    /// <summary>Whether a set or group presents a product.</summary>
    private static bool Holds(Edition page, Edition edition) =>
        page.Product.Parts is not null
        && page.Product.SlotsInRange.SelectMany(s => s.Candidates).Any(c => c.Product == edition.Product.Code.Text);

    private NamedGoods? Goods(LineRequest request, LineFaults told)
    {
        if (request.Sku is not { } sku)
        {
            if (range.Product(request.Product!) is { } edition)
                return new NamedGoods(edition, null);
            told.No($"There is no published product {request.Product}.");
            return null;
        }
        if (range.Sku(sku) is not { } onSale)
            told.No($"There is no SKU {sku} in a published edition.");
        else if (onSale.Variant.Variant.Retired)
            told.No($"{sku} is no longer offered.");
        else
            return new NamedGoods(onSale.Edition, onSale.Variant);
        return null;
    }

    private sealed record NamedGoods(Edition Edition, MatrixVariant? BySku);

    private sealed record LineFaults(string Pointer, List<Fault> Faults)
    {
        public RunLine? No(string what, JsonObject? with = null)
        {
            if (Faults.Count < Node.MostFaults)
                Faults.Add(new Fault(Pointer, what) { With = with });
            return null;
        }
    }
}
