using System.Globalization;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>A value as the shopper sees it.</summary>
/// <param name="Why">Why it cannot be picked; null when it can.</param>
/// <param name="Change">What would have to change for it, and the address with that changed; null where it can be picked or nothing
/// helps.</param>
/// <param name="Adds">What it adds to the price, as people read it; empty where it adds nothing.</param>
public sealed record ShownValue(OptionValue Value, bool Picked, string? Why, (string Words, string Query)? Change, string Adds);

/// <summary>A question as the shopper sees it.</summary>
/// <param name="IsFact">Whether only one value is left, so that it answers itself.</param>
/// <param name="CanBeNone">Whether it may be left without an answer.</param>
/// <param name="Typed">What stands in its box.</param>
/// <param name="Problem">What is wrong with what was typed; null if nothing is.</param>
public sealed record ShownQuestion(
    Option Option,
    Answer? Answer,
    IReadOnlyList<ShownValue> Values,
    bool IsFact,
    bool Required,
    bool CanBeNone,
    string Typed,
    string? Problem
)
{
    /// <summary>How the names of its part's fields begin; empty for the product's own.</summary>
    public string Within { get; init; } = "";

    public string Name => Within + BuyForm.Prefix + Option.Key.Text;
    public bool IsNone => Answer is Answer.None;
}

/// <summary>A part of a set as the shopper sees it.</summary>
/// <param name="Picked">What fills the slot.</param>
/// <param name="Prefix">How the names of its fields begin.</param>
/// <param name="Questions">Its own, as far as they are shown.</param>
/// <param name="Parts">What is in it.</param>
public sealed record ShownPart(PickedPart Picked, string Prefix, IReadOnlyList<ShownQuestion> Questions, IReadOnlyList<ShownPart> Parts)
{
    /// <summary>Whether the units can be chosen.</summary>
    public bool HasUnits => Picked.Slot.Slot.Quantity is var limits && limits.Min < limits.Max;

    /// <summary>The questions that must be answered; the others stand folded behind them.</summary>
    public IEnumerable<ShownQuestion> Direct => Questions.Where(q => q.Option.Role == OptionRole.Variant || q.Option.IsSlot || q.Required);

    /// <summary>What may be asked for besides.</summary>
    public IEnumerable<ShownQuestion> Further => Questions.Except(Direct);

    /// <summary>The address of its own page; null where it has none.</summary>
    public string? Page =>
        Picked.Standing?.Edition.Product is { Shelf: { Listed: true, Alone: true } } product ? $"/p/{product.Address}" : null;

    /// <summary>Its leading picture; null for none.</summary>
    public string? Picture => Picked.Standing?.Edition.Product.PicturesFor(Picked.Standing.Answers) is [var first, ..] ? first.File : null;
}

/// <summary>What a page of a product is made from.</summary>
/// <param name="Edition">The newest edition; for a proof the working copy as it would be published.</param>
/// <param name="Range">With the parts that its extras name.</param>
/// <param name="Stock">Of its variants and of those parts.</param>
/// <param name="Terms">What prices go by.</param>
/// <param name="Prior">The was price of a variant, without answers.</param>
public sealed record BuySource(
    Edition Edition,
    PublishedRange Range,
    LeafStock Stock,
    RunTerms Terms,
    bool IsProof,
    Func<MatrixVariant, Task<Money?>> Prior
)
{
    /// <summary>From how many up a number of units is not told; null: it always is.</summary>
    public int? CountShownBelow => IsProof ? null : Terms.Trade.CountShownBelow;

    /// <summary>What stands around answers.</summary>
    /// <param name="quantity">Units; 1 or more.</param>
    public StandingTerms At(int quantity) => new(Range, Stock, Terms, quantity);
}

/// <summary>The buyable heart of a product page: questions, price with working, availability. The proof and the shop show the
/// same.</summary>
public sealed class BuyView
{
    /// <summary>Reasons are worked out for so many greyed values at most; the others say only that they do not fit.</summary>
    private const int MostReasons = 16;

    private readonly BuySource _of;
    private readonly Standing _standing;

