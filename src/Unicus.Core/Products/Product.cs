namespace Unicus.Core.Products;

using System.Collections.Immutable;
using System.Globalization;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Pricing;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>A picture of a product.</summary>
/// <param name="File">Its name in the picture store.</param>
/// <param name="Alt">What stands for it where it cannot be seen.</param>
/// <param name="Shows">The option or extra and its value that it shows, or null for the product as a whole.</param>
public sealed record ProductPicture(string File, string Alt, (Key Option, Key Value)? Shows);

/// <summary>A film about a product.</summary>
/// <param name="Address"><c>/videos/…</c> for one kept here, or an https address of a film elsewhere.</param>
/// <param name="Title">What people read.</param>
public sealed record ProductVideo(string Address, string Title)
{
    /// <summary>Where films lie that were sent.</summary>
    public const string Kept = "/videos/";

    /// <summary>The host that it comes from, in the letters of the domain name system (RFC 5890); null where it is kept here.</summary>
    public string? Host =>
        Address.StartsWith(Kept, StringComparison.Ordinal) ? null
        : Uri.TryCreate(Address, UriKind.Absolute, out var uri) ? uri.IdnHost
        : "";

    /// <summary>The name of a host in the letters of the domain name system (RFC 5890), as headers need it; as it is where it is no such
    /// name.</summary>
    public static string InAscii(string host) =>
        Uri.TryCreate($"https://{host}", UriKind.Absolute, out var uri) && uri.IdnHost.Length > 0 ? uri.IdnHost : host;

    /// <summary>Whether this can be the address of a film: kept here, or https without user, port or script.</summary>
    public static bool IsAddress(string text) =>
        text.StartsWith(Kept, StringComparison.Ordinal)
            ? text[Kept.Length..].All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '.')
            : Uri.TryCreate(text, UriKind.Absolute, out var uri) && uri is { Scheme: "https", IsDefaultPort: true, UserInfo: "" };
}

/// <summary>A fact in a list: “Bee space” and “6 to 9 mm”.</summary>
public sealed record Specification(string Label, string Value);

/// <summary>A text under a heading.</summary>
/// <param name="Heading">What stands above it; empty for nothing.</param>
/// <param name="Text">Sanitised HTML.</param>
public sealed record Passage(string Heading, string Text);

/// <summary>Where and how a product shows in the shop.</summary>
public sealed record Shelf
{
    /// <summary>Whether lists and categories show it.</summary>
    public bool Listed { get; init; } = true;

    /// <summary>Whether the shop's search finds it.</summary>
    public bool Searchable { get; init; } = true;

    /// <summary>Whether it is sold by itself; otherwise only as a part: not listed, and a search for it finds what it is in.</summary>
    public bool Alone { get; init; } = true;

    /// <summary>Its place in lists, the lower the earlier; null: behind those that have one.</summary>
    public int? Position { get; init; }

    /// <summary>The largest place.</summary>
    public const int LastPosition = 1_000_000;

    /// <summary>Characters of a password at most.</summary>
    public const int LongestPassword = 80;

    /// <summary>The days on which it can be bought; null: any.</summary>
    public DaySpan? Days { get; init; }

    /// <summary>The days on which the start page leads with it; null: none.</summary>
    public DaySpan? Featured { get; init; }

    /// <summary>What opens its page; null: it is open to everybody.</summary>
    public string? Password { get; init; }

    /// <summary>Whether it stands in lists on a day.</summary>
    public bool IsListed(DateOnly day) => Listed && Alone && Days?.Holds(day) != false;

    /// <summary>Whether searches find it on a day; off the shelf only by its exact name.</summary>
    public bool IsFound(DateOnly day) => Searchable && Alone && Days?.Holds(day) != false;

    /// <summary>The next day after one on which lists show it otherwise; null where none is known.</summary>
    public DateOnly? NextChange(DateOnly day) => new[] { Days?.NextChange(day), Featured?.NextChange(day) }.Where(d => d is not null).Min();
}

