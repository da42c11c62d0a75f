namespace Unicus.Core.Documents;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Variants;

/// <summary>Reads what a product is put together from, with a fault for everything that is wrong.</summary>
/// <param name="currency">The shop's.</param>
/// <param name="product">The code of the product that has the parts.</param>
/// <param name="questions">Its options and extras.</param>
/// <param name="stored">Whether this program wrote it: then what follows an option that is gone is left to the checks.</param>
internal sealed class PartsReader(Currency currency, string product, IReadOnlyList<Option> questions, bool stored)
{
    private const int MostEntries = 500;
    private const int MostPictures = 50;
    private const int MostPins = 100;

    /// <summary>The parts; null where there are none.</summary>
    public SetParts? Read(Node node)
    {
        if (!node.Exists || !node.IsObject("parts"))
            return null;
        node.Only(["sold", "stock", "price", "slots", "rulesReachParts", "taxClass", "arrangement", "pictures", "shows", "priceLine"]);
        var sold = PartNames.Sold.Read(node, "sold");
        var slots = node.Items("slots", SetParts.MostSlots).Select(n => ReadSlot(n)).OfType<Slot>().ToImmutableArray();
        SlotsDiffer(node, slots);
        var price = node.At("price");
        return new SetParts
        {
            Sold = sold,
            Stock = PartNames.Stock.Read(node, "stock"),
            Price = ReadPrice(price),
            RulesReachParts = (price.Exists && price.Kind == System.Text.Json.JsonValueKind.Object ? price.Flag("rulesReachParts") : null)
                ?? node.Flag("rulesReachParts")
                ?? false,
            TaxClass = node.Text("taxClass", 40),
            Slots = slots,
            Arrangement = PartNames.Arrangement.Read(node, "arrangement"),
            Pictures = [.. node.Items("pictures", MostPictures).Select(n => Picture(n, slots)).OfType<LookbookPicture>()],
            Shows = node.Has("shows") ? Shows(node) : PieceShows.Everything,
            PriceLine = PartNames.PriceLine.Read(node, "priceLine"),
        };
    }

    private void SlotsDiffer(Node node, ImmutableArray<Slot> slots)
    {
        var taken = questions.Select(q => q.Key).ToHashSet();
        foreach (var (i, slot) in slots.Index())
            if (!taken.Add(slot.Key))
                node.At("slots").Item(i).At("key").Fault($"Options, extras and slots have keys of their own: {slot.Key} stands twice.");
    }

    private SetPrice ReadPrice(Node node)
    {
        if (!node.Exists || !node.IsObject("a price"))
            return new SetPrice.Sum(null);
        node.Only("rule", "reduce", "amount", "rulesReachParts");
        var rule = node.Text("rule", 10);
        if (rule == "fixed")
        {
            node.Require("amount");
            if (node.Has("reduce"))
                node.At("reduce").Fault("A fixed price is not reduced: it is the price.");
            return new SetPrice.Fixed(node.Money("amount", currency) ?? Money.Zero(currency));
        }
        if (rule != "sum")
            node.At("rule").Fault("A price is by the rule sum or fixed.");
        if (node.Has("amount"))
            node.At("amount").Fault("Only a fixed price has an amount.");
        return new SetPrice.Sum(Reduction(node.At("reduce")));
    }

    private PartReduction? Reduction(Node node)
    {
        if (!node.Exists || !node.IsObject("a reduction"))
            return null;
        node.Only("percent", "amount");
        if (node.Has("percent") == node.Has("amount"))
        {
            node.Fault("A reduction is a percent or an amount.");
            return null;
        }
        if (node.Has("amount"))
            return node.Money("amount", currency) is { } amount ? new PartReduction(null, amount) : null;
        if (node.At("percent").AsNumber() is > 0 and <= 100 and var percent)
            return new PartReduction(percent, null);
        node.At("percent").Fault("A percentage is above 0 and at most 100.");
        return null;
    }

    private Slot? ReadSlot(Node node)
    {
        if (!node.IsObject("a slot"))
            return null;
        node.Only(["key", "label", "of", "quantity", "picks", "pick", "optional", "reduce", "setUnit", "included", "default", "shows"]);
        node.Require("key", "of");
        var entries = node.Items("of", MostEntries).Select(Entry).OfType<PartEntry>().ToImmutableArray();
        if (node.Has("of") && entries.IsEmpty)
            node.At("of").Fault("A slot has at least one part that may fill it.");
        if (node.Key("key") is not { } key)
            return null;
        var slot = new Slot(key, node.Has("label") ? node.Label("label") : key.Text)
        {
            Of = entries,
            Picks = node.Has("picks") ? ExtraReader.Picks(node.At("picks")) : null,
            Quantity = Quantity(node.At("quantity")),
            Pick = Pick(node.At("pick")),
            Optional = node.Flag("optional") ?? false,
            Reduce = Reduction(node.At("reduce")),
            SetUnit = node.Has("setUnit") ? node.Money("setUnit", currency) : null,
            Included = node.Flag("included") ?? false,
            Default = Defaults(node),
            Shows = node.Has("shows") ? Shows(node) : null,
        };
        if (slot.Included && (slot.Reduce is not null || slot.SetUnit is not null))
            node.At("included").Fault("What is included has no price that could be reduced.");
        if (slot is { Reduce: not null, SetUnit: not null })
            node.At("setUnit").Fault("A slot has a reduction or a price of its own, not both.");
        CandidatesDiffer(node, slot);
        return slot;
    }

