using System.Globalization;
using System.Text;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>A search as typed, made ready for the database.</summary>
/// <param name="Query">In the form of <c>to_tsquery</c>; empty where nothing can be found.</param>
/// <param name="Instead">The words that it was read as, where a word was a slip of typing; null where all were found.</param>
public sealed record ReadySearch(string Query, string? Instead);

/// <summary>The words by which products are found: folded, in any order, by their beginnings, and with small slips of typing.</summary>
public static class SearchWords
{
    private const int MostWords = 8;
    private const int LongestWord = 40;
    private const int MostAlternatives = 3;

    /// <summary>Small letters without marks: “Größe” and “grosse” are the same.</summary>
    public static string Fold(string text)
    {
        var plain = new StringBuilder(text.Length);
        foreach (var c in text.Normalize(NormalizationForm.FormD))
            if (CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark)
                plain.Append(c == 'ß' ? "ss" : char.ToLowerInvariant(c));
        return plain.ToString().Normalize(NormalizationForm.FormC);
    }

    /// <summary>The different words of a text, folded.</summary>
    public static IReadOnlyList<string> Of(string text)
    {
        var words = new List<string>();
        var word = new StringBuilder();
        foreach (var c in Fold(text).Append(' '))
        {
            if (char.IsLetterOrDigit(c))
            {
                word.Append(c);
                continue;
            }
            if (word.Length is > 0 and <= LongestWord)
                words.Add(word.ToString());
            word.Clear();
        }
        return [.. words.Distinct()];
    }

    /// <summary>Of values of options so many are looked at.</summary>
    private const int MostValues = 300;

    /// <summary>What a search of products in the back office looks at; variants are found by their SKUs there.</summary>
    public static string TextOf(Product product) => Words([product.Code.Text, Membership.TextOf(product), product.PartNumber ?? ""]);

    /// <summary>What a search of the shop looks at: the labels of options and values too.</summary>
    /// <param name="more">Its SKUs and article codes, as far as they are to be found by their pieces, and names that it had.</param>
    public static string TextOf(Product product, IEnumerable<string> more)
    {
        var options = product.Options.Concat(product.Extras).ToList();
        var values = options.SelectMany(o => o.Values).Where(v => !v.DoesNotApply).Take(MostValues);
        return Words([TextOf(product), .. options.Select(o => o.Label), .. values.Select(v => v.Label), .. more]);
    }

    private static string Words(IEnumerable<string> texts) => string.Join(' ', Of(string.Join(' ', texts)));

    /// <summary>Makes the words of a text known, so that slips of typing find them.</summary>
    public static Task Learn(UnicusContext db, string folded)
    {
        var words = folded.Split(' ', StringSplitOptions.RemoveEmptyEntries).Where(w => w.Length > 2).Distinct().Order().ToArray();
        return db.Database.ExecuteSqlAsync(
            $"""
            insert into search_words (word) select w from unnest({words}) w
            where not exists (select 1 from search_words s where s.word = w) on conflict do nothing
            """
        );
    }

    /// <summary>Makes a search ready. A word that begins none that is known is read as those nearest to it.</summary>
    public static async Task<ReadySearch> Ready(UnicusContext db, string typed)
    {
        var words = Of(typed).Take(MostWords).ToList();
        if (words.Count == 0)
            return new ReadySearch("", null);
        var likes = words.Select(w => w + "%").ToArray();
        var known = await db
            .Database.SqlQuery<string>(
                $"select l as \"Value\" from unnest({likes}) l where exists (select 1 from search_words where word like l)"
            )
            .ToListAsync();
        var terms = new List<string>();
        var instead = new List<string>();
        foreach (var word in words)
        {
            // A short word is a piece of a code; a number is no slip.
            var nearest = known.Contains(word + "%") || word.Length < 4 || word.Any(char.IsDigit) ? [] : await Nearest(db, word);
            terms.Add(nearest.Count == 0 ? $"{word}:*" : $"({string.Join(" | ", nearest.Select(n => n + ":*"))})");
            instead.Add(nearest.Count == 0 ? word : nearest[0]);
        }
        var query = string.Join(" & ", terms);
        return new ReadySearch(query, instead.SequenceEqual(words) ? null : string.Join(' ', instead));
    }

    private static async Task<IReadOnlyList<string>> Nearest(UnicusContext db, string word)
    {
        var candidates = await db
            .Database.SqlQuery<Candidate>(
                $"""
                select word as "Word", levenshtein(word, {word}) as "Slips" from search_words
                where word % {word}
                  or (left(word, 1) = left({word}, 1) and length(word) between length({word}) - 1 and length({word}) + 1)
                order by 2, similarity(word, {word}) desc, word limit 12
                """
            )
            .ToListAsync();
        var near = candidates.Where(c => c.Slips <= Allowed(word, c.Word)).ToList();
        return [.. near.TakeWhile(c => c.Slips == near[0].Slips).Take(MostAlternatives).Select(c => c.Word)];
    }

    /// <summary>One wrong letter in a short word, two in a long one; two letters that changed places are two.</summary>
    private static int Allowed(string typed, string word) => typed.Length > 6 || typed.Order().SequenceEqual(word.Order()) ? 2 : 1;

    private sealed record Candidate(string Word, int Slips);
}