/// <summary>A span of days, both ends inclusive; null is open.</summary>
public sealed record DaySpan(DateOnly? From, DateOnly? Until)
{
    /// <summary>Whether a day is in it.</summary>
    public bool Holds(DateOnly day) => !(day < From) && !(day > Until);

    /// <summary>The next day after one on which this is otherwise; null where there is none.</summary>
    public DateOnly? NextChange(DateOnly day) =>
        day < From ? From
        : day <= Until && Until < DateOnly.MaxValue ? Until.Value.AddDays(1)
        : null;
}

// Together with ExtraSet: a shared set knows which products it reaches, a product takes over the sets that reach it.
/// <summary>Anything with a page that a shopper can buy from: facts, and blocks that are each optional.</summary>
public sealed record Product(ProductCode Code, string Name)
{
    /// <summary>Characters of a name at most.</summary>
    public const int LongestName = 200;

    /// <summary>Characters of a badge at most.</summary>
    public const int LongestBadge = 30;

    /// <summary>Companions, and step-ups, at most.</summary>
    public const int MostSuggested = 24;

    /// <summary>Characters of a summary at most.</summary>
    public const int LongestSummary = 500;

    /// <summary>Characters of a description at most.</summary>
    public const int LongestDescription = 100_000;

    /// <summary>The last piece of its address in the shop; null means made from the name.</summary>
    public string? WebAddress { get; init; }

    /// <summary>A sentence for lists.</summary>
    public string? Summary { get; init; }

    /// <summary>Sanitised HTML.</summary>
    public string? Description { get; init; }

    /// <summary>The brand.</summary>
    public string? Brand { get; init; }

    /// <summary>The maker's own number of the goods.</summary>
    public string? PartNumber { get; init; }

    /// <summary>Facts in a list.</summary>
    public ImmutableArray<Specification> Specifications { get; init; } = [];

    /// <summary>Texts under headings.</summary>
    public ImmutableArray<Passage> Passages { get; init; } = [];

    /// <summary>The categories that it names.</summary>
    public ImmutableArray<string> Categories { get; init; } = [];

    /// <summary>A word or two on its picture in lists; null: none.</summary>
    public string? Badge { get; init; }

    /// <summary>The products that are suggested beside it, in order.</summary>
    public ImmutableArray<ProductCode> Companions { get; init; } = [];

    /// <summary>The products that are suggested instead of it, in order.</summary>
    public ImmutableArray<ProductCode> StepUps { get; init; } = [];

    /// <summary>Words by which it is found.</summary>
    public ImmutableArray<string> Tags { get; init; } = [];

    /// <summary>The pictures, the leading one first.</summary>
    public ImmutableArray<ProductPicture> Pictures { get; init; } = [];

    /// <summary>The films.</summary>
    public ImmutableArray<ProductVideo> Videos { get; init; } = [];

    /// <summary>The figures that variants inherit.</summary>
    public Figures Base { get; init; } = Figures.None;

    /// <summary>The terms of selling that variants inherit.</summary>
    public Selling Selling { get; init; } = Selling.Inherited;

    /// <summary>Where and how the shop shows it.</summary>
    public Shelf Shelf { get; init; } = new();

    /// <summary>The options that make variants, in order.</summary>
    public ImmutableArray<Option> Options { get; init; } = [];

    /// <summary>What is not made; a combination of some options stands for all that have it.</summary>
    public ImmutableArray<Combination> NotMade { get; init; } = [];

    /// <summary>Questions that do not split variants, in order.</summary>
    public ImmutableArray<Option> Extras { get; init; } = [];

    /// <summary>The rules over answers.</summary>
    public ImmutableArray<SelectionRule> Rules { get; init; } = [];

    /// <summary>Its own price rules, which reach it alone.</summary>
    public ImmutableArray<PriceRule> PriceRules { get; init; } = [];

    /// <summary>The least margin that rules may leave, in place of the shop's; null: the shop's.</summary>
    public Percentage? Floor { get; init; }

