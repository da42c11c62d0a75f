namespace Unicus.Core.Documents.Baskets;

using System.Text.Json.Nodes;
using Unicus.Core.Options;
using Unicus.Core.Rules;

/// <summary>Answers as requests and kept baskets write them: an object of question and answer; null or an empty list means deliberately
/// none.</summary>
public static class AnswerDocument
{
    /// <summary>Reads answers in the order in which they stand; every fault has the pointer of its answer.</summary>
    /// <param name="node">Where it stands in a document; takes the faults.</param>
    /// <param name="questions">What is asked, in its order.</param>
    /// <param name="today">The day that dates are counted from.</param>
    public static Configuration Read(Node node, IReadOnlyList<Option> questions, DateOnly today)
    {
        var given = Configuration.Empty;
        if (!node.Exists || !node.IsObject("an object of answers"))
            return given;
        foreach (var (name, value) in node.Members())
        {
            if (questions.FirstOrDefault(q => q.Key.Text == name) is not { } question)
                value.Fault($"There is no option {name}.");
            else if (ExtraReader.Answer(value, question, today) is { } answer)
                given = given.With(question.Key, answer);
        }
        return given;
    }

    /// <summary>Writes answers in the order in which they were given.</summary>
    public static JsonObject Write(Configuration given, IReadOnlyList<Option> questions)
    {
        var json = new JsonObject();
        foreach (var (key, answer) in given.Given)
            json[key.Text] = Write(answer, questions.FirstOrDefault(q => q.Key == key));
        return json;
    }

    /// <summary>One answer; null for deliberately none, and for an open question.</summary>
    public static JsonNode? Write(Answer? answer, Option? question) =>
        answer switch
        {
            null => null,
            Answer.None => question?.Ask == Ask.Several ? new JsonArray() : null,
            Answer.Ticks => new JsonArray([.. AnswerText.Write(answer).Select(t => (JsonNode)t!)]),
            _ => AnswerText.Write(answer)[0],
        };
}
