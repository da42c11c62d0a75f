using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>The price of a configuration, which may still be open.</summary>
/// <param name="Working">Of one unit and the line; while several variants agree, of the one that is cheapest.</param>
/// <param name="Variant">The variant that is priced.</param>
/// <param name="Lowest">The lowest price of a unit over all valid complete configurations that agree.</param>
public sealed record ConfiguredPrice(PriceWorking Working, MatrixVariant Variant, Money Lowest, Money Highest);

/// <summary>A product's questions, rules, matrix and prices together: everything that is asked about answers is asked here.</summary>
/// <remarks>Compiled once, when first asked; every method can be called from many threads.</remarks>
public sealed class Configurator
{
    private readonly Product _product;
    private readonly VariantMatrix _matrix;
    private readonly KeptAnswers<string, CostSpan> _spans = new(span => span.Bytes);
    private readonly KeptAnswers<string, CostFinder> _finders = new(_ => CostFinder.Bytes);
    private readonly Lazy<(CompiledRules Rules, ImmutableArray<Fault> Faults)> _compiled;
    private readonly Lazy<AnswerAmounts> _amounts;
    private readonly Lazy<long[]> _listPrices;
    private readonly Lazy<CostFinder> _pickedFinder;
    private readonly Lazy<Fault?> _pricesFault;
    private readonly Lazy<RuleHealth> _health;

    public Configurator(Product product, VariantMatrix matrix)
    {
        (_product, _matrix) = (product, matrix);
        _health = new Lazy<RuleHealth>(() => RuleHealth.Of(Rules));
        Questions = product.Questions;
        Book = new RuleBook(Questions, product.Rules);
        Words = new RuleWords(Book);
        _compiled = new Lazy<(CompiledRules, ImmutableArray<Fault>)>(Compile);
        _amounts = new Lazy<AnswerAmounts>(() => new AnswerAmounts(Rules, Questions, ListPrices()));
        _pickedFinder = new Lazy<CostFinder>(() => new CostFinder(Rules, _amounts.Value.Picked));
        _listPrices = new Lazy<long[]>(() => [.. _amounts.Value.Picked.List.OfType<long>().Distinct().Order()]);
        _pricesFault = new Lazy<Fault?>(PricesFault);
    }

    public ImmutableArray<Option> Questions { get; }
    public RuleBook Book { get; }
    public RuleWords Words { get; }
    public CompiledRules Rules => _compiled.Value.Rules;

    /// <summary>Why the rules, or the prices with them, could not be worked out; empty if they were.</summary>
    public ImmutableArray<Fault> Faults =>
        _compiled.Value.Faults.IsEmpty && _pricesFault.Value is { } fault ? [fault] : _compiled.Value.Faults;

    /// <summary>What is wrong with the rules over all that may ever be answered; worked out when it is first asked for.</summary>
    public RuleHealth Health => _health.Value;

    /// <inheritdoc cref="CompiledRules.Answer"/>
    public RulesReply Answer(Configuration given) => Rules.Answer(given);

    /// <summary>The one variant that all valid configurations with these answers have; null while there are several, or none.</summary>
    public MatrixVariant? Decided(RulesReply reply)
    {
        if (!reply.Valid)
            return null;
        var values = new List<(Key, Key)>();
        foreach (var question in reply.Questions.Where(q => q.Question.Role == OptionRole.Variant))
        {
            if (question.Answer is Core.Answer.Value v)
                values.Add((question.Question.Key, v.Key));
            else if (question.Possible.Count(p => p) == 1)
                values.Add((question.Question.Key, question.Question.Values[question.Possible.IndexOf(true)].Key));
            else
                return null;
        }
        return _matrix.Find(Combination.Of(values));
    }

    /// <summary>The answers that count: those of questions that are shown. The answer to a hidden question is kept but never priced,
    /// required, ordered or printed.</summary>
    public Configuration Shown(Configuration given)
    {
        var visibility = new Visibility(Rules.Book, given);
        return new Configuration([.. given.Given.Where(g => visibility.IsShown(g.Question))]);
    }

    /// <summary>Fills open questions in their order: the default if shown and still possible; a list that needs an answer and has one
    /// possible value answers itself.</summary>
    /// <param name="restNone">Whether whatever is picked and still open is then deliberately none.</param>
    /// <param name="today">The day that default dates must fit; null leaves limits aside.</param>
    /// <remarks>A needed yes or no is never said for the shopper.</remarks>
    public Configuration Filled(Configuration given, bool restNone, DateOnly? today = null) =>
        Filled(given, restNone, today, selfAnswering: true);

