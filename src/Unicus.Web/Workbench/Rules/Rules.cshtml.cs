using System.Collections.Immutable;
using Microsoft.AspNetCore.Mvc;
using Unicus.Web.Shop;

namespace Unicus.Web.Workbench;

/// <summary>The chapter Rules: sentences, the map of rules, the table of combinations.</summary>
public sealed class RulesChapter(Bench bench, TimeProvider clock) : ChapterModel(bench)
{
    public override Chapter Chapter => Chapter.Rules;

    /// <summary>The rule whose builder is open.</summary>
    public string EditedRule =>
        Request.HasFormContentType && Request.Form["act"].ToString() is not ("out" or "off" or "on")
            ? Request.Form["rule"].ToString()
            : Request.Query["rule"].ToString();

    public RulesView Rules => new(Here, Copy, Sent(), Request.Query);

    /// <summary>The builder of a new rule with what was chosen so far.</summary>
    public async Task<IActionResult> OnPostDraft()
    {
        if (!await Look())
            return NotFound();
        var view = RuleForm.Read(Here, Request.Form, Copy.Whole.Questions);
        return Partial("/Workbench/Rules/_Builder.cshtml", view);
    }

    /// <summary>The builder of a rule, when its sentence is opened.</summary>
    public async Task<IActionResult> OnGetBuilder(string rule) =>
        await Look() && Copy.Product.Rules.FirstOrDefault(r => r.Key.Text == rule) is { } found
            ? Partial("/Workbench/Rules/_Builder.cshtml", Rules.Builder(found))
            : NotFound();

    /// <summary>What a rule may be about: slots by category or tag with what is in them now.</summary>
    private async Task<IReadOnlyList<Option>> QuestionsOfRules() =>
        await Reading.Working(Code) is { Draft: var draft } ? draft.Questions : [];

    public async Task<IActionResult> OnPostNewRule()
    {
        var questions = await QuestionsOfRules();
        return await Answer(await Products.Apply(Code, "New rule", Visit.Actor, copy =>
            {
                var view = RuleForm.Read("", Request.Form, questions);
                return view.Problem is not null
                    ? Read<Product>.No(view.Problem)
                    : Sound(
                        copy,
                        copy.Product with
                        {
                            Rules = copy.Product.Rules.Add(RuleForm.ToRule(view, RuleForm.NewKey(view, copy.Whole.Rules))),
                        }
                    );
            }), "Rule added", canUndo: true);
    }

    /// <summary>Takes a rule as its builder shows it; <paramref name="act"/> takes it out or switches it off or on.</summary>
    public async Task<IActionResult> OnPostRule(string rule, string? act)
    {
        var questions = await QuestionsOfRules();
        var outcome = await Products.Apply(
            Code,
            act switch
            {
                "out" => $"Rule {rule} removed",
                "off" => $"Rule {rule} switched off",
                "on" => $"Rule {rule} switched on",
                _ => $"Rule {rule}",
            },
            Visit.Actor,
            copy =>
            {
                var list = copy.Product.Rules;
                if (list.FirstOrDefault(r => r.Key.Text == rule) is not { } old)
                    return Read<Product>.No("That rule was removed meanwhile.");
                if (act == "out")
                    return Read<Product>.Of(copy.Product with { Rules = list.Remove(old) });
                if (act is "off" or "on")
                    return Sound(copy, copy.Product with { Rules = list.Replace(old, old with { Off = act == "off" }) });
                var view = RuleForm.Read("", Request.Form, questions);
                return view.Problem is not null
                    ? Read<Product>.No(view.Problem)
                    : Sound(copy, copy.Product with { Rules = list.Replace(old, RuleForm.ToRule(view, old.Key, old.Off)) });
            }
        );
        return await Answer(outcome, act == "out" ? "Rule removed" : null, canUndo: act == "out");
    }

    /// <summary>Writes a rule that forbids a combination of the table.</summary>
    public async Task<IActionResult> OnPostForbid(string[] pair)
    {
        var questions = await QuestionsOfRules();
        return await Answer(await Products.Apply(Code, "Forbidden in the table", Visit.Actor, copy =>
            {
                var pairs = pair.Select(p => p.Split('='))
                    .Where(p => p.Length == 2)
                    .Select(p => (Question: questions.FirstOrDefault(q => q.Key.Text == p[0]), Value: p[1]))
                    .Where(p => p.Question is not null && Key.TryParse(p.Value, out var k) && p.Question.Find(k) is not null)
                    .Select(p => (Question: p.Question!.Key, Value: Key.Of(p.Value)))
                    .ToList();
                if (pairs.Count < 2)
                    return Read<Product>.No("Choose a combination of at least two questions.");
                var (target, value) = pairs[^1];
                ImmutableArray<Condition> when = [.. pairs.SkipLast(1).Select(p => (Condition)new Condition.Is(p.Question, [p.Value]))];
                // A rule of the table with the same condition takes the value too, instead of a second rule beside it.
                var same = copy.Product.Rules.FirstOrDefault(r =>
                    !r.Off && r.Then is [Effect.Forbid f] && f.Question == target && Alike(r.When, when)
                );
                if (same is { Then: [Effect.Forbid more] })
                    return Read<Product>.Of(
                        copy.Product with
                        {
                            Rules = copy.Product.Rules.Replace(same, same with { Then = [more with { Values = more.Values.Add(value) }] }),
                        }
                    );
                var key = Key.From($"not {target} {value}", copy.Whole.Rules.Select(r => r.Key).ToHashSet(), "rule");
                return Sound(
                    copy,
                    copy.Product with
                    {
                        Rules = copy.Product.Rules.Add(
                            new SelectionRule(
                                key,
                                when.Length == 1 ? when[0] : new Condition.All(when),
                                [new Effect.Forbid(target, [value])]
                            )
                        ),
                    }
                );
            }), "Rule written", canUndo: true);
    }

    /// <summary>The map alone, with the picks of the proof.</summary>
    public async Task<IActionResult> OnGetMap() => await Look() ? Partial("/Workbench/Rules/_Map.cshtml", Rules) : NotFound();

    private static bool Alike(Condition condition, ImmutableArray<Condition> when)
    {
        ImmutableArray<Condition> own = condition is Condition.All all ? all.Of : [condition];
        return own.Length == when.Length
            && own.Zip(when)
                .All(p =>
                    p.First is Condition.Is a && p.Second is Condition.Is b && a.Question == b.Question && a.Values.SequenceEqual(b.Values)
                );
    }

    /// <summary>The product, unless its rules would go round in a circle: then the rules are named and nothing is saved.</summary>
    private static Read<Product> Sound(Unicus.Store.WorkingCopy copy, Product product)
    {
        var book = new RuleBook(product.Taking(copy.Sets).Questions, product.Taking(copy.Sets).Rules);
        if (book.Loops.IsEmpty)
            return Read<Product>.Of(product);
        var words = new RuleWords(book);
        return Read<Product>.No(
            $"Nothing was saved: {CompiledRules.LoopInWords(book.Loops[0])} "
                + $"{string.Join(" ", book.Loops[0].Select(k => words.Sentence(book.Rules.First(r => r.Key == k))))}"
        );
    }

    private Configuration Sent() => BuyForm.Read(Copy.Configurator, Request.Query, Copy.Shop.DayAt(clock.GetUtcNow())).Given;
}
