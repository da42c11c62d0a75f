namespace Unicus.Core.Assembling;

using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Products;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Rules;
using Unicus.Core.Stock;
using Unicus.Core.Variants;

/// <summary>Which open questions are answered for the shopper before anything is said.</summary>
public enum Filling
{
    /// <summary>None: the answers are taken as they are.</summary>
    None,

    /// <summary>Defaults, and lists that need an answer and have one value left: as a page shows them.</summary>
    Beforehand,

    /// <summary>The same, and whatever is picked and still open is deliberately none: as it is ordered.</summary>
    Rest,
}

/// <summary>What stands around answers when it is asked how they stand.</summary>
/// <param name="Range">Where parts are looked up.</param>
/// <param name="Stock">What there is.</param>
/// <param name="Run">What prices go by.</param>
/// <param name="Quantity">Units asked for; 1 or more.</param>
/// <param name="Through">The code of the page that it is bought through; null for its own.</param>
public sealed record ConfigurationTerms(PublishedRange Range, StockOutlook Stock, RunTerms Run, int Quantity = 1, string? Through = null)
{
    private KnownParts? _known;

    /// <summary>Parts of which nothing was said, as they stand under these terms: each is found once for all sets that take
    /// it.</summary>
    internal KnownParts Known => _known?.IsOf(this) == true ? _known : _known = new KnownParts(Range, Stock, Run);

    /// <summary>What rules make of a unit of a product; null: nothing.</summary>
    internal EditionPrices? PricesOf(Edition edition) => EditionPrices.Of(edition, Run, Quantity, Through);
}

/// <summary>A quantity from which a unit costs less.</summary>
/// <param name="Units">How many.</param>
/// <param name="Each">One unit when the line is shared out over its units.</param>
public sealed record QuantityStep(int Units, Money Each);

// Together with AssembledSet, BroughtPart, BroughtSets, ComingApart, KnownParts, LeafAvailability, LineStart, LineWorking, RunLine,
// SetDemand, SetPricing, SetSpan, UnitSpan, SlotOptions, SlotOption, SlotFronts, FilledWay and AnswerCosts: a set stands by how its parts
// stand, which may be sets, and what it comes to, takes and allows goes down the same way.
/// <summary>How answers stand: everything that is asked about them, found once.</summary>
public sealed class ConfigurationStatus
{
    private readonly ConfigurationTerms _terms;
    private StrongBox<ConfiguredPrice?>? _price;
    private StrongBox<Money?>? _from;
    private StrongBox<Availability?>? _available;

    private ConfigurationStatus(
        Edition edition,
        Configuration given,
        Configuration answers,
        PartAnswers parts,
        Filling filling,
        ConfigurationTerms terms,
        EnteredSets within
    )
    {
        (Edition, Given, Answers, _terms) = (edition, given, answers, terms);
        (Reply, Shown, Variant, Open) = edition.Configurator.Look(answers);
        Parts = parts;
        Assembled = edition.Product.IsSet ? AssembledSet.Of(edition, Shown, parts, filling, terms, within) : null;
        Needs = Variant is null ? default : ComingApart.Needs(new(edition, Variant), Shown, terms.Range, Assembled, within);
    }

    /// <summary>The product.</summary>
    public Edition Edition { get; }

    /// <summary>The answers as they came.</summary>
    public Configuration Given { get; }

    /// <summary>The answers with those filled in that were asked for.</summary>
    public Configuration Answers { get; }

    /// <summary>The answers that count: of questions that are shown.</summary>
    public Configuration Shown { get; }

    /// <summary>What was said of the parts of a set.</summary>
    public PartAnswers Parts { get; }

    /// <summary>The set with its slots filled; null for a product whose parts are not sold together.</summary>
    public AssembledSet? Assembled { get; }

    /// <summary>Units asked for; 1 or more.</summary>
    public int Quantity => _terms.Quantity;

    /// <summary>What the rules say of <see cref="Answers"/>.</summary>
    public RulesReply Reply { get; }

    /// <summary>The one variant that all valid configurations with these answers have; null while there are several, or none.</summary>
    public MatrixVariant? Variant { get; }

    /// <summary>The needed questions that have no answer yet. A variant option with one value left answers itself.</summary>
    public ImmutableArray<Option> Open { get; }

    /// <summary>What one unit takes, or which part is not on sale; empty while no variant is decided.</summary>
    public Read<ImmutableArray<LeafNeed>> Needs { get; }

    /// <summary>How many can be sold of what is decided; null while no variant is.</summary>
    public Availability? Available => (_available ??= new(FindAvailable())).Value;

