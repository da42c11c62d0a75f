namespace Unicus.Core.RuleBook;

using Unicus.Core.Pricing;

/// <summary>What a run of prices goes by besides its lines.</summary>
/// <param name="Trade">The shop's terms.</param>
/// <param name="Destination">Where the goods go; null: nothing is taxed or sent.</param>
/// <param name="Service">The key of the way of delivery; null: the first that takes the goods.</param>
public sealed record RunTerms(TradeTerms Trade, Destination? Destination, string? Service = null)
{
    /// <summary>Whether delivery is left aside.</summary>
    public bool WithoutDelivery { get; init; }

    /// <summary>When it is bought, by whom, and by which rules.</summary>
    public RuleContext Buying { get; init; } = RuleContext.Nobody;
}
