namespace Unicus.Core.Products;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Answers;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

// Together with AnswersLook, LowestBuyable and RuledSpan: each is one question to the configurator, which asks it back for what it keeps.
/// <summary>A product's questions, rules, matrix and prices together: everything that is asked about answers is asked here.</summary>
/// <remarks>Compiled once, when first asked; every method can be called from many threads.</remarks>
public sealed class Configurator
{
    private readonly Product _product;
    private readonly VariantMatrix _matrix;
    private readonly Lazy<(CompiledRules Rules, ImmutableArray<Fault> Faults)> _compiled;
    private readonly Lazy<RuleHealth> _health;
    private readonly Lazy<AnswersLook> _unanswered;

    /// <summary>Makes a configurator; nothing is compiled yet.</summary>
    public Configurator(Product product, VariantMatrix matrix)
    {
        (_product, _matrix) = (product, matrix);
        _health = new Lazy<RuleHealth>(() => RuleHealth.Of(Rules));
        Questions = product.Questions;
        Book = new RuleBook(Questions, product.RulesWithParts);
        Words = new RuleWords(Book);
        _compiled = new Lazy<(CompiledRules, ImmutableArray<Fault>)>(Compile);
        Extremes = new PriceExtremes(() => Rules, Questions, matrix);
        _unanswered = new Lazy<AnswersLook>(() => AnswersLook.Of(this, Configuration.Empty));
    }

    /// <summary>The questions, in order.</summary>
    public ImmutableArray<Option> Questions { get; }

    /// <summary>The rules by what they are about.</summary>
    public RuleBook Book { get; }

    /// <summary>The rules in words.</summary>
    public RuleWords Words { get; }

    /// <summary>The rules compiled over what is made.</summary>
    public CompiledRules Rules => _compiled.Value.Rules;

    /// <summary>The ends of prices over what is still open.</summary>
    internal PriceExtremes Extremes { get; }

    /// <summary>About how much memory it takes besides what it keeps for answers, in bytes.</summary>
    public long Bytes => _compiled.IsValueCreated ? Rules.Bytes + Extremes.Bytes : 0;

    /// <summary>Why the rules, or the prices with them, could not be worked out; empty if they were.</summary>
    public ImmutableArray<Fault> Faults => _compiled.Value.Faults.IsEmpty && Extremes.Fault is { } fault ? [fault] : _compiled.Value.Faults;

    /// <summary>What is wrong with the rules over all that may ever be answered; worked out when it is first asked for.</summary>
    public RuleHealth Health => _health.Value;

    /// <inheritdoc cref="CompiledRules.Answer"/>
    public RulesReply Answer(Configuration given) => Rules.Answer(given);

    /// <summary>What is asked of answers again and again; kept for none at all, which most parts of a set have.</summary>
    internal AnswersLook Look(Configuration given) => given.Given.IsEmpty ? _unanswered.Value : AnswersLook.Of(this, given);