    private Configuration Filled(Configuration given, bool restNone, DateOnly? today, bool selfAnswering)
    {
        var (answered, all) = (given, Answer(given));
        foreach (var question in Questions)
        {
            if (given[question.Key] is not null)
                continue;
            if (answered != given)
                (answered, all) = (given, Answer(given));
            var reply = all.Questions.First(q => q.Question.Key == question.Key);
            if (!reply.Shown)
                continue;
            if (
                AnswerText.Default(question) is { } wanted
                && IsPossible(given, reply, wanted)
                && (today is not { } day || AnswerLimits.Problem(question, wanted, day) is null)
            )
                given = given.With(question.Key, wanted);
            else if (
                selfAnswering
                && reply is { NonePossible: false, Required: true }
                && question is { IsPicked: true, Ask: Ask.One }
                && reply.Possible.Count(p => p) == 1
            )
                given = given.With(question.Key, new Answer.Value(question.Values[reply.Possible.IndexOf(true)].Key));
            else if (restNone && question.IsPicked && reply.NonePossible)
                given = given.With(question.Key, new Answer.None());
        }
        return given;
    }

    /// <summary>The price with these answers; open questions count at their default if possible, else nothing. Null where nothing valid
    /// has a price.</summary>
    public ConfiguredPrice? Price(Configuration given, int quantity, Func<string, PartFigures?> parts)
    {
        var pricing = new AnswerPricing(Questions, parts);
        if (Span(given, pricing) is not { } span)
            return null;
        var asked = Filled(given, restNone: false, today: null, selfAnswering: false);
        return Cheapest(asked, pricing) is { } variant && Working(asked, variant, quantity, pricing) is { } working
            ? new ConfiguredPrice(working, variant, span.Lowest, span.Highest)
            : null;
    }

    /// <summary>The working of one variant with these answers; null where it has no price.</summary>
    public PriceWorking? Working(Configuration given, MatrixVariant variant, int quantity, Func<string, PartFigures?> parts) =>
        Working(given, variant, quantity, new AnswerPricing(Questions, parts));

    /// <summary>The exact lowest and highest price of a unit over all valid complete configurations that agree, typed answers as
    /// given.</summary>
    public PriceSpan? Span(Configuration given, Func<string, PartFigures?> parts) => Span(given, new AnswerPricing(Questions, parts));

    /// <summary>The lowest price over everything that can be bought, needed extras included; null where nothing can.</summary>
    /// <param name="onSale">Whether a variant can be bought now.</param>
    /// <remarks>The cheapest of all is worked out once; only where its variant is sold out are the others tried, by rising list
    /// price.</remarks>
    public Money? From(Func<MatrixVariant, bool> onSale, Func<string, PartFigures?> parts)
    {
        var pricing = new AnswerPricing(Questions, parts);
        if (_matrix.Find(FirstOffered()) is not { Price.Figure: { } any })
            return null;
        var found = Extremes(Configuration.Empty, _amounts.Value.Amounts(pricing, Configuration.Empty).ByLevel);
        if (found is { } f && VariantOf(f.Cheapest) is { } cheapest && onSale(cheapest))
            return AnswerPricing.FromMinor(f.Lowest, any.Currency);
        Money? best = null;
        var takesOff = Questions.Any(q =>
            q.Role == OptionRole.Extra
            && q.Values.Any(v => v.Surcharge is Surcharge.PerUnit { Amount.Amount: < 0 } or Surcharge.Percent { Rate.Value: < 0 })
        );
        foreach (
            var variant in _matrix.Offered.Where(v => v.Price.Figure is not null && onSale(v)).OrderBy(v => v.Price.Figure!.Value.Amount)
        )
            if (!takesOff && best <= variant.Price.Figure)
                break;
            else if (Span(Configuration.Of(variant.Values), pricing)?.Lowest is { } lowest && (best is null || lowest < best))
                best = lowest;
        return best;
    }

    /// <summary>What the variant and the answers cost for a unit; null where the variant's cost is not known.</summary>
    public Money? Cost(Configuration given, MatrixVariant variant, Func<string, PartFigures?> parts) =>
        variant.Cost.Figure is { } cost ? cost + new AnswerPricing(Questions, parts).Cost(Shown(given), cost.Currency) : null;

