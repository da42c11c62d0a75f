namespace Unicus.Core.Assembling;

using Unicus.Core.Money;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Answers;
using Unicus.Core.Pricing.Stages;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;

/// <summary>A line after stages 1 and 2.</summary>
/// <param name="Run">The line as it goes through the stages.</param>
/// <param name="Set">The prices of the parts of a set; null for a product without.</param>
internal readonly record struct StartedLine(LineRun Run, PricedSet? Set);

/// <summary>Starts the lines of a run: stages 1 and 2.</summary>
/// <param name="run">By what it is priced.</param>
/// <param name="range">Where parts are looked up.</param>
/// <param name="trace">Whether workings are written.</param>
internal sealed class LineStart(RunTerms run, PublishedRange range, bool trace)
{
    /// <summary>Those of the line before, mostly of the same product.</summary>
    private SellingFigures? _figures;

    private TradeTerms Terms => run.Trade;

    /// <summary>Starts a line; null where it has no price.</summary>
    /// <param name="line">The line.</param>
    /// <param name="number">Its place in the basket, from 0.</param>
    public StartedLine? Of(RunLine line, int number)
    {
        var (edition, variant) = line.Goods;
        if (edition.Product.IsSet)
            return line.Assembled is null ? null : OfSet(line, line.Assembled, number);
        if (edition.Product.IsGroup)
            return new StartedLine(OfGroup(line, number), null);
        if (!ReferenceEquals(_figures?.Edition, edition))
            _figures = SellingFigures.Of(edition, Terms);
        if (line.Supply.Listed(_figures, variant) is not { } goods)
            return null;
        if (edition.Answers.Of(line.Answers, goods.List) is { } sum)
            return new StartedLine(LineRun.Start(goods, number, line.Quantity, sum, trace ? Steps(line, goods) : null), null);
        return new StartedLine(LineRun.Start(goods, line.Title, number, line.Quantity, Amounts(line, goods), trace), null);
    }

    /// <summary>The steps of stages 1 and 2, put together when they are gone through.</summary>
    private static IEnumerable<WorkingStep> Steps(RunLine line, LineGoods goods)
    {
        yield return goods.Step(line.Title);
        foreach (var step in line.Goods.Edition.Answers.Steps(line.Answers, goods.List, goods.Currency))
            yield return step;
    }

    private StartedLine? OfSet(RunLine line, AssembledSet assembled, int number)
    {
        var edition = line.Goods.Edition;
        var pricing = new SetPricing(run, range);
        if (pricing.Of(edition, assembled, line.Quantity) is not { } set)
            return null;
        var goods = Whole(line, set.List, pricing.FloorOf(edition, set));
        return new StartedLine(LineRun.Start(goods, set.Steps, set.Once, number, line.Quantity, Amounts(line, goods), trace), set);
    }

    /// <summary>A group has no price of its own: its line is what its extras come to.</summary>
    private LineRun OfGroup(RunLine line, int number)
    {
        var goods = Whole(line, 0, null);
        return LineRun.Start(goods, line.Title, number, 1, Amounts(line, goods), trace);
    }

    private LineGoods Whole(RunLine line, long list, long? floor) =>
        new(line.Goods.Edition.Product.Code.Text, line.Goods.Variant.Sku.Text.ToUpperInvariant(), Terms.Currency, list, floor);

    /// <summary>What answers to extras add; slots add by their parts.</summary>
    private IEnumerable<AnswerAmount> Amounts(RunLine line, LineGoods goods) =>
        line.Goods.Edition.Product.Extras.IsEmpty
            ? []
            : new AnswerPricing(line.Goods.Edition.Questions, range.Figures).Amounts(
                line.Answers,
                MinorUnits.ToMoney(goods.List, goods.Currency)
            );
}