    /// <summary>What stands around it.</summary>
    internal ConfigurationTerms Terms => _terms;

    /// <summary>What the parts of one set cost bought one by one; null while something is open, or where it has none.</summary>
    public Money? PartsAlone =>
        Assembled is { IsDecided: true } assembled && new SetPricing(_terms.Run, _terms.Range).Of(Edition, assembled, Quantity) is { } set
            ? MinorUnits.ToMoney(set.Alone, _terms.Run.Trade.Currency)
            : null;

    /// <summary>What there is.</summary>
    public StockOutlook Stock => _terms.Stock;

    /// <summary>The price with its span; null where nothing valid has one. Worked out when it is first asked for.</summary>
    public ConfiguredPrice? Price => (_price ??= new(FindPrice())).Value;

    /// <summary>Whether everything is decided that the price hangs on.</summary>
    public bool IsDecided => Variant is not null && Open.IsEmpty && Reply.Valid && Assembled is not { IsDecided: false };

    /// <summary>Whether it could be ordered as it is, stock left aside.</summary>
    public bool IsWhole => Reply.Complete && IsDecided && Needs.Ok && !IsOpen;

    /// <summary>Whether something is still to be answered or picked before it can be ordered, of parts too.</summary>
    public bool IsOpen => !Open.IsEmpty || Assembled is { IsOpen: true };

    /// <summary>The keys of what is still to be answered or picked, those of parts behind their slots: <c>suit/size</c>.</summary>
    public IEnumerable<string> OpenKeys => Open.Select(o => o.Key.Text).Concat(Assembled?.OpenKeys ?? []).Distinct();

    /// <summary>The exact lowest price of a unit over what agrees and can be bought now; null where nothing can. Worked out when it is
    /// first asked for.</summary>
    public Money? Lowest => (_from ??= new(From(Edition, Answers, _terms))).Value;

    /// <summary>What needed questions that are still open add once for a line at least.</summary>
    public Money? NeededOnce =>
        Lowest is { } lowest && Edition.Configurator.NeededOnce(Reply, lowest.Currency) is { IsZero: false } once ? once : null;

    /// <summary>Finds how answers stand.</summary>
    /// <param name="edition">The product.</param>
    /// <param name="given">The answers as they came.</param>
    /// <param name="filling">How far what was left open is filled in.</param>
    /// <param name="terms">By what it is reckoned.</param>
    /// <param name="parts">What was said of the parts of a set; null for nothing.</param>
    public static ConfigurationStatus Of(
        Edition edition,
        Configuration given,
        Filling filling,
        ConfigurationTerms terms,
        PartAnswers? parts = null
    ) => Within(edition, given, parts ?? PartAnswers.None, filling, terms, new EnteredSets(edition.ProductId));

    /// <param name="edition">The product.</param>
    /// <param name="given">The answers as they came.</param>
    /// <param name="parts">What was said of the parts of a set.</param>
    /// <param name="filling">How far what was left open is filled in.</param>
    /// <param name="terms">By what it is reckoned.</param>
    /// <param name="within">The sets that it is looked at in, itself included.</param>
    internal static ConfigurationStatus Within(
        Edition edition,
        Configuration given,
        PartAnswers parts,
        Filling filling,
        ConfigurationTerms terms,
        EnteredSets within
    )
    {
        var rest = filling == Filling.Rest;
        var answers = filling == Filling.None ? given : edition.Configurator.Filled(given, rest, terms.Stock.Today);
        return new ConfigurationStatus(edition, given, answers, parts, filling, terms, within);
    }

    /// <summary>The exact lowest price of a unit over what agrees with the answers and can be bought now.</summary>
    public static Money? From(Edition edition, Configuration answers, ConfigurationTerms terms) =>
        edition.Product.IsSet
            ? new SetSpan(edition, terms).From(answers)
            : edition.Configurator.From(
                answers,
                terms.Range.Figures,
                (variant, parts) => terms.Stock.Sells(new VariantOnSale(edition, variant), parts, terms.Range),
                terms.PricesOf(edition),
                terms.Stock.Today
            );

    /// <summary>Whether what is still to be decided can make a unit dearer than <see cref="Lowest"/>; extras that may be left out do
    /// not count.</summary>
    public bool Varies => Lowest is { } lowest && CanBeDearer(Edition, Answers, Reply, lowest, _terms);