    /// <summary>The parts that one unit with these answers takes besides the variant.</summary>
    public ImmutableArray<ValuePart> Parts(Configuration given) => new AnswerPricing(Questions, _ => null).Parts(Shown(given));

    /// <summary>Why the answers cannot be priced, or null.</summary>
    public string? PriceProblem(Configuration given) => new AnswerPricing(Questions, _ => null).Problem(Shown(given));

    /// <summary>Why the answers cannot be completed, in a sentence too; null if they can.</summary>
    public (RuleConflict Conflict, string Text)? Conflict(Configuration given) =>
        ConflictFinder.Find(Rules, given) is { } found ? (found, Words.Conflict(found, given)) : null;

    /// <summary>Why a value is not possible beside the answers to the other questions; null if it is.</summary>
    public (RuleConflict Conflict, string Text)? Why(Configuration given, Key question, Key value) =>
        ConflictFinder.Why(Rules, given, question, value) is { } found
            ? (
                found,
                Words.Conflict(
                    found,
                    given.With(question, Book.Find(question)!.Ask == Ask.Several ? new Answer.Ticks([value]) : new Answer.Value(value))
                )
            )
            : null;

    private (CompiledRules, ImmutableArray<Fault>) Compile()
    {
        var (rules, faults) = CompiledRules.Compile(Book, _matrix.Made, _matrix.IsOffered);
        // With rules that cannot be worked out the questions are still shown, so that they can be mended.
        return (rules ?? CompiledRules.Compile(new RuleBook(Questions, []), _matrix.Made, _matrix.IsOffered).Rules!, faults);
    }

    private bool IsPossible(Configuration given, QuestionReply reply, Answer answer) =>
        answer switch
        {
            Core.Answer.Value v => reply.Question.PlaceOf(v.Key) is >= 0 and var at && reply.Possible[at],
            Core.Answer.Ticks => Rules.IsValid(given.With(reply.Question.Key, answer)),
            _ => true,
        };

    private PriceSpan? Span(Configuration given, AnswerPricing pricing)
    {
        if (_matrix.Find(FirstOffered()) is not { Price.Figure: { } any })
            return null;
        var (amounts, always) = _amounts.Value.Amounts(pricing, given);
        return Extremes(given, amounts) is { } found
            ? new PriceSpan(
                AnswerPricing.FromMinor(found.Lowest + always, any.Currency),
                AnswerPricing.FromMinor(found.Highest + always, any.Currency)
            )
            : null;
    }

    /// <summary>The lowest and highest cost and the states of a cheapest configuration; null where nothing agrees, or prices are too
    /// interwoven to say.</summary>
    private CostExtremes? Extremes(Configuration given, IReadOnlyList<long[]?> amounts)
    {
        try
        {
            return FinderOf(_amounts.Value.Percentages(given)).Find(Rules.Masks(given), amounts);
        }
        catch (DiagramTooLargeException)
        {
            return null;
        }
    }

    private CostFinder FinderOf(ConfigurationCost cost)
    {
        if (ReferenceEquals(cost, _amounts.Value.Picked))
            return _pickedFinder.Value;
        var key =
            string.Join(
                ' ',
                cost.Percent.Index()
                    .Where(l => l.Item is not null)
                    .Select(l => $"{l.Index}:{string.Join(',', l.Item!.Select(r => r.Value))}")
            ) + $"+{string.Join(' ', cost.Always)}";
        return _finders.GetOrMake(key, _ => new CostFinder(Rules, cost));
    }

