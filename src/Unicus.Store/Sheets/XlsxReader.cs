using System.Globalization;
using System.IO.Compression;
using System.Xml;

namespace Unicus.Store;

/// <summary>A row of a sheet.</summary>
/// <param name="Line">The line that it begins on, from 1.</param>
public sealed record SheetRow(int Line, IReadOnlyList<string> Cells);

/// <summary>Says that a file is larger than anybody's sheet, in a sentence.</summary>
internal sealed class SheetTooLargeException(string message) : Exception(message);

/// <summary>Reads the first sheet of an XLSX file as a stream (ECMA-376, part 1, SpreadsheetML).</summary>
/// <remarks>
/// A small file can unpack to anything, and one cell can say that it stands in the last column of the last row. So what is unpacked, how
/// many rows, columns and cells there are and how long a text is are looked at while reading, before memory is taken for them.
/// </remarks>
internal sealed class XlsxReader
{
    /// <summary>The longest text of a cell, which is the longest that spreadsheet programs hold.</summary>
    public const int LongestCell = 32_767;

    public const int MostColumns = 400;

    private const int MostCells = 8_000_000;
    private const int MostShared = 2_000_000;
    private const long MostText = 96_000_000;
    private const long MostUnpacked = 300_000_000;

    /// <summary>So much may always be unpacked; beyond, only as many times the file as sheets of people come to.</summary>
    private const long AlwaysUnpacked = 20_000_000;
    private const int MostTimes = 100;

    private readonly ZipArchive _archive;
    private readonly int _mostRows;
    private readonly long _mostUnpacked;
    private readonly CancellationToken _stop;
    private readonly char[] _chunk = new char[4096];
    private readonly List<string> _shared = [];
    private long _textLeft = MostText;
    private long _cellsLeft = MostCells;

    private XlsxReader(ZipArchive archive, int mostRows, long size, CancellationToken stop)
    {
        (_archive, _mostRows, _stop) = (archive, mostRows, stop);
        _mostUnpacked = Math.Min(MostUnpacked, Math.Max(AlwaysUnpacked, MostTimes * size));
    }

    /// <exception cref="InvalidDataException">This is no such file.</exception>
    /// <exception cref="XmlException">A part of it is damaged.</exception>
    /// <exception cref="SheetTooLargeException">It is larger than is read.</exception>
    public static List<SheetRow> Read(byte[] content, int mostRows, CancellationToken stop)
    {
        using var archive = new ZipArchive(new MemoryStream(content), ZipArchiveMode.Read);
        return new XlsxReader(archive, mostRows, content.Length, stop).Rows();
    }

    private List<SheetRow> Rows()
    {
        var sheet = SheetPart();
        if (_archive.GetEntry("xl/sharedStrings.xml") is { } strings)
            ReadShared(strings);
        var rows = new List<SheetRow>();
        using var xml = Open(sheet);
        while (xml.Read())
        {
            if (xml.NodeType != XmlNodeType.Element || xml.LocalName != "row")
                continue;
            _stop.ThrowIfCancellationRequested();
            var line = int.TryParse(xml.GetAttribute("r"), NumberStyles.None, CultureInfo.InvariantCulture, out var r) ? r : rows.Count + 1;
            rows.Add(new SheetRow(line, Cells(xml)));
            if (rows.Count > _mostRows)
                break;
        }
        return rows;
    }

    /// <summary>The part that holds the first sheet.</summary>
    private ZipArchiveEntry SheetPart()
    {
        var workbook = _archive.GetEntry("xl/workbook.xml") ?? throw new InvalidDataException("No workbook.");
        string? id = null;
        using (var xml = Open(workbook))
            while (id is null && xml.Read())
                if (xml.NodeType == XmlNodeType.Element && xml.LocalName == "sheet")
                    id = AttributeOf(xml, "id");
        var links = _archive.GetEntry("xl/_rels/workbook.xml.rels");
        if (links is not null)
        {
            using var xml = Open(links);
            while (xml.Read())
                if (
                    xml.NodeType == XmlNodeType.Element
                    && xml.LocalName == "Relationship"
                    && xml.GetAttribute("Id") == id
                    && xml.GetAttribute("Target") is { } target
                    && _archive.GetEntry(target.StartsWith('/') ? target[1..] : $"xl/{target}") is { } found
                )
                    return found;
        }
        return _archive.GetEntry("xl/worksheets/sheet1.xml") ?? throw new InvalidDataException("No sheet.");
    }

    private static string? AttributeOf(XmlReader xml, string localName)
    {
        for (var i = 0; i < xml.AttributeCount; i++)
        {
            xml.MoveToAttribute(i);
            if (xml.LocalName != localName)
                continue;
            var value = xml.Value;
            xml.MoveToElement();
            return value;
        }
        xml.MoveToElement();
        return null;
    }

