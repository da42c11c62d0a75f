using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;

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

/// <summary>What came of it for one product.</summary>
/// <param name="WhyNot">What stands in the way; empty where it was done.</param>
public sealed record ManyDone(string Code, string Name, string WhyNot);

/// <summary>Does one thing to several products, each by itself: what stands in the way of one keeps none of the others, and each can be
/// taken back on its own workbench.</summary>
public sealed class ChangeMany(UnicusContext db, PublishEdition publish, PutAway away, ChangeProduct products)
{
    /// <summary>Products at once.</summary>
    public const int Most = 500;

    /// <summary>Does it, in the order of the codes.</summary>
    /// <param name="typed">The category, the tag, or the percentage such as <c>-5</c>; not looked at by the other acts.</param>
    public async Task<Outcome<IReadOnlyList<ManyDone>>> Run(IEnumerable<string> codes, ManyAct act, string? typed, Actor by)
    {
        var wanted = codes.Distinct(StringComparer.OrdinalIgnoreCase).Take(Most).ToList();
        if (wanted.Count == 0)
            return Outcome<IReadOnlyList<ManyDone>>.No("code", "Tick products first.");
        var word = (typed ?? "").Trim();
        if (act is ManyAct.Categorise or ManyAct.Tag && (word.Length is 0 or > 80 || word.Contains(',')))
            return Outcome<IReadOnlyList<ManyDone>>.No("value", "Type one name, of at most 80 characters and without commas.");
        var percent = TypedNumbers.Percent(word);
        if (act == ManyAct.Price && percent is not { Ok: true, Value: { Value: not 0 and > -100 } })
            return Outcome<IReadOnlyList<ManyDone>>.No("value", percent.Problem ?? "Type a percentage such as -5, not 0.");
        var names = await db.Products.Where(p => wanted.Contains(p.Code)).ToDictionaryAsync(p => p.Code, p => p.Name);
        var done = new List<ManyDone>();
        foreach (var code in wanted.Where(names.ContainsKey))
        {
            var faults = await One(code, act, word, percent.Value ?? default, by);
            db.ChangeTracker.Clear();
            done.Add(new ManyDone(code, names[code], string.Join(' ', faults.Select(f => f.What))));
        }
        return Outcome<IReadOnlyList<ManyDone>>.Of(done);
    }

    private async Task<IReadOnlyList<Fault>> One(string code, ManyAct act, string word, Percentage percent, Actor by) =>
        act switch
        {
            ManyAct.Publish => (await publish.Run(code, by)).Faults,
            ManyAct.PutAway => (await away.Run(code, by)).Faults,
            ManyAct.BringBack => (await away.BringBack(code)).Faults,
            ManyAct.Categorise => (
                await products.Apply(code, $"Category {word}", by, c =>
                    Read<Product>.Of(c.Product with { Categories = With(c.Product.Categories, word) })
                )
            ).Faults,
            ManyAct.Tag => (
                await products.Apply(code, $"Tag {word}", by, c => Read<Product>.Of(c.Product with { Tags = With(c.Product.Tags, word) }))
            ).Faults,
            _ => (
                await products.Apply(
                    code,
                    $"Prices {percent.Value:+0.##;−0.##} %",
                    by,
                    c =>
                        HasPrice(c.Product) ? Read<Product>.Of(Moved(c.Product, percent)) : Read<Product>.No("It has no price of its own."),
                    scope: _ => VariantScope.All
                )
            ).Faults,
        };

    private static ImmutableArray<string> With(ImmutableArray<string> names, string name) =>
        names.Contains(name, StringComparer.OrdinalIgnoreCase) ? names : names.Add(name);

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
