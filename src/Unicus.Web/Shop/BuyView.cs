using System.Globalization;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>What a page of a product is made from.</summary>
/// <param name="Edition">The newest edition; for a proof the working copy as it would be published.</param>
/// <param name="Range">With the parts that its extras name.</param>
/// <param name="Stock">Of its variants and of those parts.</param>
/// <param name="Terms">What prices go by.</param>
/// <param name="Prior">The was price of a variant, without answers.</param>
public sealed record BuySource(
    Edition Edition,
    PublishedRange Range,
    StockOutlook Stock,
    RunTerms Terms,
    bool IsProof,
    Func<MatrixVariant, Task<Money?>> Prior
)
{
    /// <summary>From how many up a number of units is not told; null: it always is.</summary>
    public int? CountShownBelow => IsProof ? null : Terms.Trade.CountShownBelow;

    /// <summary>What stands around answers.</summary>
    /// <param name="quantity">Units; 1 or more.</param>
    public ConfigurationTerms At(int quantity) => new(Range, Stock, Terms, quantity);
}

/// <summary>The buyable heart of a product page: questions, price with working, availability. The proof and the shop show the
/// same.</summary>
public sealed class BuyView
{
    private readonly BuySource _of;
    private readonly ConfigurationStatus _status;

    private BuyView(BuySource of, ConfigurationStatus status) => (_of, _status) = (of, status);

    public string Code => Product.Code.Text;
    public Product Product => _of.Edition.Product;
    public bool IsProof => _of.IsProof;
    public required IReadOnlyList<ShownQuestion> Questions { get; init; }

    /// <summary>How many sets can be sold over all mixes of open picks.</summary>
    public string MostWords =>
        SetCounts.Of(_status) is not { } sets ? "hangs on what is still open"
        : sets.Most is not { } most ? "as many as are asked for"
        : $"{(sets.IsExact ? "" : "at least ")}{most:N0} over all mixes of open picks";

    /// <summary>The parts of a set, in the order of its slots.</summary>
    public IReadOnlyList<ShownPart> Parts { get; init; } = [];

    /// <summary>Whether a question is asked after what is in a set: its own extras are, of what was put together by then.</summary>
    public bool IsAfterParts(ShownQuestion question) => Parts.Count > 0 && question.Option is { Role: OptionRole.Extra, IsSlot: false };

    /// <summary>What a set saves against its parts bought one by one; null where it saves nothing, or something is open.</summary>
    public Money? Saving => Working is { } w && _status.PartsAlone is { } alone && alone > w.Unit ? alone - w.Unit : null;

    /// <summary>The picks as they stand in the page's address.</summary>
    public string Query => BuyForm.Query(Answers, Typed, _status.Assembled);

    /// <summary>Answers of questions that are hidden now: they come back with their question.</summary>
    public required IReadOnlyList<(string Name, string Value)> Kept { get; init; }

    public Configuration Answers => _status.Answers;

    /// <summary>The quantity as typed.</summary>
    public required TypedQuantity Typed { get; init; }

    public int Quantity => Typed.Units;

    /// <summary>In which quantities it is sold, in a sentence; empty where in any.</summary>
    public string QuantityWords
    {
        get
        {
            var selling = Variant?.Selling ?? Product.Selling;
            return selling switch
            {
                { Least: > 1, MaximumPerOrder: { } most } => $"From {selling.Least:N0} up, at most {most:N0} in one order.",
                { Least: > 1 } => $"From {selling.Least:N0} up.",
                { MaximumPerOrder: { } most } => $"At most {most:N0} in one order.",
                _ => "",
            };
        }
    }

    /// <summary>Why the quantity cannot be ordered of the decided variant; null where it can.</summary>
    public string? QuantityFault =>
        Typed.Problem
        ?? (Variant is { } decided ? QuantityLimits.WhyNot(new VariantOnSale(_of.Edition, decided), Quantity, Quantity) : null);

    /// <summary>The decided variant, or null while several agree.</summary>
    public MatrixVariant? Variant => _status.Variant;

    public Availability? Available => _status.Available;

    /// <summary>How many there are, as this reader is told: the merchant always by number.</summary>
    public string LeftWords => (IsProof ? Available?.MerchantWords : Available?.ShownBelow(_of.CountShownBelow)) ?? "";

    /// <summary>The day on which what is picked can be sent, in words; empty where something is open, nothing is sent, or the day is not
    /// known.</summary>
    public string DayWords
    {
        get
        {
            if (Working is null || NothingLeft || Available is not { } available || (Variant?.Selling ?? Product.Selling).Shipped == false)
                return "";
            if (available.Beyond(Quantity) == 0)
                return "can be sent today";
            var lead = Product.IsSet || Variant is not { } variant ? null : variant.LeadTimeDays;
            return lead is { } days
                ? $"can be sent about {_status.Stock.Today.AddDays(days).ToString("d MMMM", CultureInfo.InvariantCulture)}"
                : "";
        }
    }

