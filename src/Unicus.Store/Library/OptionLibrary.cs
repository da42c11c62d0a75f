using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>The options kept once for the whole shop.</summary>
public sealed class OptionLibrary(UnicusContext db, ChangeProduct products, ChangeOptions options)
{
    /// <summary>What an empty shop begins with.</summary>
    public static IReadOnlyList<(string Label, string Values)> Starters { get; } =
    [
        ("Size", "XS, S, M, L, XL"),
        ("Colour", "Black, White, Red, Green, Blue"),
        ("Material", "Cotton, Linen, Wool"),
        ("Pack", "1, 6, 12"),
    ];

    /// <summary>The option of a row.</summary>
    internal static Option Read(LibraryOptionRow row, Currency currency) => DocumentReader.ReadOption(row.Document, currency);

    private static string Write(Option option) => DocumentWriter.Option(option).ToJsonString();

    internal static LibraryOptionRow NewRow(Option option) =>
        new()
        {
            Key = option.Key.Text,
            Label = option.Label,
            Document = Write(option),
        };

    /// <summary>Every option of the library, by name.</summary>
    public async Task<IReadOnlyList<LibraryEntry>> All()
    {
        var currency = (await ShopSettings.Load(db)).Currency;
        var uses = await Uses(currency);
        var rows = await db.LibraryOptions.AsNoTracking().OrderBy(o => o.Label).ToListAsync();
        return [.. rows.Select(r => new LibraryEntry(Read(r, currency), r.Version, [.. uses[r.Key].Select(u => (u.Code, u.Name))]))];
    }

    /// <summary>Every option without what uses it, by name.</summary>
    public Task<IReadOnlyList<Option>> Options(Currency currency) => Options(db, currency);

    /// <inheritdoc cref="Options(Currency)"/>
    internal static async Task<IReadOnlyList<Option>> Options(UnicusContext db, Currency currency) =>
        [.. (await db.LibraryOptions.AsNoTracking().OrderBy(o => o.Label).ToListAsync()).Select(o => Read(o, currency))];

    /// <summary>Keys and names of the options with a piece in their name.</summary>
    public async Task<IReadOnlyList<(string Key, string Label)>> Called(string piece, int most)
    {
        var pattern = $"%{Like.Escaped(piece)}%";
        var found = db.LibraryOptions.Where(o => EF.Functions.ILike(o.Label, pattern)).OrderBy(o => o.Label).Take(most);
        return [.. (await found.Select(o => new { o.Key, o.Label }).ToListAsync()).Select(o => (o.Key, o.Label))];
    }

    public async Task<LibraryEntry?> Find(string key) => (await All()).FirstOrDefault(e => e.Option.Key.Text == key);

    /// <summary>Makes an option from a name and typed values.</summary>
    /// <returns>Its key.</returns>
    public async Task<Outcome<string>> Create(string? label, string? typed)
    {
        var name = OneLine(label);
        if (name.Length is 0 or > TypedValues.LongestLabel)
            return Outcome<string>.No(
                "label",
                name.Length == 0
                    ? "An option needs a name, such as Timber."
                    : $"A name has at most {TypedValues.LongestLabel} characters."
            );
        if (await db.LibraryOptions.AnyAsync(o => EF.Functions.ILike(o.Label, name)))
            return Outcome<string>.No("label", $"The library has an option {name} already.");
        var (labels, problems) = TypedValues.Split(typed ?? "", []);
        if (problems.Count > 0)
            return Outcome<string>.No("typed", string.Join(' ', problems));
        if (labels.Count == 0)
            return Outcome<string>.No("typed", $"Type the values of {name}, separated by commas.");
        var keys = (await db.LibraryOptions.Select(o => o.Key).ToListAsync()).Select(Key.Of).ToHashSet();
        var option = new Option(Key.From(name, keys, "option"), name, OptionRole.Variant) { Values = [.. TypedValues.Make(labels, [])] };
        db.LibraryOptions.Add(NewRow(option));
        await db.SaveChangesAsync();
        return Outcome<string>.Of(option.Key.Text);
    }

