using Microsoft.AspNetCore.Identity;

namespace Unicus.Store;

/// <summary>What a password must be, for people and for customers alike, and how it is kept (PBKDF2, the framework's own).</summary>
/// <remarks>No rules about kinds of characters, as NIST SP 800-63B, 5.1.1.2 asks; a length, and none of those that are tried
/// first.</remarks>
public static class Passwords
{
    /// <summary>Characters at least.</summary>
    public const int Shortest = 12;

    /// <summary>Characters at most.</summary>
    public const int Longest = 200;

    private static readonly PasswordHasher<Person> Hasher = new();

    /// <summary>What is compared with where there is no such account, so that it takes as long.</summary>
    private static readonly Lazy<string> Nobodys = new(() => Hasher.HashPassword(null!, Guid.NewGuid().ToString()));

    /// <summary>What long passwords are made of that everybody tries first.</summary>
    private static readonly string[] Usual =
    [
        "password",
        "passwort",
        "qwertyuiop",
        "qwertzuiop",
        "asdfghjkl",
        "1234567890",
        "0987654321",
        "abcdefghijklmnop",
        "letmein",
        "welcome",
        "iloveyou",
        "unicus",
        "admin",
        "changeme",
        "football",
        "sunshine",
        "princess",
        "dragon",
        "monkey",
        "superman",
        "trustno",
        "baseball",
        "secret",
        "geheim",
        "hallo",
        "hello",
    ];

    /// <summary>What is wrong with a password that somebody chose; null: nothing.</summary>
    /// <param name="known">What others know of them: their name, their email.</param>
    public static string? Problem(string password, params string[] known)
    {
        if (password.Length is < Shortest or > Longest)
            return $"A password has {Shortest} to {Longest} characters. Three or four words do well.";
        return IsEasy(password.ToLowerInvariant(), [.. known.SelectMany(k => k.ToLowerInvariant().Split(['@', ' ', '.']))])
            ? "That password is among the first that are tried. Three or four words that do not belong together do well."
            : null;
    }

    public static string Hash(string password) => Hasher.HashPassword(null!, password);

    /// <summary>Whether a password is the one that was kept; takes as long where nothing was kept.</summary>
    public static bool Is(string? kept, string? password) =>
        Hasher.VerifyHashedPassword(null!, kept ?? Nobodys.Value, password is { Length: <= Longest } typed ? typed : "")
            != PasswordVerificationResult.Failed
        && kept is not null;

    /// <summary>Whether hardly anything is left once what everybody tries is taken out of it.</summary>
    private static bool IsEasy(string password, IReadOnlyList<string> known)
    {
        var rest = password;
        foreach (var piece in Usual.Concat(known).Where(p => p.Length >= 4).OrderByDescending(p => p.Length))
            rest = rest.Replace(piece, "", StringComparison.Ordinal);
        return rest.Distinct().Count() < 5;
    }
}
