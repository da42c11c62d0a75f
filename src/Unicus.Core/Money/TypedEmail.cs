namespace Unicus.Core.Money;

using System.Globalization;
using System.Text;

/// <summary>Addresses of mail as people type them.</summary>
public static class TypedEmail
{
    /// <summary>Characters at most.</summary>
    public const int Longest = 200;

    /// <summary>Reads an address; it stands in the head of messages, so it has no sign that could end a line or is not seen.</summary>
    /// <returns>The address without blanks at its ends, or what is wrong with it in a sentence.</returns>
    public static Read<string> Read(string? typed)
    {
        var text = (typed ?? "").Trim();
        if (Unseen(text) is { } unseen)
            return Read<string>.No($"An email address has no sign that cannot be seen (U+{(int)unseen:X4}).");
        var at = text.LastIndexOf('@');
        return at <= 0 || at == text.Length - 1 ? Read<string>.No("An email address has an @ with something on either side.")
            : text.Length > Longest ? Read<string>.No($"An email address has at most {Longest} characters.")
            : text.Any(char.IsWhiteSpace) ? Read<string>.No("An email address has no blanks.")
            : Read<string>.Of(text);
    }

    /// <summary>The same for addresses that reach the same person however they are written: compatible signs are one (Unicode
    /// normalisation form KC), letter case and a dot at the end do not count.</summary>
    public static string KeyOf(string email) =>
        (email.IsNormalized(NormalizationForm.FormKC) ? email : email.Normalize(NormalizationForm.FormKC))
            .Trim()
            .TrimEnd('.')
            .ToLowerInvariant();

    /// <summary>The first sign that is not seen: of control, of format, half of a pair, or a separator of lines; null where there is
    /// none.</summary>
    public static char? Unseen(string text)
    {
        for (var i = 0; i < text.Length; i++)
        {
            if (char.IsHighSurrogate(text[i]) && i + 1 < text.Length && char.IsLowSurrogate(text[i + 1]))
            {
                if (char.GetUnicodeCategory(text, i) is UnicodeCategory.Format or UnicodeCategory.PrivateUse)
                    return text[i];
                i++;
                continue;
            }
            if (
                char.GetUnicodeCategory(text[i])
                is UnicodeCategory.Control
                    or UnicodeCategory.Format
                    or UnicodeCategory.Surrogate
                    or UnicodeCategory.LineSeparator
                    or UnicodeCategory.ParagraphSeparator
            )
                return text[i];
        }
        return null;
    }
}
