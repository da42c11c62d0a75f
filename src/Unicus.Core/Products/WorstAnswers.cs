namespace Unicus.Core.Products;

using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Answers;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>What a way of answering everything comes to for one unit, in minor units.</summary>
/// <param name="Adds">What the answers add to a unit.</param>
/// <param name="Once">What they add once for a line.</param>
/// <param name="Cost">What they cost the merchant for a unit.</param>
/// <param name="OnceCost">What they cost once for a line.</param>
/// <param name="State">How it was answered; null: not at all.</param>
internal sealed record AnsweredCost(long Adds, long Once, long Cost, long OnceCost, AnsweredState? State)
{
    /// <summary>What is typed; null: the answers that add the least.</summary>
    public TypedWay? Typed { get; init; }

    /// <summary>Whether none of its figures is better for the margin than the other's.</summary>
    public bool IsWorseOrSame(AnsweredCost other) =>
        Adds <= other.Adds && Once <= other.Once && Cost >= other.Cost && OnceCost >= other.OnceCost;
}

/// <summary>A state of a level of the diagram, and those of the levels behind it.</summary>
internal sealed record AnsweredState(int Level, int State, AnsweredState? Next);

/// <summary>The answers that may bring the lowest margin of a variant: of all valid complete configurations those that no other one
/// beats in what they add, what they add once and what they cost together.</summary>
/// <remarks>
/// One pass over the rules' diagram from the end to the start; at each node only what is not beaten is kept. Where a price never falls
/// when its answers rise, the lowest margin is among them. What is typed counts at the least that it can add
/// (<see cref="LeastTyped"/>).
/// </remarks>
/// <param name="configurator">The product's.</param>
/// <param name="parts">What parts sell for and cost.</param>
/// <param name="today">The shop's day, which dates are counted from.</param>
/// <param name="all">Whether those are kept too that others beat, each sum once: where a basket has to reach an amount, a rule that stands
/// alone keeps others off, or a price of 0 does not count, the lowest margin may be among them.</param>
internal sealed class WorstAnswers(Configurator configurator, Func<string, PartFigures?> parts, DateOnly today, bool all = false)
{
    /// <summary>So many answers are kept for a node at most; beyond, several are put together, and the bound is no longer
    /// exact.</summary>
    private const int Most = 400;

    private readonly CompiledRules _rules = configurator.Rules;
    private readonly LeastTyped _typed = new(configurator.Questions, today);
    private readonly LevelFigures _figures = new(configurator, parts, new LeastTyped(configurator.Questions, today, all));
    private bool _isJoined;

    /// <summary>Whether nothing found so far was put together as a bound.</summary>
    public bool IsExact => !_isJoined && !(all && !_figures.IsWhole);

    /// <summary>The answers of a variant, with every variant option answered.</summary>
    /// <param name="variant">Which variant it is.</param>
    /// <param name="list">Its list price.</param>
    public IReadOnlyList<AnsweredCost> Of(MatrixVariant variant, Money list)
    {
        var own = Configuration.Of(variant.Values);
        if (_rules.IsEmpty)
            return [];
        if (configurator.Questions.All(q => q.Role == OptionRole.Variant))
            return configurator.Book.Rules.Count == 0 || configurator.Answer(own).Valid ? [new AnsweredCost(0, 0, 0, 0, null)] : [];
        var masks = _rules.Masks(own);
        foreach (var level in _rules.Network.Inputs.Values)
            masks[level] = [true, true];
        var adds = _figures.Adds(MinorUnits.Of(list));
        var behind = new Dictionary<int, List<AnsweredCost>> { [0] = [new AnsweredCost(0, 0, 0, 0, null)] };
        for (var level = _rules.Sizes.Count - 1; level >= 0; level--)
            behind = Level(level, masks[level], adds[level], behind, level == _rules.Sizes.Count - 1);
        var picked = behind.GetValueOrDefault(0, []);
        if (!all)
        {
            var (adding, once) = _figures.Always(MinorUnits.Of(list));
            return [.. picked.Select(a => a with { Adds = a.Adds + adding, Once = a.Once + once })];
        }
        var ways = _figures.Ways(MinorUnits.Of(list));
        return Unbeaten([
            .. picked.SelectMany(a => ways.Select(w => a with { Adds = a.Adds + w.Adds, Once = a.Once + w.Once, Typed = w })),
        ]);
    }

