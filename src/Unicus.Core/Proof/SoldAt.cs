namespace Unicus.Core.Proof;

using System.Collections.Immutable;
using Unicus.Core.Assembling;
using Unicus.Core.Baskets;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Rules;
using Unicus.Core.Stock;

/// <summary>A basket of one line with its margin.</summary>
/// <param name="Goods">What it is.</param>
/// <param name="Answers">Complete.</param>
/// <param name="Quantity">Units; 1 or more.</param>
/// <param name="By">Who buys it.</param>
/// <param name="At">When it is bought.</param>
/// <param name="Paid">What is paid for the line, reductions of the basket taken off, in minor units.</param>
/// <param name="Cost">What it costs the merchant, in minor units.</param>
/// <param name="Margin">In per cent of what is paid net of tax; null where nothing is.</param>
public sealed record SoldAt(
    VariantOnSale Goods,
    Configuration Answers,
    int Quantity,
    BuyingWith By,
    DateTimeOffset At,
    long Paid,
    long Cost,
    decimal? Margin
)
{
    /// <summary>Of a set: what is picked for its slots.</summary>
    public PartAnswers Parts { get; init; } = PartAnswers.None;

    /// <summary>The line that it is; null where it cannot be bought like this.</summary>
    /// <param name="terms">What prices go by; who buys, and when, is put in.</param>
    /// <param name="range">Where parts are looked up.</param>
    public (RunLine Line, RunTerms Terms)? Line(RunTerms terms, PublishedRange range)
    {
        var buying = By.Under(terms.Buying) with { At = At };
        var bought = terms with { WithoutDelivery = true, Buying = buying };
        var (edition, page) = (Goods.Edition, By.Through ?? Goods.Edition.Product.Code.Text);
        var around = new ConfigurationTerms(range, StockOutlook.Empty(buying.Today), bought, Quantity, page);
        return ConfigurationStatus.Of(edition, Answers, Filling.Rest, around, Parts) is { IsWhole: true, Variant: { } variant } status
            ? (
                new RunLine(new VariantOnSale(edition, variant), status.Shown, Quantity, status.Needs.Value, page)
                {
                    Assembled = status.Assembled,
                },
                bought
            )
            : null;
    }

    /// <summary>The line priced in a basket of its own; null where it cannot be bought like this.</summary>
    /// <inheritdoc cref="Line"/>
    public PricedBasket? Basket(RunTerms terms, PublishedRange range) =>
        Line(terms, range) is var (line, bought) ? PriceRun.Of([line], bought, range).Basket : null;

    /// <summary>How the price comes about, reductions of the basket included; null where it cannot be bought like this.</summary>
    /// <inheritdoc cref="Line"/>
    public PriceWorking? Working(RunTerms terms, PublishedRange range)
    {
        if (Basket(terms, range) is not { Lines: [var line] } basket)
            return null;
        var reductions = basket.Reductions.Select(r => new WorkingStep(PriceStep.Basket, r.Rule.Name, r.Amount, true, r.Rule.Id));
        return line.Working with { Steps = [.. line.Working.Steps, .. reductions] };
    }

    /// <summary>“500 of Jar labels, round, with MAY, for Guild members”.</summary>
    public string InWords(IReadOnlyList<CustomerGroup> groups)
    {
        var answers = Goods
            .Edition.Questions.Where(q => q.Role == OptionRole.Extra && Answers[q.Key] is not (null or Answer.None))
            .Select(q => $"{q.Label.ToLowerInvariant()} {Wording.LowerFirst(AnswerText.ForPeople(q, Answers[q.Key]!))}");
        var pieces = answers.Prepend($"{(Quantity == 1 ? "one" : $"{Quantity:N0}")} of {Goods.Figures.Name}").ToList();
        if (!By.Coupons.IsEmpty)
            pieces.Add($"with {string.Join(" and ", By.Coupons.Select(c => c.Code))}");
        if (By.Group is { } group)
            pieces.Add($"for {groups.FirstOrDefault(g => g.Key == group)?.Label ?? group.Text}");
        if (By.Through is { } page)
            pieces.Add($"through {page}");
        return string.Join(", ", pieces);
    }
}

/// <summary>What a buyer brings that rules ask for.</summary>
/// <param name="Group">The key of a customer group; null for none.</param>
/// <param name="Coupons">Words, or the keys of lists of codes.</param>
/// <param name="Through">The code of the page that it is bought through; null for its own.</param>
public sealed record BuyingWith(Key? Group, ImmutableArray<NamedCoupon> Coupons, string? Through)
{
    /// <summary>Nobody in particular.</summary>
    public static BuyingWith Nothing { get; } = new(null, [], null);

    /// <summary>Bought by somebody who brings this.</summary>
    public RuleContext Under(RuleContext buying) =>
        buying with
        {
            Groups = Group is { } group ? [group] : [],
            Coupons = Coupons,
            UsedUp = [],
        };
}
