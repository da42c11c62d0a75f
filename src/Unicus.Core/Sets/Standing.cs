using System.Collections.Immutable;

namespace Unicus.Core;

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

/// <summary>How answers stand: everything that is asked about them, found once.</summary>
public sealed class Standing
{
    private readonly PublishedRange _range;
    private readonly Lazy<ConfiguredPrice?> _price;
    private readonly Lazy<Money?> _from;

    private Standing(Edition edition, Configuration given, Configuration answers, int quantity, PublishedRange range, LeafStock stock)
    {
        (Edition, Given, Answers, Quantity, _range, Stock) = (edition, given, answers, quantity, range, stock);
        var configurator = edition.Configurator;
        Reply = configurator.Answer(answers);
        Shown = configurator.Shown(answers);
        Variant = configurator.Decided(Reply);
        Open = [.. Reply.Questions.Where(IsOpen).Select(q => q.Question)];
        Needs = Variant is null ? default : ComingApart.Needs(new VariantOnSale(edition, Variant), Shown, range);
        Available =
            Variant is null ? null
            : Needs.Ok ? stock.Of(Needs.Value)
            : new Availability(0, Needs.Problem!, 0);
        _price = new Lazy<ConfiguredPrice?>(() => configurator.Price(answers, quantity, range.Figures));
        _from = new Lazy<Money?>(() => From(edition, answers, range, stock));
    }

    /// <summary>The product.</summary>
    public Edition Edition { get; }

    /// <summary>The answers as they came.</summary>
    public Configuration Given { get; }

    /// <summary>The answers with those filled in that were asked for.</summary>
    public Configuration Answers { get; }

    /// <summary>The answers that count: of questions that are shown.</summary>
    public Configuration Shown { get; }

    /// <summary>Units asked for; 1 or more.</summary>
    public int Quantity { get; }

    /// <summary>What the rules say of <see cref="Answers"/>.</summary>
    public RulesReply Reply { get; }

    /// <summary>The one variant that all valid configurations with these answers have; null while there are several, or none.</summary>
    public MatrixVariant? Variant { get; }

    /// <summary>The needed questions that have no answer yet. A variant option with one value left answers itself.</summary>
    public ImmutableArray<Option> Open { get; }

    /// <summary>What one unit takes, or which part is not on sale; empty while no variant is decided.</summary>
    public Read<ImmutableArray<LeafNeed>> Needs { get; }

    /// <summary>How many can be sold of what is decided; null while no variant is.</summary>
    public Availability? Available { get; }

    /// <summary>What there is.</summary>
    public LeafStock Stock { get; }

    /// <summary>The price with its span; null where nothing valid has one. Worked out when it is first asked for.</summary>
    public ConfiguredPrice? Price => _price.Value;

    /// <summary>Whether everything is decided that the price hangs on.</summary>
    public bool IsDecided => Variant is not null && Open.IsEmpty && Reply.Valid;

    /// <summary>The exact lowest price of a unit over what agrees and can be bought now; null where nothing can. Worked out when it is
    /// first asked for.</summary>
    public Money? Lowest => _from.Value;

    /// <summary>What needed questions that are still open add once for a line at least.</summary>
    public Money? NeededOnce =>
        Lowest is { } lowest && Edition.Configurator.NeededOnce(Reply, lowest.Currency) is { IsZero: false } once ? once : null;

    /// <summary>Finds how answers stand.</summary>
    /// <param name="quantity">Units; 1 or more.</param>
    /// <param name="range">Where parts are looked up.</param>
    public static Standing Of(Edition edition, Configuration given, Filling filling, int quantity, PublishedRange range, LeafStock stock)
    {
        var answers = filling == Filling.None ? given : edition.Configurator.Filled(given, restNone: filling == Filling.Rest, stock.Today);
        return new Standing(edition, given, answers, quantity, range, stock);
    }

    /// <summary>The exact lowest price of a unit over what agrees with the answers and can be bought now.</summary>
    public static Money? From(Edition edition, Configuration answers, PublishedRange range, LeafStock stock) =>
        edition.Configurator.From(
            answers,
            range.Figures,
            (variant, parts) => stock.Sells(new VariantOnSale(edition, variant), parts, range)
        );

    /// <summary>Whether what is still to be decided can make a unit dearer than <see cref="Lowest"/>; extras that may be left out do
    /// not count.</summary>
    public bool Varies => Lowest is { } lowest && CanBeDearer(Edition, Answers, Reply, lowest, _range);

    /// <inheritdoc cref="Varies"/>
    /// <param name="lowest">The lowest price of a unit.</param>
    public static bool CanBeDearer(Edition edition, Configuration answers, RulesReply reply, Money lowest, PublishedRange range)
    {
        var needed = answers;
        foreach (var q in reply.Questions)
            if (q is { Answer: null, Required: false, NonePossible: true } && q.Question.Role == OptionRole.Extra)
                needed = needed.With(q.Question.Key, new Answer.None());
        var configurator = edition.Configurator;
        var span = configurator.Span(needed, range.Figures) ?? configurator.Span(answers, range.Figures);
        return span?.Highest > lowest;
    }

    private static bool IsOpen(QuestionReply q) =>
        q is { Shown: true, Required: true, Answer: null or Answer.None }
        && (q.Question.Role == OptionRole.Extra || q.Possible.Count(p => p) != 1);
}