    /// <summary>The one variant that all valid configurations with these answers have; null while there are several, or none.</summary>
    public MatrixVariant? Decided(RulesReply reply)
    {
        if (!reply.Valid)
            return null;
        var values = new List<(Key, Key)>();
        foreach (var question in reply.Questions.Where(q => q.Question.Role == OptionRole.Variant))
        {
            if (question.Answer is Rules.Answer.Value v)
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
        if (given.Given.IsEmpty)
            return given;
        var visibility = new Visibility(Rules.Book, given);
        return new Configuration([.. given.Given.Where(g => visibility.IsShown(g.Question))]);
    }

    /// <summary>Fills open questions in their order: the default if shown and still possible; a list that needs an answer and has one
    /// possible value answers itself.</summary>
    /// <param name="given">The answers as they came.</param>
    /// <param name="restNone">Whether whatever is picked and still open is then deliberately none.</param>
    /// <param name="today">The day that default dates must fit; null leaves limits aside.</param>
    /// <remarks>A needed yes or no is never said for the shopper.</remarks>
    public Configuration Filled(Configuration given, bool restNone, DateOnly? today = null) =>
        Filled(given, restNone, today, selfAnswering: true);

    /// <inheritdoc cref="Filled(Configuration, bool, DateOnly?)"/>
    /// <param name="given">The answers as they came.</param>
    /// <param name="restNone">Whether what may be left out is left out.</param>
    /// <param name="today">The shop's calendar day.</param>
    /// <param name="selfAnswering">Whether a list with one possible value answers itself.</param>
    /// <param name="known">What is said of the answers, where that was asked before.</param>
    internal Configuration Filled(Configuration given, bool restNone, DateOnly? today, bool selfAnswering, RulesReply? known = null)
    {
        if (Questions.IsEmpty)
            return given;
        var (answered, all) = (given, known ?? Answer(given));
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
    /// <param name="given">The answers as they came.</param>
    /// <param name="parts">What parts sell for.</param>
    /// <param name="prices">What rules make of a unit; null: nothing.</param>
    /// <param name="working">The working of a variant with answers.</param>
    internal ConfiguredPrice? Price(
        Configuration given,
        Func<string, PartFigures?> parts,
        UnitPrices? prices,
        Func<MatrixVariant, Configuration, PriceWorking?> working
    )
    {
        var pricing = new AnswerPricing(Questions, parts);
        if (Span(given, parts, prices) is not { } span)
            return null;
        var asked = Filled(given, restNone: false, today: null, selfAnswering: false);
        if (Cheapest(asked, pricing, prices) is not { } variant)
            return null;
        var answered = variant.Values.Pairs.Aggregate(asked, (g, p) =>
            g[p.Option] is null ? g.With(p.Option, new Answer.Value(p.Value)) : g
        );
        return working(variant, Shown(answered)) is { } found ? new ConfiguredPrice(found, variant, span.Lowest, span.Highest) : null;
    }

    /// <summary>The exact lowest and highest price of a unit over all valid complete configurations that agree, typed answers as
    /// given.</summary>
    /// <param name="given">The answers as they came.</param>
    /// <param name="parts">What parts sell for.</param>
    /// <param name="prices">What rules make of a unit; null: nothing.</param>
    internal PriceSpan? Span(Configuration given, Func<string, PartFigures?> parts, UnitPrices? prices)
    {
        var pricing = new AnswerPricing(Questions, parts);
        if (FirstPriced() is not { Price.Figure: { } any })
            return null;
        var masks = Rules.Masks(given);
        if (prices is { IsUniform: false })
            return new RuledSpan(this, pricing, prices).Find(given, masks) is { } ends
                ? Span(ends.Lowest, ends.Highest, any.Currency)
                : null;
        if (Extremes.Find(given, masks, pricing) is not { } found)
            return null;
        if (prices is null)
            return Span(found.Lowest, found.Highest, any.Currency);
        return Span(prices.Of(FirstPriced()!, found.Lowest), prices.Of(FirstPriced()!, found.Highest), any.Currency);
    }

    /// <summary>The exact lowest and highest price of a unit without any rules.</summary>
    public PriceSpan? Span(Configuration given, Func<string, PartFigures?> parts) => Span(given, parts, null);

    /// <summary>The exact lowest price of a unit over what can be bought now and agrees with the answers, needed extras and their parts
    /// included; null where nothing can.</summary>
    /// <param name="given">Answers; typed ones that are open count at their cheapest.</param>
    /// <param name="parts">What parts sell for.</param>
    /// <param name="sells">Whether a unit of a variant can be sold together with these parts.</param>
    /// <param name="prices">What rules make of a unit; null: nothing.</param>
    /// <param name="today">The shop's day, which dates are counted from.</param>
    internal Money? From(
        Configuration given,
        Func<string, PartFigures?> parts,
        Func<MatrixVariant, IReadOnlyList<ValuePart>, bool> sells,
        UnitPrices? prices,
        DateOnly today
    )
    {
        if (FirstPriced() is not { Price.Figure: { } any })
            return null;
        var pricing = new AnswerPricing(Questions, parts);
        var lowest = WithTyped(given, today).Min(g => new LowestBuyable(this, pricing, sells, prices).Find(g));
        return lowest is { } found ? MinorUnits.ToMoney(found, any.Currency) : null;
    }

    /// <summary>Answers with those to typed questions that are open and add the least; several where rules ask what is typed.</summary>
    /// <param name="given">The answers as they came.</param>
    /// <param name="today">The shop's day, which dates are counted from.</param>
    internal IEnumerable<Configuration> WithTyped(Configuration given, DateOnly today)
    {
        var open = Questions.Where(q => q is { Role: OptionRole.Extra, IsPicked: false } && given[q.Key] is null).ToList();
        if (open.TrueForAll(q => q.Surcharge is null && Book.Acting.IsEmpty))
            return [given];
        bool Needed(Option q) => q.Required || Book.Requiring(q.Key).Any();
        var least = new LeastTyped(Questions, today);
        var conditions = Book.Acting.SelectMany(r => r.When.Leaves).ToLookup(c => c.Questions.First());
        IEnumerable<Configuration> ways = [given];
        foreach (var question in open.Where(q => conditions.Contains(q.Key)))
        {
            var bounds = conditions[question.Key].Select(c => (c as Condition.AtLeast)?.Bound ?? (c as Condition.AtMost)?.Bound ?? 0);
            var answers = least.Alternatives(question, Needed(question), bounds).ToList();
            ways = ways.SelectMany(w => answers.Select(a => w.With(question.Key, a ?? new Answer.None())));
        }
        var typed = Questions.Where(q => q is { Role: OptionRole.Extra, IsPicked: false }).ToList();
        var list = FirstPriced() is { Price.Figure: { } price } ? MinorUnits.Of(price) : 0;
        return ways.Take(MostTyped).Select(w => least.Answers(typed, Needed, list, w).Aggregate(w, (g, a) => g.With(a.Question, a.Answer)));
    }

    /// <summary>Whether a typed question that needs an answer, and is open, adds more by some answers than by others.</summary>
    internal bool TypedVaries(RulesReply reply, Configuration given, DateOnly today)
    {
        var open = reply.Questions.Where(q =>
            q is { Shown: true, Required: true } && !q.Question.IsPicked && given[q.Question.Key] is null
        );
        var least = new LeastTyped(Questions, today);
        return open.Any(q => least.Differs(q.Question, true, 0));
    }

    /// <summary>So many ways of answering typed questions that rules ask about are looked at.</summary>
    private const int MostTyped = 500;

    /// <summary>What needed questions add once for a line at least; zero where none does.</summary>
    /// <param name="reply">What is possible with the answers so far.</param>
    /// <param name="currency">In which amounts are.</param>
    public Money NeededOnce(RulesReply reply, Currency currency)
    {
        var least = Money.Zero(currency);
        foreach (var q in reply.Questions.Where(q => q is { Shown: true, Required: true } && q.Question.Role == OptionRole.Extra))
        {
            var once = q
                .Question.Values.Where((_, i) => q.Possible.Length > i && q.Possible[i])
                .Select(v => v.Surcharge is Surcharge.Once o ? o.Amount : Money.Zero(currency))
                .ToList();
            if (q.Question.Surcharge is Surcharge.Once own)
                least += own.Amount;
            if (once.Count > 0)
                least += once.Min();
        }
        return least;
    }

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
            Rules.Answer.Value v => reply.Question.PlaceOf(v.Key) is >= 0 and var at && reply.Possible[at],
            Unicus.Core.Rules.Answer.Ticks => Rules.IsValid(given.With(reply.Question.Key, answer)),
            _ => true,
        };

    private static PriceSpan Span(long lowest, long highest, Currency currency) =>
        new(MinorUnits.ToMoney(lowest, currency), MinorUnits.ToMoney(highest, currency));

    /// <summary>The variants on offer that agree with the answers to variant options.</summary>
    internal IEnumerable<MatrixVariant> Offered(Configuration given)
    {
        var picked = _matrix.Options.Where(o => given[o.Key] is Answer.Value).ToList();
        return _matrix.Offered.Where(v => picked.TrueForAll(o => v.Values[o.Key] == ((Answer.Value)given[o.Key]!).Key));
    }

    /// <summary>The variant that is cheapest among those that agree, with the answers given and nothing for open questions.</summary>
    /// <remarks>Which answers count hangs on the variant only through the options that conditions of visibility look at; so it is asked
    /// once for each of their values.</remarks>
    private MatrixVariant? Cheapest(Configuration given, AnswerPricing pricing, UnitPrices? prices)
    {
        if (Decided(Answer(given)) is { } decided)
            return decided;
        if (prices is { IsUniform: false })
            return CheapestByRules(given, pricing, prices);
        var deciding = DecidingOptions(given);
        (long Cost, MatrixVariant Variant)? best = null;
        foreach (var picks in Assignments(deciding))
        {
            var asked = picks.Aggregate(given, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));
            var shown = Shown(asked);
            bool Counts(Option q) => shown[q.Key] is not null and not Unicus.Core.Rules.Answer.None && q.Role == OptionRole.Extra;
            var rates = pricing.Rates(shown, Counts);
            if (
                Extremes.Spans(rates).Find(Rules.Masks(asked), new long[]?[Rules.Sizes.Count]) is not { } found
                || VariantOf(found.Cheapest) is not { } variant
            )
                continue;
            var list = variant.Price.Figure!.Value;
            var cost = PerUnit(list, shown, pricing);
            if (best is null || cost < best.Value.Cost)
                best = (cost, variant);
        }
        return best?.Variant;
    }

