using System.Collections.Immutable;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>Makes each question as the shopper sees it.</summary>
internal sealed class QuestionPresenter(
    BuySource of,
    SentAnswers sent,
    Configuration answers,
    RulesReply reply,
    Dictionary<Key, ImmutableArray<bool>> inStock,
    int quantity,
    bool isPart = false
)
{
    /// <summary>Reasons are worked out for so many greyed values at most; the others say only that they do not fit.</summary>
    private const int MostReasons = 16;

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
        var units = (int)Math.Min(Selling.MostUnits, (long)filled.Slot.Quantity.Min * sets);
        if (part.Edition.Product.IsSet)
            return ConfigurationStatus.From(part.Edition, Configuration.Empty, of.At(units)) is not null;
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
            others.Count == 0 ? "not with these answers" : $"{(made == "not" ? "not with" : "not made in")} {string.Join(" and ", others)}";
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