    /// <summary>Whether everything is answered that the price hangs on, of parts too.</summary>
    private bool IsDecided => _status is { IsDecided: true, IsOpen: false };

    /// <summary>The price of what is decided; null while a needed question is open.</summary>
    public PriceWorking? Working => IsDecided ? _status.Price?.Working : null;

    /// <summary>While something is open: the exact lowest price of a unit over what can be bought now; null where nothing
    /// can.</summary>
    public Money? From => IsDecided ? null : _status.Lowest;

    /// <summary>Whether what is still to be decided may cost more than <see cref="From"/>.</summary>
    public bool Varies => !IsDecided && _status.Varies;

    /// <summary>What needed answers add once for the line besides; null where they add nothing, or all is decided.</summary>
    public Money? Once => IsDecided ? null : _status.NeededOnce;

    /// <summary>The prices of a unit over everything that may still be picked, in stock or not; null where there is none.</summary>
    public PriceSpan? Span => _status.Price is { } price ? new PriceSpan(price.Lowest, price.Highest) : null;

    /// <summary>The next larger quantity from which a unit costs less; null where none is known.</summary>
    public QuantityStep? NextStep => _status.NextStep;

    /// <summary>What rules move of the price.</summary>
    public IEnumerable<WorkingStep> Moved => Working?.Moved ?? [];

    /// <summary>What is added or taken off for the line as a whole, as shoppers read it.</summary>
    public IEnumerable<WorkingStep> PerLine =>
        Working?.Steps.Where(s => s is { PerLine: true, Step: PriceStep.Answer }).Concat(Working.Moved.Where(s => s.PerLine)) ?? [];

    /// <summary>The was price with the same answers on top; null where the price is not reduced, or was not higher.</summary>
    public async Task<Money?> Was()
    {
        if (Variant is not { } variant || Working is not { } working || !working.Steps.Any(s => s.Step == PriceStep.Unit))
            return null;
        var answers = working.Steps.Where(s => s is { Step: PriceStep.Answer, PerLine: false }).Select(s => s.Amount);
        return await _of.Prior(variant) is { } prior && prior + answers.Sum(prior.Currency) is var was && was > working.Unit ? was : null;
    }

    /// <summary>The price by the kilogram, litre, metre or piece; null where net content is not known.</summary>
    public UnitPrice? PerMeasure =>
        Variant is { } variant && Working is { } working && new VariantOnSale(_of.Edition, variant).NetContent is { } content
            ? content.PriceOf(working.Unit)
            : null;

    /// <summary>What rules of the shop that take something off a unit are called, and until when they run: “Spring prices until 31
    /// March”.</summary>
    public IEnumerable<string> Badges
    {
        get
        {
            var buying = _of.Terms.Buying;
            foreach (var id in Working?.Steps.Where(s => s.Step == PriceStep.Unit).Select(s => s.Rule).Distinct() ?? [])
                if (buying.Book.Rules.Concat(Product.PriceRules).FirstOrDefault(r => r.Id == id) is { } rule)
                    yield return PriceRuleWords.Badge(rule, buying.Zone);
        }
    }

    /// <summary>The RRP, where it is above the price.</summary>
    public Money? Rrp => Variant?.Rrp.Figure is { } rrp && rrp > (Working?.Unit ?? Variant.Price.Figure) ? rrp : null;

    /// <summary>The questions that still need an answer before anything can be bought.</summary>
    public IEnumerable<string> Open => _status.Open.Select(o => o.Label).Concat(_status.Assembled?.OpenLabels ?? []).Distinct();

    public string? Problem { get; set; }

    public string Url => IsProof ? $"/office/products/{Code}/proof" : $"/p/{Product.Address}";

    public IReadOnlyList<ProductPicture> Pictures => Product.PicturesFor(Answers, Variant?.Variant);

    public bool IsComplete =>
        !_status.IsOpen && _status.Assembled is not { Problem: not null } && QuantityFault is null && Questions.All(q => q.Problem is null);

    public bool CanBuy => Variant is not null && Working is not null && IsComplete && Available?.CanSell(Quantity) == true;

    /// <summary>Whether nothing that agrees with the answers can be bought now.</summary>
    public bool NothingLeft =>
        Product.WhyNotOn(_status.Stock.Today) is not null || (IsDecided ? Available?.CanSell(Quantity) != true : From is null);

    /// <summary>What the button says where it cannot be pressed.</summary>
    public string WhyNot =>
        Span is null ? "No price yet"
        : Product.WhyNotOn(_status.Stock.Today) is not null ? "Not on sale today"
        : Available?.Units is > 0 and var units ? $"Only {units:N0} left"
        : "Cannot be bought now";

    /// <summary>What of the quantity is beyond stock, in a sentence; empty where nothing is.</summary>
    public string Later => Variant is null ? "" : Available?.BeyondWords(Quantity) ?? "";

