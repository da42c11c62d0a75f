using System.Collections.Immutable;
using Microsoft.AspNetCore.Mvc;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>The chapter Parts: what the product is put together from, or presents.</summary>
public sealed partial class PartsChapter(Bench bench, ChangeParts changeParts, MakeUpSets makeUp, StockReading stock) : ChapterModel(bench)
{
    public override Chapter Chapter => Chapter.Parts;

    private PartsView? _parts;

    /// <summary>What was typed for a slot that could not be taken, so that it stays in its form.</summary>
    public (string Slot, IFormCollection Form)? RefusedSlot { get; private set; }

    /// <summary>What was typed to be added and could not be taken.</summary>
    public string RefusedParts { get; private set; } = "";

    /// <summary>The set as it stands, with prices, stock and its tree.</summary>
    public async Task<PartsView> PartsNow() => _parts ??= await PartsView.Now(Code, Reading, Visit);

    /// <summary>What one of each set that is made up ahead is made of, with what there is; empty for others, and before it is on
    /// sale.</summary>
    public async Task<IReadOnlyList<MadeUpRow>> MadeUpRows()
    {
        var rows = new List<MadeUpRow>();
        if (Copy.Product.Parts is not { IsMadeUp: true } || Copy.Edition is null)
            return rows;
        foreach (var variant in Copy.Matrix.Offered.Take(MostMadeUp))
        {
            var recipe = await makeUp.Recipe(variant.Sku.Text);
            if (!recipe.Ok)
                continue;
            var levels = await Reading.Stock(recipe.Value!.Parts.Append(new LeafNeed(LeafPath.Own, recipe.Value.Set, 1, "")));
            var parts = recipe.Value.Parts.Select(p => (p, levels.Of(p.Goods.Variant.Sku).Available)).ToList();
            var most = parts.Select(p => Math.Max(0, p.Available) / p.p.PerUnit).DefaultIfEmpty(0).Min();
            rows.Add(new MadeUpRow(recipe.Value.Set, levels.Of(variant.Sku).Available, most, parts));
        }
        return rows;
    }

    private const int MostMadeUp = 40;

    /// <summary>Makes sets up ahead, or takes them apart.</summary>
    public async Task<IActionResult> OnPostMakeUp(string sku, string? units, string? kind)
    {
        var recipe = await makeUp.Recipe(sku);
        var read = TypedNumbers.Whole(units, 1, Movements.MostUnits);
        var first = (await stock.Locations())[0];
        var apart = kind == "apart";
        var outcome =
            !recipe.Ok ? Outcome.No("", recipe.Problem!)
            : read.Value is not { } wanted ? Outcome.No("", "How many? A whole number from 1.")
            : await makeUp.Run(
                recipe.Value!,
                apart ? MovementKind.TakeApart : MovementKind.MakeUp,
                wanted,
                first,
                Visit.Actor,
                apart ? "Taken apart" : "Made up ahead"
            );
        return await Answer(outcome, outcome.Done ? (apart ? $"{read.Value:N0} taken apart" : $"{read.Value:N0} made up") : null);
    }

    /// <summary>Codes and names that can be parts, for the boxes that ask for one.</summary>
    public Task<IReadOnlyList<string>> SomeParts() => Goods.Others(Copy.Id, 300);