    /// <summary>The variant that is cheapest among those that agree, with the answers given and nothing for open questions.</summary>
    /// <remarks>Which answers count hangs on the variant only through the options that conditions of visibility look at; so it is asked
    /// once for each of their values.</remarks>
    private MatrixVariant? Cheapest(Configuration given, AnswerPricing pricing)
    {
        if (Decided(Answer(given)) is { } decided)
            return decided;
        var deciding = DecidingOptions(given);
        (long Cost, MatrixVariant Variant)? best = null;
        foreach (var picks in Assignments(deciding))
        {
            var asked = picks.Aggregate(given, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));
            var shown = Shown(asked);
            bool Counts(Option q) => shown[q.Key] is not null and not Core.Answer.None && q.Role == OptionRole.Extra;
            var rates = pricing.Rates(shown, Counts);
            if (
                Spans(rates).Find(Rules.Masks(asked), new long[]?[Rules.Sizes.Count]) is not { } found
                || VariantOf(found.Cheapest) is not { } variant
            )
                continue;
            var list = variant.Price.Figure!.Value;
            var cost =
                AnswerPricing.Minor(list) + pricing.Steps(shown, list).Where(s => !s.PerLine).Sum(s => AnswerPricing.Minor(s.Amount));
            if (best is null || cost < best.Value.Cost)
                best = (cost, variant);
        }
        return best?.Variant;
    }

    private PriceWorking? Working(Configuration given, MatrixVariant variant, int quantity, AnswerPricing pricing)
    {
        if (PriceCalculator.Price(_product.Name, _matrix, variant, quantity) is not { } working)
            return null;
        var answered = variant.Values.Pairs.Aggregate(
            given,
            (g, p) => g[p.Option] is null ? g.With(p.Option, new Answer.Value(p.Value)) : g
        );
        return working with { Steps = [.. working.Steps, .. pricing.Steps(Shown(answered), working.Unit)] };
    }

    private MatrixVariant? VariantOf(int[] states) =>
        _matrix.Find(Combination.Of(_matrix.Options.Select(o => (o.Key, o.Values[states[Rules.Network.PlaceOf(o.Key)!.First]].Key))));

    private Combination FirstOffered() => _matrix.Offered.FirstOrDefault(v => v.Price.Figure is not null)?.Values ?? Combination.Empty;

    /// <summary>The open variant options that decide whether an answer that adds something is shown.</summary>
    private List<Option> DecidingOptions(Configuration given)
    {
        var (asked, seen) = (new Queue<Key>(given.Given.Select(g => g.Question).Where(Rules.Book.IsConditional)), new HashSet<Key>());
        while (asked.TryDequeue(out var question))
            foreach (var other in Rules.Book.ShownWhen(question).Questions)
                if (seen.Add(other))
                    asked.Enqueue(other);
        return [.. _matrix.Options.Where(o => seen.Contains(o.Key) && given[o.Key] is null)];
    }

    private static IEnumerable<ImmutableArray<(Key Option, Key Value)>> Assignments(IReadOnlyList<Option> options) =>
        options.Aggregate(
            (IEnumerable<ImmutableArray<(Key, Key)>>)
                [
                    [],
                ],
            (soFar, o) => soFar.SelectMany(a => o.Values.Select(v => a.Add((o.Key, v.Key))))
        );

    /// <summary>The list prices with percentages of them added, for finding the variant that is cheapest with these.</summary>
    /// <remarks>Where a higher list price is never cheaper for it, which is nearly always, the list prices alone tell.</remarks>
    private CostSpan Spans(IReadOnlyList<Percentage> rates)
    {
        if (Keeps(rates))
            rates = [];
        var plain = _amounts.Value.Picked with { Percent = new Percentage[]?[Rules.Sizes.Count], Always = [.. rates] };
        return _spans.GetOrMake(string.Join(' ', rates.Select(r => r.Value)), _ => new CostSpan(Rules, plain));
    }

    /// <summary>Whether of two list prices the lower stays the lower, or becomes the same, with these percentages of it added.</summary>
    private bool Keeps(IReadOnlyList<Percentage> rates)
    {
        if (rates.All(r => r.Value >= 0))
            return true;
        var before = long.MinValue;
        foreach (var list in _listPrices.Value)
        {
            var cost = list + rates.Sum(r => ConfigurationCost.Share(list, r));
            if (cost < before)
                return false;
            before = cost;
        }
        return true;
    }

    /// <summary>The list price of every combination on offer, by its number, in minor units.</summary>
    private long?[] ListPrices()
    {
        var prices = new long?[_matrix.Made.Combinations];
        foreach (var variant in _matrix.Offered)
            if (variant.Price.Figure is { } price)
                prices[variant.Number] = AnswerPricing.Minor(price);
        return prices;
    }

    private Fault? PricesFault()
    {
        try
        {
            _pickedFinder.Value.Prepare(Rules.Masks(Configuration.Empty));
            return null;
        }
        catch (DiagramTooLargeException)
        {
            return new Fault(
                "",
                "Prices and percentages are too interwoven to be worked out exactly. Use amounts for some of the percentages, or "
                    + "fewer prices of their own."
            );
        }
    }
}
