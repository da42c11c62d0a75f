using System.Collections.Immutable;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.Primitives;
using Unicus.Web.Workbench;

namespace Unicus.Browser.Tests;

/// <summary>The sentence builder's form by itself.</summary>
public class RuleFormTests
{
    private static readonly ImmutableArray<Option> Questions =
    [
        Question("depth", OptionRole.Variant, Ask.One, "shallow", "deep"),
        Question("roof", OptionRole.Extra, Ask.One, "flat", "gabled"),
        Question("width", OptionRole.Extra, Ask.Number),
        Question("plate", OptionRole.Extra, Ask.Text),
    ];

    private static Option Question(string key, OptionRole role, Ask ask, params string[] values) =>
        new(Key.Of(key), key, role) { Ask = ask, Values = [.. values.Select(v => new OptionValue(Key.Of(v), v))] };

    private static FormCollection Form(params string[] fields) =>
        new(
            fields.Select(f => f.Split('=', 2)).GroupBy(f => f[0]).ToDictionary(g => g.Key, g => new StringValues([.. g.Select(f => f[1])]))
        );

    /// <summary>Law: a condition shown in the builder and taken back means the same, for 500 random ones.</summary>
    [Fact]
    public void What_the_builder_shows_is_what_it_takes()
    {
        var random = new Random(5);
        for (var i = 0; i < 500; i++)
        {
            var condition = Some(random, 3);
            var back = WhenNode.From(condition).ToCondition();
            for (var j = 0; j < 20; j++)
            {
                var given = new Configuration([.. Questions.Where(_ => random.Next(3) > 0).Select(q => (q.Key, Any(random, q)))]);
                var visibility = new Visibility(new RuleBook(Questions, []), given);
                Assert.Equal(visibility.Holds(condition), visibility.Holds(back));
            }
        }
    }

    private static Answer Any(Random random, Option q) =>
        q.Ask switch
        {
            Ask.Number => new Answer.Number(random.Next(10)),
            Ask.Text => new Answer.Text("x"),
            _ => new Answer.Value(q.Values[random.Next(2)].Key),
        };

    private static Condition Some(Random random, int depth)
    {
        ImmutableArray<Condition> Of() => [.. Enumerable.Range(0, random.Next(4)).Select(_ => Some(random, depth - 1))];
        if (depth > 0 && random.Next(2) == 0)
            return random.Next(3) switch
            {
                0 => new Condition.All(Of()),
                1 => new Condition.Any(Of()),
                _ => new Condition.Not(Some(random, depth - 1)),
            };
        return random.Next(4) switch
        {
            0 => new Condition.Is(Key.Of("roof"), [Key.Of("gabled")]),
            1 => new Condition.AtLeast(Key.Of("width"), random.Next(10)),
            2 => new Condition.Answered(Key.Of("plate")),
            _ => new Condition.Is(Key.Of("depth"), [Key.Of("deep")]),
        };
    }

    [Theory]
    [InlineData("add:", "When depth is deep and depth is shallow, hide plate.")]
    [InlineData("group:", "When depth is deep and depth is shallow, hide plate.")]
    [InlineData("drop:0", "Always hide plate.")]
    [InlineData("effect", "When depth is deep, hide plate and roof cannot be gabled.")]
    [InlineData("drop:7.3", "When depth is deep, hide plate.")]
    [InlineData("nonsense:x.y", "When depth is deep, hide plate.")]
    public void An_act_changes_the_sentence(string act, string sentence) =>
        Assert.Equal(
            sentence,
            RuleForm
                .Read(
                    "",
                    Form(
                        "c.kind=all",
                        "c.n=1",
                        "c.0.kind=is",
                        "c.0.q=depth",
                        "c.0.v=deep",
                        "e.n=1",
                        "e.0.kind=hide",
                        "e.0.q=plate",
                        $"act={act}"
                    ),
                    Questions
                )
                .Sentence
        );