    /// <summary>Why it is not sold on a day; null where it is.</summary>
    public string? WhyNotOn(DateOnly day) =>
        Shelf.Days is not { } days || days.Holds(day) ? null
        : day < days.From ? $"{Name} can be ordered from {days.From.Value.ToString("d MMMM yyyy", CultureInfo.InvariantCulture)}."
        : $"{Name} could be ordered until {days.Until!.Value.ToString("d MMMM yyyy", CultureInfo.InvariantCulture)}.";

    /// <summary>The keys of shared sets of extras that the product takes.</summary>
    public ImmutableArray<Key> ExtraSets { get; init; } = [];

    /// <summary>The keys of shared sets that reach the product by its category, or all products, and that it leaves out.</summary>
    public ImmutableArray<Key> WithoutSets { get; init; } = [];

    /// <summary>What it is put together from, or presents; null: nothing.</summary>
    public SetParts? Parts { get; init; }

    /// <summary>Whether its parts are sold together, for one price.</summary>
    public bool IsSet => Parts is { Sold: Sold.Together, Slots.IsEmpty: false };

    /// <summary>Whether it presents pieces that are each bought by themselves.</summary>
    public bool IsGroup => Parts is { Sold: Sold.Separately };

    /// <summary>Its slots with what may fill them now, where they were looked up in the range.</summary>
    public ImmutableArray<FilledSlot> Filled { get; init; }

    /// <summary>The slots of a set with what may fill them; none where nothing is sold together.</summary>
    public ImmutableArray<FilledSlot> Slots => IsSet ? SlotsInRange : [];

    /// <summary>The slots of a set or group with what may fill them.</summary>
    public ImmutableArray<FilledSlot> SlotsInRange =>
        Parts is null ? []
        : Filled.IsDefault ? [.. Parts.Slots.Select(FilledSlot.Of)]
        : Filled;

    /// <summary>The rules over answers, with what parts are not made for which values.</summary>
    public ImmutableArray<SelectionRule> RulesWithParts =>
        IsSet
            ?
            [
                .. Rules,
                .. from slot in Slots
                where slot.Slot.Pick is SlotPick.Follows
                let option = Options.Concat(Extras).FirstOrDefault(o => o.Key == ((SlotPick.Follows)slot.Slot.Pick).Option)
                where option is not null
                from rule in slot.Rules(option)
                select rule,
            ]
            : Rules;

    /// <summary>All questions in the order in which they are asked: variant options and extras, then slots with a choice.</summary>
    public ImmutableArray<Option> Questions =>
        IsSet ? [.. OptionsAndExtras, .. Slots.Select(s => s.Question).OfType<Option>()] : OptionsAndExtras;

    private ImmutableArray<Option> OptionsAndExtras =>
        Extras.IsEmpty
            ? Options
            :
            [
                .. Enumerable
                    .Range(0, Options.Length + 1)
                    .SelectMany(i =>
                        Extras
                            .Where(e => Math.Min(e.Behind ?? Options.Length, Options.Length) == i)
                            .Concat(i < Options.Length ? [Options[i]] : [])
                    ),
            ];

    /// <summary>Empty means <see cref="Variants.SkuPattern.Default"/>.</summary>
    public ImmutableArray<PatternPiece> SkuPattern { get; init; } = [];

    /// <summary>The variants that are listed; those that are not have what the rest makes of them.</summary>
    public ImmutableArray<Variant> Variants { get; init; } = [];

    /// <summary>The keys that options, extras and slots have; unique together.</summary>
    public IEnumerable<Key> TakenKeys => Options.Concat(Extras).Select(q => q.Key).Concat(Parts?.Slots.Select(s => s.Key) ?? []);

    /// <summary>A key for a new option that no question has, extras included.</summary>
    public Key FreeKey(string label) => Key.From(label, TakenKeys.ToHashSet(), "option");