    /// <summary>Takes what is about all parts together.</summary>
    public async Task<IActionResult> OnPostParts()
    {
        var form = Request.Form;
        return await ChangeParts("Parts as a whole", (parts, copy) =>
        {
            var reduce = PartWords.ReadReduction(form["reduce"].ToString(), copy.Shop.Currency);
            if (!reduce.Ok)
                return Read<SetParts>.No(reduce.Problem!);
            var isFixed = form["price"] == "fixed";
            var amount = TypedNumbers.Amount(form["amount"].ToString(), copy.Shop.Currency);
            if (isFixed && amount is not { Ok: true, Value: not null })
                return Read<SetParts>.No("A fixed price needs its amount, such as 96.00.");
            var sold = form["sold"] == "separately" ? Sold.Separately : Sold.Together;
            var taxClass = form["taxClass"].ToString();
            parts = parts with { Sold = sold };
            // What belongs to the other way of selling is not in the form and stays as it was.
            if (form.ContainsKey("stock"))
                parts = parts with
                {
                    Stock = Enum.TryParse<SetStock>(form["stock"], out var stock) ? stock : SetStock.Parts,
                    Price = isFixed ? new SetPrice.Fixed(amount.Value!.Value) : new SetPrice.Sum(reduce.Value),
                    RulesReachParts = form["inside"] == "yes",
                    TaxClass = taxClass.Length == 0 ? null : taxClass,
                };
            if (form.ContainsKey("arrangement"))
                parts = parts with
                {
                    Arrangement = Enum.TryParse<Arrangement>(form["arrangement"], out var arrangement) ? arrangement : Arrangement.List,
                    PriceLine = Enum.TryParse<PriceLine>(form["priceLine"], out var line) ? line : PriceLine.From,
                    Shows = PartWords.ReadShows(form["shows"]),
                };
            return Read<SetParts>.Of(parts);
        });
    }

    /// <summary>A part that was typed.</summary>
    private sealed record WantedPart(PartEntry Entry, int Units, string Name);

    /// <summary>Adds a slot for each line: a code, SKU or name, with its quantity behind.</summary>
    public async Task<IActionResult> OnPostNewParts(string? lines)
    {
        var wanted = new List<WantedPart>();
        foreach (var line in TypedText.Clean(lines).ReplaceLineEndings("\n").Split('\n').Select(l => l.Trim()).Where(l => l.Length > 0))
        {
            var (name, units) = SplitUnits(line);
            PartEntry? found =
                name.StartsWith("category ", StringComparison.OrdinalIgnoreCase) ? new PartEntry.OfCategory(name[9..].Trim())
                : name.StartsWith("tag ", StringComparison.OrdinalIgnoreCase) ? new PartEntry.OfTag(name[4..].Trim())
                : await Goods.Part(name);
            if (found is null)
            {
                RefusedParts = lines ?? "";
                return await Answer(Outcome.No("", $"There is no product or SKU “{name}”. Nothing was added."));
            }
            wanted.Add(new WantedPart(found, units, await NameOf(found)));
        }
        if (wanted.Count == 0)
            return await Answer(Outcome.No("", "Type a product code, a SKU or a name; each on a line of its own."));
        var more = wanted.Count > 3 ? $" and {wanted.Count - 3} more" : "";
        return await ChangeParts($"Parts added: {string.Join(", ", wanted.Take(3).Select(w => w.Name))}{more}", (parts, copy) =>
        {
            var taken = copy.Product.TakenKeys.ToHashSet();
            var slots = parts.Slots.ToBuilder();
            foreach (var (entry, units, name) in wanted)
            {
                var key = Key.From(name, taken, "part");
                taken.Add(key);
                slots.Add(new Slot(key, name) { Of = [entry], Quantity = new SlotQuantity(units, units, null) });
            }
            return slots.Count > SetParts.MostSlots
                ? Read<SetParts>.No($"A product has at most {SetParts.MostSlots} slots.")
                : Read<SetParts>.Of(parts with { Slots = slots.ToImmutable() });
        });
    }

