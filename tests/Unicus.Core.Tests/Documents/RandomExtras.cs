namespace Unicus.CoreTests;

/// <summary>Extras of every kind, every field drawn, each one that documents take.</summary>
internal static class RandomExtras
{
    private static readonly DateOnly Today = new(2027, 3, 1);

    /// <param name="number">Makes its key one of its own.</param>
    public static Option Extra(Random random, int number)
    {
        bool One(int of) => random.Next(of) == 0;
        var ask = (Ask)random.Next(6);
        var values = ask switch
        {
            Ask.YesNo => [Value(random, "yes")],
            Ask.One or Ask.Several => Enumerable.Range(1, 1 + random.Next(4)).Select(i => Value(random, $"v{i}")).ToArray(),
            _ => [],
        };
        var extra = new Option(Key.Of($"extra-{number}"), $"Extra {number}", OptionRole.Extra)
        {
            Ask = ask,
            Help = One(3) ? "Says what it is." : null,
            Library = One(4) ? Key.Of("engraving") : null,
            Required = One(2),
            Picks = ask == Ask.Several && One(2) ? new PickLimits(random.Next(2), One(2) ? 1 + random.Next(values.Length) : null) : default,
            MaxLength = ask == Ask.Text && One(2) ? 5 + random.Next(90) : null,
            Characters = ask == Ask.Text && One(2) ? "A-Za-z " : null,
            Number =
                ask == Ask.Number && One(2)
                    ? new NumberLimits(random.Next(3), 20, One(2) ? 0.5m : null, One(2) ? "cm" : null)
                    : NumberLimits.None,
            Date =
                ask == Ask.Date && One(2)
                    ? new DateLimits(random.Next(5), One(2) ? 30 : null, One(2) ? [DayOfWeek.Sunday] : [])
                    : DateLimits.None,
            Values = [.. values],
            Surcharge = values.Length == 0 && One(2) ? Typed(random, ask) : null,
        };
        return ask switch
        {
            Ask.One or Ask.YesNo when One(3) => extra with { Default = values[0].Key },
            Ask.Several when One(3) => extra with { Preset = [values[0].Key.Text] },
            Ask.Number when One(3) => extra with { Preset = ["12.5"] },
            Ask.Text when One(3) => extra with { Preset = ["Apis"] },
            _ => extra,
        };
    }

    /// <summary>An answer that the extra takes, deliberately none included.</summary>
    public static Answer Answer(Random random, Option extra) =>
        extra.Ask switch
        {
            _ when random.Next(5) == 0 => new Answer.None(),
            Ask.One or Ask.YesNo => new Answer.Value(extra.Values[random.Next(extra.Values.Length)].Key),
            Ask.Several => Ticks(extra, 1 + random.Next(extra.Picks.Max ?? extra.Values.Length)),
            Ask.Number => new Answer.Number(2 + random.Next(30) * 0.5m),
            Ask.Text => new Answer.Text(random.Next(2) == 0 ? "Bees" : "A"),
            // A Tuesday to a Saturday of the week after next.
            _ => new Answer.Date(Today.AddDays(15 + random.Next(5))),
        };

    private static Answer.Ticks Ticks(Option extra, int many) => new([.. extra.Values.Take(many).Select(v => v.Key)]);

    private static OptionValue Value(Random random, string key) =>
        new(Key.Of(key), key == "yes" ? "Yes" : $"Value {key}")
        {
            SkuCode = random.Next(3) == 0 ? $"K{random.Next(99)}" : null,
            Swatch = random.Next(4) switch
            {
                0 => new Swatch.Colour("#c08020"),
                1 => new Swatch.Stripes(["#c08020", "#102030"]),
                _ => null,
            },
            Surcharge = random.Next(2) == 0 ? Plain(random) : null,
            Cost = random.Next(2) == 0 ? Sample.Eur(random.Next(900) / 100m) : null,
            Part = random.Next(4) == 0 ? new ValuePart($"PART-{random.Next(9)}", 1 + random.Next(3)) : null,
        };

    private static Surcharge Plain(Random random) =>
        random.Next(3) switch
        {
            0 => new Surcharge.PerUnit(Amount(random)),
            1 => new Surcharge.Once(Amount(random)),
            _ => new Surcharge.Percent(new Percentage(random.Next(-500, 900) / 10m)),
        };

    private static Surcharge Typed(Random random, Ask ask) =>
        (ask, random.Next(4)) switch
        {
            (Ask.Text, 0) => new Surcharge.PerCharacter(Sample.Eur(random.Next(90) / 100m), random.Next(2) == 0 ? Sample.Eur(2) : null),
            (Ask.Number, 0) => new Surcharge.PerMeasure(Amount(random)),
            (Ask.Number, 1) => new Surcharge.Table(null, [Row(10, 0), Row(20, 0)]),
            _ => Plain(random),
        };

    private static TableRow Row(decimal most, decimal column) => new(most, [new TableCell(column, Sample.Eur(most / 4))]);

    private static Money Amount(Random random) => Sample.Eur(random.Next(-900, 3_000) / 100m);
}
