using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Range;

/// <summary>Figures out to a spreadsheet and back: of one product, or of the whole range.</summary>
public sealed class SheetModel(UnicusContext db, SheetExport export, SheetImport import, Visit visit, TimeProvider clock) : PageModel
{
    public const int MostShown = 300;
    private const int TemplateRows = 2;

    public string? Code { get; private set; }
    public string? Name { get; private set; }
    public string? Problem { get; private set; }
    public SheetPlan? Plan { get; private set; }
    public Guid Upload { get; private set; }
    public string FileName { get; private set; } = "";
    public int Applied { get; private set; }

    public string Here => Code is null ? "/office/sheet" : $"/office/sheet/{Code}";
    public string Word => Code is null ? "the whole range" : Name!;

    public async Task<IActionResult> OnGet(string? code, int applied) => await Look(code) && (Applied = applied) >= 0 ? Page() : NotFound();

    public Task<IActionResult> OnGetCsv(string? code) => File(code, "csv", int.MaxValue);

    public Task<IActionResult> OnGetXlsx(string? code) => File(code, "xlsx", int.MaxValue);

    public Task<IActionResult> OnGetTemplate(string? code) => File(code, "csv", TemplateRows, "-template");

    /// <summary>Reads a file and shows what it would change.</summary>
    public async Task<IActionResult> OnPost(string? code, IFormFile? file)
    {
        if (!await Look(code)) return NotFound();
        if (file is null || file.Length == 0) return Faulty("Choose a CSV or XLSX file.");
        await using var stream = new MemoryStream();
        await file.CopyToAsync(stream);
        FileName = Path.GetFileName(file.FileName);
        var outcome = await import.DryRun(Code, stream.ToArray(), FileName, visit.Actor);
        if (!outcome.Done) return Faulty(outcome.Faults[0].What);
        Plan = outcome.Result;
        if (!Plan!.CanApply) return Page();
        await db.SheetUploads.Where(u => u.At < clock.GetUtcNow().AddDays(-1)).ExecuteDeleteAsync();
        var upload = new SheetUpload { Id = Guid.NewGuid(), FileName = FileName, Content = stream.ToArray(), At = clock.GetUtcNow() };
        db.SheetUploads.Add(upload);
        await db.SaveChangesAsync();
        Upload = upload.Id;
        return Page();
    }

    /// <summary>Writes a file that was shown.</summary>
    public async Task<IActionResult> OnPostApply(string? code, Guid upload, int expected)
    {
        if (!await Look(code)) return NotFound();
        if (await db.SheetUploads.AsNoTracking().FirstOrDefaultAsync(u => u.Id == upload) is not { } kept) return Faulty("That file is no longer kept. Send it again.");
        var outcome = await import.Run(Code, kept.Content, kept.FileName, visit.Actor);
        if (!outcome.Done) return Faulty(outcome.Faults[0].What);
        (Plan, FileName) = (outcome.Result, kept.FileName);
        if (!Plan!.CanApply)
        {
            Problem = "Nothing was written: something was changed meanwhile. This is how the file stands now.";
            return Page();
        }
        await db.SheetUploads.Where(u => u.Id == upload).ExecuteDeleteAsync();
        return Redirect($"{Here}?applied={Plan.Changes.Count}");
    }

    private async Task<IActionResult> File(string? code, string kind, int rows, string suffix = "")
    {
        if (await export.Table(code, rows) is not { } table) return NotFound();
        var stream = new MemoryStream();
        if (kind == "csv") SheetFile.WriteCsv(stream, table.Headings, table.Rows);
        else SheetFile.WriteXlsx(stream, table.Headings, table.Rows);
        stream.Position = 0;
        return File(stream, kind == "csv" ? "text/csv; charset=utf-8" : "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", $"{(code ?? "range").ToLowerInvariant()}{suffix}.{kind}");
    }

    private PageResult Faulty(string problem)
    {
        Problem = problem;
        return Page();
    }

    private async Task<bool> Look(string? code)
    {
        if (code is null) return true;
        Code = code.ToUpperInvariant();
        Name = await db.Products.Where(p => p.Code == Code).Select(p => p.Name).FirstOrDefaultAsync();
        return Name is not null;
    }
}
