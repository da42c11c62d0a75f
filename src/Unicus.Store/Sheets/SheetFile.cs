using System.Globalization;
using System.Text;
using CsvHelper;
using CsvHelper.Configuration;
using MiniExcelLibs;

namespace Unicus.Store;

/// <summary>A table of texts: its headings, and its rows with the line each begins on.</summary>
public sealed record SheetTable(IReadOnlyList<string> Headings, IReadOnlyList<SheetRow> Rows);

/// <summary>Reads and writes tables as CSV (RFC 4180) and XLSX.</summary>
/// <remarks>
/// CSV is read with commas, semicolons or tabs, with or without a byte order mark, in UTF-8 or else Windows-1252. A text that a spreadsheet
/// would run as a formula is written with an apostrophe before it, and read without it.
/// </remarks>
public static class SheetFile
{
    public const int MostRows = 250_000;

    /// <summary>Reads a table, or says why it cannot be.</summary>
    /// <exception cref="OperationCanceledException">It was stopped.</exception>
    public static Read<SheetTable> Read(byte[] content, string fileName, CancellationToken stop = default)
    {
        try
        {
            var rows = fileName.EndsWith(".xlsx", StringComparison.OrdinalIgnoreCase) ? FromXlsx(content, stop) : FromCsv(content, stop);
            if (rows.Count == 0)
                return Read<SheetTable>.No("The file is empty.");
            if (rows.Count > MostRows)
                return Read<SheetTable>.No($"The file has more than {MostRows:N0} rows. Send it in parts.");
            return Read<SheetTable>.Of(
                new SheetTable([.. rows[0].Cells.Select(c => c.Trim())], [.. rows.Skip(1).Where(r => r.Cells.Any(c => c.Length > 0))])
            );
        }
        catch (SheetTooLargeException e)
        {
            return Read<SheetTable>.No(e.Message);
        }
        catch (Exception e) when (e is CsvHelperException or InvalidDataException or System.Xml.XmlException or IOException)
        {
            return Read<SheetTable>.No($"{fileName} cannot be read as a table. Save it as CSV or XLSX.");
        }
    }

    public static void WriteCsv(Stream stream, IReadOnlyList<string> headings, IEnumerable<IReadOnlyList<object?>> rows)
    {
        using var text = new StreamWriter(stream, new UTF8Encoding(encoderShouldEmitUTF8Identifier: true), leaveOpen: true);
        using var csv = new CsvWriter(text, new CsvConfiguration(CultureInfo.InvariantCulture) { NewLine = "\r\n" });
        foreach (var heading in headings)
            csv.WriteField(heading);
        csv.NextRecord();
        foreach (var row in rows)
        {
            foreach (var cell in row)
                csv.WriteField(cell is string s ? Harmless(s) : Convert.ToString(cell, CultureInfo.InvariantCulture));
            csv.NextRecord();
        }
    }

    public static void WriteXlsx(Stream stream, IReadOnlyList<string> headings, IEnumerable<IReadOnlyList<object?>> rows) =>
        stream.SaveAs(rows.Select(r => headings.Index().ToDictionary(h => h.Item, h => r[h.Index] is string s ? Harmless(s) : r[h.Index])));

    private static string Harmless(string text) =>
        text.Length > 0 && text[0] is '=' or '+' or '-' or '@' or '\t' or '\r' ? "'" + text : text;

    private static string Plain(string text) =>
        text.Length > 1 && text[0] == '\'' && text[1] is '=' or '+' or '-' or '@' ? text[1..] : text;

    private static List<SheetRow> FromCsv(byte[] content, CancellationToken stop)
    {
        using var text = new StringReader(Decoded(content));
        using var csv = new CsvParser(
            text,
            new CsvConfiguration(CultureInfo.InvariantCulture)
            {
                DetectDelimiter = true,
                DetectDelimiterValues = [",", ";", "\t"],
                BadDataFound = null,
                HasHeaderRecord = false,
                IgnoreBlankLines = true,
                MaxFieldSize = XlsxReader.LongestCell,
            }
        );
        var rows = new List<SheetRow>();
        while (csv.Read() && rows.Count <= MostRows + 1)
        {
            stop.ThrowIfCancellationRequested();
            if (csv.Record!.Length > XlsxReader.MostColumns)
                throw new SheetTooLargeException($"The file has more than {XlsxReader.MostColumns:N0} columns.");
            rows.Add(new SheetRow(csv.RawRow, [.. csv.Record.Select(c => Plain(TypedText.Clean(c)))]));
        }
        return rows;
    }

    private static string Decoded(byte[] content)
    {
        try
        {
            using var strict = new StreamReader(
                new MemoryStream(content),
                new UTF8Encoding(false, throwOnInvalidBytes: true),
                detectEncodingFromByteOrderMarks: true
            );
            return strict.ReadToEnd();
        }
        catch (DecoderFallbackException)
        {
            return Encoding.Latin1.GetString(content);
        }
    }

    private static List<SheetRow> FromXlsx(byte[] content, CancellationToken stop) =>
        [.. XlsxReader.Read(content, MostRows + 1, stop).Select(r => r with { Cells = [.. r.Cells.Select(Plain)] })];
}
