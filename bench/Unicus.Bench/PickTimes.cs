using System.Diagnostics;

namespace Unicus.Bench;

/// <summary>A shopper who answers one open question after the other at random, and begins anew when all are answered.</summary>
internal static class PickTimes
{
    private const int Picks = 23_000;

    /// <summary>After so many the methods are compiled as they stay in a shop that is open.</summary>
    private const int Warming = 20_000;

    /// <summary>How long each answer with its price took, in milliseconds.</summary>
    public static List<double> Of(Edition edition, ConfigurationTerms terms)
    {
        var (random, given, times) = (new Random(9), Configuration.Empty, new List<double>());
        for (var i = 0; i < Picks; i++)
        {
            var clock = Stopwatch.GetTimestamp();
            var stands = ConfigurationStatus.Of(edition, given, Filling.None, terms);
            _ = stands.Price;
            if (i >= Warming)
                times.Add(Stopwatch.GetElapsedTime(clock).TotalMilliseconds);
            given = Further(stands.Reply, given, random);
        }
        return times;
    }

    /// <summary>So many sets of answers, each with one more pick than the one before, or none.</summary>
    public static List<Configuration> Walk(Configurator configurator, int steps)
    {
        var (random, given, walk) = (new Random(9), Configuration.Empty, new List<Configuration>(steps));
        while (walk.Count < steps)
        {
            walk.Add(given);
            given = Further(configurator.Answer(given), given, random);
        }
        return walk;
    }

    /// <summary>The answers with one pick more, at random; none where none is open.</summary>
    private static Configuration Further(RulesReply reply, Configuration given, Random random)
    {
        var open = reply.Questions.Where(q => q.Shown && q.Answer is null && q.Possible.Any(p => p)).ToList();
        if (open.Count == 0)
            return Configuration.Empty;
        var q = open[random.Next(open.Count)];
        var possible = Enumerable.Range(0, q.Possible.Length).Where(v => q.Possible[v]).ToList();
        var key = q.Question.Values[possible[random.Next(possible.Count)]].Key;
        return given.With(q.Question.Key, q.Question.Ask == Ask.Several ? new Answer.Ticks([key]) : new Answer.Value(key));
    }
}
