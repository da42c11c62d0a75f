using System.Globalization;
using Unicus.Core;
using Unicus.Store;

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
    public string Name => BuyForm.Prefix + Option.Key.Text;
    public bool IsNone => Answer is Answer.None;
}

/// <summary>What a page of a product is made from.</summary>
/// <param name="Product">With the shared sets that reach it.</param>
/// <param name="Stock">Of its variants and of the parts that its extras name.</param>
public sealed record BuySource(
    string Code,
    Product Product,
    VariantMatrix Matrix,
    Configurator Configurator,
    IReadOnlyDictionary<Sku, StockLevel> Stock,
    Func<string, PartOnSale?> Parts,
    Currency Currency,
    DateOnly Today,
    bool IsProof
);

/// <summary>The buyable heart of a product page: questions, price with working, availability. The proof and the shop show the
/// same.</summary>
public sealed class BuyView
{
    /// <summary>Reasons are worked out for so many greyed values at most; the others say only that they do not fit.</summary>
    private const int MostReasons = 16;

    private const int MostChecks = 400;

    private readonly BuySource _of;

    private BuyView(BuySource of) => _of = of;

    public string Code => _of.Code;
    public Product Product => _of.Product;
    public bool IsProof => _of.IsProof;
    public required IReadOnlyList<ShownQuestion> Questions { get; init; }

    /// <summary>Answers of questions that are hidden now: they come back with their question.</summary>
    public required IReadOnlyList<(string Name, string Value)> Kept { get; init; }

    public required Configuration Answers { get; init; }

    /// <summary>The quantity as typed.</summary>
    public required TypedQuantity Typed { get; init; }

    public int Quantity => Typed.Units;

    /// <summary>The decided variant, or null while several agree.</summary>
    public required MatrixVariant? Variant { get; init; }

    public required Availability? Available { get; init; }
    public required PriceSpan? Span { get; init; }
    public required PriceWorking? Working { get; init; }
    public required Money? Rrp { get; init; }

    /// <summary>The questions that still need an answer before anything can be bought.</summary>
    public required IReadOnlyList<string> Open { get; init; }

    public string? Problem { get; set; }

    public string Url => IsProof ? $"/office/products/{Code}/proof" : $"/p/{Product.Address}";

    public IReadOnlyList<ProductPicture> Pictures => Variant is { } v ? Product.PicturesFor(v.Variant) : Product.PicturesFor(Answers);

    public bool IsComplete => Open.Count == 0 && Typed.Problem is null && Questions.All(q => q.Problem is null);

    public bool CanBuy => Variant is not null && Working is not null && IsComplete && Available!.CanSell(Quantity);

    /// <summary>What of the quantity is beyond stock, in a sentence; empty where nothing is.</summary>
    public string Later => Variant is null ? "" : Available!.BeyondWords(Quantity);

    /// <summary>How the price is made, for the merchant: the parts of the list price, then the answers.</summary>
    public IReadOnlyList<WorkingStep> Steps =>
        Variant is null || Working is null
            ? []
            : [.. PriceCalculator.ListPrice(Product.Base, _of.Matrix, Variant), .. Working.Steps.Where(s => s.Step != PriceStep.List)];

    public static BuyView Make(BuySource of, SentAnswers sent, TypedQuantity quantity)
    {
        var configurator = of.Configurator;
        var answers = configurator.Filled(sent.Given, restNone: false, of.Today);
        var reply = configurator.Answer(answers);
        var variant = configurator.Decided(reply);
        PartFigures? Figures(string sku) => of.Parts(sku)?.Figures;
        var price = configurator.Price(answers, quantity.Units, Figures);
        // What is only picked beforehand makes nothing impossible: it gives way.
        var picked = new Configuration(
            answers.Given.RemoveAll(g => configurator.Book.Find(g.Question) is { } q && BuyForm.IsBeforehand(q, g.Answer))
        );
        var may = configurator.Answer(picked);
        var view = new Shower(of, sent, picked, may, Buyable(of, picked));
        var questions = reply
            .Questions.Zip(may.Questions, (q, m) => q with { Possible = m.Possible, NonePossible = m.NonePossible })
            .Where(q => q.Shown)
            .Select(view.Show)
            .OfType<ShownQuestion>()
            .ToList();
        return new BuyView(of)
        {
            Questions = questions,
            Kept =
            [
                .. reply
                    .Questions.Where(q => !q.Shown && q.Answer is not null)
                    .SelectMany(q => AnswerText.Write(q.Answer!).DefaultIfEmpty("").Select(t => (BuyForm.Prefix + q.Question.Key.Text, t))),
            ],
            Answers = answers,
            Typed = quantity,
            Variant = variant,
            Available = variant is null ? null : PartStock.Available(variant, configurator.Parts(answers), of.Parts, of.Stock, of.Today),
            Span = price is null ? null : new PriceSpan(price.Lowest, price.Highest),
            Working = variant is null ? null : price?.Working,
            Rrp = variant?.Rrp.Figure is { } rrp && rrp > variant.Price.Figure ? rrp : null,
            Open =
            [
                .. reply
                    .Questions.Where(q =>
                        q.Shown
                        && q.Answer is null or Answer.None
                        && q.Required
                        && q.Shown
                        && (q.Question.Role == OptionRole.Extra || q.Possible.Count(p => p) != 1)
                    )
                    .Select(q => q.Question.Label),
            ],
        };
    }

