using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Waits for whoever does the same just now; each lock is held until the transaction ends.</summary>
internal static class Locks
{
    /// <summary>“CODE”: whoever makes a product code out of a name.</summary>
    private const long Codes = 0x434F4445;

    /// <summary>“CATE”: whoever names a category.</summary>
    private const long Categories = 0x43415445;

    /// <summary>“PRIC”: whoever changes price rules, groups and lists of codes.</summary>
    private const long Prices = 0x50524943;

    /// <summary>Changes price rules while nobody else does.</summary>
    public static Task PriceRules(UnicusContext db) => db.Database.ExecuteSqlAsync($"select pg_advisory_xact_lock({Prices})");

    /// <summary>Counts the uses of a rule while nobody else does.</summary>
    public static Task RuleUses(UnicusContext db, string rule) =>
        db.Database.ExecuteSqlAsync($"select pg_advisory_xact_lock(hashtextextended('rule ' || {rule}, 0))");

    /// <summary>Names a category that nobody else names so at the same time.</summary>
    public static Task CategoryNames(UnicusContext db) => db.Database.ExecuteSqlAsync($"select pg_advisory_xact_lock({Categories})");

    /// <summary>Makes a code from a name that nobody else makes at the same time.</summary>
    public static Task NewCodes(UnicusContext db) => db.Database.ExecuteSqlAsync($"select pg_advisory_xact_lock({Codes})");

    /// <summary>Creates or replaces one product as a whole.</summary>
    public static Task Product(UnicusContext db, string code) =>
        db.Database.ExecuteSqlAsync($"select pg_advisory_xact_lock(hashtextextended('product ' || {code.ToUpperInvariant()}, 0))");
}
