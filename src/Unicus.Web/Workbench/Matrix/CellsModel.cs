using Microsoft.AspNetCore.Mvc;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>A chapter with cells that are typed into.</summary>
public abstract class CellsModel(Bench bench, MatrixCells cells) : ChapterModel(bench)
{
    protected MatrixCells Cells => cells;

    /// <summary>Writes typed cells and says how their rows stand now.</summary>
    public async Task<IActionResult> OnPostCells(string edits)
    {
        if (CellEdit.ReadAll(edits) is not { Count: > 0 } list)
            return BadRequest();
        var outcome = await Cells.Write(Code, list, Visit.Actor);
        var asked = list.Select(e => e.Values).ToHashSet();
        // Variants of one SKU have one stock, so all of them show it at once.
        if (list.Exists(e => e.Figure == "stock"))
            asked.UnionWith(await Cells.Sharing(Code, asked));
        if (!await Look(new VariantScope(asked)))
            return NotFound();
        var view = new MatrixView(Copy, MatrixLook.Read(Request) with { Filter = MatrixFilter.None });
        var rows = asked
            .Select(v => (Key: v, Variant: Copy.Matrix.Find(Combination.Parse(v))))
            .Where(v => v.Variant is not null)
            .ToDictionary(v => v.Key, v => RowState(view, v.Variant!, list.Select(e => e.Figure)));
        var around = outcome.Done ? await new PartialsResult(this, await Around()).Html() : "";
        return new JsonResult(
            new
            {
                faults = outcome.Faults,
                rows,
                around,
            }
        );
    }

    /// <summary>Says what of a pasted block does not fit; nothing is written.</summary>
    public async Task<IActionResult> OnPostCellsTried(string edits)
    {
        if (CellEdit.ReadAll(edits) is not { } list)
            return BadRequest();
        return new JsonResult(new { faults = list.Count == 0 ? [] : (await Cells.Write(Code, list, Visit.Actor, tryOnly: true)).Faults });
    }

    /// <param name="typed">The columns that were typed into.</param>
    private static object RowState(MatrixView view, MatrixVariant v, IEnumerable<string> typed) =>
        new
        {
            figures = MatrixFigures
                .All.Select(f => f.Name)
                .Union(typed.Where(t => DatedPrices.RuleOf(t) is not null))
                .ToDictionary(f => f, f => new { text = view.Text(v, f), kind = view.Class(v, f) }),
            picture = view.Picture(v)?.File,
            left = view.Left(v),
            margin = view.Margin(v),
            loses = view.Loses(v),
        };
}
