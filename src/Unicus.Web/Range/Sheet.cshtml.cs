using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Range;

/// <summary>Figures out to a spreadsheet and back: of one product, or of the whole range.</summary>
[RequestSizeLimit(Uploads.LongestRequest)]
public sealed class SheetModel(ProductReading goods, SheetExport export, SheetJobs jobs, Visit visit) : PageModel
{
    private const int TemplateRows = 3;

    /// <summary>A small file is done within this time, so that no progress need be shown.</summary>
    private static readonly TimeSpan AtOnce = TimeSpan.FromSeconds(1);

    public string? Code { get; private set; }
    public string? Name { get; private set; }
    public string? Problem { get; private set; }
    public SheetState? Upload { get; private set; }
    public SheetReport? Report { get; private set; }

    public string Here => Code is null ? "/office/sheet" : $"/office/sheet/{Code}";
    public string Word => Code is null ? "the whole range" : Name!;

    public bool IsRunning => Upload?.Phase is SheetPhase.Reading or SheetPhase.Comparing or SheetPhase.Trying or SheetPhase.Writing;

    /// <summary>What is being done, for people.</summary>
    public string Doing =>
        Upload!.Phase switch
        {
            SheetPhase.Reading => "Reading the file",
            SheetPhase.Comparing => "Comparing rows",
            SheetPhase.Trying => "Trying it out",
            _ => "Writing",
        };

    /// <summary>What the button does, in words.</summary>
    public static string Act(SheetReport plan)
    {
        var changes = $"{plan.ChangeCount:N0} {(plan.ChangeCount == 1 ? "change" : "changes")}";
        return plan.MadeCount == 0 ? $"Write {changes}"
            : plan.ChangeCount == 0 ? $"Make {plan.MadeCount:N0}"
            : $"Make {plan.MadeCount:N0} and write {changes}";
    }

    public async Task<IActionResult> OnGet(string? code, Guid? upload) => await Look(code, upload) ? Page() : NotFound();

    /// <summary>How far it is; once it has ended, what came of it.</summary>
    public async Task<IActionResult> OnGetState(string? code, Guid upload) =>
        !await Look(code, upload) ? NotFound()
        : Upload is null ? Partial("/Workbench/_Problem.cshtml", Problem)
        : Partial("_SheetState", this);

    public Task<IActionResult> OnGetCsv(string? code) => File(code, "csv", int.MaxValue);

    public Task<IActionResult> OnGetXlsx(string? code) => File(code, "xlsx", int.MaxValue);

    public Task<IActionResult> OnGetTemplate(string? code) => File(code, "csv", TemplateRows, "-template");

    /// <summary>Reads a file and shows what it would change.</summary>
    public async Task<IActionResult> OnPost(string? code, IFormFile? file)
    {
        if (!await Look(code, null))
            return NotFound();
        if (file is null || file.Length == 0)
            return Faulty("Choose a CSV or XLSX file.");
        await using var stream = new MemoryStream();
        await file.CopyToAsync(stream);
        var (id, done) = await jobs.Read(Code, stream.ToArray(), Path.GetFileName(file.FileName), visit.Actor);
        await Task.WhenAny(done, Task.Delay(AtOnce));
        return Redirect($"{Here}?upload={id}");
    }

    /// <summary>Writes a file that was shown.</summary>
    public async Task<IActionResult> OnPostApply(string? code, Guid upload)
    {
        if (!await Look(code, null))
            return NotFound();
        if (await jobs.Write(upload, visit.Actor) is not { } done)
            return Faulty("That file is no longer kept, or it is being written already. Send it again.");
        await Task.WhenAny(done, Task.Delay(AtOnce));
        return Redirect($"{Here}?upload={upload}");
    }

    public async Task<IActionResult> OnPostStop(string? code, Guid upload)
    {
        await jobs.Stop(upload);
        return Redirect(code is null ? $"/office/sheet?upload={upload}" : $"/office/sheet/{code}?upload={upload}");
    }

    private async Task<IActionResult> File(string? code, string kind, int rows, string suffix = "")
    {
        var isExample = code is null && rows == TemplateRows;
        if ((isExample ? SheetColumns.Example : await export.Table(code, rows)) is not { } table)
            return NotFound();
        var stream = new MemoryStream();
        if (kind == "csv")
            SheetFile.WriteCsv(stream, table.Headings, table.Rows);
        else
            SheetFile.WriteXlsx(stream, table.Headings, table.Rows);
        stream.Position = 0;
        return File(
            stream,
            kind == "csv" ? "text/csv; charset=utf-8" : "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
            $"{(code ?? "range").ToLowerInvariant()}{suffix}.{kind}"
        );
    }

    private PageResult Faulty(string problem)
    {
        Problem = problem;
        return Page();
    }

    private async Task<bool> Look(string? code, Guid? upload)
    {
        if (code is not null)
        {
            Code = code.ToUpperInvariant();
            Name = await goods.NameOf(Code);
            if (Name is null)
                return false;
        }
        if (upload is null)
            return true;
        Upload = await jobs.Find(upload.Value, Code);
        if (Upload is null)
            Problem = "That file is no longer kept. Send it again.";
        else if (jobs.IsLost(Upload))
            (Problem, Upload) = ("The program was ended while it worked on the file. Nothing was written; send it again.", null);
        else
            Report = Upload.Report;
        return true;
    }
}
