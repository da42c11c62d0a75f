using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>The lines of kept baskets, as JSON.</summary>
public static class BasketLines
{
    /// <summary>Lets the lines of all baskets that ask for goods of a product ask for them in another, their answers to extras kept;
    /// within the caller's transaction.</summary>
    /// <param name="from">The code of the product where they were.</param>
    /// <param name="to">The code of the product where they are.</param>
    /// <param name="answers">The answers as they are asked there; null for goods that stay.</param>
    public static async Task Lead(UnicusContext db, string from, string to, Func<JsonObject, JsonObject?> answers)
    {
        var named = await db.Baskets.FromSql($"select * from baskets where lines::text like {$"%\"{from}\"%"}").ToListAsync();
        foreach (var basket in named)
        {
            var lines = JsonSerializer.Deserialize<ImmutableArray<LineRequest>>(basket.Lines);
            basket.Lines = JsonSerializer.Serialize(
                lines.Select(l => l.Product == from && answers(l.Answers) is { } now ? Lead(l, from, to, now) : l)
            );
        }
        await db.SaveChangesAsync();
    }

    private static LineRequest Lead(LineRequest line, string from, string to, JsonObject answers) =>
        line with
        {
            Product = to,
            Answers = answers,
            Through = line.Through == from ? to : line.Through,
        };
}
