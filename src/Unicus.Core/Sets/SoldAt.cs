namespace Unicus.Core;

/// <summary>A basket of one line with its margin.</summary>
/// <param name="Answers">Complete; what is typed is left open.</param>
/// <param name="Quantity">Units; 1 or more.</param>
/// <param name="By">Who buys it.</param>
/// <param name="Total">The line after stage 5, in minor units.</param>
/// <param name="Cost">What it costs the merchant, in minor units.</param>
/// <param name="Margin">In per cent of the total net of tax; null where nothing is paid.</param>
public sealed record SoldAt(VariantOnSale Goods, Configuration Answers, int Quantity, BuyingWith By, long Total, long Cost, decimal? Margin)
{
    /// <summary>“500 of Jar labels, round, with MAY, for Guild members”.</summary>
    public string InWords(IReadOnlyList<CustomerGroup> groups)
    {
        var answers = Goods
            .Edition.Product.Questions.Where(q => q.Role == OptionRole.Extra && Answers[q.Key] is not (null or Answer.None))
            .Select(q => $"{q.Label.ToLowerInvariant()} {Wording.LowerFirst(AnswerText.ForPeople(q, Answers[q.Key]!))}");
        var pieces = answers.Prepend($"{(Quantity == 1 ? "one" : $"{Quantity:N0}")} of {Goods.Figures.Name}").ToList();
        if (By.Coupon is { } coupon)
            pieces.Add($"with {coupon.Code}");
        if (By.Group is { } group)
            pieces.Add($"for {groups.FirstOrDefault(g => g.Key == group)?.Label ?? group.Text}");
        if (By.Through is { } page)
            pieces.Add($"through {page}");
        return string.Join(", ", pieces);
    }
}

/// <summary>What a buyer brings that rules ask for.</summary>
/// <param name="Group">The key of a customer group; null for none.</param>
/// <param name="Coupon">A word or the key of a list of codes; null for none.</param>
/// <param name="Through">The code of the page that it is bought through; null for its own.</param>
public sealed record BuyingWith(Key? Group, NamedCoupon? Coupon, string? Through)
{
    /// <summary>Nobody in particular.</summary>
    public static BuyingWith Nothing { get; } = new(null, null, null);
}

/// <summary>The lowest margin that a product can be sold at.</summary>
/// <param name="Lowest">The basket of one line that has it: any configuration, every quantity up to
/// <see cref="LowestMargin.MostUnits"/>, one group, one coupon and one page.</param>
/// <param name="IsExact">Whether it is the lowest; otherwise it is at least as high as <see cref="Bound"/> says.</param>
/// <param name="Bound">No line of that kind is sold below this margin, in per cent; null where something may be given away.</param>
/// <param name="Basket">No basket of any lines, with any coupons, is sold below this margin as far as its goods are these and rules
/// alone limit it; null where they may be given away.</param>
/// <param name="AtFloor">No basket of goods with a floor is sold below this margin; null where they have none.</param>
/// <param name="Unknown">How many variants have a price and no known cost.</param>
public sealed record ProvenMargin(SoldAt Lowest, bool IsExact, decimal? Bound, decimal? Basket, decimal? AtFloor, int Unknown);

/// <summary>The lowest margin over several products.</summary>
/// <param name="Lowest">The product that can be sold lowest.</param>
/// <param name="Basket">No basket is sold below this margin, in per cent; null where something may be given away.</param>
/// <param name="IsExact">Whether <paramref name="Lowest"/> is exact.</param>
/// <param name="Unknown">How many variants have a price and no known cost.</param>
public sealed record RangeMargin(ProvenMargin Lowest, decimal? Basket, bool IsExact, int Unknown)
{
    /// <summary>Puts products together.</summary>
    /// <param name="products">At least one.</param>
    public static RangeMargin Of(IReadOnlyCollection<ProvenMargin> products)
    {
        var byRules = products.Any(p => p.Basket is null) ? null : products.Min(p => p.Basket);
        var byFloor = products.Any(p => p.AtFloor is null) ? null : products.Min(p => p.AtFloor);
        return new RangeMargin(
            products.MinBy(p => p.Lowest.Margin ?? decimal.MinValue)!,
            byRules is { } r && byFloor is { } f ? Math.Max(r, f) : byRules ?? byFloor,
            products.All(p => p.IsExact),
            products.Sum(p => p.Unknown)
        );
    }
}
