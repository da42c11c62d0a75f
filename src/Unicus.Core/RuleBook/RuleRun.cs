namespace Unicus.Core.RuleBook;

using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Stages;
using Unicus.Core.Range;
using Unicus.Core.Variants;

/// <summary>What rules ask of a line: its goods, and where they are bought.</summary>
public interface IBoughtGoods
{
    /// <summary>The variant.</summary>
    VariantOnSale Goods { get; }

    /// <summary>The code of the page that it is bought through; null for its own.</summary>
    string? Through { get; }
}

/// <summary>Stages 3 to 7 of a run: what rules make of started lines.</summary>
/// <remarks>Lines of the same variant that are bought through the same page have the same rules: they are found once for all of
/// them.</remarks>
internal sealed class RuleRun
{
    private readonly LineRun[] _lines;
    private readonly Dictionary<PriceRule, RuleUse> _uses = new(ReferenceEqualityComparer.Instance);
    private readonly ByStage<List<RuleUse>> _byStage = new(_ => []);
    private readonly RuleContext _buying;

    private RuleRun(LineRun[] lines, RuleContext buying) => (_lines, _buying) = (lines, buying);

    /// <summary>The rules that reach lines alike, made ready once for all variants that the same ones reach.</summary>
    private sealed class SameRules(RuleUse[] uses)
    {
        private UnitRules? _unit;
        private RuleUse[]? _quantity;

        public RuleUse[] Uses => uses;

        /// <summary>The rules of stage 3 that are ready.</summary>
        public UnitRules Unit => _unit ??= new UnitRules([.. uses.Where(u => u.IsReady && u.Rule.Effect.Stage == PriceStage.Unit)]);

        /// <summary>The rules of stage 4 that are ready.</summary>
        public RuleUse[] Quantity => _quantity ??= [.. uses.Where(u => u.IsReady && u.Rule.Effect.Stage == PriceStage.Quantity)];

        public RuleUse[] Keeping { get; } = [.. uses.Where(u => u.KeepsLines)];
    }

    /// <summary>Lines of one variant that are bought through one page.</summary>
    private sealed class Alike(SameRules rules)
    {
        public SameRules Rules => rules;
        public long Units { get; set; }
    }

    /// <summary>The lines of one product that were met so far.</summary>
    private sealed class LinesOfProduct(Edition edition, EditionRules rules)
    {
        private readonly Dictionary<int, Alike> _byVariant = [];
        private readonly Dictionary<(int, string), Alike> _byPage = [];
        private readonly Dictionary<(int[] Reach, string Page), SameRules> _same = [];

        public Edition Edition => edition;
        public EditionRules Rules => rules;
        public IEnumerable<Alike> All => _byVariant.Values.Concat(_byPage.Values);

        public Alike? Of(MatrixVariant variant, string? page) =>
            rules.HasPages ? _byPage.GetValueOrDefault((variant.Number, page ?? "")) : _byVariant.GetValueOrDefault(variant.Number);

        /// <param name="variant">Which variant it is.</param>
        /// <param name="page">The code of the page that they are bought through.</param>
        /// <param name="usesOf">The uses of rules by their places.</param>
        public Alike Add(MatrixVariant variant, string? page, Func<int[], RuleUse[]> usesOf)
        {
            var key = (rules.ReachOf(variant), rules.HasPages ? page ?? "" : "");
            if (!_same.TryGetValue(key, out var same))
                _same[key] = same = new SameRules(usesOf(key.Item1));
            var alike = new Alike(same);
            if (rules.HasPages)
                _byPage[(variant.Number, page ?? "")] = alike;
            else
                _byVariant[variant.Number] = alike;
            return alike;
        }
    }

    /// <summary>Every rule in force whose scope holds a line, in their order.</summary>
    public IEnumerable<RuleUse> Uses => _byStage.All.SelectMany(s => s);

    /// <summary>The rules of stage 6 of which everything but a basket's amount holds, in their order.</summary>
    public IEnumerable<RuleUse> OfBasket => _byStage[PriceStage.Basket].Where(u => u.IsReady);

    /// <summary>Runs stages 3 to 6, each with its floor.</summary>
    /// <param name="lines">As they started.</param>
    /// <param name="goods">What each line is of.</param>
    /// <param name="buying">Who buys, when, and by which rules.</param>
    public static RuleRun Of(LineRun[] lines, IBoughtGoods[] goods, RuleContext buying)
    {
        var run = new RuleRun(lines, buying);
        var alike = run.Find(goods);
        run.Ready();
        run.Run(alike);
        return run;
    }

    /// <summary>Makes rules ready for lines of one product that are each alone in a basket, one after the other.</summary>
    /// <param name="rules">The rules.</param>
    /// <param name="reach">The places among the product's rules of those that reach the lines' variants.</param>
    /// <param name="page">The code of the page that they are bought through.</param>
    /// <param name="buying">Who buys, when, and by which rules.</param>
    /// <param name="quantity">Units of each line.</param>
    /// <returns>Runs a line.</returns>
    public static Action<LineRun> ForEachAlone(EditionRules rules, int[] reach, string page, RuleContext buying, int quantity)
    {
        var run = new RuleRun(new LineRun[1], buying);
        var same = new SameRules(run.UsesOf(rules, reach, page));
        var alike = new Alike(same);
        foreach (var use in same.Uses)
            use.Quantity = quantity;
        run.Sort();
        run.Ready();
        return line =>
        {
            run._lines[0] = line;
            foreach (var use in same.Keeping)
            {
                use.Lines.Clear();
                use.Lines.Add(line);
            }
            run.Run([alike]);
        };
    }

