using System.Collections.Immutable;

namespace Unicus.CoreTests;

/// <summary>Rules as sentences in the product's own words.</summary>
public class RuleWordsTests
{
    private static readonly RuleBook Book = new(
        [
            Sample.Option("depth", "shallow", "deep") with
            {
                Label = "Depth",
                Values = [new OptionValue(Key.Of("shallow"), "Shallow"), new OptionValue(Key.Of("deep"), "Deep")],
            },
            Sample.Option("timber", "cedar") with
            {
                Label = "Timber",
                Values =
                [
                    new OptionValue(Key.Of("cedar"), "Cedar"),
                    new OptionValue(Key.Of("pine"), "Pine"),
                    new OptionValue(Key.Of("larch"), "Larch"),
                ],
            },
            new Option(Key.Of("plate"), "Name plate", OptionRole.Extra) { Ask = Ask.Text },
            new Option(Key.Of("width"), "Width", OptionRole.Extra) { Ask = Ask.Number, Number = new NumberLimits(null, null, null, "cm") },
            new Option(Key.Of("wrap"), "Wrapping", OptionRole.Extra)
            {
                Ask = Ask.YesNo,
                Values = [new OptionValue(Key.Of("yes"), "Wrap it")],
            },
        ],
        []
    );

    private static Condition.Is Is(string question, params string[] values) =>
        new Condition.Is(Key.Of(question), [.. values.Select(Key.Of)]);

    private static Condition.Not Not(Condition condition) => new Condition.Not(condition);

    public static TheoryData<string> Sentences =>
        [
            "When Timber is not Cedar, hide Name plate.",
            "Always Width needs an answer.",
            "When Timber is Cedar, Pine or Larch, Depth cannot be Shallow or Deep.",
            "When Width is at least 12.5 cm and Name plate is answered, show Wrapping and Name plate.",
            "When Wrapping is yes and either Depth is Deep or Width is not answered, Timber can only be Larch.",
            "When none of these: Depth is Deep; Timber is Pine, hide Wrapping.",
            "When either Wrapping is yes or both Depth is Deep and Timber is Pine and Width is at most 3 cm, hide Wrapping.",
            "When Colour is red, hide Name plate.",
        ];

    [Theory]
    [MemberData(nameof(Sentences))]
    public void A_rule_is_a_sentence_without_brackets(string sentence)
    {
        var hide = (string key) => (Effect)new Effect.Hide([Key.Of(key)]);
        var deep = Is("depth", "deep");
        SelectionRule[] rules =
        [
            Rule(Not(Is("timber", "cedar")), hide("plate")),
            Rule(Condition.Always, new Effect.Require([Key.Of("width")])),
            Rule(Is("timber", "cedar", "pine", "larch"), new Effect.Forbid(Key.Of("depth"), [Key.Of("shallow"), Key.Of("deep")])),
            Rule(
                new Condition.All([new Condition.AtLeast(Key.Of("width"), 12.5m), new Condition.Answered(Key.Of("plate"))]),
                new Effect.Show([Key.Of("wrap"), Key.Of("plate")])
            ),
            Rule(
                new Condition.All([Is("wrap", "yes"), new Condition.Any([deep, Not(new Condition.Answered(Key.Of("width")))])]),
                new Effect.AllowOnly(Key.Of("timber"), [Key.Of("larch")])
            ),
            Rule(Not(new Condition.Any([deep, Is("timber", "pine")])), hide("wrap")),
            Rule(
                new Condition.All([
                    new Condition.Any([Is("wrap", "yes"), new Condition.All([deep, Is("timber", "pine")])]),
                    new Condition.AtMost(Key.Of("width"), 3),
                ]),
                hide("wrap")
            ),
            Rule(Is("colour", "red"), hide("plate")),
        ];
        Assert.Contains(
            sentence,
            rules.Select(new RuleWords(Book).Sentence).Select(s => s.Replace("colour is red", "Colour is red", StringComparison.Ordinal))
        );
    }

    private static SelectionRule Rule(Condition when, Effect then) => new(Key.Of("r"), when, [then]);

    [Theory]
    [InlineData("depth", "depth-2")]
    [InlineData("Name plate!", "name-plate")]
    [InlineData("Width", "width-2")]
    public void A_new_option_never_takes_the_key_of_an_extra(string label, string key)
    {
        var product = Sample.Hive with { Extras = [new Option(Key.Of("width"), "Width", OptionRole.Extra) { Ask = Ask.Number }] };
        Assert.Equal(key, product.FreeKey(label).Text);
    }
}
