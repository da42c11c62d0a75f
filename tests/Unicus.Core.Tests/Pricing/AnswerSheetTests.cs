using CsCheck;

namespace Unicus.CoreTests;

/// <summary>What answers add, laid out once, against looking at the questions one by one.</summary>
public class AnswerSheetTests
{
    private static readonly Edition Hive = Sample.OnSale(
        1,
        """
        { "format": "unicus-product/1", "code": "GH1", "name": "Garden hive", "base": { "price": "184.00" }, "options": [
          { "key": "legs", "label": "Legs", "role": "extra", "ask": "yes-no", "values": [
            { "key": "yes", "label": "yes", "surcharge": { "amount": "12.00" } } ] },
          { "key": "finish", "label": "Finish", "role": "extra", "ask": "one", "values": [
            { "key": "oil", "label": "Oil", "surcharge": { "percent": "2.5" } }, { "key": "raw", "label": "Raw" },
            { "key": "wax", "label": "Wax", "surcharge": { "once": "4.00" } },
            { "key": "off", "label": "Rubbed off", "surcharge": { "amount": "-3.10" } } ] },
          { "key": "fittings", "label": "Fittings", "role": "extra", "ask": "several", "values": [
            { "key": "strap", "label": "Strap", "surcharge": { "amount": "6.00" } },
            { "key": "stand", "label": "Stand", "part": { "sku": "STAND-1", "quantity": 1 } },
            { "key": "edge", "label": "Edge", "surcharge": { "percent": "1" } } ] },
          { "key": "name", "label": "Name", "role": "extra", "ask": "text", "surcharge": { "amount": "9.00" } },
          { "key": "mark", "label": "Mark", "role": "extra", "ask": "text",
            "surcharge": { "perCharacter": "0.40" } } ] }
        """
    );

    private static Answer? Some(Option question, Random random) =>
        question.Ask switch
        {
            _ when random.Next(3) == 0 => random.Next(2) == 0 ? null : new Answer.None(),
            Ask.Several => new Answer.Ticks([.. question.Values.Where(_ => random.Next(2) == 0).Select(v => v.Key).Reverse()]),
            Ask.Text => new Answer.Text("Thistle"),
            _ => new Answer.Value(question.Values[random.Next(question.Values.Length)].Key),
        };

    [Fact]
    public void Sums_and_steps_are_those_of_the_questions()
    {
        var compared = 0;
        Gen.Select(Gen.Int, Gen.Long[0, 100_000])
            .Sample(
                (seed, list) =>
                {
                    var (random, given) = (new Random(seed), Configuration.Empty);
                    foreach (var question in Hive.Questions.OrderBy(_ => random.Next()))
                        if (Some(question, random) is { } answer && answer is not Answer.Ticks { Keys.IsEmpty: true })
                            given = given.With(question.Key, answer);
                    var price = MinorUnits.ToMoney(list, Currency.Euro);
                    var one = new AnswerPricing(Hive.Questions, _ => null).Amounts(given, price).ToList();
                    if (Hive.Answers.Of(given, list) is not { } sum)
                    {
                        Assert.True(given[Key.Of("mark")] is Answer.Text || given[Key.Of("fittings")] is Answer.Ticks);
                        return;
                    }
                    Interlocked.Increment(ref compared);
                    Assert.Equal(one.Where(a => !a.PerLine).Sum(a => MinorUnits.Of(a.Amount)), sum.Each);
                    Assert.Equal(one.Where(a => a.PerLine).Sum(a => MinorUnits.Of(a.Amount)), sum.Once);
                    Assert.Equal(one.Select(a => a.Step()), Hive.Answers.Steps(given, list, Currency.Euro));
                },
                iter: 6_000
            );
        Assert.True(compared > 500, $"only {compared} were compared");
    }
}