    private BuyView(BuySource of, Standing standing) => (_of, _standing) = (of, standing);

    public string Code => Product.Code.Text;
    public Product Product => _of.Edition.Product;
    public bool IsProof => _of.IsProof;
    public required IReadOnlyList<ShownQuestion> Questions { get; init; }

    /// <summary>How many sets can be sold over all mixes of open picks.</summary>
    public string MostWords =>
        SetCounts.Of(_standing) is not { } sets ? "hangs on what is still open"
        : sets.Most is not { } most ? "as many as are asked for"
        : $"{(sets.IsExact ? "" : "at least ")}{most:N0} over all mixes of open picks";

    /// <summary>The parts of a set, in the order of its slots.</summary>
    public IReadOnlyList<ShownPart> Parts { get; init; } = [];

    /// <summary>Whether a question is asked after what is in a set: its own extras are, of what was put together by then.</summary>
    public bool IsAfterParts(ShownQuestion question) => Parts.Count > 0 && question.Option is { Role: OptionRole.Extra, IsSlot: false };

    /// <summary>What a set saves against its parts bought one by one; null where it saves nothing, or something is open.</summary>
    public Money? Saving => Working is { } w && _standing.PartsAlone is { } alone && alone > w.Unit ? alone - w.Unit : null;

    /// <summary>The picks as they stand in the page's address.</summary>
    public string Query => BuyForm.Query(Answers, Typed, _standing.Assembled);

    /// <summary>Answers of questions that are hidden now: they come back with their question.</summary>
    public required IReadOnlyList<(string Name, string Value)> Kept { get; init; }

    public Configuration Answers => _standing.Answers;

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
    public MatrixVariant? Variant => _standing.Variant;

