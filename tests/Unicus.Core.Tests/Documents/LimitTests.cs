using System.Diagnostics;
using System.Text;
using System.Text.Json;
using CsCheck;

namespace Unicus.CoreTests;

/// <summary>What a document may hold, looked at before it is read.</summary>
public class LimitTests
{
    private static IReadOnlyList<Fault> Faults(string more)
    {
        using var json = JsonDocument.Parse($$"""{ "format": "unicus-product/1", "code": "A1", "name": "A"{{more}} }""");
        return DocumentReader.Read(json.RootElement, Currency.Euro).Faults;
    }

    [Fact]
    public void At_most_200_faults_are_told()
    {
        var specifications = string.Join(',', Enumerable.Repeat("1", 900));
        Assert.Equal(Node.MostFaults, Faults($", \"specifications\": [{specifications}]").Count);
    }

    [Theory]
    [InlineData(12, true)]
    [InlineData(13, false)]
    public void Conditions_stand_in_each_other_twelve_deep(int depth, bool isTaken)
    {
        const string options = """
            "options": [ { "key": "plate", "label": "Plate", "role": "extra", "ask": "yesNo" },
              { "key": "text", "label": "Text", "role": "extra", "ask": "text" } ]
            """;
        var when = string.Concat(Enumerable.Repeat("{\"not\": ", depth)) + """{ "answered": "plate" }""" + new string('}', depth);
        var faults = Faults($$""", {{options}}, "rules": [ { "key": "r", "when": {{when}}, "then": [ { "show": "text" } ] } ]""");
        Assert.Equal(isTaken, !faults.Any(f => f.What == "Conditions stand in each other at most 12 deep."));
    }

    [Fact]
    public void A_list_that_is_too_long_is_one_fault_and_not_read()
    {
        var lines = string.Join(',', Enumerable.Repeat("1", 1_000_000));
        var fault = Assert.Single(Faults($", \"specifications\": [{lines}]"));
        Assert.Equal("#/specifications", fault.Where);
        Assert.Contains("1,000,000", fault.What, StringComparison.Ordinal);
    }

    [Fact]
    public void Unknown_fields_cost_no_more_than_reading_them()
    {
        var many = string.Concat(Enumerable.Range(0, 200_000).Select(i => $", \"x{i}\": 1"));
        var clock = Stopwatch.StartNew();
        var faults = Faults(many);
        Assert.InRange(faults.Count, 1, Node.MostFaults);
        // A look-up for each of 200,000 fields took more than a minute, and a look-up for each of the first 2,000 some seconds; reading
        // them takes some tenths of one.
        Assert.True(clock.Elapsed < TimeSpan.FromSeconds(10));
    }

    [Theory]
    [InlineData("""{"name":"bee \ud83d\udc1d"}""", true)]
    [InlineData("""{"name":"\ud83d"}""", false)]
    [InlineData("""{"name":"\udc1d\ud83d"}""", false)]
    [InlineData("""{"name":"\ud83d\\udc1d"}""", false)]
    [InlineData("""{"name":"\\ud83d"}""", true)]
    [InlineData("""{"\ud83d":1}""", false)]
    public void Half_a_surrogate_pair_is_no_text(string json, bool isWellFormed) =>
        Assert.Equal(isWellFormed, JsonText.IsWellFormed(Encoding.UTF8.GetBytes(json)));

    [Fact]
    public void Bytes_that_are_no_UTF_8_are_no_text() => Assert.False(JsonText.IsWellFormed([(byte)'"', 0xC3, (byte)'"']));

    /// <summary>Law: whatever text is written as JSON, with or without escapes, is well formed exactly when reading it back gives the same
    /// text.</summary>
    [Fact]
    public void What_is_well_formed_can_be_read() =>
        Gen.Char["aé\ud83d\udc1d\\\"u"]
            .Array[0, 12]
            .Select(c => new string(c))
            .Sample(text =>
            {
                var escaped = string.Concat(text.Select(c => $"\\u{(int)c:x4}"));
                var isUnicode = text == Encoding.UTF8.GetString(Encoding.UTF8.GetBytes(text));
                Assert.Equal(isUnicode, JsonText.IsWellFormed(Encoding.ASCII.GetBytes($"\"{escaped}\"")));
            });

    /// <summary>Expected as the codec “idna” of Python 3.11 writes it.</summary>
    [Fact]
    public void A_film_host_is_written_in_the_letters_of_the_name_system() =>
        Assert.Equal("xn--bienenfilme-ber-bwb.example", new ProductVideo("https://bienenfilme-über.example/a.mp4", "").Host);
}