    private static void CandidatesDiffer(Node node, Slot slot)
    {
        var seen = new HashSet<Key>();
        foreach (var (i, entry) in slot.Of.Index())
        {
            var code = (entry as PartEntry.OfProduct)?.Code ?? (entry as PartEntry.OfSku)?.Code;
            if (code is null)
                continue;
            if (Slot.KeyOf(code) is not { } key)
                node.At("of").Item(i).Fault($"{code} makes no key of letters and digits.");
            else if (!seen.Add(key))
                node.At("of").Item(i).Fault($"Two parts of this slot would both be called {key}.");
        }
        var isOpenEnded = slot.Of.Any(e => e is PartEntry.OfCategory or PartEntry.OfTag);
        if (isOpenEnded)
            return;
        if (slot.Picks is { Min: var least } && least > seen.Count)
            node.At("picks").At("min").Fault($"{least:N0} picks are needed and {seen.Count:N0} are there to pick.");
        foreach (var missing in slot.Default.Where(d => !seen.Contains(d)))
            node.At("default").Fault($"No part of this slot is called {missing}.");
    }

    private static ImmutableArray<Key> Defaults(Node node)
    {
        if (!node.Has("default"))
            return [];
        var keys = ImmutableArray.CreateBuilder<Key>();
        foreach (var item in node.Items("default", MostEntries))
            if (Key.TryParse(item.AsText() ?? "", out var key))
                keys.Add(key);
            else
                item.Fault($"A key is {Key.Shape}.");
        return keys.ToImmutable();
    }

    private static SlotQuantity Quantity(Node node)
    {
        if (!node.Exists || !node.IsObject("a quantity"))
            return SlotQuantity.One;
        node.Only("min", "max", "default");
        var min = node.Has("min") ? node.Whole("min", 1, SlotQuantity.Most) ?? 1 : 1;
        var max = node.Has("max") ? node.Whole("max", 1, SlotQuantity.Most) ?? min : min;
        if (max < min)
            node.At("max").Fault("The most units are fewer than the least.");
        var usual = node.Has("default") ? node.Whole("default", 1, SlotQuantity.Most) : null;
        if (usual < min || usual > max)
            node.At("default").Fault($"The usual number lies between {min:N0} and {max:N0}.");
        return new SlotQuantity(min, max, usual);
    }

    private SlotPick Pick(Node node)
    {
        if (!node.Exists)
            return new SlotPick.Shopper();
        switch (node.AsText())
        {
            case "fixed":
                return new SlotPick.Fixed();
            case "shopper":
                return new SlotPick.Shopper();
        }
        if (!node.IsObject("“fixed”, “shopper” or what is followed"))
            return new SlotPick.Shopper();
        node.Only("follows", "table");
        node.Require("follows");
        if (node.Key("follows") is not { } option)
            return new SlotPick.Shopper();
        var followed = questions.FirstOrDefault(q => q.Key == option);
        if (!stored && followed is not { Ask: Ask.One })
            node.At("follows").Fault($"There is no option {option} with one answer that could be followed.");
        return new SlotPick.Follows(option, node.Has("table") ? Table(node.At("table"), followed) : null);
    }

    private ImmutableSortedDictionary<Key, Key>? Table(Node node, Option? followed)
    {
        if (!node.IsObject("a table of values"))
            return null;
        var table = ImmutableSortedDictionary.CreateBuilder<Key, Key>();
        foreach (var (name, value) in node.Members())
            if (!Key.TryParse(name, out var from) || !Key.TryParse(value.AsText() ?? "", out var to))
                value.Fault($"A table leads from a value's key to another; a key is {Key.Shape}.");
            else if (!stored && followed is not null && followed.Find(from) is null)
                value.Fault($"{followed.Label} has no value {from}.");
            else
                table[from] = to;
        return table.ToImmutable();
    }

    private PartEntry? Entry(Node node)
    {
        if (!node.IsObject("what may fill a slot"))
            return null;
        node.Only("product", "sku", "category", "tag", "variants", "extra");
        string[] kinds = ["product", "sku", "category", "tag"];
        if (kinds.Count(node.Has) != 1)
        {
            node.Fault("It names a product, a sku, a category or a tag: one of them.");
            return null;
        }
        var entry = Named(node);
        if (entry is PartEntry.OfSku && node.Has("variants"))
            node.At("variants").Fault("A SKU is one variant already.");
        if (entry is null)
            return null;
        var variants = node.Items("variants", MostEntries).Select(Values).OfType<Combination>().ToImmutableArray();
        return entry with { Variants = variants, Extra = node.Has("extra") ? node.Money("extra", currency) : null };
    }