    [Theory]
    [InlineData("c.0.kind=is", "c.0.q=plate", "When plate is answered, hide roof.")]
    [InlineData("c.0.kind=is", "c.0.q=width", "When width is at least 1, hide roof.")]
    [InlineData("c.0.kind=least", "c.0.q=roof", "When roof is flat, hide roof.")]
    [InlineData("c.0.kind=is", "c.0.q=gone", "When depth is shallow, hide roof.")]
    public void A_comparison_fits_itself_to_the_question_that_is_chosen(string kind, string question, string sentence) =>
        Assert.Equal(
            sentence,
            RuleForm.Read("", Form("c.kind=all", "c.n=1", kind, question, "e.n=1", "e.0.kind=hide", "e.0.q=roof"), Questions).Sentence
        );

    [Theory]
    [InlineData("hide", "depth", "depth cannot be deep")]
    [InlineData("forbid", "plate", "hide plate")]
    [InlineData("allow", "roof", "roof can only be gabled")]
    public void An_effect_fits_itself_too(string kind, string question, string words) =>
        Assert.Contains(
            words,
            RuleForm.Read("", Form("c.kind=all", "c.n=0", "e.n=1", $"e.0.kind={kind}", $"e.0.q={question}"), Questions).Sentence,
            StringComparison.Ordinal
        );

    [Fact]
    public void What_cannot_be_kept_says_why()
    {
        Assert.Contains(
            "not a number",
            RuleForm
                .Read(
                    "",
                    Form("c.kind=all", "c.n=1", "c.0.kind=least", "c.0.q=width", "c.0.b=wide", "e.n=1", "e.0.kind=hide", "e.0.q=plate"),
                    Questions
                )
                .Problem,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "in two effects of one kind",
            RuleForm
                .Read(
                    "",
                    Form(
                        "c.kind=all",
                        "c.n=0",
                        "e.n=2",
                        "e.0.kind=forbid",
                        "e.0.q=roof",
                        "e.0.v=flat",
                        "e.1.kind=forbid",
                        "e.1.q=roof",
                        "e.1.v=gabled"
                    ),
                    Questions
                )
                .Problem,
            StringComparison.Ordinal
        );
    }

    [Theory]
    [InlineData("label=Roof", "ask=Several", "min=2", "max=1", "fewer than the least")]
    [InlineData("label=Width", "ask=Number", "least=5", "most=1", "below the smallest")]
    [InlineData("label=Width", "ask=Number", "step=0", "unit=cm", "above 0")]
    [InlineData("label=Day", "ask=Date", "earliest=9", "latest=2", "before the earliest")]
    [InlineData("label= ", "ask=Text", "x=", "y=", "needs a name")]
    [InlineData("label=Text", "ask=Text", "maxLength=3", "default=long", "Beforehand")]
    [InlineData("label=Width", "ask=Number", "table=30\t4\n20\t5", "by=", "rise")]
    public void An_extra_that_cannot_be_meant_says_why(string a, string b, string c, string d, string why) =>
        Assert.Contains(why, ExtraForm.Read(Questions[1], Form(a, b, c, d), Currency.Euro, Questions).Problem, StringComparison.Ordinal);

    [Fact]
    public void An_extra_is_taken_as_typed()
    {
        var read = ExtraForm.Read(
            Questions[1],
            Form(
                "label=Roof shape",
                "ask=One",
                "required=yes",
                "help=Steep or not",
                "default=gabled",
                "v-flat-label=Flat",
                "v-gabled-label=Gabled",
                "v-gabled-surcharge=24",
                "v-gabled-cost=11",
                "v-gabled-part=2 × stand"
            ),
            Currency.Euro,
            Questions
        );
        var (roof, gabled) = (read.Value!, read.Value!.Values[1]);
        Assert.Equal(("Roof shape", true, "Steep or not", Key.Of("gabled")), (roof.Label, roof.Required, roof.Help, roof.Default!.Value));
        Assert.Equal(
            ("24.00", "11.00", new ValuePart("stand", 2)),
            (gabled.Surcharge!.ForPeople(), gabled.Cost!.Value.ToString(), gabled.Part)
        );
    }
}
