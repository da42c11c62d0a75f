using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Splits one variant, or all with one value, off as a product of its own: the reverse of bringing together. What was on sale
/// stays on sale; sets and rules that named it follow.</summary>
public sealed class SplitOff(UnicusContext db, TimeProvider clock, FollowNames follow)
{
    /// <summary>The name that the new product would have: its former one, or the product's with the values.</summary>
    public static string Suggest(WorkingCopy copy, Combination which) =>
        copy.Product.Variants.Where(v => which.IsWithin(v.Values)).Select(v => v.Former).OfType<string>().FirstOrDefault() is { } former
            ? WorkingCopy.Read(former, copy.Shop.Currency).Name
            : $"{copy.Product.Name}, {which.Name(copy.Product.Options).ToLowerInvariant()}";

    /// <param name="which">One value, or all values of one variant.</param>
    /// <returns>The code of the new product.</returns>
    public async Task<Outcome<string>> Run(string code, Combination which, string? name, Actor by)
    {
        var typed = (name ?? "").Trim();
        if (typed.Length is 0 or > Product.LongestName)
            return Outcome<string>.No("name", $"A product needs a name of at most {Product.LongestName} characters.");
        await using var transaction = await db.Database.BeginTransactionAsync();
        if (await WorkingCopy.Load(db, code, forChange: true) is not { } copy)
            return Outcome<string>.No("", $"There is no product {code}.");
        if (Problem(copy, which) is { } problem)
            return Outcome<string>.No("", problem);

        var isOnSale = copy.Row.Edition is not null && copy.Row.PublishedVersion == copy.Row.Version;
        var leaving = copy.Matrix.Variants.Where(v => which.IsWithin(v.Values)).ToList();
        var made = await Make(copy, which, leaving, typed);
        if (await db.Products.AnyAsync(p => p.Address == made.Address))
            made = made with { WebAddress = $"{made.Address}-{made.Code.Text.ToLowerInvariant()}" };
        var row = await Insert(made, copy.Row);
        await new Rehoming(db).Move(
            [
                .. copy
                    .Rows.Select(r => (Row: r, Values: Combination.Parse(r.Values)))
                    .Where(r => which.IsWithin(r.Values))
                    .Select(r => (r.Row, Rest(r.Values, which))),
            ],
            row.Id
        );
        if (await WriteBoth(copy, made, which, by) is { Done: false } unwritten)
            return new Outcome<string>(null, unwritten.Faults);
        // What is not finished is left to be published with the rest of it.
        isOnSale =
            isOnSale
            && await follow.Publishing(p => p.Run(made.Code.Text, by)) is { Done: true }
            && await follow.Publishing(p => p.Run(code, by)) is { Done: true };
        if (isOnSale)
            await BasketLines.Lead(db, copy.Row.Code, made.Code.Text, answers =>
                which.Pairs.All(p => answers[p.Option.Text]?.ToString() == p.Value.Text)
                    ? Rehoming.Answers(answers, which, Combination.Empty)
                    : null
            );
        if (await follow.Run([new MovedGoods.Parted(copy.Row.Code, made.Code.Text, which)], isOnSale, by) is { Done: false } refused)
            return new Outcome<string>(null, refused.Faults);
        await transaction.CommitAsync();
        return Outcome<string>.Of(made.Code.Text);
    }

    /// <summary>Writes what stays and what is split off.</summary>
    /// <param name="copy">The product as it was.</param>
    private async Task<Outcome> WriteBoth(WorkingCopy copy, Product made, Combination which, Actor by)
    {
        db.ChangeTracker.Clear();
        var stays = (await WorkingCopy.Load(db, copy.Row.Code, forChange: true))!;
        var written = await new WorkingCopies(db, clock).Write(
            stays,
            Without(stays.Product, which),
            $"{which.Name(copy.Product.Options)} split off as {made.Name}",
            by,
            undoable: false
        );
        if (!written.Done)
            return written;
        db.ChangeTracker.Clear();
        var fresh = (await WorkingCopy.Load(db, made.Code.Text, forChange: true))!;
        return await new WorkingCopies(db, clock).Write(
            fresh,
            made,
            $"Split off {copy.Product.Name}",
            by,
            fresh.Rows.ToDictionary(r => r.Values, r => Combination.Parse(r.Values)),
            undoable: false
        );
    }