    private void Run(Alike[] alike)
    {
        // Where mixed variants count together, all units have to be priced before any line's quantity is looked at.
        var isCounted = _byStage[PriceStage.Quantity].Exists(u => u.IsReady && u.KeepsLines);
        for (var i = 0; i < _lines.Length; i++)
        {
            UnitStage.Run(_lines[i], alike[i].Rules.Unit);
            if (!isCounted)
                QuantityStage.Run(_lines[i], alike[i].Rules.Quantity);
        }
        if (isCounted)
        {
            QuantityStage.Count(_byStage[PriceStage.Quantity].Where(u => u.IsReady));
            for (var i = 0; i < _lines.Length; i++)
                QuantityStage.Run(_lines[i], alike[i].Rules.Quantity);
        }
        if (_byStage[PriceStage.CheapestOff].Exists(u => u.IsReady))
        {
            CheapestStage.Run(_byStage[PriceStage.CheapestOff].Where(u => u.IsReady));
            foreach (var line in _lines)
                line.EndGoods();
        }
        BasketStage.Run(_lines, [.. OfBasket.Where(u => Reached(u, afterBasket: false))]);
    }

    /// <summary>What remains of the charge of delivery, whose rules compete among themselves.</summary>
    /// <param name="charge">In minor units.</param>
    /// <param name="acts">Whether it is what is charged, so that the rules that take something off count as having acted.</param>
    public long Delivery(long charge, bool acts)
    {
        var uses = _byStage[PriceStage.Delivery].Where(u => u.IsReady && Reached(u, afterBasket: true)).ToList();
        if (uses.Count == 0 || charge == 0)
            return charge;
        var acting = new List<(RuleUse Use, long Left)>();
        var left = charge;
        void Act(RuleUse use, long remains)
        {
            if (remains < left)
                acting.Add((use, remains));
            left = Math.Min(left, remains);
        }
        if (uses.Where(u => u.Rule.Combine == Combine.Best).MinBy(u => u.Rate.Remains(charge)) is { } best)
            Act(best, best.Rate.Remains(charge));
        foreach (var use in uses.Where(u => u.Rule.Combine == Combine.Adds))
            Act(use, use.Rate.Remains(left));
        if (uses.Where(u => u.Rule.Combine == Combine.Alone).MinBy(u => u.Rate.Remains(charge)) is { } alone)
            if (alone.Rate.Remains(charge) is var remains && remains < left)
                (acting, left) = ([(alone, remains)], remains);
        if (!acts)
            return left;
        var before = charge;
        foreach (var (use, remains) in acting)
        {
            use.Moved += remains - before;
            before = remains;
        }
        return left;
    }

    /// <summary>Finds the rules whose scope holds each line.</summary>
    private Alike[] Find(IBoughtGoods[] goods)
    {
        var inForce = _buying.Book.At(_buying.At, _buying.Day);
        var ofEdition = new Dictionary<Edition, LinesOfProduct>(ReferenceEqualityComparer.Instance);
        var alike = new Alike[_lines.Length];
        LinesOfProduct? known = null;
        for (var i = 0; i < alike.Length; i++)
        {
            var (edition, variant) = goods[i].Goods;
            if (!ReferenceEquals(known?.Edition, edition) && !ofEdition.TryGetValue(edition, out known))
                ofEdition[edition] = known = new LinesOfProduct(edition, inForce.Of(edition, _buying.At, _buying.Day));
            var page = goods[i].Through;
            if (known.Of(variant, page) is not { } same)
                same = known.Add(variant, page, reach => UsesOf(known.Rules, reach, page));
            alike[i] = same;
            same.Units += _lines[i].Quantity;
            foreach (var use in same.Rules.Keeping)
                use.Lines.Add(_lines[i]);
        }
        foreach (var same in ofEdition.Values.SelectMany(k => k.All).GroupBy(a => a.Rules))
        {
            var units = same.Sum(a => a.Units);
            foreach (var use in same.Key.Uses)
                use.Quantity += units;
        }
        Sort();
        return alike;
    }

    private void Sort()
    {
        foreach (var stage in _byStage.All)
            stage.Sort((a, b) => PriceRule.Order.Compare(a.Rule, b.Rule));
    }

    private RuleUse[] UsesOf(EditionRules rules, int[] reach, string? page) =>
        [.. reach.Select(r => rules.All[r]).Where(r => r.IsThrough(page)).Select(r => UseOf(r.Rule))];

    private RuleUse UseOf(PriceRule rule)
    {
        if (_uses.TryGetValue(rule, out var use))
            return use;
        _uses[rule] = use = new RuleUse(rule);
        _byStage[rule.Effect.Stage].Add(use);
        return use;
    }

    /// <summary>Finds out of which rules everything but a basket's amount holds; the others are left out of stages 3 and 4.</summary>
    private void Ready()
    {
        foreach (var use in _uses.Values)
            use.IsReady = _buying.Allows(use);
    }

    private static bool Reached(RuleUse use, bool afterBasket)
    {
        if (use.Rule.When.BasketAtLeast is not { } least)
            return true;
        var amount = use.Amount(afterBasket);
        if (amount < least)
            use.FellShortAt = amount;
        return amount >= least;
    }
}