    public Availability? Available => _standing.Available;

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
                ? $"can be sent about {_standing.Stock.Today.AddDays(days).ToString("d MMMM", CultureInfo.InvariantCulture)}"
                : "";
        }
    }

    /// <summary>The price of what is decided; null while a needed question is open.</summary>
    public PriceWorking? Working => _standing.IsDecided ? _standing.Price?.Working : null;

    /// <summary>While something is open: the exact lowest price of a unit over what can be bought now; null where nothing
    /// can.</summary>
    public Money? From => _standing.IsDecided ? null : _standing.Lowest;

    /// <summary>Whether what is still to be decided may cost more than <see cref="From"/>.</summary>
    public bool Varies => !_standing.IsDecided && _standing.Varies;

    /// <summary>What needed answers add once for the line besides; null where they add nothing, or all is decided.</summary>
    public Money? Once => _standing.IsDecided ? null : _standing.NeededOnce;

    /// <summary>The prices of a unit over everything that may still be picked, in stock or not; null where there is none.</summary>
    public PriceSpan? Span => _standing.Price is { } price ? new PriceSpan(price.Lowest, price.Highest) : null;

    /// <summary>The next larger quantity from which a unit costs less; null where none is known.</summary>
    public QuantityStep? NextStep => _standing.NextStep;

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
    public IEnumerable<string> Open => _standing.Open.Select(o => o.Label).Concat(_standing.Assembled?.OpenLabels ?? []).Distinct();

    public string? Problem { get; set; }

    public string Url => IsProof ? $"/office/products/{Code}/proof" : $"/p/{Product.Address}";

    public IReadOnlyList<ProductPicture> Pictures => Product.PicturesFor(Answers, Variant?.Variant);

    public bool IsComplete =>
        _standing.Open.IsEmpty
        && _standing.Assembled is not { IsDecided: false }
        && QuantityFault is null
        && Questions.All(q => q.Problem is null);

    public bool CanBuy => Variant is not null && Working is not null && IsComplete && Available?.CanSell(Quantity) == true;

    /// <summary>Whether nothing that agrees with the answers can be bought now.</summary>
    public bool NothingLeft =>
        Product.WhyNotOn(_standing.Stock.Today) is not null || (_standing.IsDecided ? Available?.CanSell(Quantity) != true : From is null);

    /// <summary>What the button says where it cannot be pressed.</summary>
    public string WhyNot =>
        Span is null ? "No price yet"
        : Product.WhyNotOn(_standing.Stock.Today) is not null ? "Not on sale today"
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
        var standing = Standing.Of(of.Edition, sent.Given, Filling.Beforehand, of.At(quantity.Units), parts);
        var reply = standing.Reply;
        // What is only picked beforehand makes nothing impossible: it gives way.
        var picked = new Configuration(
            standing.Answers.Given.RemoveAll(g => configurator.Book.Find(g.Question) is { } q && BuyForm.IsBeforehand(q, g.Answer))
        );
        var may = picked.Given.Length == standing.Answers.Given.Length ? reply : configurator.Answer(picked);
        var inStock = ValuesInStock.Of(of.Edition, picked, of.Stock).ToDictionary(v => v.Option, v => v.Values);
        var view = new Shower(of, sent, picked, may, inStock, quantity.Units);
        var questions = reply
            .Questions.Zip(may.Questions, (q, m) => q with { Possible = m.Possible, NonePossible = m.NonePossible })
            .Where(q => q.Shown)
            .Select(view.Show)
            .OfType<ShownQuestion>()
            .ToList();
        return new BuyView(of, standing)
        {
            Questions = questions,
            Kept =
            [
                .. reply
                    .Questions.Where(q => !q.Shown && q.Answer is not null)
                    .SelectMany(q => AnswerText.Write(q.Answer!).DefaultIfEmpty("").Select(t => (BuyForm.Prefix + q.Question.Key.Text, t))),
            ],
            Typed = quantity,
            Parts = [.. (standing.Assembled?.Parts ?? []).Select(p => PartOf(of, p, "", standing.Parts))],
        };
    }

    private static ShownPart PartOf(BuySource of, PickedPart part, string within, PartAnswers said)
    {
        var prefix = PartForm.PrefixOf(within, part.Slot.Slot.Key, part.Candidate.Key);
        if (part.Standing is not { } standing)
            return new ShownPart(part, prefix, [], []);
        var ofPart = of with { Edition = standing.Edition, IsProof = false };
        var partial = said.Of(part.Slot.Slot.Key, part.Candidate.Key)?.Partial ?? [];
        var sent = new SentAnswers(standing.Given, new Dictionary<Key, (string, string)>())
        {
            Partial = partial.ToDictionary(x => x.Question, x => x.Ticks),
        };
        var inStock = ValuesInStock
            .Of(standing.Edition, standing.Answers, of.Stock, isPart: true)
            .ToDictionary(v => v.Option, v => v.Values);
        var shower = new Shower(ofPart, sent, standing.Answers, standing.Reply, inStock, standing.Quantity, isPart: true);
        var offered = standing.Edition.Matrix.Offered.SelectMany(v => v.Values.Pairs).ToHashSet();
        bool IsOffered(Option question, OptionValue value) =>
            question.Role != OptionRole.Variant || offered.Contains((question.Key, value.Key));
        var followed = (part.Slot.Slot.Pick as SlotPick.Follows)?.Option;
        var questions = standing
            .Reply.Questions.Where(q => q.Shown && !(q.Question.Key == followed && q.Answer is not null))
            .Where(q => part.Candidate.Sku is null || q.Question.Role != OptionRole.Variant)
            .Select(shower.Show)
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
            [.. (standing.Assembled?.Parts ?? []).Select(p => PartOf(of, p, prefix, standing.Parts))]
        );
    }

    /// <summary>Makes each question as the shopper sees it.</summary>
    private sealed class Shower(
        BuySource of,
        SentAnswers sent,
        Configuration answers,
        RulesReply reply,
        Dictionary<Key, System.Collections.Immutable.ImmutableArray<bool>> inStock,
        int quantity,
        bool isPart = false
    )
    {
        private int _reasons;

        public ShownQuestion? Show(QuestionReply q)
        {
            var question = q.Question;
            if (!question.IsPicked)
            {
                var (typed, problem) = sent.Faulty.TryGetValue(question.Key, out var bad)
                    ? bad
                    : (q.Answer is { } a ? AnswerText.Write(a).FirstOrDefault() ?? "" : "", null);
                return new ShownQuestion(question, q.Answer, [], false, q.Required, !q.Required, typed, problem);
            }
            var values = question.Values.Select((v, i) => Show(q, v, i)).ToList();
            var applying = values.FindAll(v => !v.Value.DoesNotApply);
            // Where only “does not apply” is left, the question does not arise.
            if (applying.Count < values.Count && !applying.Exists(v => v.Why is null || v.Picked))
                return null;
            return new ShownQuestion(
                question,
                q.Answer,
                applying,
                question.Role == OptionRole.Variant && applying.Count == 1,
                q.Required,
                q.NonePossible || q.Answer is Answer.None,
                "",
                sent.Faulty.TryGetValue(question.Key, out var wrong) ? wrong.Problem : null
            );
        }

        private ShownValue Show(QuestionReply q, OptionValue value, int place)
        {
            var picked = (q.Answer ?? sent.Partial.GetValueOrDefault(q.Question.Key)) switch
            {
                Answer.Value v => v.Key == value.Key,
                Answer.Ticks t => t.Keys.Contains(value.Key),
                _ => false,
            };
            var adds = Adds(q.Question, value);
            if (q.Possible[place])
            {
                var ofVariants = inStock.TryGetValue(q.Question.Key, out var flags);
                if (q.Question.IsSlot)
                    return new ShownValue(value, picked, WhyNotCandidate(q.Question.Key, value.Key), null, adds);
                var gone = ofVariants ? !flags[place] : value.Part is { } part && !of.Stock.Has(part, of.Range);
                var elsewhere = ofVariants && answers.Given.Any(g => g.Question != q.Question.Key);
                return new ShownValue(value, picked, gone ? (elsewhere ? "none left in this" : "none left") : null, null, adds);
            }
            if (value.DoesNotApply || picked || !reply.Valid)
                return new ShownValue(value, picked, "not with these answers", null, adds);
            return _reasons++ < MostReasons ? Reason(q, value, adds) : new ShownValue(value, false, "not with these answers", null, adds);
        }

        /// <summary>Why a candidate of a slot cannot be had for the quantity asked; null where it can.</summary>
        private string? WhyNotCandidate(Key slot, Key candidate) =>
            HasCandidate(slot, candidate, quantity) ? null
            : quantity > 1 && HasCandidate(slot, candidate, 1) ? $"not enough for {quantity:N0}"
            : "none left";

        /// <summary>Whether a candidate of a slot can be had in some variant, for so many sets.</summary>
        private bool HasCandidate(Key slot, Key candidate, int sets)
        {
            var filled = of.Edition.Slots.First(s => s.Slot.Key == slot);
            if (filled.Find(candidate) is not { } found || PartOnSale.Of(found, of.Range) is not { } part)
                return false;
            var units = (int)Math.Min(BasketRequest.MostUnits, (long)filled.Slot.Quantity.Min * sets);
            if (part.Edition.Product.IsSet)
                return Standing.From(part.Edition, Configuration.Empty, of.At(units)) is not null;
            return part.Only is { } only
                ? of.Stock.Of(only).CanSell(units)
                : part.Edition.Matrix.Offered.Any(v => of.Stock.Of(v).CanSell(units));
        }

        private ShownValue Reason(QuestionReply q, OptionValue value, string adds)
        {
            var configurator = of.Edition.Configurator;
            var change = configurator.Rules.WhatToChange(answers, q.Question.Key, value.Key);
            if (change is not { } changes)
                return new ShownValue(
                    value,
                    false,
                    of.IsProof && configurator.Why(Configuration.Empty, q.Question.Key, value.Key) is { } never ? never.Text : "not made",
                    null,
                    adds
                );
            var wanted = new Answer.Ticks([value.Key]);
            var changed = changes.Aggregate(answers, (a, c) => a.With(c.Question, c.Becomes));
            if (q.Question.Ask != Ask.Several)
                changed = changed.With(q.Question.Key, new Answer.Value(value.Key));
            else if (
                q.Answer is Answer.Ticks ticks
                && configurator.Rules.IsValid(changed.With(q.Question.Key, new Answer.Ticks(ticks.Keys.Add(value.Key))))
            )
                changed = changed.With(q.Question.Key, new Answer.Ticks(ticks.Keys.Add(value.Key)));
            else
                changed = changed.With(q.Question.Key, wanted);
            var conflict = configurator.Why(answers, q.Question.Key, value.Key);
            var others = conflict
                ?.Conflict.Answers.Where(k => k != q.Question.Key)
                .Select(k => (Question: configurator.Book.Find(k)!, Answer: answers[k]))
                .Where(o => o.Answer is not null)
                .Select(o => Named(o.Question, o.Answer!))
                .ToList()
                ?? [];
            var made = conflict is { Conflict: { NotMade: true, Rules.IsEmpty: true } } ? "not made" : "not";
            var why =
                others.Count == 0
                    ? "not with these answers"
                    : $"{(made == "not" ? "not with" : "not made in")} {string.Join(" and ", others)}";
            var words = string.Join(
                " and ",
                changes.Select(c =>
                    configurator.Book.Find(c.Question) is { } other
                        ? c.Becomes is Answer.None
                            ? $"{other.Label.ToLowerInvariant()} to none"
                            : $"{other.Label.ToLowerInvariant()} to {Wording.LowerFirst(AnswerText.ForPeople(other, c.Becomes))}"
                        : ""
                )
            );
            return new ShownValue(value, false, why, changes.IsEmpty ? null : ($"change {words}", BuyForm.Query(changed)), adds);
        }

        /// <summary>An answer within a sentence: the value alone says enough for a list, else its question too.</summary>
        private static string Named(Option question, Answer answer) =>
            answer is Answer.None ? $"no {question.Label.ToLowerInvariant()}"
            : question.Ask is Ask.One or Ask.Several ? Wording.LowerFirst(AnswerText.ForPeople(question, answer))
            : question.Label.ToLowerInvariant();

        /// <summary>What another variant costs more or less than the one that is picked; null while none is.</summary>
        private string? AgainstPicked(Option question, OptionValue value)
        {
            var matrix = of.Edition.Matrix;
            if (matrix.Options.Any(o => answers[o.Key] is not Answer.Value))
                return null;
            var pairs = matrix.Options.Select(o => (o.Key, ((Answer.Value)answers[o.Key]!).Key)).ToList();
            var other = pairs.Select(p => p.Item1 == question.Key ? (p.Item1, value.Key) : p);
            if (matrix.Find(Combination.Of(pairs))?.Price.Figure is not { } picked)
                return null;
            var difference = matrix.Find(Combination.Of(other))?.Price.Figure - picked;
            return difference is not { IsZero: false } more ? ""
                : more.Amount > 0 ? $"+{more.ForShoppers()}"
                : more.ForShoppers().Replace('-', '−');
        }

        /// <summary>What a pick adds to a fixed price; what it costs in a sum shows in the price itself.</summary>
        private string AddsOfPart(Key slot, Key candidate)
        {
            var entry = of.Edition.Slots.First(s => s.Slot.Key == slot).Find(candidate)?.Entry;
            return entry?.Extra is { IsZero: false } extra && of.Edition.Product.Parts!.Price is SetPrice.Fixed
                ? $"+{extra.ForShoppers()}"
                : "";
        }

        private string Adds(Option question, OptionValue value)
        {
            if (question.IsSlot)
                return AddsOfPart(question.Key, value.Key);
            // Within a set the slot says what a variant costs.
            if (question.Role == OptionRole.Variant && (isPart || of.Edition.Product.IsSet))
                return "";
            if (question.Role == OptionRole.Variant && AgainstPicked(question, value) is { } difference)
                return difference;
            if (question.Role == OptionRole.Variant && !of.Edition.Matrix.SurchargesHold)
                return "";
            var amount =
                value.Surcharge is { } s ? s.ForPeople(ShopForm.ForShoppers)
                : value.Part is { } part && of.Range.Figures(part.Sku)?.Price is { } price ? (price * part.Quantity).ForShoppers()
                : "";
            return amount.Length == 0 || amount[0] == '-' ? amount.Replace('-', '−') : $"+{amount}";
        }
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
