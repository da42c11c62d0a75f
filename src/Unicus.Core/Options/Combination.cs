namespace Unicus.Core.Options;

using System.Collections.Immutable;
using System.Runtime.InteropServices;

/// <summary>A set of (option, value): the identity of a variant, or a part of one. The order of options does not matter.</summary>
public sealed class Combination : IEquatable<Combination>
{
    private Combination(ImmutableArray<(Key Option, Key Value)> pairs, string text) => (Pairs, Text) = (pairs, text);

    /// <summary>The combination of no options.</summary>
    public static Combination Empty { get; } = new([], "");

    /// <summary>The pairs, ordered by the option's key.</summary>
    public ImmutableArray<(Key Option, Key Value)> Pairs { get; }

    /// <summary>The one canonical text: <c>depth=deep,timber=cedar</c>; empty for a product without options.</summary>
    public string Text { get; }

    /// <exception cref="ArgumentException">An option is named twice.</exception>
    public static Combination Of(IEnumerable<(Key Option, Key Value)> pairs)
    {
        var sorted = pairs.OrderBy(p => p.Option).ToImmutableArray();
        for (var i = 1; i < sorted.Length; i++)
            if (sorted[i].Option == sorted[i - 1].Option)
                throw new ArgumentException($"{sorted[i].Option} is answered twice.", nameof(pairs));
        return sorted.IsEmpty ? Empty : new Combination(sorted, string.Join(',', sorted.Select(p => $"{p.Option}={p.Value}")));
    }

    /// <summary>Takes pairs that are in order already, with their text.</summary>
    internal static Combination Sorted((Key Option, Key Value)[] pairs, string text) =>
        pairs.Length == 0 ? Empty : new Combination(ImmutableCollectionsMarshal.AsImmutableArray(pairs), text);

    /// <summary>Reads the canonical text back.</summary>
    /// <exception cref="FormatException">The text is not one that <see cref="Text"/> writes.</exception>
    public static Combination Parse(string text) =>
        text.Length == 0
            ? Empty
            : Of(
                text.Split(',')
                    .Select(pair =>
                    {
                        var at = pair.IndexOf('=');
                        return at < 0
                            ? throw new FormatException($"“{text}” is not a combination.")
                            : (Key.Of(pair[..at]), Key.Of(pair[(at + 1)..]));
                    })
            );

    /// <summary>The value of an option, or null if the option is not among the pairs.</summary>
    public Key? this[Key option]
    {
        get
        {
            foreach (var pair in Pairs)
                if (pair.Option == option)
                    return pair.Value;
            return null;
        }
    }

    /// <summary>The combination with a value of an option in place of the one it had.</summary>
    public Combination With(Key option, Key value) => Of(Pairs.Where(p => p.Option != option).Append((option, value)));

    /// <summary>The combination without an option.</summary>
    public Combination Without(Key option) => Of(Pairs.Where(p => p.Option != option));

    /// <summary>Whether every pair of this stands in <paramref name="other"/> too.</summary>
    public bool IsWithin(Combination other)
    {
        foreach (var pair in Pairs)
            if (other[pair.Option] != pair.Value)
                return false;
        return true;
    }

    /// <summary>The labels in the order of the options: “Deep, cedar”.</summary>
    public string Name(IEnumerable<Option> options)
    {
        var labels = options
            .Select(o =>
                this[o.Key] is not { } v ? null
                : o.Find(v) is { } value
                    ? value.DoesNotApply ? null
                        : value.Label
                : v.Text
            )
            .Where(l => l is not null);
        return string.Join(", ", labels);
    }

    /// <summary>Whether two combinations have the same values.</summary>
    public static bool operator ==(Combination? a, Combination? b) => a?.Text == b?.Text;

    /// <summary>Whether two combinations differ in a value.</summary>
    public static bool operator !=(Combination? a, Combination? b) => !(a == b);

    /// <summary>Whether the other combination has the same values.</summary>
    public bool Equals(Combination? other) => other is not null && Text == other.Text;

    /// <inheritdoc/>
    public override bool Equals(object? obj) => Equals(obj as Combination);

    /// <inheritdoc/>
    public override int GetHashCode() => Text.GetHashCode(StringComparison.Ordinal);

    /// <inheritdoc/>
    public override string ToString() => Text;
}
