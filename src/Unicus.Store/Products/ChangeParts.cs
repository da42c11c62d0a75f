using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Changes what a product is put together from; never so that it would contain itself.</summary>
public sealed class ChangeParts(UnicusContext db, ChangeProduct products)
{
    /// <summary>Changes the parts of a working copy.</summary>
    /// <param name="sentence">What the list of changes says.</param>
    /// <param name="change">Given the parts and the product; parts without anything in them are none.</param>
    public async Task<Outcome> Run(string code, string sentence, Actor by, Func<SetParts, WorkingCopy, Read<SetParts>> change)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        SetParts? after = null;
        var currency = Currency.Euro;
        var outcome = await products.Apply(code, sentence, by, copy =>
        {
            currency = copy.Shop.Currency;
            var read = change(copy.Product.Parts ?? new SetParts(), copy);
            if (!read.Ok)
                return Read<Product>.No(read.Problem!);
            after = read.Value!.Slots.IsEmpty && read.Value == new SetParts() ? null : read.Value;
            return Read<Product>.Of(copy.Product with { Parts = after });
        });
        if (!outcome.Done)
            return outcome;
        if (after is not null)
        {
            var product = new Product(ProductCode.Of(code.ToUpperInvariant()), "") { Parts = after };
            var loops = await new PartLoops(db, currency).Of(product, published: false);
            if (loops.Count > 0)
                return new Outcome(loops);
        }
        await transaction.CommitAsync();
        return outcome;
    }
}