    private void ReadShared(ZipArchiveEntry part)
    {
        using var xml = Open(part);
        while (xml.Read())
        {
            if (xml.NodeType != XmlNodeType.Element || xml.LocalName != "si")
                continue;
            _stop.ThrowIfCancellationRequested();
            if (_shared.Count == MostShared)
                throw new SheetTooLargeException($"The file has more than {MostShared:N0} different texts.");
            _shared.Add(RichText(xml));
        }
    }

    private List<string> Cells(XmlReader xml)
    {
        var cells = new List<string>();
        if (xml.IsEmptyElement)
            return cells;
        var depth = xml.Depth;
        while (xml.Read() && xml.Depth > depth)
        {
            if (xml.NodeType != XmlNodeType.Element || xml.LocalName != "c")
                continue;
            var column = ColumnOf(xml.GetAttribute("r")) ?? cells.Count;
            if (column >= MostColumns)
                throw new SheetTooLargeException($"The file has more than {MostColumns:N0} columns.");
            _cellsLeft -= Math.Max(1, column + 1 - cells.Count);
            if (_cellsLeft < 0)
                throw new SheetTooLargeException($"The file has more than {MostCells:N0} cells.");
            while (cells.Count < column)
                cells.Add("");
            var text = Cell(xml);
            if (column < cells.Count)
                cells[column] = text;
            else
                cells.Add(text);
        }
        return cells;
    }

    /// <summary>The column of a reference such as C7, from 0; null where there is none. Never far beyond the last column that is
    /// read.</summary>
    private static int? ColumnOf(string? reference)
    {
        if (string.IsNullOrEmpty(reference))
            return null;
        var column = 0;
        foreach (var c in reference)
        {
            if (!char.IsAsciiLetterUpper(c))
                break;
            column = Math.Min(column * 26 + (c - 'A' + 1), MostColumns + 1);
        }
        return column == 0 ? null : column - 1;
    }

    private string Cell(XmlReader xml)
    {
        var kind = xml.GetAttribute("t") ?? "n";
        if (xml.IsEmptyElement)
            return "";
        var depth = xml.Depth;
        var text = "";
        while (xml.Read() && xml.Depth > depth)
        {
            if (xml.NodeType != XmlNodeType.Element)
                continue;
            if (xml.LocalName == "v")
                text = Text(xml);
            else if (xml.LocalName == "is")
                text = RichText(xml);
        }
        return kind switch
        {
            "s" => int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var at) && at < _shared.Count ? _shared[at] : "",
            "b" => text == "1" ? "True" : "False",
            "n" => double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var number)
                ? number.ToString("0.##########", CultureInfo.InvariantCulture)
                : text,
            _ => text,
        };
    }

    /// <summary>The text of an element that may be in runs; how it is pronounced is left out.</summary>
    private string RichText(XmlReader xml)
    {
        if (xml.IsEmptyElement)
            return "";
        var depth = xml.Depth;
        var text = "";
        while (xml.Read() && xml.Depth > depth)
        {
            if (xml.NodeType != XmlNodeType.Element)
                continue;
            if (xml.LocalName == "rPh")
                xml.Skip();
            else if (xml.LocalName == "t")
                text += Text(xml);
            if (text.Length > LongestCell)
                throw TooLong();
        }
        return text;
    }

    /// <summary>The text of a simple element, read in pieces so that no longer one than is wanted ever stands in memory.</summary>
    private string Text(XmlReader xml)
    {
        if (xml.IsEmptyElement)
            return "";
        var depth = xml.Depth;
        var text = "";
        while (xml.Read() && xml.Depth > depth)
        {
            if (xml.NodeType is not (XmlNodeType.Text or XmlNodeType.CDATA or XmlNodeType.SignificantWhitespace or XmlNodeType.Whitespace))
                continue;
            int read;
            while ((read = xml.ReadValueChunk(_chunk, 0, _chunk.Length)) > 0)
            {
                text += new string(_chunk, 0, read);
                if (text.Length > LongestCell)
                    throw TooLong();
                if ((_textLeft -= read) < 0)
                    throw new SheetTooLargeException("The file holds more text than is read at once. Send it in parts.");
            }
        }
        return TypedText.Clean(text);
    }

    private static SheetTooLargeException TooLong() => new($"A cell of the file holds more than {LongestCell:N0} characters.");

    private XmlReader Open(ZipArchiveEntry part) =>
        XmlReader.Create(
            new BoundedStream(part.Open(), _mostUnpacked),
            new XmlReaderSettings
            {
                DtdProcessing = DtdProcessing.Prohibit,
                XmlResolver = null,
                CloseInput = true,
            }
        );
}