    /// <inheritdoc cref="Varies"/>
    /// <param name="edition">The product.</param>
    /// <param name="answers">What was answered.</param>
    /// <param name="reply">What the rules say of the answers.</param>
    /// <param name="lowest">The lowest price of a unit.</param>
    /// <param name="terms">By what it is reckoned.</param>
    public static bool CanBeDearer(Edition edition, Configuration answers, RulesReply reply, Money lowest, ConfigurationTerms terms)
    {
        if (edition.Product.IsSet)
            return new SetSpan(edition, terms).Ends(answers, PartAnswers.None) is { } ends && MinorUnits.Of(lowest) < ends.Highest;
        var needed = answers;
        foreach (var q in reply.Questions)
            if (q is { Answer: null, Required: false, NonePossible: true } && q.Question.Role == OptionRole.Extra)
                needed = needed.With(q.Question.Key, new Answer.None());
        var (configurator, prices) = (edition.Configurator, terms.PricesOf(edition));
        if (configurator.TypedVaries(reply, answers, terms.Stock.Today))
            return true;
        var span = configurator.Span(needed, terms.Range.Figures, prices) ?? configurator.Span(answers, terms.Range.Figures, prices);
        return span?.Highest > lowest;
    }

    /// <summary>The next larger quantity in which a unit costs less, by bands, packs or rules that begin at a number of units; null where
    /// there is none, or something is open.</summary>
    public QuantityStep? NextStep
    {
        get
        {
            if (!IsDecided || Price is not { } price)
                return null;
            var buying = _terms.Run.Buying;
            var rules = buying.Book.At(buying.At, buying.Day).Of(Edition, buying.At, buying.Day);
            var reaching = rules
                .ByStage[PriceStage.Unit]
                .Concat(rules.ByStage[PriceStage.Quantity])
                .Where(r => r.Reaches(price.Variant))
                .Select(r => r.Rule);
            var now = EachOf(price.Working);
            foreach (var units in reaching.SelectMany(Beginnings).Where(q => q > Quantity).Distinct().Order())
                if (Working(price.Variant, Shown, units) is { } then && EachOf(then) is var each && each < now)
                    return new QuantityStep(units, each);
            return null;
        }
    }

    /// <summary>Of packs, and of units in bands of their own, so many quantities behind the one asked for are looked at.</summary>
    private const int MostTried = 100;

    /// <summary>The quantities at which a rule may make a unit cheaper: packs may fit anew at any of them.</summary>
    private IEnumerable<int> Beginnings(PriceRule rule)
    {
        var first = Math.Max(Quantity + 1, rule.When.QuantityAtLeast ?? 1);
        var own = rule.Effect switch
        {
            // Each unit in its own band makes all a little cheaper with each one more.
            PriceEffect.Bands { Mode: BandMode.Incremental } b => Enumerable
                .Range(Math.Max(first, b.Rows[0].From), MostTried)
                .Concat(b.Rows.Select(r => r.From)),
            PriceEffect.Bands b => b.Rows.Select(r => r.From),
            PriceEffect.Packs p => Enumerable.Range(first, Math.Min(MostTried, p.Rows[0].Units)).Concat(p.Rows.Select(r => r.Units)),
            _ => [],
        };
        return own.Append(first);
    }

    /// <summary>What one unit comes to when the line is shared out over its units, once surcharges left aside.</summary>
    private static Money EachOf(PriceWorking working)
    {
        var once = working.Steps.Where(s => s.PerLine && s.Step == PriceStep.Answer).Select(s => s.Amount).Sum(working.Currency);
        return new Money((working.Total - once).Amount / working.Quantity, working.Currency);
    }

    private Availability? FindAvailable() =>
        Variant is null || Assembled is { Problem: null, IsDecided: false } ? null
        : Needs.Ok ? Stock.Of(Needs.Value)
        : new Availability(0, Needs.Problem!, 0);

    private ConfiguredPrice? FindPrice() =>
        Edition.Product.IsSet
            ? new SetSpan(Edition, _terms).Price(this)
            : Edition.Configurator.Price(Answers, _terms.Range.Figures, _terms.PricesOf(Edition), Working);

    private PriceWorking? Working(MatrixVariant variant, Configuration shown) => Working(variant, shown, Quantity);

    private PriceWorking? Working(MatrixVariant variant, Configuration shown, int quantity)
    {
        var through = _terms.Through ?? Edition.Product.Code.Text;
        var line = new RunLine(new VariantOnSale(Edition, variant), shown, quantity, [], through) { Assembled = Assembled };
        return LineWorking.Of(line, _terms.Run, _terms.Range);
    }
}