    private PartEntry? Named(Node node)
    {
        if (node.Has("category"))
            return node.Text("category", 80) is { Length: > 0 } category ? new PartEntry.OfCategory(category) : null;
        if (node.Has("tag"))
            return node.Text("tag", 80) is { Length: > 0 } tag ? new PartEntry.OfTag(tag) : null;
        if (node.Has("sku"))
        {
            var sku = Sku.Parse(node.Text("sku", 100) ?? "");
            if (!sku.Ok)
                node.At("sku").Fault(sku.Problem!);
            return sku.Ok ? new PartEntry.OfSku(sku.Value.Text) : null;
        }
        var code = ProductCode.Parse(node.Text("product", 100) ?? "");
        if (!code.Ok)
            node.At("product").Fault(code.Problem!);
        else if (code.Value.Text == product)
            node.At("product").Fault($"{product} cannot be a part of itself.");
        return code.Ok ? new PartEntry.OfProduct(code.Value.Text) : null;
    }

    private static Combination? Values(Node node)
    {
        if (!node.IsObject("an object of option and value"))
            return null;
        var pairs = new List<(Key, Key)>();
        foreach (var (name, value) in node.Members())
            if (Key.TryParse(name, out var option) && Key.TryParse(value.AsText() ?? "", out var key))
                pairs.Add((option, key));
            else
                value.Fault($"An option and a value are each a key: {Key.Shape}.");
        return Combination.Of(pairs);
    }

    private static PieceShows Shows(Node node)
    {
        var shows = PieceShows.Nothing;
        foreach (var item in node.Items("shows"))
            if (PartNames.Shows.Named(item.AsText()) is { } one)
                shows |= one;
            else
                item.Fault($"One of {string.Join(", ", PartNames.Shows.All)} is needed.");
        return shows;
    }

    private static LookbookPicture? Picture(Node node, ImmutableArray<Slot> slots)
    {
        if (!node.IsObject("a picture with pins"))
            return null;
        node.Only("file", "alt", "pins");
        node.Require("file");
        return new LookbookPicture(
            node.Text("file", 200) ?? "",
            node.Text("alt", 300) ?? "",
            [.. node.Items("pins", MostPins).Select(n => ReadPin(n, slots)).OfType<Pin>()]
        );
    }

    /// <summary>A place on a picture, from 0 to 1.</summary>
    private static decimal Place(Node node)
    {
        if (node.AsNumber() is >= 0 and <= 1 and var place)
            return place;
        node.Fault("A place on a picture is a number from 0 to 1.");
        return 0;
    }

    private static Pin? ReadPin(Node node, ImmutableArray<Slot> slots)
    {
        if (!node.IsObject("a pin"))
            return null;
        node.Only("slot", "x", "y");
        node.Require("slot", "x", "y");
        if (node.Key("slot") is not { } key)
            return null;
        if (slots.All(s => s.Key != key))
            node.At("slot").Fault($"There is no slot {key}.");
        return new Pin(key, Place(node.At("x")), Place(node.At("y")));
    }
}

/// <summary>What kinds are called in documents.</summary>
internal static class PartNames
{
    public static Names<Sold> Sold { get; } = new(("together", Parts.Sold.Together), ("separately", Parts.Sold.Separately));

    public static Names<SetStock> Stock { get; } =
        new(("parts", SetStock.Parts), ("own", SetStock.Own), ("own-then-parts", SetStock.OwnThenParts));

    public static Names<Arrangement> Arrangement { get; } =
        new(("list", Parts.Arrangement.List), ("pieces", Parts.Arrangement.Pieces), ("lookbook", Parts.Arrangement.Lookbook));

    public static Names<PriceLine> PriceLine { get; } =
        new(
            ("from", Parts.PriceLine.From),
            ("span", Parts.PriceLine.Span),
            ("default", Parts.PriceLine.Default),
            ("none", Parts.PriceLine.None)
        );

    public static Names<PieceShows> Shows { get; } =
        new(
            ("picture", PieceShows.Picture),
            ("price", PieceShows.Price),
            ("text", PieceShows.Text),
            ("quantity", PieceShows.Quantity),
            ("link", PieceShows.Link)
        );

    /// <summary>A closed set of kinds, the first of them where nothing is said.</summary>
    internal sealed class Names<T>(params (string Name, T Kind)[] names)
        where T : struct, Enum
    {
        public IEnumerable<string> All => names.Select(n => n.Name);

        public IEnumerable<(string Name, T Kind)> Pairs => names;

        public string Of(T kind) => names.First(n => n.Kind.Equals(kind)).Name;

        public T? Named(string? name) => Array.FindIndex(names, n => n.Name == name) is >= 0 and var at ? names[at].Kind : null;

        public T Read(Node node, string field)
        {
            if (!node.Has(field))
                return names[0].Kind;
            if (Named(node.At(field).AsText()) is { } kind)
                return kind;
            node.At(field).Fault($"One of {string.Join(", ", All)} is needed.");
            return names[0].Kind;
        }
    }
}
