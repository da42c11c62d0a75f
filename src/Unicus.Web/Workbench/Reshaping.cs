using Microsoft.AspNetCore.Mvc;
using Unicus.Core;
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
        if (outcome.Done) return Redirect($"/office/products/{outcome.Result}/facts");
        db.ChangeTracker.Clear();
        (CopyProblem, TypedName) = (outcome.Faults[0].What, name);
        return await Look() ? Page() : NotFound();
    }

    public async Task<IActionResult> OnPostSplit([FromServices] SplitOff split, string option, string value, string? name)
    {
        var outcome = Key.TryParse(option, out var o) && Key.TryParse(value, out var v) ? await split.Run(Code, o, v, name, visit.Actor) : Outcome<string>.No("", "Choose a value.");
        return outcome.Done ? Redirect($"/office/products/{outcome.Result}/facts") : await Answer(outcome);
    }
}
