using System.Diagnostics;
using Unicus.Core;

namespace Unicus.Bench;

/// <summary>A shopper who answers one open question after the other at random, and begins anew when all are answered.</summary>
internal static class PickTimes
{
    private const int Picks = 23_000;

    /// <summary>After so many the methods are compiled as they stay in a shop that is open.</summary>
    private const int Warming = 20_000;

    /// <summary>How long each answer with its price took, in milliseconds.</summary>
    public static List<double> Of(Edition edition, StandingTerms terms)
    {
        var (random, given, times) = (new Random(9), Configuration.Empty, new List<double>());
        for (var i = 0; i < Picks; i++)
        {
            var clock = Stopwatch.GetTimestamp();
            var stands = Standing.Of(edition, given, Filling.None, terms);
            _ = stands.Price;
            if (i >= Warming)
                times.Add(Stopwatch.GetElapsedTime(clock).TotalMilliseconds);
            var open = stands.Reply.Questions.Where(q => q.Shown && q.Answer is null && q.Possible.Any(p => p)).ToList();
            if (open.Count == 0)
            {
                given = Configuration.Empty;
                continue;
            }
            var q = open[random.Next(open.Count)];
            var possible = Enumerable.Range(0, q.Possible.Length).Where(v => q.Possible[v]).ToList();
            given = given.With(q.Question.Key, new Answer.Value(q.Question.Values[possible[random.Next(possible.Count)]].Key));
        }
        return times;
    }
}
