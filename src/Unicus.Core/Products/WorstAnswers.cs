namespace Unicus.Core;

/// <summary>What a way of answering everything comes to for one unit, in minor units.</summary>
/// <param name="Adds">What the answers add to a unit.</param>
/// <param name="Once">What they add once for a line.</param>
/// <param name="Cost">What they cost the merchant for a unit.</param>
/// <param name="OnceCost">What they cost once for a line.</param>
internal sealed record AnsweredCost(long Adds, long Once, long Cost, long OnceCost, AnsweredState? State)
{
    /// <summary>Whether none of its figures is better for the margin than the other's.</summary>
    public bool IsWorseOrSame(AnsweredCost other) =>
        Adds <= other.Adds && Once <= other.Once && Cost >= other.Cost && OnceCost >= other.OnceCost;
}

/// <summary>A state of a level of the diagram, and those of the levels behind it.</summary>
internal sealed record AnsweredState(int Level, int State, AnsweredState? Next);

/// <summary>The answers that may bring the lowest margin of a variant: of all valid complete configurations those that no other one
/// beats in what they add, what they add once and what they cost together.</summary>
/// <remarks>
/// One pass over the rules' diagram from the end to the start; at each node only what is not beaten is kept. A price never falls when
/// its answers rise, so the lowest margin is among them, whatever rules for prices are in force. What is typed counts at the least that
/// it can add.
/// </remarks>
/// <param name="parts">What parts sell for and cost.</param>
internal sealed class WorstAnswers(Configurator configurator, Func<string, PartFigures?> parts)
{
    /// <summary>So many answers are kept for a node at most; beyond, several are put together, and the bound is no longer
    /// exact.</summary>
    private const int Most = 400;

    private readonly CompiledRules _rules = configurator.Rules;
    private readonly LevelFigures _figures = new(configurator, parts);

    /// <summary>Whether nothing found so far was put together as a bound.</summary>
    public bool IsExact { get; private set; } = true;

    /// <summary>The answers of a variant, with every variant option answered.</summary>
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
        var always = _figures.Always(MinorUnits.Of(list));
        return [.. behind.GetValueOrDefault(0, []).Select(a => a with { Adds = a.Adds + always.Adds, Once = a.Once + always.Once })];
    }

    /// <summary>The configuration behind an answer; typed questions that are needed have the shortest answer, others none.</summary>
    public Configuration ConfigurationOf(MatrixVariant variant, AnsweredCost answered)
    {
        var states = new Dictionary<int, int>();
        for (var s = answered.State; s is not null; s = s.Next)
            states[s.Level] = s.State;
        var given = Configuration.Of(variant.Values);
        foreach (var question in configurator.Questions.Where(q => q.Role == OptionRole.Extra))
        {
            if (_rules.Network.PlaceOf(question.Key) is not { Levels: > 0 } place)
            {
                if (question.Required && Shortest(question) is { } typed)
                    given = given.With(question.Key, typed);
                continue;
            }
            if (place.IsSeveral)
            {
                var ticked = question.Values.Where((_, i) => states.GetValueOrDefault(place.First + i) == RuleNetwork.On);
                given = given.With(question.Key, ticked.Any() ? new Answer.Ticks([.. ticked.Select(v => v.Key)]) : new Answer.None());
            }
            else if (states.GetValueOrDefault(place.First, place.NoneState) is var state && state < question.Values.Length)
                given = given.With(question.Key, new Answer.Value(question.Values[state].Key));
            else
                given = given.With(question.Key, new Answer.None());
        }
        return given;
    }

    private static Answer? Shortest(Option question) =>
        question.Ask switch
        {
            Ask.Text => new Answer.Text(question.Characters is { Length: > 0 } allowed ? allowed[..1] : "x"),
            Ask.Number => new Answer.Number(question.Number.Min ?? question.Number.Max ?? 1),
            _ => null,
        };

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

    private List<AnsweredCost> Unbeaten(List<AnsweredCost> all)
    {
        var kept = new List<AnsweredCost>();
        foreach (
            var answered in all.OrderBy(a => a.Adds).ThenBy(a => a.Once).ThenByDescending(a => a.Cost).ThenByDescending(a => a.OnceCost)
        )
            if (!kept.Exists(k => k.IsWorseOrSame(answered)))
                kept.Add(answered);
        if (kept.Count <= Most)
            return kept;
        // Neighbours are put together as one that is worse than both.
        IsExact = false;
        return
        [
            .. kept.Chunk((kept.Count + Most - 1) / Most)
                .Select(c => new AnsweredCost(
                    c.Min(a => a.Adds),
                    c.Min(a => a.Once),
                    c.Max(a => a.Cost),
                    c.Max(a => a.OnceCost),
                    c[0].State
                )),
        ];
    }

    /// <summary>What each state of each level adds and costs.</summary>
    private sealed class LevelFigures
    {
        private readonly Configurator _configurator;
        private readonly long[]?[] _amounts;
        private readonly Percentage[]?[] _rates;
        private readonly List<Option> _typed;

        public LevelFigures(Configurator configurator, Func<string, PartFigures?> parts)
        {
            _configurator = configurator;
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
            foreach (var question in _typed)
                if (
                    _configurator.Rules.Network.Charged.TryGetValue(question.Key, out var level) && question.Surcharge is not Surcharge.Once
                )
                    adds[level] = [0, Least(question, list)];
            return adds;
        }

        /// <summary>What typed questions add that are always asked.</summary>
        public (long Adds, long Once) Always(long list)
        {
            var (adds, once) = (0L, 0L);
            foreach (var question in _typed.Where(q => !_configurator.Rules.Network.Charged.ContainsKey(q.Key)))
                if (question.Surcharge is Surcharge.Once o)
                    once += question.Required ? MinorUnits.Of(o.Amount) : Math.Min(0, MinorUnits.Of(o.Amount));
                else
                    adds += Least(question, list);
            return (adds, once);
        }

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

        /// <summary>The least that a typed question adds where it is asked.</summary>
        private static long Least(Option question, long list)
        {
            var answered = question.Surcharge switch
            {
                Surcharge.PerUnit u => MinorUnits.Of(u.Amount),
                Surcharge.Percent p => ConfigurationCost.Share(list, p.Rate),
                Surcharge.PerCharacter c => MinorUnits.Of(
                    c.Minimum is { } least && least > c.Rate ? least
                    : c.Rate.Amount >= 0 ? c.Rate
                    : c.Rate * (question.MaxLength ?? Option.LongestText)
                ),
                Surcharge.PerMeasure m => Math.Min(OfMeasure(m, question.Number.Min ?? 0), OfMeasure(m, question.Number.Max ?? 0)),
                Surcharge.Table t => t.Rows.SelectMany(r => r.Columns).Min(c => MinorUnits.Of(c.Amount)),
                _ => 0,
            };
            return question.Required ? answered : Math.Min(0, answered);
        }

        private static long OfMeasure(Surcharge.PerMeasure measure, decimal size) =>
            MinorUnits.Of(new Money(measure.Rate.Amount * size, measure.Rate.Currency));
    }
}