    /// <summary>The configuration behind an answer; typed questions have the answers that add the least.</summary>
    /// <param name="variant">Which variant it is.</param>
    /// <param name="answered">What its answers add and cost.</param>
    /// <param name="list">The list price of a unit, in minor units.</param>
    public Configuration ConfigurationOf(MatrixVariant variant, AnsweredCost answered, long list)
    {
        var states = new Dictionary<int, int>();
        for (var s = answered.State; s is not null; s = s.Next)
            states[s.Level] = s.State;
        var given = Configuration.Of(variant.Values);
        foreach (var question in configurator.Questions.Where(q => q is { Role: OptionRole.Extra, IsPicked: true }))
            given = given.With(question.Key, Picked(question, states));
        foreach (var (question, answer) in answered.Typed?.Answers ?? [])
            given = given.With(question, answer);
        return Typed(given, list);
    }

    private Answer Picked(Option question, Dictionary<int, int> states)
    {
        if (_rules.Network.PlaceOf(question.Key) is not { Levels: > 0 } place)
            return new Answer.None();
        if (place.IsSeveral)
        {
            var ticked = question.Values.Where((_, i) => states.GetValueOrDefault(place.First + i) == RuleNetwork.On);
            return ticked.Any() ? new Answer.Ticks([.. ticked.Select(v => v.Key)]) : new Answer.None();
        }
        var state = states.GetValueOrDefault(place.First, place.NoneState);
        return state < question.Values.Length ? new Answer.Value(question.Values[state].Key) : new Answer.None();
    }

    private Configuration Typed(Configuration given, long list)
    {
        var asked = configurator.Questions.Where(q => q is { Role: OptionRole.Extra, IsPicked: false } && given[q.Key] is null).ToList();
        if (asked.Count == 0)
            return given;
        var reply = configurator.Answer(given).Questions.Where(q => q.Shown).ToDictionary(q => q.Question.Key);
        var shown = asked.Where(q => reply.ContainsKey(q.Key)).ToList();
        foreach (var (question, answer) in _typed.Answers(shown, q => reply[q.Key].Required, list))
            given = given.With(question, answer);
        return given;
    }

    private Dictionary<int, List<AnsweredCost>> Level(
        int level,
        bool[] mask,
        long[]? adds,
        Dictionary<int, List<AnsweredCost>> behind,
        bool isLast
    )
    {
        var (size, edges) = (_rules.Sizes[level], _rules.EdgesByLevel[level]);
        var here = new Dictionary<int, List<AnsweredCost>>();
        for (var node = 0; node < edges.Length / size; node++)
        {
            var found = new List<AnsweredCost>();
            for (var state = 0; state < size; state++)
            {
                var to = edges[node * size + state];
                if (!mask[state] || to < 0 || !behind.TryGetValue(isLast ? 0 : to, out var next))
                    continue;
                var (once, cost) = (_figures.Once[level]?[state] ?? 0, _figures.Cost[level]?[state] ?? 0);
                foreach (var answered in next)
                    found.Add(
                        new AnsweredCost(
                            answered.Adds + (adds?[state] ?? 0),
                            answered.Once + once,
                            answered.Cost + cost,
                            answered.OnceCost + (_figures.OnceCost[level]?[state] ?? 0),
                            new AnsweredState(level, state, answered.State)
                        )
                    );
            }
            if (found.Count > 0)
                here[node] = Unbeaten(found);
        }
        return here;
    }

    private List<AnsweredCost> Unbeaten(List<AnsweredCost> found)
    {
        var sorted = found.OrderBy(a => a.Adds).ThenBy(a => a.Once).ThenByDescending(a => a.Cost).ThenByDescending(a => a.OnceCost);
        var kept = new List<AnsweredCost>();
        if (all)
            kept.AddRange(sorted.DistinctBy(a => (a.Adds, a.Once, a.Cost, a.OnceCost)));
        else
            foreach (var answered in sorted)
                if (!kept.Exists(k => k.IsWorseOrSame(answered)))
                    kept.Add(answered);
        if (kept.Count <= Most)
            return kept;
        // Neighbours are put together as one that is worse than both.
        _isJoined = true;
        return
        [
            .. kept.Chunk((kept.Count + Most - 1) / Most)
                .Select(c => new AnsweredCost(
                    c.Min(a => a.Adds),
                    c.Min(a => a.Once),
                    c.Max(a => a.Cost),
                    c.Max(a => a.OnceCost),
                    c[0].State
                )
                {
                    Typed = c[0].Typed,
                }),
        ];
    }

    /// <summary>What each state of each level adds and costs.</summary>
    private sealed class LevelFigures
    {
        private readonly Configurator _configurator;
        private readonly long[]?[] _amounts;
        private readonly Percentage[]?[] _rates;
        private readonly List<Option> _typed;
        private readonly LeastTyped _least;
        private bool _isWhole = true;

