using System.Security.Cryptography;
using System.Text;

namespace Unicus.Store;

/// <summary>Makes what nobody can guess, and what is kept of it.</summary>
public static class Secrets
{
    /// <summary>A text of 256 random bits, in letters that addresses may hold.</summary>
    public static string New() =>
        Convert.ToBase64String(RandomNumberGenerator.GetBytes(32)).TrimEnd('=').Replace('+', '-').Replace('/', '_');

    /// <summary>SHA-256 in hexadecimal digits: enough for what is random, since it cannot be tried out.</summary>
    public static string HashOf(string secret) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(secret)));

    /// <summary>A code that people copy by hand: groups of letters and digits that are not mistaken for each other.</summary>
    /// <param name="groups">Of five characters each, which is 25 bits.</param>
    public static string NewCode(int groups) =>
        string.Join('-', Enumerable.Range(0, groups).Select(_ => RandomNumberGenerator.GetString("ABCDEFGHJKLMNPQRSTUVWXYZ23456789", 5)));

    /// <summary>A code as it was made, however it was typed.</summary>
    public static string Tidied(string? code) => new([.. (code ?? "").Where(char.IsAsciiLetterOrDigit).Select(char.ToUpperInvariant)]);
}