    /// <summary>The same where rules treat variants differently: each that agrees is priced.</summary>
    private MatrixVariant? CheapestByRules(Configuration given, AnswerPricing pricing, UnitPrices prices)
    {
        (long Price, MatrixVariant Variant)? best = null;
        foreach (var variant in Offered(given))
        {
            if (variant.Price.Figure is not { } list)
                continue;
            var asked = variant.Values.Pairs.Aggregate(given, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));
            if (!Rules.IsValid(asked))
                continue;
            var price = prices.Of(variant, PerUnit(list, Shown(asked), pricing));
            if (best is null || price < best.Value.Price)
                best = (price, variant);
        }
        return best?.Variant;
    }

    /// <summary>List price and answers of a unit, in minor units.</summary>
    private static long PerUnit(Money list, Configuration shown, AnswerPricing pricing) =>
        MinorUnits.Of(list) + pricing.Amounts(shown, list).Where(a => !a.PerLine).Sum(a => MinorUnits.Of(a.Amount));

    internal MatrixVariant? VariantOf(int[] states) =>
        _matrix.Find(Combination.Of(_matrix.Options.Select(o => (o.Key, o.Values[states[Rules.Network.PlaceOf(o.Key)!.First]].Key))));

    private MatrixVariant? FirstPriced() => _matrix.Offered.FirstOrDefault(v => v.Price.Figure is not null);

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
}
