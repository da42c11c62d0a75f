using System.Collections.Immutable;
using System.Globalization;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>What is done to several products.</summary>
public enum ManyAct
{
    /// <summary>Makes an edition of each.</summary>
    Publish,

    /// <summary>Puts each away.</summary>
    PutAway,

    /// <summary>Brings each back.</summary>
    BringBack,

    /// <summary>Adds a category.</summary>
    Categorise,

    /// <summary>Adds a tag.</summary>
    Tag,

    /// <summary>Moves list prices by a percentage.</summary>
    Price,
}

/// <summary>A product as it was ticked.</summary>
/// <param name="Version">That was seen; null for whatever is there now.</param>
public sealed record TickedProduct(string Code, int? Version)
{
    /// <summary>Reads <c>GH1:12</c>, or a code alone.</summary>
    public static TickedProduct Read(string text)
    {
        var at = text.LastIndexOf(':');
        return at > 0 && int.TryParse(text[(at + 1)..], NumberStyles.None, CultureInfo.InvariantCulture, out var version)
            ? new TickedProduct(text[..at], version)
            : new TickedProduct(text, null);
    }
}

/// <summary>What came of it for one product.</summary>
/// <param name="WhyNot">What stands in the way; empty where it was done.</param>
public sealed record ManyDone(string Code, string Name, string WhyNot);

/// <summary>Does one thing to several products, each by itself: what stands in the way of one keeps none of the others, and each can be
/// taken back on its own workbench.</summary>
public sealed class ChangeMany(UnicusContext db, PublishEdition publish, PutAway away, ChangeProduct products)
{
    /// <summary>Products at once.</summary>
    public const int Most = 500;

    /// <summary>Of one product no more is told.</summary>
    private const int MostFaults = 3;

    /// <summary>Does it, in the order of the codes; parts are published before the sets that need them.</summary>
    /// <param name="typed">The category, the tag, or the percentage such as <c>-5</c>; not looked at by the other acts.</param>
    public async Task<Outcome<IReadOnlyList<ManyDone>>> Run(IEnumerable<TickedProduct> ticked, ManyAct act, string? typed, Actor by)
    {
        var wanted = ticked.DistinctBy(t => t.Code.ToUpperInvariant()).Take(Most).ToList();
        if (wanted.Count == 0)
            return Outcome<IReadOnlyList<ManyDone>>.No("code", "Tick products first.");
        var word = (typed ?? "").Trim();
        if (act is ManyAct.Categorise or ManyAct.Tag && (word.Length is 0 or > 80 || word.Contains(',')))
            return Outcome<IReadOnlyList<ManyDone>>.No("value", "Type one name, of at most 80 characters and without commas.");
        var percent = TypedNumbers.Percent(word);
        if (act == ManyAct.Price && percent is not { Ok: true, Value: { Value: not 0 and > -100 } })
            return Outcome<IReadOnlyList<ManyDone>>.No("value", percent.Problem ?? "Type a percentage such as -5, not 0.");
        string[] codes = [.. wanted.Select(w => w.Code.ToUpperInvariant())];
        var names = await db.Products.Where(p => codes.Contains(p.Code)).ToDictionaryAsync(p => p.Code, p => p.Name);
        var done = new Dictionary<string, ManyDone>();
        var open = wanted.Where(w => names.ContainsKey(w.Code.ToUpperInvariant())).ToList();
        for (var before = int.MaxValue; open.Count > 0 && open.Count < before;)
        {
            before = open.Count;
            var refused = new List<TickedProduct>();
            foreach (var one in open)
            {
                var faults = await One(one, act, word, percent.Value ?? default, by);
                db.ChangeTracker.Clear();
                var code = one.Code.ToUpperInvariant();
                done[code] = new ManyDone(code, names[code], string.Join(' ', faults.Take(MostFaults).Select(f => f.What)));
                if (faults.Count > 0)
                    refused.Add(one);
            }
            // What lacked a part that was published only now.
            open = act == ManyAct.Publish ? refused : [];
        }
        return Outcome<IReadOnlyList<ManyDone>>.Of([.. codes.Where(done.ContainsKey).Select(c => done[c])]);
    }