    /// <summary>The product with the extras and rules of the shared sets that reach it; what it has itself under the same key
    /// stays.</summary>
    public Product Taking(IReadOnlyList<ExtraSet> sets)
    {
        var reaching = sets.Where(s => s.Reaches(this)).ToList();
        if (reaching.Count == 0)
            return this;
        var (questions, rules) = (Questions.Select(q => q.Key).ToHashSet(), Rules.Select(r => r.Key).ToHashSet());
        return this with
        {
            Extras =
            [
                .. Extras,
                .. reaching.SelectMany(s =>
                    s.Extras.Where(e => questions.Add(e.Key)).Select(e => e with { FromSet = s.Key, Behind = null })
                ),
            ],
            Rules = [.. Rules, .. reaching.SelectMany(s => s.Rules.Where(r => rules.Add(r.Key)).Select(r => r with { FromSet = s.Key }))],
        };
    }

    /// <summary>The address in force.</summary>
    public string Address => WebAddress ?? (Slug.From(Name, 80) is { Length: > 0 } slug ? slug : Code.Text.ToLowerInvariant());

    /// <summary>Builds the matrix of this product.</summary>
    public VariantMatrix Matrix() => new(new MatrixSource(Code, Options, NotMade, Base, Selling, SkuPattern, Variants));

    /// <summary>The pictures for a configuration: those of the extras' values first, then the variant's own, those of its options' values
    /// and those of the product; all where none fits.</summary>
    /// <param name="answers">What was answered.</param>
    /// <param name="variant">The one that the answers decide; null while they decide none.</param>
    public IReadOnlyList<ProductPicture> PicturesFor(Configuration answers, Variant? variant = null)
    {
        var ofValues = Pictures
            .Where(p => p.Shows is { } s && Chooses(answers[s.Option], s.Value))
            .ToLookup(p => Options.Any(o => o.Key == p.Shows!.Value.Option));
        ProductPicture?[] own = [variant is null ? null : OwnPicture(variant)];
        var shown = ofValues[false]
            .Concat(own.OfType<ProductPicture>())
            .Concat(ofValues[true])
            .Concat(Pictures.Where(p => p.Shows is null))
            .Distinct()
            .ToList();
        return shown.Count > 0 ? shown : [.. Pictures];
    }

    /// <summary>The pictures of a variant: its own first, then as for its values.</summary>
    public IReadOnlyList<ProductPicture> PicturesFor(Variant variant) => PicturesFor(Configuration.Of(variant.Values), variant);

    /// <summary>The values that a picture can show, each with its question: those of the options and of its own extras.</summary>
    public IEnumerable<(Option Question, OptionValue Value)> Showable =>
        Options.Concat(Extras.Where(e => e.FromSet is null)).SelectMany(o => o.Values.Select(v => (o, v)));

    /// <summary>The product in which a picture of a value that is gone shows the product.</summary>
    public Product WithPicturesOfWhatIsThere()
    {
        var there = Pictures.All(p => p.Shows is null) ? [] : Showable.Select(s => (s.Question.Key, s.Value.Key)).ToHashSet();
        bool IsGone(ProductPicture picture) => picture.Shows is { } shown && !there.Contains(shown);
        return Pictures.Any(IsGone) ? this with { Pictures = [.. Pictures.Select(p => IsGone(p) ? p with { Shows = null } : p)] } : this;
    }

    private static bool Chooses(Answer? answer, Key value) =>
        answer is Answer.Value one ? one.Key == value : answer is Answer.Ticks several && several.Keys.Contains(value);

    /// <summary>The picture in force for a variant and where it comes from.</summary>
    public (ProductPicture? Picture, FigureSource Source) PictureOf(Variant variant) =>
        OwnPicture(variant) is { } own ? (own, FigureSource.Own)
        : PicturesFor(Configuration.Of(variant.Values)) is [var first, ..]
            ? (first, first.Shows is null ? FigureSource.Product : FigureSource.Value)
        : (null, FigureSource.None);

    /// <summary>A picture that the product no longer has shows nothing, until it is there again.</summary>
    private ProductPicture? OwnPicture(Variant variant) =>
        variant.Picture is { } file ? Pictures.FirstOrDefault(p => p.File == file) : null;
}
