using System.Text.Json;
using System.Text.Json.Nodes;

namespace Unicus.CoreTests;

/// <summary>Days, passwords and suggestions in documents.</summary>
public class ShelfDocumentTests
{
    private static (Product? Product, IReadOnlyList<Fault> Faults) Read(string members)
    {
        var json = $$"""{ "format": "unicus-product/1", "code": "A", "name": "A", {{members}} }""";
        var (product, _, faults) = DocumentReader.Read(JsonDocument.Parse(json).RootElement, Currency.Euro);
        return (product, faults);
    }

    [Theory]
    [InlineData("""{ "shelf": { "listed": true, "searchable": true, "from": "2027-03-01", "until": "2027-04-01" } }""")]
    [InlineData("""{ "shelf": { "listed": false, "searchable": true, "featured": true, "password": "Skep 7" } }""")]
    [InlineData("""{ "shelf": { "listed": true, "searchable": true, "featured": { "until": "2027-04-01" } } }""")]
    [InlineData("""{ "badge": "New", "companions": ["B", "C"], "stepUps": ["D"] }""")]
    public void What_is_written_is_what_was_read(string json)
    {
        var members = json.Trim()[1..^1];
        var (product, faults) = Read(members);
        Assert.Empty(faults);
        var written = DocumentWriter.Write(product!, ListedVariants.Differing);
        foreach (var (name, value) in JsonNode.Parse(json)!.AsObject())
            Assert.True(JsonNode.DeepEquals(value, written[name]), $"{name}: {written[name]?.ToJsonString()}");
    }

    [Theory]
    [InlineData(""" "shelf": { "from": "2027-04-02", "until": "2027-04-01" } """, "#/shelf/until")]
    [InlineData(""" "shelf": { "from": "1 April" } """, "#/shelf/from")]
    [InlineData(""" "shelf": { "until": "2027-02-29" } """, "#/shelf/until")]
    [InlineData(""" "shelf": { "featured": "yes" } """, "#/shelf/featured")]
    [InlineData(""" "companions": ["B", "A"] """, "#/companions/1")]
    [InlineData(""" "companions": ["B", "B"] """, "#/companions/1")]
    [InlineData(""" "stepUps": ["b"] """, "#/stepUps/0")]
    [InlineData(""" "badge": "A badge of more than thirty characters" """, "#/badge")]
    public void What_is_wrong_is_refused_at_its_place(string members, string place) =>
        Assert.Equal(place, Assert.Single(Read(members).Faults).Where);

    [Fact]
    public void A_span_holds_both_its_ends_and_says_when_it_changes()
    {
        DateOnly Day(int day) => new(2027, 3, day);
        var span = new DaySpan(Day(3), Day(5));
        Assert.Equal([false, true, true, true, false], Enumerable.Range(2, 5).Select(d => span.Holds(Day(d))));
        Assert.Equal([Day(3), Day(6), Day(6), Day(6), null], Enumerable.Range(2, 5).Select(d => span.NextChange(Day(d))));
        Assert.Null(new DaySpan(null, null).NextChange(Day(1)));
        Assert.Null(new DaySpan(null, DateOnly.MaxValue).NextChange(Day(1)));
    }

    [Fact]
    public void What_is_sold_until_a_day_is_refused_after_it()
    {
        var (product, _) = Read(""" "base": { "price": "5.00" }, "shelf": { "from": "2027-03-03", "until": "2027-03-05" } """);
        var range = new PublishedRange.Of([RandomRules.Edition(product!, 1)]);
        string? Why(int day)
        {
            var faults = new List<Fault>();
            _ = new LineCompletion(range, new DateOnly(2027, 3, day), Sample.Plain).Complete(
                new LineRequest("A", null, [], 1, null),
                "#",
                faults
            );
            return faults.FirstOrDefault()?.What;
        }
        Assert.Equal("A can be ordered from 3 March 2027.", Why(2));
        Assert.Null(Why(3) ?? Why(5));
        Assert.Equal("A could be ordered until 5 March 2027.", Why(6));
    }
}
