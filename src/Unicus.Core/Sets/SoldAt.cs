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
    /// <summary>Of a set: what is picked for its slots.</summary>
    public PartAnswers Parts { get; init; } = PartAnswers.None;

    /// <summary>The line that it is; null where it cannot be bought like this.</summary>
    /// <param name="terms">What prices go by; who buys is put in.</param>
    public (RunLine Line, RunTerms Terms)? Line(RunTerms terms, PublishedRange range)
    {
        var bought = terms with
        {
            WithoutDelivery = true,
            Buying = terms.Buying with
            {
                Groups = By.Group is { } group ? [group] : [],
                Coupons = By.Coupon is { } coupon ? [coupon] : [],
                UsedUp = [],
            },
        };
        var (edition, page) = (Goods.Edition, By.Through ?? Goods.Edition.Product.Code.Text);
        if (!edition.Product.IsSet)
            return (new RunLine(Goods, Answers, Quantity, [], page), bought);
        var around = new StandingTerms(range, new LeafStock(_ => default, DateOnly.MinValue), bought, Quantity, page);
        return Standing.Of(edition, Answers, Filling.Rest, around, Parts) is { IsWhole: true, Variant: { } variant } standing
            ? (
                new RunLine(new VariantOnSale(edition, variant), standing.Shown, Quantity, standing.Needs.Value, page)
                {
                    Assembled = standing.Assembled,
                },
                bought
            )
            : null;
    }

    /// <summary>“500 of Jar labels, round, with MAY, for Guild members”.</summary>
    public string InWords(IReadOnlyList<CustomerGroup> groups)
    {
        var answers = Goods
            .Edition.Questions.Where(q => q.Role == OptionRole.Extra && Answers[q.Key] is not (null or Answer.None))
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
/// <param name="Unknown">How many variants have a price and no known cost.</param>
public sealed record ProvenMargin(SoldAt Lowest, bool IsExact, decimal? Bound, int Unknown)
{
    /// <summary>No basket of these goods, with any coupons, is sold below this margin by what rules may take off, the floor left aside;
    /// null where rules may give them away.</summary>
    public decimal? ByRules { get; init; }

    /// <summary>No basket of these goods is sold below this margin by their floor; null where some have none.</summary>
    public decimal? AtFloor { get; init; }

    /// <summary>Whether a reduction of the cheapest reaches them, so that what one of them is reduced by hangs on the others.</summary>
    public bool IsPooled { get; init; }
}

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
        var bound = new BasketMargin();
        foreach (var product in products)
            bound = bound.With(product);
        return new RangeMargin(
            products.MinBy(p => p.Lowest.Margin ?? decimal.MinValue)!,
            bound.Margin,
            products.All(p => p.IsExact),
            products.Sum(p => p.Unknown)
        );
    }
}

/// <summary>No basket of some products is sold below a margin.</summary>
/// <remarks>
/// A line by itself is held by the better of what rules may take and its floor. Where the cheapest of a pool are reduced, one line may
/// pay for another: only the lowest of all by rules, or the lowest of all floors, holds the pool.
/// </remarks>
public sealed record BasketMargin
{
    /// <summary>The lowest of goods in no pool; null where nothing holds one of them.</summary>
    public decimal? Single { get; init; } = 100;

    /// <summary>The lowest by rules of goods in pools; null where they may be given away.</summary>
    public decimal? PoolByRules { get; init; } = 100;

    /// <summary>The lowest floor of goods in pools; null where one has none.</summary>
    public decimal? PoolAtFloor { get; init; } = 100;

    /// <summary>In per cent of what is paid net of tax; null where something may be given away.</summary>
    public decimal? Margin => Lower(Single, Higher(PoolByRules, PoolAtFloor));

    /// <summary>With one product more.</summary>
    public BasketMargin With(ProvenMargin product) =>
        product.IsPooled
            ? this with
            {
                PoolByRules = Lower(PoolByRules, product.ByRules),
                PoolAtFloor = Lower(PoolAtFloor, product.AtFloor),
            }
            : this with
            {
                Single = Lower(Single, Higher(product.ByRules, product.AtFloor)),
            };

    private static decimal? Higher(decimal? a, decimal? b) => a is { } x && b is { } y ? Math.Max(x, y) : a ?? b;

    private static decimal? Lower(decimal? a, decimal? b) => a is { } x && b is { } y ? Math.Min(x, y) : null;
}
