namespace Unicus.Core.Documents;

using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using Unicus.Core.Money;
using Unicus.Core.Options;

/// <summary>A place in a JSON document that knows its pointer, so that every fault says where it is.</summary>
/// <remarks>Missing members and JSON null both count as absent.</remarks>
public readonly struct Node
{
    /// <summary>So many faults are told at most; what is wrong beyond them is heard of once these are mended.</summary>
    public const int MostFaults = 200;

    /// <summary>So many elements of a list are taken where nothing else is said.</summary>
    public const int MostItems = 1000;

    /// <summary>So many members of an object are looked at.</summary>
    private const int MostMembers = 2000;

    private readonly JsonElement _json;
    private readonly Place _place;
    private readonly string? _name;
    private readonly ICollection<Fault> _faults;

    /// <summary>Makes a node; a null or undefined element is one that does not exist.</summary>
    public Node(JsonElement? json, string pointer, ICollection<Fault> faults)
        : this(json ?? default, new Place(null, pointer, 0), faults) { }

    private Node(JsonElement json, Place place, ICollection<Fault> faults) => (_json, _place, _faults) = (json, place, faults);

    /// <summary>A member; what holds nothing needs no place for others.</summary>
    private Node(JsonElement json, Place above, string name, ICollection<Fault> faults)
    {
        (_json, _faults) = (json, faults);
        (_place, _name) = json.ValueKind is JsonValueKind.Object or JsonValueKind.Array ? (new Place(above, name, 0), null) : (above, name);
    }

    /// <summary>Where a node stands: below another one, under a name or at a place of a list. The pointer is put together only for a
    /// fault.</summary>
    private sealed record Place(Place? Above, string? Name, int Number)
    {
        public override string ToString() =>
            Above is null ? Name! : $"{Above}/{(Name is null ? Number.ToString(CultureInfo.InvariantCulture) : Escaped(Name))}";
    }

    /// <summary>The place that others stand below.</summary>
    private Place OwnPlace => _name is null ? _place : new Place(_place, _name, 0);

    /// <summary>The same place, with its faults told to another list.</summary>
    public Node Telling(ICollection<Fault> faults) => new(_json, OwnPlace, faults);

    /// <summary>A fault for each name that stands in a list more than once.</summary>
    /// <param name="names">What must be unique.</param>
    /// <param name="what">What has the name, as a sentence begins: “An option”.</param>
    internal void Unique(IEnumerable<string> names, string what)
    {
        foreach (var twice in names.GroupBy(n => n).Where(g => g.Skip(1).Any()))
            Fault($"{what} stands here {twice.Count()} times: {twice.Key}.");
    }

    /// <summary>Whether anything stands here; <c>null</c> does not count.</summary>
    public bool Exists => Kind is not (JsonValueKind.Null or JsonValueKind.Undefined);

    /// <summary>The kind of value.</summary>
    public JsonValueKind Kind => _json.ValueKind;

    /// <summary>Where it stands, as a JSON pointer (RFC 6901).</summary>
    public string Pointer => OwnPlace.ToString();

    /// <summary>Tells a fault of this node, as long as no more than <see cref="MostFaults"/> were told.</summary>
    public void Fault(string what)
    {
        if (_faults.Count < MostFaults)
            _faults.Add(new Fault(Pointer, what));
    }

    /// <summary>Whether it is an object; tells a fault where it is not.</summary>
    public bool IsObject(string what)
    {
        if (Kind == JsonValueKind.Object)
            return true;
        Fault($"This is not {what}: {{…}} is needed.");
        return false;
    }

    /// <summary>Whether it has a member, other than <c>null</c>.</summary>
    public bool Has(string name) =>
        Kind == JsonValueKind.Object && _json.TryGetProperty(name, out var found) && found.ValueKind != JsonValueKind.Null;

    /// <summary>The member of a name; one that does not exist where there is none.</summary>
    public Node At(string name)
    {
        var member = Kind == JsonValueKind.Object && _json.TryGetProperty(name, out var found) ? found : default;
        return new Node(member, OwnPlace, name, _faults);
    }

    /// <summary>Refuses every member that is not named, and any that stands twice.</summary>
    public void Only(params string[] names)
    {
        if (Kind != JsonValueKind.Object)
            return;
        Span<bool> seen = stackalloc bool[names.Length];
        var count = 0;
        foreach (var member in _json.EnumerateObject())
        {
            if (count++ == MostMembers)
            {
                Fault(TooManyMembers);
                return;
            }
            var name = member.Name;
            var place = Array.IndexOf(names, name);
            // Not asked for by its name again, which would look through all the members for each of them.
            if (place < 0)
                Member(member).Fault($"The field “{(name.Length > 60 ? name[..60] + "…" : name)}” is not known here.");
            else if (seen[place])
                Member(member).Fault($"The field “{name}” stands here twice.");
            else
                seen[place] = true;
        }
    }

    private static string TooManyMembers => $"At most {MostMembers:N0} fields stand in an object.";

    /// <summary>Tells a fault for each of these members that is missing.</summary>
    public void Require(params string[] names)
    {
        foreach (var name in names)
            if (!Has(name))
                At(name).Fault($"{name} is missing.");
    }

    /// <summary>The members of an object, up to more than any object of ours has.</summary>
    public IEnumerable<(string Name, Node Value)> Members()
    {
        if (Kind != JsonValueKind.Object)
            yield break;
        var count = 0;
        foreach (var member in _json.EnumerateObject())
        {
            if (count++ == MostMembers)
            {
                Fault(TooManyMembers);
                yield break;
            }
            yield return (member.Name, Member(member));
        }
    }

    private Node Member(JsonProperty member) => new(member.Value, OwnPlace, member.Name, _faults);

    /// <summary>The elements of a list; none, with a fault, where there are more than <paramref name="most"/>.</summary>
    public IEnumerable<Node> Items(string name, int most = MostItems)
    {
        var node = At(name);
        if (!node.Exists)
            return [];
        if (node.Kind == JsonValueKind.Array)
            return node.Elements(most);
        node.Fault("A list […] is needed.");
        return [];
    }

    /// <summary>The element of a list with this place, from 0.</summary>
    public Node Item(int place) =>
        new(
            Kind == JsonValueKind.Array && place < _json.GetArrayLength() ? _json[place] : default,
            new Place(OwnPlace, null, place),
            _faults
        );

    /// <inheritdoc cref="Items"/>
    public IEnumerable<Node> Elements(int most = MostItems)
    {
        // The length is known before anything is read.
        var length = _json.GetArrayLength();
        if (length > most)
        {
            Fault($"At most {most:N0} stand in this list; these are {length:N0}.");
            return [];
        }
        var list = new List<Node>(length);
        foreach (var item in _json.EnumerateArray())
            list.Add(new Node(item, new Place(OwnPlace, null, list.Count), _faults));
        return list;
    }

    /// <summary>A copy of what stands here; null where it is JSON null or missing.</summary>
    public System.Text.Json.Nodes.JsonNode? AsJson() => Exists ? System.Text.Json.Nodes.JsonNode.Parse(_json.GetRawText()) : null;

    /// <summary>A JSON number, or a plain decimal number as a text.</summary>
    public decimal? AsNumber() => Kind == JsonValueKind.Number && _json.TryGetDecimal(out var number) ? number : Plain(AsText());

    /// <summary>The text; null where it is none.</summary>
    public string? AsText() => Kind == JsonValueKind.String ? _json.GetString() : null;

    /// <summary>A text of at most <paramref name="longest"/> characters without control characters but line breaks and tabs; null if
    /// absent.</summary>
    public string? Text(string name, int longest)
    {
        var node = At(name);
        if (!node.Exists)
            return null;
        if (node.AsText() is not { } text)
        {
            node.Fault("A text is needed.");
            return null;
        }
        if (text.Length > longest)
            node.Fault($"At most {longest:N0} characters; this has {text.Length:N0}.");
        if (text.Any(c => char.IsControl(c) && c is not ('\n' or '\r' or '\t')))
            node.Fault("The text holds control characters.");
        return text;
    }

    /// <summary>A text of at most 120 characters that must not be empty; a fault where it is.</summary>
    public string Label(string name)
    {
        var label = (Text(name, TypedValues.LongestLabel) ?? "").Trim();
        if (Has(name) && label.Length == 0)
            At(name).Fault("A label is not empty.");
        return label;
    }

    /// <summary>A list of texts; a fault for each that is none or too long.</summary>
    public ImmutableArray<string> Texts(string name, int longest)
    {
        var texts = ImmutableArray.CreateBuilder<string>();
        foreach (var item in Items(name))
        {
            if (item.AsText()?.Trim() is { Length: > 0 } text && text.Length <= longest)
                texts.Add(text);
            else
                item.Fault($"A text of 1 to {longest} characters is needed.");
        }
        return [.. texts.Distinct(StringComparer.OrdinalIgnoreCase)];
    }

    /// <summary>A key; null where there is none, or where it has another shape, with a fault.</summary>
    public Key? Key(string name)
    {
        var node = At(name);
        if (!node.Exists)
            return null;
        if (Options.Key.TryParse(node.AsText() ?? " ", out var key))
            return key;
        node.Fault($"A key is {Options.Key.Shape}.");
        return null;
    }

    /// <summary>True or false; null where there is neither, with a fault where something else stands.</summary>
    public bool? Flag(string name)
    {
        var node = At(name);
        if (!node.Exists)
            return null;
        if (node.Kind is JsonValueKind.True or JsonValueKind.False)
            return node.Kind == JsonValueKind.True;
        node.Fault("true or false is needed.");
        return null;
    }

    /// <summary>A day like 2027-05-03; null where there is none, with a fault where something else stands.</summary>
    public DateOnly? Day(string name)
    {
        var node = At(name);
        if (!node.Exists)
            return null;
        if (DateOnly.TryParseExact(node.AsText(), "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var day))
            return day;
        node.Fault("A day like 2027-05-03 is needed.");
        return null;
    }

    /// <summary>A whole number within bounds, both inclusive; null where there is none, with a fault where it lies outside.</summary>
    public int? Whole(string name, int least, int most)
    {
        var node = At(name);
        if (!node.Exists)
            return null;
        if (node.Kind == JsonValueKind.Number && node._json.TryGetInt32(out var n) && n >= least && n <= most)
            return n;
        node.Fault($"A whole number from {least:N0} to {most:N0} is needed.");
        return null;
    }

    /// <summary>A decimal number as a text within bounds, both inclusive; null where there is none, with a fault where it is
    /// wrong.</summary>
    public decimal? Decimal(string name, decimal least, decimal most)
    {
        var node = At(name);
        if (!node.Exists)
            return null;
        if (Plain(node.AsText()) is { } value && value >= least && value <= most)
            return value;
        node.Fault($"A decimal number as a text, such as \"12.5\", from {least} to {most} is needed.");
        return null;
    }

    /// <summary>An amount of the currency; null where there is none, with a fault where it is wrong or has more decimals than the
    /// currency.</summary>
    public Money? Money(string name, Currency currency, bool mayBeNegative = false)
    {
        var node = At(name);
        if (!node.Exists)
            return null;
        if (Plain(node.AsText()) is not { } value)
            node.Fault("An amount is a decimal text such as \"184.00\".");
        else if (value < 0 && !mayBeNegative)
            node.Fault("A price is not negative.");
        else if (Math.Abs(value) > Unicus.Core.Money.Money.Most)
            node.Fault($"That is more than {Unicus.Core.Money.Money.Most:N0}.");
        else if (decimal.Round(value, currency.MinorUnits) != value)
            node.Fault($"{currency.Code} has {currency.MinorUnits} decimals; this has more.");
        else
            return new Money(value, currency);
        return null;
    }

    private static decimal? Plain(string? text) =>
        decimal.TryParse(text, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var value)
            ? value
            : null;

    private static string Escaped(string name) => name.Replace("~", "~0").Replace("/", "~1");
}
