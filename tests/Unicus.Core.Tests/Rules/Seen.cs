using System.Collections.Immutable;

namespace Unicus.CoreTests;

/// <summary>What is seen of one valid configuration, however it was found.</summary>
/// <param name="Typed">What was typed, by the place among <see cref="Samples"/>.</param>
/// <param name="Holding">The rules whose condition holds.</param>
internal sealed record Seen(string Typed, HashSet<(Key Question, Key Value)> Picked, HashSet<Key> Shown, HashSet<Key> Holding)
{
    /// <summary>Typed answers that stand for all: random conditions are about at least 5, at most 8, and whether there is an
    /// answer.</summary>
    public static IReadOnlyList<Answer?> Samples(Option question) =>
        question.Ask switch
        {
            Ask.Number => [null, new Answer.Number(4), new Answer.Number(6), new Answer.Number(9)],
            Ask.Text => [null, new Answer.Text("Orla")],
            _ => [null, new Answer.Date(new DateOnly(2027, 3, 5))],
        };

    /// <summary>Every valid configuration by plain listing, with everything that may be typed.</summary>
    public static List<Seen> ByListing(RuleModel model)
    {
        var typed = model.Questions.Where(q => !q.IsPicked).OrderBy(q => q.Key).ToList();
        IEnumerable<ImmutableArray<int>> worlds =
        [
            [],
        ];
        foreach (var question in typed)
            worlds = worlds.SelectMany(w => Samples(question).Select((_, i) => w.Add(i)));
        return
        [
            .. worlds.SelectMany(world =>
            {
                var given = Configuration.Empty;
                for (var i = 0; i < typed.Count; i++)
                    if (Samples(typed[i])[world[i]] is { } answer)
                        given = given.With(typed[i].Key, answer);
                var listing = new PlainListing(model, given);
                return listing
                    .Valid()
                    .Select(w => new Seen(
                        string.Join(' ', typed.Select((q, i) => $"{q.Key}~{world[i]}")),
                        [
                            .. w.SelectMany(x =>
                                x.Value is Answer.Value v ? [(x.Key, v.Key)]
                                : x.Value is Answer.Ticks t ? t.Keys.Select(k => (x.Key, k))
                                : []
                            ),
                        ],
                        [.. model.Questions.Where(q => listing.IsShown(q.Key, w)).Select(q => q.Key)],
                        [.. model.Rules.Where(r => !r.Off && listing.Holds(r.When, w)).Select(r => r.Key)]
                    ));
            }),
        ];
    }

    /// <summary>The health of a model's rules by its definition, from all that is seen.</summary>
    /// <param name="see">Every valid configuration of a model.</param>
    public static RuleHealth Judge(RuleModel model, Func<RuleModel, List<Seen>> see)
    {
        var all = see(model);
        if (all.Count == 0)
            return new RuleHealth(true, [], [], [], []);
        var acting = model.Rules.Where(r => !r.Off).ToList();
        var neverHolds = acting.Where(r => !all.Exists(s => s.Holding.Contains(r.Key))).Select(r => r.Key).ToImmutableArray();
        var looks = Looks(model, all);
        return new RuleHealth(
            false,
            [
                .. model
                    .Questions.SelectMany(q =>
                        q.Values.Where(v => !all.Exists(s => s.Picked.Contains((q.Key, v.Key)))).Select(v => (q.Key, v.Key))
                    )
                    .Order(),
            ],
            neverHolds,
            [
                .. acting
                    .Where(r =>
                        !neverHolds.Contains(r.Key)
                        && model with { Rules = model.Rules.Remove(r) } is var without
                        && Looks(without, see(without)).SetEquals(looks)
                    )
                    .Select(r => r.Key),
            ],
            [.. model.Questions.Where(q => !all.Exists(s => s.Shown.Contains(q.Key))).Select(q => q.Key).Order()]
        );
    }

    /// <summary>What a shopper meets: what is typed and picked, what is shown, and what must be typed.</summary>
    private static HashSet<string> Looks(RuleModel model, List<Seen> all)
    {
        return [.. all.Select(Look)];
        string Look(Seen s) =>
            $"{s.Typed} | {string.Join(' ', s.Picked.Order())} | {string.Join(' ', s.Shown.Order())} | "
            + $"{string.Join(' ', MustBeTyped(s))}";
        IEnumerable<Key> MustBeTyped(Seen s) =>
            model
                .Questions.Where(q => !q.IsPicked && s.Shown.Contains(q.Key) && (q.Required || IsRequired(s, q.Key)))
                .Select(q => q.Key)
                .Order();
        bool IsRequired(Seen s, Key question) =>
            model.Rules.Any(r => s.Holding.Contains(r.Key) && r.Then.OfType<Effect.Require>().Any(e => e.Questions.Contains(question)));
    }
}