    /// <summary>Takes a slot as its form shows it, moves it or removes it.</summary>
    public async Task<IActionResult> OnPostSlot(string slot, string? act)
    {
        var form = Request.Form;
        var currency = (await Visit.Shop()).Currency;
        var values = await FollowedValues(slot);
        var entries = await PartWords.ReadEntries(form["of"].ToString(), currency, Goods.Part);
        var outcome = await PartsOutcome(act == "remove" ? $"Slot {slot} removed" : $"Slot {slot}", (parts, _) =>
        {
            var at = parts.Slots.ToList().FindIndex(s => s.Key.Text == slot);
            if (at < 0)
                return Read<SetParts>.No("That slot is no longer there.");
            if (act == "remove")
                return Read<SetParts>.Of(
                    parts with
                    {
                        Slots = parts.Slots.RemoveAt(at),
                        Pictures = [.. parts.Pictures.Select(p => p with { Pins = p.Pins.RemoveAll(pin => pin.Slot.Text == slot) })],
                    }
                );
            if (act is "up" or "down")
            {
                var to = Math.Clamp(at + (act == "up" ? -1 : 1), 0, parts.Slots.Length - 1);
                return Read<SetParts>.Of(parts with { Slots = parts.Slots.RemoveAt(at).Insert(to, parts.Slots[at]) });
            }
            if (!entries.Ok)
                return Read<SetParts>.No(entries.Problem!);
            var edited = Edited(parts.Slots[at], form, entries.Value, values, currency);
            return edited.Ok
                ? Read<SetParts>.Of(parts with { Slots = parts.Slots.SetItem(at, edited.Value!) })
                : Read<SetParts>.No(edited.Problem!);
        });
        if (!outcome.Done)
            RefusedSlot = (slot, form);
        return await Answer(outcome, act == "remove" && outcome.Done ? "Removed" : null, canUndo: act == "remove");
    }

    /// <param name="values">What the part has of the option that it follows now.</param>
    private static Read<Slot> Edited(
        Slot slot,
        IFormCollection form,
        ImmutableArray<PartEntry> entries,
        IReadOnlySet<Key> values,
        Currency currency
    )
    {
        var label = TypedText.Line(form["label"]);
        if (label.Length is 0 or > 120)
            return Read<Slot>.No("A slot needs a name of 1 to 120 characters.");
        var quantity = PartWords.ReadQuantity(form["quantity"].ToString());
        if (!quantity.Ok)
            return Read<Slot>.No(quantity.Problem!);
        var picks = PartWords.ReadPicks(form["picks"].ToString());
        if (!picks.Ok)
            return Read<Slot>.No(picks.Problem!);
        var keys = entries
            .Select(e => (e as PartEntry.OfProduct)?.Code ?? (e as PartEntry.OfSku)?.Code)
            .OfType<string>()
            .Select(Slot.KeyOf)
            .ToList();
        if (keys.Contains(null) || keys.Distinct().Count() < keys.Count)
            return Read<Slot>.No("Each part stands once in a slot.");
        if (keys.Count == entries.Length && picks.Value?.Min > keys.Count)
            return Read<Slot>.No($"{picks.Value.Value.Min} picks are needed and {keys.Count} are there to pick.");
        var pick = form["pick"].ToString();
        slot = slot with
        {
            Label = label,
            Of = entries,
            Quantity = quantity.Value,
            Picks = picks.Value,
            Optional = form["optional"] == "yes",
            Pick =
                pick == "fixed" ? new SlotPick.Fixed()
                : pick.StartsWith("follows-", StringComparison.Ordinal) && Key.TryParse(pick["follows-".Length..], out var option)
                    ? new SlotPick.Follows(option, TableOf(slot, option, form, values))
                : new SlotPick.Shopper(),
            Default = [.. slot.Default.Where(d => keys.Contains(d))],
            // What belongs to a piece of a group is not in the form of a set.
            Shows =
                !form.ContainsKey("showsOwn") ? slot.Shows
                : form["showsOwn"] != "yes" ? null
                : slot.Shows is null ? PieceShows.Everything
                : PartWords.ReadShows(form["shows"]),
        };
        return PartWords.WithPrice(slot, form["price"].ToString(), currency);
    }