    /// <summary>Changes an option; names that products show as the library had them follow, those that a product gave itself
    /// stay.</summary>
    /// <param name="version">The version that the person saw; another one is refused.</param>
    public async Task<Outcome> Change(string key, int version, Func<Option, Read<Option>> change, Actor by)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var row = await db.LibraryOptions.FromSql($"select * from library_options where key = {key} for update").SingleOrDefaultAsync();
        if (row is null)
            return Outcome.No("", "That option is no longer in the library.");
        if (row.Version != version)
            return Outcome.No(
                "",
                "Nothing was saved: somebody else changed this option meanwhile. What you see now is theirs; make your change again."
            );
        var before = Read(row, (await ShopSettings.Load(db)).Currency);
        var changed = change(before);
        if (!changed.Ok)
            return Outcome.No("", changed.Problem!);
        var after = changed.Value!;
        if (after.Label != before.Label && await db.LibraryOptions.AnyAsync(o => o.Key != key && EF.Functions.ILike(o.Label, after.Label)))
            return Outcome.No("", $"The library has an option {after.Label} already. Merge the two if they mean the same.");
        (row.Label, row.Document) = (after.Label, Write(after));
        row.Version++;
        await db.SaveChangesAsync();
        var outcome = await Follow(before, after, by);
        if (outcome.Done)
            await transaction.CommitAsync();
        return outcome;
    }

    /// <summary>Takes an option that no product uses out of the library.</summary>
    public async Task<Outcome> Remove(string key)
    {
        if (await Find(key) is not { } entry)
            return Outcome.No("", "That option is no longer in the library.");
        if (entry.UsedBy.Count > 0)
            return Outcome.No(
                "",
                $"{entry.Option.Label} is used by {string.Join(", ", entry.UsedBy.Take(5).Select(u => u.Name))}. Their options stay "
                    + "as they are; take it out there first, or merge it."
            );
        await db.LibraryOptions.Where(o => o.Key == key).ExecuteDeleteAsync();
        return Outcome.Ok;
    }

    /// <summary>What merging value <paramref name="from"/> into <paramref name="into"/> would do to each product that has it.</summary>
    public async Task<IReadOnlyList<MergeEffect>> PreviewMerge(string key, Key from, Key into)
    {
        var effects = new List<MergeEffect>();
        foreach (var (use, option) in await Holders(key, from))
        {
            var (wanted, decisions) = Merged(use.Options, option, from, into);
            var preview = await options.Preview(use.Code, wanted, decisions);
            if (preview.Done)
                effects.Add(
                    new MergeEffect(use.Code, use.Name, preview.Result!, use.Options, await RulesAfter(use.Code, wanted, decisions))
                );
        }
        return effects;
    }

    /// <summary>Merges two values that mean the same, in the library and in every product, in one transaction: variants that coincide
    /// become one, their stock adds up.</summary>
    public async Task<Outcome> Merge(string key, int version, Key from, Key into, Actor by)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var row = await db.LibraryOptions.FromSql($"select * from library_options where key = {key} for update").SingleOrDefaultAsync();
        if (row is null || row.Version != version)
            return Outcome.No("", "Nothing was merged: somebody else changed this option meanwhile. Look at it again.");
        var option = Read(row, (await ShopSettings.Load(db)).Currency);
        if (from == into || option.Find(from) is not { } gone || option.Find(into) is not { } stays)
            return Outcome.No("", "Choose two different values of this option.");
        foreach (var (use, used) in await Holders(key, from))
        {
            var (wanted, decisions) = Merged(use.Options, used, from, into);
            var outcome = await options.Run(use.Code, wanted, decisions, $"{gone.Label} merged into {stays.Label}", by);
            if (!outcome.Done)
                return new Outcome([.. outcome.Faults.Select(f => f with { What = $"{use.Name}: {f.What}" })]);
            db.ChangeTracker.Clear();
        }
        row = await db.LibraryOptions.SingleAsync(o => o.Key == key);
        row.Document = Write(option with { Values = option.Values.Remove(gone) });
        row.Version++;
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>An option with the values that only another one has.</summary>
    private static Option WithLacking(Option kept, Option other)
    {
        var lacking = Lacking(other, kept);
        var keys = kept.Values.Select(v => v.Key).ToHashSet();
        var codes = kept.Values.Select(v => v.SkuPiece).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var taken = lacking.Select(v =>
            keys.Add(v.Key) && codes.Add(v.SkuPiece)
                ? v
                : TypedValues.Make([v.Label], [.. kept.Values, .. lacking])[0] with
                {
                    Swatch = v.Swatch,
                }
        );
        return kept with { Values = [.. kept.Values, .. taken] };
    }

    /// <summary>Merges an option of the library into another that means the same: it takes the values that it lacks, products then use
    /// it.</summary>
    public async Task<Outcome> MergeOptions(string from, string into, Actor by)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var currency = (await ShopSettings.Load(db)).Currency;
        var rows = await db
            .LibraryOptions.FromSql($"select * from library_options where key = {from} or key = {into} order by id for update")
            .ToListAsync();
        if (rows.Count != 2)
            return Outcome.No("", "Choose two different options.");
        var (gone, stays) = (rows.First(r => r.Key == from), rows.First(r => r.Key == into));
        var (old, kept) = (Read(gone, currency), Read(stays, currency));
        kept = WithLacking(kept, old);
        stays.Document = Write(kept);
        stays.Version++;
        db.LibraryOptions.Remove(gone);
        await db.SaveChangesAsync();
        foreach (var use in (await Uses(currency))[from])
        {
            var decisions = new OptionDecisions
            {
                Becomes = use
                    .Options.Where(o => o.Library?.Text == from)
                    .SelectMany(o => Renamed(o, old, kept))
                    .ToImmutableDictionary(b => b.Key, b => b.Value),
            };
            Key Now(Option o, Key value) => decisions.Becomes.GetValueOrDefault((o.Key, value), value);
            Option Retold(Option o) =>
                o with
                {
                    Library = kept.Key,
                    Label = Same(o.Label, old.Label) ? kept.Label : o.Label,
                    Default = o.Default is { } d ? Now(o, d) : null,
                    Values = [.. o.Values.Select(v => v with { Key = Now(o, v.Key) })],
                };
            ImmutableArray<Option> wanted = [.. use.Options.Select(o => o.Library?.Text == from ? Retold(o) : o)];
            var outcome = await options.Run(use.Code, wanted, decisions, $"{old.Label} is {kept.Label} now", by);
            if (!outcome.Done)
                return new Outcome([.. outcome.Faults.Select(f => f with { What = $"{use.Name}: {f.What}" })]);
            db.ChangeTracker.Clear();
        }
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>The values that an option of the library would get if another were merged into it.</summary>
    public static IReadOnlyList<OptionValue> Lacking(Option gone, Option stays) =>
        [.. gone.Values.Where(v => stays.Values.All(k => !Same(k.Label, v.Label)))];

    /// <summary>Values of a product's option that are called otherwise in the option that stays, so that they follow it from now
    /// on.</summary>
    private static IEnumerable<KeyValuePair<(Key Option, Key From), Key>> Renamed(Option option, Option gone, Option stays)
    {
        var taken = option.Values.Select(v => v.Key).ToHashSet();
        foreach (var value in option.Values)
            if (
                gone.Find(value.Key) is { } was
                && stays.Values.FirstOrDefault(v => Same(v.Label, was.Label)) is { } now
                && now.Key != value.Key
                && taken.Add(now.Key)
            )
                yield return new((option.Key, value.Key), now.Key);
    }

    /// <summary>Keeps a product's own option in the library, and ties the product to it.</summary>
    public async Task<Outcome> Keep(string code, Key option, Actor by)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var keys = (await db.LibraryOptions.Select(o => o.Key).ToListAsync()).Select(Key.Of).ToHashSet();
        Option? kept = null;
        string? problem = null;
        var labels = await db.LibraryOptions.Select(o => o.Label).ToListAsync();
        var outcome = await products.Apply(code, "An option kept in the library", by, copy =>
        {
            if (copy.Product.Options.FirstOrDefault(o => o.Key == option) is not { } own)
                return Read<Product>.No("That option was removed meanwhile.");
            if (labels.Exists(l => Same(l, own.Label)))
                problem = $"The library has an option {own.Label} already. Give this one another name, or take the library's.";
            if (problem is not null)
                return Read<Product>.No(problem);
            kept = own with
            {
                Key = Key.From(own.Label, keys, "option"),
                Library = null,
                SharesSku = false,
                Default = null,
                Values = [.. own.Values.Select(v => v with { Surcharge = null, Figures = Figures.None })],
            };
            return Read<Product>.Of(copy.Product with { Options = copy.Product.Options.Replace(own, own with { Library = kept.Key }) });
        });
        if (!outcome.Done)
            return outcome;
        db.LibraryOptions.Add(NewRow(kept!));
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>Products follow new names where they show the old ones.</summary>
    private async Task<Outcome> Follow(Option before, Option after, Actor by)
    {
        var renamed = before
            .Values.Where(v => after.Find(v.Key) is { } a && a.Label != v.Label)
            .ToDictionary(v => v.Key, v => (Old: v.Label, New: after.Find(v.Key)!.Label));
        if (renamed.Count == 0 && before.Label == after.Label)
            return Outcome.Ok;
        foreach (var use in (await Uses((await ShopSettings.Load(db)).Currency))[before.Key.Text])
        {
            var outcome = await products.Apply(use.Code, $"{after.Label} renamed in the library", by, copy =>
                Read<Product>.Of(
                    copy.Product with
                    {
                        Options =
                        [
                            .. copy.Product.Options.Select(o =>
                                o.Library != before.Key
                                    ? o
                                    : o with
                                    {
                                        Label = o.Label == before.Label ? after.Label : o.Label,
                                        Values =
                                        [
                                            .. o.Values.Select(v =>
                                                renamed.TryGetValue(v.Key, out var name) && v.Label == name.Old
                                                    ? v with
                                                    {
                                                        Label = name.New,
                                                    }
                                                    : v
                                            ),
                                        ],
                                    }
                            ),
                        ],
                    }
                )
            );
            if (!outcome.Done)
                return outcome;
            db.ChangeTracker.Clear();
        }
        return Outcome.Ok;
    }

    private async Task<ImmutableArray<string>> RulesAfter(string code, ImmutableArray<Option> wanted, OptionDecisions decisions)
    {
        var whole = (await WorkingCopy.Load(db, code, scope: _ => VariantScope.None))!.Whole with { Options = wanted };
        var words = new RuleWords(new RuleBook(whole.Questions, whole.Rules));
        return
        [
            .. whole
                .Rules.Select(r => (Before: r, After: ChangeOptions.Following(r, decisions)))
                .Where(r => !ReferenceEquals(r.Before, r.After))
                .Select(r => words.Sentence(r.After)),
        ];
    }

    private async Task<IReadOnlyList<(LibraryUse Use, Option Option)>> Holders(string key, Key value)
    {
        var uses = (await Uses((await ShopSettings.Load(db)).Currency))[key];
        return [.. uses.SelectMany(u => u.Options.Where(o => o.Library?.Text == key && o.Find(value) is not null).Select(o => (u, o)))];
    }

    private static (ImmutableArray<Option> Wanted, OptionDecisions Decisions) Merged(
        ImmutableArray<Option> all,
        Option option,
        Key from,
        Key into
    )
    {
        var gone = option.Find(from)!;
        // A product that lacks the value that stays has it in the place of the one that goes.
        var values = option.Find(into) is null ? option.Values.Replace(gone, gone with { Key = into }) : option.Values.Remove(gone);
        var wanted = all.Replace(option, option with { Values = values, Default = option.Default == from ? into : option.Default });
        return (wanted, new OptionDecisions { Becomes = ImmutableDictionary<(Key, Key), Key>.Empty.Add((option.Key, from), into) });
    }

    /// <summary>A product that takes options from the library.</summary>
    private sealed record LibraryUse(string Code, string Name, ImmutableArray<Option> Options);

    private async Task<ILookup<string, LibraryUse>> Uses(Currency currency)
    {
        var definitions = await db
            .Products.AsNoTracking()
            .Where(p => EF.Functions.JsonContains(p.Definition, """{"options":[{}]}"""))
            .Select(p => new
            {
                p.Code,
                p.Name,
                p.Definition,
            })
            .ToListAsync();
        var read = definitions
            .Where(d => d.Definition.Contains("\"library\"", StringComparison.Ordinal))
            .Select(d => new LibraryUse(d.Code, d.Name, WorkingCopy.Read(d.Definition, currency).Options));
        return read.SelectMany(r => r.Options.Where(o => o.Library is not null).Select(o => (o.Library!.Value.Text, r)))
            .ToLookup(x => x.Text, x => x.r);
    }

    private static string OneLine(string? text) =>
        string.Join(' ', (text ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));

    private static bool Same(string a, string b) => string.Equals(a, b, StringComparison.OrdinalIgnoreCase);
}
