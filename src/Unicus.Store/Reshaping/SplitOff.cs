using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>Splits all variants with one value off as a product of its own: the reverse of bringing together.</summary>
public sealed class SplitOff(UnicusContext db, TimeProvider clock)
{
    /// <summary>The name that the new product would have: its former one, or the product's with the value.</summary>
    public static string Suggest(WorkingCopy copy, Key option, Key value) =>
        copy.Product.Variants.Where(v => v.Values[option] == value).Select(v => v.Former).OfType<string>().FirstOrDefault() is { } former
            ? WorkingCopy.Read(former, copy.Shop.Currency).Name
            : $"{copy.Product.Name}, {copy.Product.Options.First(o => o.Key == option).Find(value)!.Label.ToLowerInvariant()}";

    /// <returns>The code of the new product.</returns>
    public async Task<Outcome<string>> Run(string code, Key option, Key value, string? name, Actor by)
    {
        var typed = (name ?? "").Trim();
        if (typed.Length is 0 or > Product.LongestName) return Outcome<string>.No("name", $"A product needs a name of at most {Product.LongestName} characters.");
        await using var transaction = await db.Database.BeginTransactionAsync();
        if (await WorkingCopy.Load(db, code, forChange: true) is not { } copy) return Outcome<string>.No("", $"There is no product {code}.");
        var of = copy.Product.Options.FirstOrDefault(o => o.Key == option);
        if (of?.Find(value) is not { } gone) return Outcome<string>.No("", "That value was removed meanwhile.");
        if (of.Values.Length == 1) return Outcome<string>.No("", $"{gone.Label} is the only value: there is nothing to split.");
        if (copy.Product.Options.Any(o => o.SharesSku) && of.SharesSku) return Outcome<string>.No("", $"The values of {of.Label} share their SKUs, so they cannot be split.");

        var leaving = copy.Matrix.Variants.Where(v => v.Values[option] == value).ToList();
        var made = await Make(copy, of, gone, leaving, typed);
        var clash = await db.Products.AnyAsync(p => p.Address == made.Address);
        if (clash) made = made with { WebAddress = $"{made.Address}-{made.Code.Text.ToLowerInvariant()}" };
        var row = new ProductRow { Code = made.Code.Text, Name = made.Name, Address = made.Address, Definition = DocumentWriter.Write(made with { Variants = [] }, ListedVariants.None).ToJsonString(), ChangedAt = clock.GetUtcNow(), WeightUnit = copy.Row.WeightUnit, LengthUnit = copy.Row.LengthUnit };
        db.Products.Add(row);
        await db.AddressAliases.Where(a => a.Address == made.Address).ExecuteDeleteAsync();
        await db.SaveChangesAsync();

        await new Rehoming(db).Move([.. copy.Rows.Where(r => Combination.Parse(r.Values)[option] == value).Select(r => (r, Combination.Parse(r.Values).Without(option)))], row.Id);
        db.ChangeTracker.Clear();
        var stays = (await WorkingCopy.Load(db, code, forChange: true))!;
        var rest = stays.Product with
        {
            Options = stays.Product.Options.Replace(of, of with { Values = of.Values.Remove(gone), Default = of.Default == value ? null : of.Default }),
            NotMade = [.. stays.Product.NotMade.Where(n => n[option] != value)],
            Pictures = [.. stays.Product.Pictures.Where(p => p.Shows != (option, value))],
        };
        var written = await new WorkingCopies(db, clock).Write(stays, rest, $"{gone.Label} split off as {typed}", by, undoable: false);
        if (!written.Done) return new Outcome<string>(null, written.Faults);
        db.ChangeTracker.Clear();
        var fresh = (await WorkingCopy.Load(db, made.Code.Text, forChange: true))!;
        written = await new WorkingCopies(db, clock).Write(fresh, made, $"Split off {copy.Product.Name}", by, fresh.Rows.ToDictionary(r => r.Values, r => Combination.Parse(r.Values)), undoable: false);
        if (!written.Done) return new Outcome<string>(null, written.Faults);
        await transaction.CommitAsync();
        return Outcome<string>.Of(made.Code.Text);
    }

    private async Task<Product> Make(WorkingCopy copy, Option of, OptionValue gone, List<MatrixVariant> leaving, string name)
    {
        var former = leaving.Select(v => v.Variant.Former).OfType<string>().FirstOrDefault();
        var codes = (await db.Products.Select(p => p.Code).ToListAsync()).ToHashSet();
        var old = former is null ? null : WorkingCopy.Read(former, copy.Shop.Currency);
        var code = old is not null && !codes.Contains(old.Code.Text) ? old.Code : ProductCode.From(name, c => codes.Contains(c.Text));
        var options = copy.Product.Options.Remove(of);
        var basis = (old ?? copy.Product) with
        {
            Code = code,
            Name = name,
            WebAddress = old?.Address,
            Options = options,
            NotMade = [.. copy.Product.NotMade.Where(n => n[of.Key] is null || n[of.Key] == gone.Key).Select(n => n.Without(of.Key)).Where(n => n.Pairs.Length > 0).Distinct()],
            SkuPattern = [],
            Pictures = old?.Pictures is { IsEmpty: false } own ? own : [.. copy.Product.Pictures.Where(p => p.Shows is null || p.Shows == (of.Key, gone.Key) || options.Any(o => o.Key == p.Shows.Value.Option)).Select(p => p.Shows == (of.Key, gone.Key) ? p with { Shows = null } : p)],
            Variants = [],
        };
        var bare = basis.Matrix();
        return basis with { Variants = [.. leaving.Select(v => Rehoming.Resolved(copy, v, v.Values.Without(of.Key), bare, basis.Selling) with { Former = null })] };
    }
}