    /// <summary>How the price is made, for the merchant: the parts of the list price, then the answers.</summary>
    public IReadOnlyList<WorkingStep> Steps =>
        Variant is null || Working is null ? []
        : Product.IsSet ? Working.Steps
        : [.. PriceCalculator.ListPrice(Product.Base, _of.Edition.Matrix, Variant), .. Working.Steps.Where(s => s.Step != PriceStep.List)];

    /// <param name="parts">What was picked of the parts of a set; null for nothing.</param>
    public static BuyView Make(BuySource of, SentAnswers sent, TypedQuantity quantity, PartAnswers? parts = null)
    {
        var configurator = of.Edition.Configurator;
        var status = ConfigurationStatus.Of(of.Edition, sent.Given, Filling.Beforehand, of.At(quantity.Units), parts);
        var reply = status.Reply;
        // What is only picked beforehand makes nothing impossible: it gives way.
        var picked = new Configuration(
            status.Answers.Given.RemoveAll(g => configurator.Book.Find(g.Question) is { } q && BuyForm.IsBeforehand(q, g.Answer))
        );
        var may = picked.Given.Length == status.Answers.Given.Length ? reply : configurator.Answer(picked);
        var inStock = ValuesInStock.Of(of.Edition, picked, of.Stock).ToDictionary(v => v.Option, v => v.Values);
        var view = new QuestionPresenter(of, sent, picked, may, inStock, quantity.Units);
        var questions = reply
            .Questions.Zip(may.Questions, (q, m) => q with { Possible = m.Possible, NonePossible = m.NonePossible })
            .Where(q => q.Shown)
            .Select(view.Show)
            .OfType<ShownQuestion>()
            .ToList();
        return new BuyView(of, status)
        {
            Questions = questions,
            Kept =
            [
                .. reply
                    .Questions.Where(q => !q.Shown && q.Answer is not null)
                    .SelectMany(q => AnswerText.Write(q.Answer!).DefaultIfEmpty("").Select(t => (BuyForm.Prefix + q.Question.Key.Text, t))),
            ],
            Typed = quantity,
            Parts = [.. (status.Assembled?.Parts ?? []).Select(p => PartOf(of, p, "", status.Parts))],
        };
    }

    private static ShownPart PartOf(BuySource of, PickedPart part, string within, PartAnswers said)
    {
        var prefix = PartForm.PrefixOf(within, part.Slot.Slot.Key, part.Candidate.Key);
        if (part.Status is not { } status)
            return new ShownPart(part, prefix, [], []);
        var ofPart = of with { Edition = status.Edition, IsProof = false };
        var partial = said.Of(part.Slot.Slot.Key, part.Candidate.Key)?.Partial ?? [];
        var sent = new SentAnswers(status.Given, new Dictionary<Key, (string, string)>())
        {
            Partial = partial.ToDictionary(x => x.Question, x => x.Ticks),
        };
        var inStock = ValuesInStock.Of(status.Edition, status.Answers, of.Stock, isPart: true).ToDictionary(v => v.Option, v => v.Values);
        var presenter = new QuestionPresenter(ofPart, sent, status.Answers, status.Reply, inStock, status.Quantity, isPart: true);
        var offered = status.Edition.Matrix.Offered.SelectMany(v => v.Values.Pairs).ToHashSet();
        bool IsOffered(Option question, OptionValue value) =>
            question.Role != OptionRole.Variant || offered.Contains((question.Key, value.Key));
        var followed = (part.Slot.Slot.Pick as SlotPick.Follows)?.Option;
        var questions = status
            .Reply.Questions.Where(q => q.Shown && !(q.Question.Key == followed && q.Answer is not null))
            .Where(q => part.Candidate.Sku is null || q.Question.Role != OptionRole.Variant)
            .Select(presenter.Show)
            .OfType<ShownQuestion>()
            // What the slot leaves out of the part's variants is not shown at all.
            .Select(q =>
                q with
                {
                    IsFact = q.IsFact || (q.Option.Role == OptionRole.Variant && q.Values.Count(v => IsOffered(q.Option, v.Value)) == 1),
                    Within = prefix,
                    Values = [.. q.Values.Where(v => IsOffered(q.Option, v.Value)).Select(v => v with { Change = null })],
                }
            )
            .ToList();
        return new ShownPart(
            part,
            prefix,
            questions,
            [.. (status.Assembled?.Parts ?? []).Select(p => PartOf(of, p, prefix, status.Parts))]
        );
    }

    /// <summary>Which days may be typed: “from 8 December 2026 to 5 January 2027”; empty for any.</summary>
    public string DaysBetween(DateLimits limits)
    {
        string Day(int days) => _of.Stock.Today.AddDays(days).ToString("d MMMM yyyy", CultureInfo.InvariantCulture);
        return (limits.EarliestInDays, limits.LatestInDays) switch
        {
            ({ } first, { } last) => $"from {Day(first)} to {Day(last)}",
            ({ } first, null) => $"from {Day(first)}",
            (null, { } last) => $"up to {Day(last)}",
            _ => "",
        };
    }
}