    private static ImmutableSortedDictionary<Key, Key>? TableOf(Slot slot, Key option, IFormCollection form, IReadOnlySet<Key> values)
    {
        if (slot.Pick is not SlotPick.Follows now || now.Option != option)
            return null;
        const string Field = "follow-";
        var rows = form.Where(f => f.Key.StartsWith(Field, StringComparison.Ordinal))
            .Select(f => (Value: Key.TryParse(f.Key[Field.Length..], out var key) ? key : (Key?)null, Text: f.Value.ToString()))
            .Where(f => f.Value is not null)
            .Select(f => (f.Value!.Value, f.Text))
            .ToList();
        return rows.Count == 0 ? now.Table : PartWords.ReadTable(rows, values);
    }

    /// <summary>Changes how many of a part one takes, from the tree.</summary>
    public async Task<IActionResult> OnPostSlotQuantity(string slot, string? quantity) =>
        await ChangeParts($"Quantity of slot {slot}", (parts, _) =>
        {
            var at = parts.Slots.ToList().FindIndex(s => s.Key.Text == slot);
            if (at < 0)
                return Read<SetParts>.No("That slot is no longer there.");
            var read = PartWords.ReadQuantity(quantity ?? "");
            return read.Ok
                ? Read<SetParts>.Of(parts with { Slots = parts.Slots.SetItem(at, parts.Slots[at] with { Quantity = read.Value }) })
                : Read<SetParts>.No(read.Problem!);
        });

    /// <summary>The values that the parts of a slot have of the option that it follows, each once; empty where it follows none.</summary>
    public async Task<IReadOnlyList<(Key Key, string Label)>> ValuesToFollow(Slot slot)
    {
        if (slot.Pick is not SlotPick.Follows follows || await Reading.Working(Code) is not { Draft: { } draft })
            return [];
        var range = await Reading.Range(draft);
        return
        [
            .. (draft.Product.SlotsInRange.FirstOrDefault(s => s.Slot.Key == slot.Key)?.Candidates ?? [])
                .Select(c => PartOnSale.Of(c, range)?.Edition.Questions.FirstOrDefault(q => q.Key == follows.Option))
                .OfType<Option>()
                .SelectMany(o => o.Values)
                .DistinctBy(v => v.Key)
                .Select(v => (v.Key, v.Label)),
        ];
    }

    private async Task<IReadOnlySet<Key>> FollowedValues(string slot) =>
        await Reading.Working(Code) is { Draft.Product.Parts.Slots: var slots } && slots.FirstOrDefault(s => s.Key.Text == slot) is { } at
            ? (await ValuesToFollow(at)).Select(v => v.Key).ToHashSet()
            : new HashSet<Key>();

    private async Task<IActionResult> ChangeParts(string sentence, Func<SetParts, WorkingCopy, Read<SetParts>> change) =>
        await Answer(await PartsOutcome(sentence, change));

    private Task<Outcome> PartsOutcome(string sentence, Func<SetParts, WorkingCopy, Read<SetParts>> change) =>
        changeParts.Run(Code, sentence, Visit.Actor, change);

    private async Task<string> NameOf(PartEntry entry) =>
        entry switch
        {
            PartEntry.OfProduct p => await Goods.NameOf(p.Code) ?? p.Code,
            PartEntry.OfSku s => (await Reading.OfSku(s.Code))?.Figures.Name ?? s.Code,
            PartEntry.OfCategory c => c.Name,
            PartEntry.OfTag t => t.Name,
            _ => "part",
        };

    /// <summary>“FRAME 10”, “10 × FRAME”, or two columns of a sheet.</summary>
    private static (string Name, int Units) SplitUnits(string line)
    {
        var words = line.Split(['\t', ' '], StringSplitOptions.RemoveEmptyEntries);
        if (
            words.Length >= 3
            && words[1] is "×" or "x"
            && int.TryParse(words[0], out var before)
            && before is >= 1 and <= SlotQuantity.Most
        )
            return (string.Join(' ', words[2..]), before);
        if (words.Length >= 2 && int.TryParse(words[^1], out var behind) && behind is >= 1 and <= SlotQuantity.Most)
            return (string.Join(' ', words[..^1]), behind);
        return (string.Join(' ', words), 1);
    }
}
