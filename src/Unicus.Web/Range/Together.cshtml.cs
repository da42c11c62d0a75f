using System.Collections.Immutable;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Range;

/// <summary>Several products become one with variants: which value each is, and what that makes.</summary>
public sealed class TogetherModel(ProductReading goods, BringTogether together, Visit visit) : PageModel
{
    public TogetherRequest Wanted { get; private set; } = null!;
    public IReadOnlyList<(string Code, string Name)> Products { get; private set; } = [];
    public TogetherPreview? Preview { get; private set; }
    public IReadOnlyList<string> Problems { get; private set; } = [];

    public async Task<IActionResult> OnGet(string[] code, string? name, string? option, string[] value)
    {
        if (!await Look(code, name, option, value))
            return Redirect("/office/range");
        return Page();
    }

    public async Task<IActionResult> OnPost(string[] code, string? name, string? option, string[] value)
    {
        if (!await Look(code, name, option, value))
            return Redirect("/office/range");
        if (Preview is null)
            return Page();
        var outcome = await together.Run(Wanted, visit.Actor);
        if (outcome.Done)
            return Redirect($"/office/products/{Wanted.Codes[0]}/matrix?view=rows");
        Problems = [.. outcome.Faults.Select(f => f.What)];
        return Page();
    }

    private async Task<bool> Look(string[] code, string? name, string? option, string[] value)
    {
        var codes = code.Select(c => c.ToUpperInvariant()).Distinct().Take(BringTogether.MostProducts + 1).ToList();
        var names = await goods.Named(codes);
        Products = [.. codes.Where(names.ContainsKey).Select(c => (c, names[c].Name))];
        if (Products.Count == 0)
            return false;
        var split = NameSplit.Of([.. Products.Select(p => p.Name)]);
        ImmutableArray<string> values = value.Length == Products.Count ? [.. value] : [.. split.Values];
        Wanted = new TogetherRequest(
            [.. Products.Select(p => p.Code)],
            string.IsNullOrWhiteSpace(name) ? split.Common : name,
            string.IsNullOrWhiteSpace(option) ? split.Option : option,
            values
        );
        var outcome = await together.Preview(Wanted);
        (Preview, Problems) = (outcome.Result, [.. outcome.Faults.Select(f => f.What)]);
        return true;
    }
}