    private async Task<ProductRow> Insert(Product made, ProductRow from)
    {
        var row = WorkingCopies.NewRow(made, clock.GetUtcNow());
        (row.WeightUnit, row.LengthUnit) = (from.WeightUnit, from.LengthUnit);
        db.Products.Add(row);
        await db.AddressAliases.Where(a => a.Address == made.Address).ExecuteDeleteAsync();
        await db.SaveChangesAsync();
        return row;
    }

    private static string? Problem(WorkingCopy copy, Combination which)
    {
        var options = copy.Product.Options;
        if (which.Pairs.IsEmpty || which.Pairs.Any(p => options.FirstOrDefault(o => o.Key == p.Option)?.Find(p.Value) is null))
            return "That value was removed meanwhile.";
        if (which.Pairs.Length > 1 && copy.Matrix.Find(which) is null)
            return "Only a variant that is made, or all with one value, can be split off.";
        if (!copy.Matrix.Variants.Any(v => which.IsWithin(v.Values)))
            return "No variant with that value is made: there is nothing to split.";
        if (copy.Matrix.Variants.All(v => which.IsWithin(v.Values)))
            return "That is all there is of this product: there is nothing to split.";
        if (which.Pairs.Length == 1 && options.First(o => o.Key == which.Pairs[0].Option) is { Values.Length: 1 } only)
            return $"{only.Values[0].Label} is the only value: there is nothing to split.";
        return options.FirstOrDefault(o => o.SharesSku && which[o.Key] is not null) is { } shared
            ? $"The values of {shared.Label} share their SKUs, so they cannot be split."
            : null;
    }

    private static Combination Rest(Combination values, Combination which) => which.Pairs.Aggregate(values, (v, p) => v.Without(p.Option));

    /// <summary>The product without what was split off: a value is gone, a single variant is no longer made.</summary>
    private static Product Without(Product product, Combination which)
    {
        var (option, value) = which.Pairs[0];
        var of = product.Options.First(o => o.Key == option);
        return which.Pairs.Length > 1
            ? product with
            {
                NotMade = product.NotMade.Add(which),
            }
            : product with
            {
                Options = product.Options.Replace(
                    of,
                    of with
                    {
                        Values = of.Values.Remove(of.Find(value)!),
                        Default = of.Default == value ? null : of.Default,
                    }
                ),
                NotMade = [.. product.NotMade.Where(n => n[option] != value)],
                Pictures =
                [
                    .. product
                        .Pictures.Where(p =>
                            p.Shows != (option, value) || product.Variants.Any(v => v.Values[option] != value && v.Picture == p.File)
                        )
                        .Select(p => p.Shows == (option, value) ? p with { Shows = null } : p),
                ],
            };
    }

    private async Task<Product> Make(WorkingCopy copy, Combination which, List<MatrixVariant> leaving, string name)
    {
        await Locks.NewCodes(db);
        var former = leaving.Select(v => v.Variant.Former).OfType<string>().FirstOrDefault();
        var codes = (await db.Products.Select(p => p.Code).ToListAsync()).ToHashSet();
        var old = former is null ? null : WorkingCopy.Read(former, copy.Shop.Currency);
        var code = old is not null && !codes.Contains(old.Code.Text) ? old.Code : ProductCode.From(name, c => codes.Contains(c.Text));
        var options = copy.Product.Options.RemoveAll(o => which[o.Key] is not null);
        var basis = (old ?? copy.Product) with
        {
            Code = code,
            Name = name,
            WebAddress = old?.Address,
            Options = options,
            NotMade =
            [
                .. copy
                    .Product.NotMade.Where(n => n.Pairs.All(p => which[p.Option] is not { } v || v == p.Value))
                    .Select(n => Rest(n, which))
                    .Where(n => n.Pairs.Length > 0)
                    .Distinct(),
            ],
            SkuPattern = [],
            Pictures = old?.Pictures is { IsEmpty: false } own
                ? own
                :
                [
                    .. copy
                        .Product.Pictures.Where(p =>
                            p.Shows is not { } s
                            || which[s.Option] is not { } v
                            || v == s.Value
                            || leaving.Exists(l => l.Variant.Picture == p.File)
                        )
                        .Select(p => p.Shows is { } s && which[s.Option] is not null ? p with { Shows = null } : p),
                ],
            Variants = [],
        };
        var bare = basis.Matrix();
        return basis with
        {
            Variants =
            [
                .. leaving.Select(v => Rehoming.Resolved(copy, v, Rest(v.Values, which), bare, basis.Selling) with { Former = null }),
            ],
        };
    }
}