    private async Task<IReadOnlyList<Fault>> One(TickedProduct one, ManyAct act, string word, Percentage percent, Actor by) =>
        act switch
        {
            ManyAct.Publish => await Publish(one.Code, by),
            ManyAct.PutAway => (await away.Run(one.Code, by)).Faults,
            ManyAct.BringBack => (await away.BringBack(one.Code)).Faults,
            ManyAct.Categorise => await Add(one.Code, $"Category {word}", by, p => p.Categories, (p, c) => p with { Categories = c }, word),
            ManyAct.Tag => await Add(one.Code, $"Tag {word}", by, p => p.Tags, (p, t) => p with { Tags = t }, word),
            ManyAct.Price => await Price(one, percent, by),
            _ => throw new ArgumentOutOfRangeException(nameof(act)),
        };

    /// <summary>Makes an edition where there is something to publish.</summary>
    private async Task<IReadOnlyList<Fault>> Publish(string code, Actor by)
    {
        var key = code.ToUpperInvariant();
        var row = await db.Products.AsNoTracking().SingleAsync(p => p.Code == key);
        return row.Edition is { } number && row.PublishedVersion == row.Version
            ? [new Fault("", $"Edition {number} says the same already.")]
            : (await publish.Run(code, by)).Faults;
    }

    private async Task<IReadOnlyList<Fault>> Add(
        string code,
        string sentence,
        Actor by,
        Func<Product, ImmutableArray<string>> names,
        Func<Product, ImmutableArray<string>, Product> with,
        string name
    ) =>
        (
            await products.Apply(code, sentence, by, copy =>
                Read<Product>.Of(
                    names(copy.Product).Contains(name, StringComparer.OrdinalIgnoreCase)
                        ? copy.Product
                        : with(copy.Product, names(copy.Product).Add(name))
                )
            )
        ).Faults;

    /// <summary>Moves what was seen: pressed again, or after somebody else, nothing is moved twice unseen.</summary>
    private async Task<IReadOnlyList<Fault>> Price(TickedProduct one, Percentage percent, Actor by) =>
        (
            await products.Apply(
                one.Code,
                $"Prices {percent.Value:+0.##;−0.##} %",
                by,
                copy =>
                    one.Version is { } seen && seen != copy.Row.Version
                        ? Read<Product>.No("It was changed since you saw it; look at its price again.")
                    : HasPrice(copy.Product) ? Read<Product>.Of(Moved(copy.Product, percent))
                    : Read<Product>.No("It has no price of its own."),
                scope: _ => VariantScope.All
            )
        ).Faults;

    private static bool HasPrice(Product product) =>
        product.Base.Price is not null
        || product.Parts?.Price is SetPrice.Fixed
        || product.Options.Any(o => o.Values.Any(v => v.Figures.Price is not null))
        || product.Variants.Any(v => v.Own.Price is not null);

    /// <summary>Each list price that is set, of the product, of a value, of a variant and of a set, moved and rounded by itself.</summary>
    private static Product Moved(Product product, Percentage percent)
    {
        // A percentage more is one less taken off.
        var less = new Percentage(-percent.Value);
        Figures Of(Figures figures) => figures.Price is { } price ? figures with { Price = less.TakenOff(price) } : figures;
        return product with
        {
            Base = Of(product.Base),
            Options = [.. product.Options.Select(o => o with { Values = [.. o.Values.Select(v => v with { Figures = Of(v.Figures) })] })],
            Variants = [.. product.Variants.Select(v => v.Own.Price is null ? v : v with { Own = Of(v.Own) })],
            Parts = product.Parts is { Price: SetPrice.Fixed set } parts
                ? parts with
                {
                    Price = set with { Amount = less.TakenOff(set.Amount) },
                }
                : product.Parts,
        };
    }
}
