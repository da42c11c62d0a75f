using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Store.Tests;

/// <summary>Sheets that are read beside the request: progress, stopping, writing once.</summary>
public class SheetJobTests(Database db) : IClassFixture<Database>
{
    private async Task<Guid> Send(string? code, string csv)
    {
        var (id, done) = await db.Use<SheetJobs, (Guid, Task)>(j => j.Read(code, Encoding.UTF8.GetBytes(csv), "a.csv", Database.Tester));
        await done;
        return id;
    }

    private Task<Task?> Write(Guid id) => db.Use<SheetJobs, Task?>(j => j.Write(id, Database.Tester));

    private Task<SheetUpload> Row(Guid id) =>
        db.Use<UnicusContext, SheetUpload>(c => c.SheetUploads.AsNoTracking().SingleAsync(u => u.Id == id));

    private static SheetReport Report(SheetUpload row) => JsonSerializer.Deserialize<SheetReport>(row.Report!)!;

    [Fact]
    public async Task A_file_is_read_shown_and_written_once()
    {
        await db.Put(Database.Hive("JOB1"));
        var id = await Send("JOB1", "SKU,cost,shade\nJOB1-D-CE,41.00,red\nJOB1-S-CE,40.00,red\n");
        var known = await Row(id);
        var report = Report(known);
        Assert.Equal((SheetPhase.Known, 2, 1, 0, true), (known.Phase, report.Rows, report.ChangeCount, report.FaultCount, report.CanApply));
        Assert.Equal(["shade"], report.UnknownColumns);
        Assert.Equal("40.00", (await db.Load("JOB1")).Matrix.Find("depth=deep,timber=cedar")!.Cost.Figure?.ToString());
        await (await Write(id))!;
        Assert.Equal(SheetPhase.Written, (await Row(id)).Phase);
        Assert.Equal("41.00", (await db.Load("JOB1")).Matrix.Find("depth=deep,timber=cedar")!.Cost.Figure?.ToString());
        Assert.Null(await Write(id));
    }

    [Fact]
    public async Task A_file_that_became_stale_is_shown_anew_and_not_written()
    {
        await db.Put(Database.Hive("JOB2"));
        var id = await Send("JOB2", "SKU,cost\nJOB2-D-CE,41.00\n");
        await db.Use<MatrixCells, Outcome>(m =>
            m.Write("JOB2", [new CellEdit("depth=deep,timber=cedar", "sku", "JOB2-OTHER", null)], Database.Tester)
        );
        await (await Write(id))!;
        var row = await Row(id);
        Assert.Equal(SheetPhase.Known, row.Phase);
        Assert.Contains("changed meanwhile", Report(row).Problem, StringComparison.Ordinal);
        Assert.Equal("40.00", (await db.Load("JOB2")).Matrix.Find("depth=deep,timber=cedar")!.Cost.Figure?.ToString());
    }

    [Theory]
    [InlineData("", "The file is empty.")]
    [InlineData("colour\nred\n", "No column of figures was found")]
    public async Task A_file_that_is_no_sheet_fails_with_the_reason(string csv, string why)
    {
        var row = await Row(await Send(null, csv.Length == 0 ? csv : "product code," + csv));
        Assert.Equal(SheetPhase.Failed, row.Phase);
        Assert.Contains(why, Report(row).Problem, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_stopped_file_writes_nothing_and_says_so()
    {
        const int wide = 20;
        string Values(string prefix) =>
            string.Join(',', Enumerable.Range(0, wide).Select(v => $$"""{"key":"{{prefix}}{{v}}","label":"{{prefix}}{{v}}"}"""));
        await db.Put(
            $$"""
            {"format":"unicus-product/1","code":"JOB3","name":"Wide","base":{"price":"1.00"},"options":[{"key":"a","label":"A",
              "role":"variant","values":[{{Values("a")}}]},{"key":"b","label":"B","role":"variant","values":[{{Values("b")}}]},
              {"key":"c","label":"C","role":"variant","values":[{{Values("c")}}]}]}
            """
        );
        var csv = new StringBuilder("option: A,option: B,option: C,cost\n");
        foreach (var a in Enumerable.Range(0, wide))
            foreach (var b in Enumerable.Range(0, wide))
                foreach (var c in Enumerable.Range(0, wide))
                    csv.Append($"a{a},b{b},c{c},0.50\n");
        var (id, done) = await db.Use<SheetJobs, (Guid, Task)>(j =>
            j.Read("JOB3", Encoding.UTF8.GetBytes(csv.ToString()), "a.csv", Database.Tester)
        );
        await db.Use<UnicusContext, int>(c =>
            c.SheetUploads.Where(u => u.Id == id).ExecuteUpdateAsync(u => u.SetProperty(x => x.Stop, true))
        );
        await done;
        var row = await Row(id);
        Assert.Equal((SheetPhase.Stopped, "Stopped. Nothing was written."), (row.Phase, Report(row).Problem));
        Assert.All((await db.Load("JOB3")).Rows, r => Assert.Null(r.Cost));
    }

    [Fact]
    public async Task A_job_whose_process_ended_is_told_from_one_that_runs()
    {
        var now = TimeProvider.System.GetUtcNow();
        SheetState Upload(SheetPhase phase, int ago) => new(Guid.NewGuid(), null, "a", now, phase, 0, 0, now.AddSeconds(-ago), null);
        var lost = await db.Use<SheetJobs, bool[]>(j =>
            Task.FromResult(
                new[]
                {
                    j.IsLost(Upload(SheetPhase.Trying, 60)),
                    j.IsLost(Upload(SheetPhase.Trying, 2)),
                    j.IsLost(Upload(SheetPhase.Known, 60)),
                }
            )
        );
        Assert.Equal([true, false, false], lost);
    }
}
