namespace Unicus.Bench;

/// <summary>Prints the rows of the table in docs/performance.md.</summary>
internal static class Report
{
    public static void Row(string what, double measured, string baseline, double at, double ratio, string aim) =>
        Console.WriteLine($"| {what} | {measured:#,0.##} | {baseline}: {at:#,0.##} | {ratio:0.00####} | {aim} |");
}
