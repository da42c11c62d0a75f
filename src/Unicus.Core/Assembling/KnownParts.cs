namespace Unicus.Core.Assembling;

using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Stock;

/// <summary>Parts of which nothing was said, as they stand in one range with one stock and one way of reckoning.</summary>
internal sealed class KnownParts(PublishedRange range, StockOutlook stock, RunTerms run)
{
    private readonly ConcurrentDictionary<Asked, ConfigurationStatus> _known = [];

    /// <summary>Whether it is about these terms.</summary>
    public bool IsOf(ConfigurationTerms terms) =>
        ReferenceEquals(terms.Range, range) && ReferenceEquals(terms.Stock, stock) && ReferenceEquals(terms.Run, run);

    /// <summary>How a part stands; what cannot be had is found anew, since that may hang on what it stands in.</summary>
    /// <param name="part">The part.</param>
    /// <param name="filling">How far what was left open is filled in.</param>
    /// <param name="quantity">Units of it in all.</param>
    /// <param name="find">Finds it where it is not known yet.</param>
    public ConfigurationStatus Of(PartOnSale part, Filling filling, int quantity, Func<ConfigurationStatus> find)
    {
        var asked = new Asked(part.Edition, part.Only?.Number ?? -1, filling, quantity);
        if (_known.TryGetValue(asked, out var known))
            return known;
        var found = find();
        if (found is { Reply.Valid: true, Needs.Problem: null, Assembled: null or { Problem: null } })
            _known.TryAdd(asked, found);
        return found;
    }

    /// <summary>What is asked for, by the very same edition: one narrowed to some variants has the same numbers.</summary>
    private readonly struct Asked(Edition edition, int variant, Filling filling, int quantity) : IEquatable<Asked>
    {
        private readonly Edition _edition = edition;
        private readonly int _variant = variant;
        private readonly Filling _filling = filling;
        private readonly int _quantity = quantity;

        public bool Equals(Asked other) =>
            ReferenceEquals(_edition, other._edition)
            && _variant == other._variant
            && _filling == other._filling
            && _quantity == other._quantity;

        public override bool Equals(object? other) => other is Asked asked && Equals(asked);

        public override int GetHashCode() => HashCode.Combine(RuntimeHelpers.GetHashCode(_edition), _variant, _filling, _quantity);
    }
}
