using Microsoft.AspNetCore.Mvc;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>Making one product out of another: a copy, or a value split off.</summary>
public sealed partial class WorkbenchModel
{
    public string? CopyProblem { get; private set; }
    public string? TypedName { get; private set; }

    public async Task<IActionResult> OnPostCopy([FromServices] CopyProduct copies, string? name, string? address)
    {
        var outcome = await copies.Run(Code, name, address, visit.Actor);
        if (outcome.Done)
            return Redirect($"/office/products/{outcome.Result}/facts");
        (CopyProblem, TypedName) = (outcome.Faults[0].What, name);
        return await Look() ? Page() : NotFound();
    }

    /// <summary>Asks for the name of the product that one variant becomes.</summary>
    public async Task<IActionResult> OnGetSplit(string values)
    {
        if (!await Look(new VariantScope([values])) || Copy.Matrix.Find(values) is not { } variant)
            return NotFound();
        return Partial(
            "/Workbench/Matrix/_Split.cshtml",
            (Here, Variant: variant.Values, Name: SplitOff.Suggest(Copy, variant.Values), Was: variant.Values.Name(Copy.Product.Options))
        );
    }

    public async Task<IActionResult> OnPostSplit([FromServices] SplitOff split, string which, string? name)
    {
        var outcome = await split.Run(Code, Combination.Parse(which), name, visit.Actor);
        return outcome.Done ? Redirect($"/office/products/{outcome.Result}/facts") : await Answer(outcome);
    }
}