    /// <summary>For each variant option and value, whether a variant that has it, agrees with the other answers and stands by the rules
    /// can be bought now.</summary>
    private static Dictionary<Key, bool[]> Buyable(BuySource of, Configuration answers)
    {
        var options = of.Matrix.Options;
        var made = of.Matrix.Made;
        var given = options.Select(o => answers[o.Key] is Answer.Value v ? o.PlaceOf(v.Key) : -1).ToArray();
        var buyable = options.Select(o => new bool[o.Values.Length]).ToArray();
        var left = buyable.Sum(b => b.Length);
        // What is given of the extras may rule a variant out; where no rule acts it cannot.
        var checks = of.Configurator.Rules.Book.Acting.IsEmpty ? 0 : MostChecks;
        foreach (var number in made.Made())
        {
            var differing = -1;
            var differences = 0;
            for (var i = 0; i < options.Length && differences < 2; i++)
                if (given[i] >= 0 && made.ValueAt(number, i) != given[i])
                    (differing, differences) = (i, differences + 1);
            if (differences > 1)
                continue;
            var news = Enumerable
                .Range(0, options.Length)
                .Where(i => (differences == 0 || i == differing) && !buyable[i][made.ValueAt(number, i)])
                .ToList();
            if (news.Count == 0 || !of.Matrix.IsOffered(number))
                continue;
            var variant = of.Matrix.At(number);
            if (!Availability.Of(variant.Selling, of.Stock.GetValueOrDefault(variant.Sku), of.Today).CanSell(1))
                continue;
            if (
                checks > 0
                && !of.Configurator.Rules.IsValid(
                    variant.Values.Pairs.Aggregate(answers, (a, p) => a.With(p.Option, new Answer.Value(p.Value)))
                )
            )
            {
                checks--;
                continue;
            }
            foreach (var i in news)
            {
                buyable[i][made.ValueAt(number, i)] = true;
                left--;
            }
            if (left == 0)
                break;
        }
        return options.Select((o, i) => (o.Key, buyable[i])).ToDictionary(x => x.Key, x => x.Item2);
    }

    /// <summary>Makes each question as the shopper sees it.</summary>
    private sealed class Shower(BuySource of, SentAnswers sent, Configuration answers, RulesReply reply, Dictionary<Key, bool[]> buyable)
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
            var picked = q.Answer switch
            {
                Answer.Value v => v.Key == value.Key,
                Answer.Ticks t => t.Keys.Contains(value.Key),
                _ => false,
            };
            var adds = Adds(q.Question, value);
            if (q.Possible[place])
            {
                var gone = buyable.TryGetValue(q.Question.Key, out var flags)
                    ? !flags[place]
                    : value.Part is { } part
                        && (
                            of.Parts(part.Sku) is not { } found
                            || !Availability
                                .Of(found.Variant.Selling, of.Stock.GetValueOrDefault(found.Variant.Sku), of.Today)
                                .CanSell(part.Quantity)
                        );
                return new ShownValue(
                    value,
                    picked,
                    gone
                        ? buyable.ContainsKey(q.Question.Key) && answers.Given.Any(g => g.Question != q.Question.Key)
                            ? "none left in this"
                            : "none left"
                        : null,
                    null,
                    adds
                );
            }
            if (value.DoesNotApply || picked || !reply.Valid)
                return new ShownValue(value, picked, "not with these answers", null, adds);
            return _reasons++ < MostReasons ? Reason(q, value, adds) : new ShownValue(value, false, "not with these answers", null, adds);
        }

        private ShownValue Reason(QuestionReply q, OptionValue value, string adds)
        {
            var configurator = of.Configurator;
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
            var others =
                conflict
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

        private string Adds(Option question, OptionValue value)
        {
            if (question.Role == OptionRole.Variant)
                return "";
            var amount =
                value.Surcharge is { } s ? s.ForPeople()
                : value.Part is { } part && of.Parts(part.Sku)?.Figures.Price is { } price ? (price * part.Quantity).ForPeople()
                : "";
            return amount.Length == 0 || amount[0] == '-' ? amount.Replace('-', '−') : $"+{amount}";
        }
    }

    /// <summary>The bounds of a date box.</summary>
    public string? DateBound(int? days) => days is { } d ? _of.Today.AddDays(d).ToString("yyyy-MM-dd", CultureInfo.InvariantCulture) : null;
}