        public LevelFigures(Configurator configurator, Func<string, PartFigures?> parts, LeastTyped least)
        {
            (_configurator, _least) = (configurator, least);
            var sizes = configurator.Rules.Sizes;
            (_amounts, _rates) = (new long[]?[sizes.Count], new Percentage[]?[sizes.Count]);
            (Once, Cost, OnceCost) = (new long[]?[sizes.Count], new long[]?[sizes.Count], new long[]?[sizes.Count]);
            foreach (var question in configurator.Questions.Where(q => q.Role == OptionRole.Extra))
            {
                if (configurator.Rules.Network.PlaceOf(question.Key) is not { Levels: > 0 } place)
                    continue;
                foreach (var (i, value) in question.Values.Index())
                    Put(value, place.IsSeveral ? place.First + i : place.First, place.IsSeveral ? RuleNetwork.On : i, parts);
            }
            _typed = [.. configurator.Questions.Where(q => q is { Role: OptionRole.Extra, IsPicked: false, Surcharge: not null })];
            foreach (var question in _typed.Where(q => q.Surcharge is Surcharge.Once))
                if (LevelOf(question) is { } level)
                    Once[level] = [0, _least.Of(question, question.Required, 0)];
        }

        public long[]?[] Once { get; }
        public long[]?[] Cost { get; }
        public long[]?[] OnceCost { get; }

        /// <summary>What each state adds to a unit with a list price.</summary>
        public long[]?[] Adds(long list)
        {
            var adds = new long[]?[_amounts.Length];
            for (var level = 0; level < adds.Length; level++)
                if (_amounts[level] is not null || _rates[level] is not null)
                    adds[level] =
                    [
                        .. Enumerable
                            .Range(0, _configurator.Rules.Sizes[level])
                            .Select(s =>
                                (_amounts[level]?[s] ?? 0)
                                + (_rates[level] is { } r && r[s].Value != 0 ? ConfigurationCost.Share(list, r[s]) : 0)
                            ),
                    ];
            foreach (var question in _typed.Where(q => q.Surcharge is not Surcharge.Once))
                if (LevelOf(question) is { } level)
                    adds[level] = [0, _least.Of(question, question.Required, list)];
            return adds;
        }

        /// <summary>Whether no answer was left out that may add something else.</summary>
        public bool IsWhole => _isWhole && _least.IsWhole;

        /// <summary>The ways to answer typed questions that are always asked.</summary>
        public List<TypedWay> Ways(long list)
        {
            _isWhole &= !_typed.Exists(q => LevelOf(q) is not null && _least.Differs(q, q.Required, list));
            return _least.Ways([.. _typed.Where(q => LevelOf(q) is null)], q => q.Required, list);
        }

        /// <summary>What typed questions add that are always asked.</summary>
        public (long Adds, long Once) Always(long list)
        {
            var (adds, once) = (0L, 0L);
            foreach (var question in _typed.Where(q => LevelOf(q) is null))
                if (question.Surcharge is Surcharge.Once)
                    once += _least.Of(question, question.Required, list);
                else
                    adds += _least.Of(question, question.Required, list);
            return (adds, once);
        }

        /// <summary>The level that says whether a typed question is charged; null where it always is.</summary>
        private int? LevelOf(Option question) =>
            _configurator.Rules.Network.Charged.TryGetValue(question.Key, out var level) ? level : null;

        private void Put(OptionValue value, int level, int state, Func<string, PartFigures?> parts)
        {
            var size = _configurator.Rules.Sizes[level];
            switch (value.Surcharge)
            {
                case Surcharge.PerUnit u:
                    (_amounts[level] ??= new long[size])[state] += MinorUnits.Of(u.Amount);
                    break;
                case Surcharge.Percent p:
                    (_rates[level] ??= new Percentage[size])[state] = p.Rate;
                    break;
                case Surcharge.Once o:
                    (Once[level] ??= new long[size])[state] += MinorUnits.Of(o.Amount);
                    break;
            }
            if (value.Cost is { } cost)
                ((value.Surcharge is Surcharge.Once ? OnceCost : Cost)[level] ??= new long[size])[state] += MinorUnits.Of(cost);
            if (value.Part is not { } part || parts(part.Sku) is not { } figures)
                return;
            if (figures.Price is { } price)
                (_amounts[level] ??= new long[size])[state] += MinorUnits.Of(price) * part.Quantity;
            if (figures.Cost is { } partCost)
                (Cost[level] ??= new long[size])[state] += MinorUnits.Of(partCost) * part.Quantity;
        }
    }
}
