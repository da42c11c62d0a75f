namespace Unicus.Core.Assembling.Lists;

using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Range;
using Unicus.Core.Rules;
using Unicus.Core.Stock;
using Unicus.Core.Variants;

/// <summary>Which values of a variant option can be bought now.</summary>
/// <param name="Option">The option's key.</param>
/// <param name="Values">By place of the value: whether a variant that has it, agrees with the other answers and stands by the rules can
/// be bought.</param>
public sealed record ValuesInStock(Key Option, ImmutableArray<bool> Values)
{
    /// <summary>What is answered of the extras is held against so many variants at most; beyond that they count as they are.</summary>
    private const int MostChecks = 400;

    /// <summary>Finds them for all variant options in one pass over the variants.</summary>
    /// <param name="edition">The product.</param>
    /// <param name="answers">What was answered.</param>
    /// <param name="stock">What there is.</param>
    /// <param name="isPart">Whether it comes as a part, whose quantity is bound by its slot and not by its own terms.</param>
    public static ImmutableArray<ValuesInStock> Of(Edition edition, Configuration answers, StockOutlook stock, bool isPart = false)
    {
        var (options, made, rules) = (edition.Matrix.Options, edition.Matrix.Made, edition.Configurator.Rules);
        var given = options.Select(o => answers[o.Key] is Answer.Value v ? o.PlaceOf(v.Key) : -1).ToArray();
        var found = options.Select(o => new bool[o.Values.Length]).ToArray();
        var left = found.Sum(b => b.Length);
        // What is given of the extras may rule a variant out; where no rule acts it cannot.
        var checks = rules.Book.Acting.IsEmpty ? 0 : MostChecks;
        foreach (var number in made.Made())
        {
            var news = NewsOf(number, made, given, found);
            if (news.Count == 0 || !edition.Matrix.IsOffered(number))
                continue;
            var variant = edition.Matrix.At(number);
            if (!edition.Product.IsSet && !stock.Of(variant).CanSell(isPart ? 1 : variant.Selling.Least))
                continue;
            var picked = variant.Values.Pairs.Aggregate(answers, (a, p) => a.With(p.Option, new Answer.Value(p.Value)));
            if (checks > 0 && !rules.IsValid(picked))
            {
                checks--;
                continue;
            }
            foreach (var option in news)
                found[option][made.ValueAt(number, option)] = true;
            left -= news.Count;
            if (left == 0)
                break;
        }
        return [.. options.Select((o, i) => new ValuesInStock(o.Key, [.. found[i]]))];
    }

    /// <summary>The options for which a combination would say something new: it differs from the answers in none, or in that
    /// one.</summary>
    private static List<int> NewsOf(int number, MadeSet made, int[] given, bool[][] found)
    {
        var differing = -1;
        for (var i = 0; i < given.Length; i++)
        {
            if (given[i] < 0 || made.ValueAt(number, i) == given[i])
                continue;
            if (differing >= 0)
                return [];
            differing = i;
        }
        var news = new List<int>();
        for (var i = 0; i < given.Length; i++)
            if ((differing < 0 || i == differing) && !found[i][made.ValueAt(number, i)])
                news.Add(i);
        return news;
    }
}
