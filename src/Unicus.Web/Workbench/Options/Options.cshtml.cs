using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;
using Unicus.Web.Options;
using Unicus.Web.Shell;

namespace Unicus.Web.Workbench;

/// <summary>The chapter Options: what is typed takes effect at once; what has something at stake is shown first.</summary>
public sealed partial class OptionsChapter(
    Bench bench,
    ChangeOptions changeOptions,
    OptionLibrary library,
    CategoryTree categories,
    RewriteSkus rewrite,
    OrderReading orders,
    PictureStore pictures
) : CuttingModel(bench, pictures)
{
    public override Chapter Chapter => Chapter.Options;

    public PendingOptions? Pending { get; private set; }
    public string? TypedLabel { get; private set; }
    public string? TypedValuesText { get; private set; }

    public string SizeWords => Copy.Product.Options.IsEmpty ? "none yet: one product, one SKU" : Copy.Matrix.SizeInWords;

    public string PatternExample => Copy.Matrix.Offered.FirstOrDefault() is { } v ? v.Sku.Text : "";

    public string SwatchText(Swatch? swatch) => TypedSwatch.Write(swatch);

    /// <summary>The size of the matrix while one is typing.</summary>
    public async Task<IActionResult> OnGetSize(string? label, string? typed, string? option)
    {
        if (!await Look())
            return NotFound();
        var options = Copy.Product.Options;
        var existing = options.FirstOrDefault(o => o.Key.Text == option);
        var (labels, problems) = TypedValues.Split(typed ?? "", existing?.Values.Select(v => v.Label) ?? []);
        if (labels.Count == 0)
            return Content(problems.Count > 0 ? problems[0] : SizeWords);
        var values = TypedValues.Make(labels, existing?.Values ?? []);
        var wanted = existing is not null
            ? options.Replace(existing, existing with { Values = [.. existing.Values, .. values] })
            : options.Add(new Option(Copy.Whole.FreeKey(label ?? ""), label ?? "", OptionRole.Variant) { Values = [.. values] });
        var size = MadeSet.Size(wanted);
        return Content(
            size > MadeSet.MostVariants
                ? $"{size:N0} variants are more than the {MadeSet.MostVariants:N0} that a product holds"
                : VariantMatrix.SizeSentence(wanted, 0)
        );
    }

    public Task<IActionResult> OnPostNewOption(string? label, string? typed)
    {
        (TypedLabel, TypedValuesText) = (label, typed);
        var name = string.Join(' ', (label ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        return Put($"Option {name}", options =>
        {
            if (name.Length is 0 or > TypedValues.LongestLabel)
                return Read<ImmutableArray<Option>>.No(
                    name.Length == 0
                        ? "An option needs a name, such as Size."
                        : $"A name has at most {TypedValues.LongestLabel} characters."
                );
            if (options.Any(o => string.Equals(o.Label, name, StringComparison.OrdinalIgnoreCase)))
                return Read<ImmutableArray<Option>>.No($"There is an option {name} already. Add its values there.");
            var (labels, problems) = TypedValues.Split(typed ?? "", []);
            if (problems.Count > 0)
                return Read<ImmutableArray<Option>>.No(string.Join(' ', problems));
            if (labels.Count == 0)
                return Read<ImmutableArray<Option>>.No($"Type the values of {name}, separated by commas.");
            var key = Copy.Whole.FreeKey(name);
            var made = TypedValues.MakePriced(labels, [], Copy.Shop.Currency);
            return made.Ok
                ? Read<ImmutableArray<Option>>.Of(options.Add(new Option(key, name, OptionRole.Variant) { Values = [.. made.Value!] }))
                : Read<ImmutableArray<Option>>.No(made.Problem!);
        });
    }

    public Task<IActionResult> OnPostValues(string option, string? typed) => Put("More values", options => WithOption(options, option, o =>
            {
                var (labels, problems) = TypedValues.Split(typed ?? "", o.Values.Select(v => v.Label));
                if (problems.Count > 0 || labels.Count == 0)
                    return Read<Option?>.No(problems.Count > 0 ? string.Join(' ', problems) : "Type at least one value.");
                var made = TypedValues.MakePriced(labels, o.Values, Copy.Shop.Currency);
                return made.Ok ? Read<Option?>.Of(o with { Values = [.. o.Values, .. made.Value!] }) : Read<Option?>.No(made.Problem!);
            }));

    public Task<IActionResult> OnPostOption(string option, string? label, string? @default, string? shares, string? act) =>
        Put(
            act == "out" ? "An option removed"
                : act == "up" ? "Order of options"
                : "Option",
            options =>
            {
                var at = options.Select((o, i) => (o, i)).FirstOrDefault(x => x.o.Key.Text == option, (null!, -1)).Item2;
                if (act == "up" && at > 0)
                    return Read<ImmutableArray<Option>>.Of(options.RemoveAt(at).Insert(at - 1, options[at]));
                return WithOption(options, option, o => act == "out" ? Read<Option?>.Of(null)
                    : string.IsNullOrWhiteSpace(label) ? Read<Option?>.No("An option needs a name.")
                    : Read<Option?>.Of(
                        o with
                        {
                            Label = label.Trim(),
                            Default = Key.TryParse(@default ?? "", out var k) && o.Find(k) is not null ? k : null,
                            SharesSku = shares is not null ? shares == "yes" : o.SharesSku,
                        }
                    ));
            }
        );

    public Task<IActionResult> OnPostValue(
        string option,
        string value,
        string? label,
        string? sku,
        string? surcharge,
        string? colour,
        string? propose,
        string? applies,
        string? act
    ) =>
        Put(
            act == "out" ? "A value removed"
                : act == "up" ? "Order of values"
                : "Value",
            options => WithOption(options, option, o =>
                {
                    var at = Key.TryParse(value, out var key) ? o.PlaceOf(key) : -1;
                    if (at < 0)
                        return Read<Option?>.No("That value was removed meanwhile.");
                    if (act == "up" && at > 0)
                        return Read<Option?>.Of(o with { Values = o.Values.RemoveAt(at).Insert(at - 1, o.Values[at]) });
                    if (act == "out")
                        return o.Values.Length == 1
                            ? Read<Option?>.No($"{o.Values[0].Label} is the last value: remove the option {o.Label} instead.")
                            : Read<Option?>.Of(o with { Values = o.Values.RemoveAt(at), Default = o.Default == key ? null : o.Default });
                    var changed = ReadValue(o, o.Values[at], label, sku, surcharge, propose ?? colour);
                    return changed.Ok
                        ? Read<Option?>.Of(
                            o with
                            {
                                Values = o.Values.SetItem(
                                    at,
                                    changed.Value! with
                                    {
                                        DoesNotApply = applies is null ? o.Values[at].DoesNotApply : applies == "no",
                                    }
                                ),
                            }
                        )
                        : Read<Option?>.No(changed.Problem!);
                })
        );

    /// <summary>Takes a list in the order it was dragged to: <c>options</c>, or <c>values:KEY</c> of an option.</summary>
    public Task<IActionResult> OnPostOrder(string list, string[] keys) =>
        list == "options"
            ? Put("Order of options", options => Read<ImmutableArray<Option>>.Of(InOrder(options, o => o.Key.Text, keys)))
            : Put("Order of values", options =>
                WithOption(options, list.Split(':')[^1], o =>
                    Read<Option?>.Of(o with { Values = InOrder(o.Values, v => v.Key.Text, keys) })
                )
            );

    /// <summary>Applies a change of options that was shown first.</summary>
    public async Task<IActionResult> OnPostDecide(string wanted, int version, string sentence)
    {
        var form = Request.Form;
        using var json = JsonDocument.Parse(wanted);
        var shop = await Visit.Shop();
        var (product, _, faults) = DocumentReader.Read(json.RootElement, shop.Currency);
        if (product is null)
            return await Answer(Outcome.No("", faults[0].What));
        if (await Moves(product.Options) is not { } moves)
            return await Answer(Outcome.No("", "Nothing was changed: say for each lost variant, or for all, where its units go."));
        var decisions = new OptionDecisions
        {
            Takes = form.Where(f => f.Key.StartsWith("takes-", StringComparison.Ordinal))
                .ToImmutableDictionary(f => Key.Of(f.Key[6..]), f => Key.Of(f.Value.ToString())),
            Stock = Named.Choice<StockBeforeOptions>(form["stock"]) ?? StockBeforeOptions.OneValue,
            Survivors = [.. form["survivor"].OfType<string>()],
            MoveTo = moves,
        };
        var outcome = await changeOptions.Run(
            Code,
            product.Options,
            decisions,
            sentence.Length > 200 ? sentence[..200] : sentence,
            Visit.Actor,
            version
        );
        return await Answer(outcome, outcome.Done ? outcome.Result!.InWords() : null);
    }

    /// <summary>Where the units of each variant that goes are to go; those that are written off are missing. Null where one is not
    /// said.</summary>
    private async Task<ImmutableDictionary<string, Combination>?> Moves(ImmutableArray<Option> wanted)
    {
        var preview = await changeOptions.Preview(Code, wanted, new OptionDecisions());
        if (!preview.Done)
            return ImmutableDictionary<string, Combination>.Empty;
        var difference = preview.Result!;
        var moves = ImmutableDictionary.CreateBuilder<string, Combination>();
        foreach (var stake in difference.Retired.Concat(difference.Deleted).Where(s => s.OnHand > 0))
        {
            var values = stake.Variant.Values.Text;
            var said = Request.Form[$"move-{values}"].ToString() is { Length: > 0 } own ? own : Request.Form["move-all"].ToString();
            if (said.Length == 0)
                return null;
            if (said != "off")
                moves[values] = Combination.Parse(said);
        }
        return moves.ToImmutable();
    }

    /// <summary>What of variants that go is allocated to orders that are still to be sent, in words by the text of their
    /// values.</summary>
    private async Task<IReadOnlyDictionary<string, string>> AllocatedOf(MatrixDifference difference)
    {
        var skus = difference
            .Retired.Concat(difference.Deleted)
            .Where(s => s.HasHistory)
            .Select(s => (s.Variant.Values.Text, Copy.StockIdOf(s.Variant.Values)))
            .Where(s => s.Item2 is not null)
            .ToDictionary(s => s.Text, s => s.Item2!.Value);
        int[] ids = [.. skus.Values.Distinct()];
        var bySku = (await orders.Open(ids)).ToLookup(o => o.Leaf.SkuId);
        return skus.Where(s => bySku.Contains(s.Value))
            .ToDictionary(
                s => s.Key,
                s =>
                {
                    var numbers = bySku[s.Value].Select(o => o.Order).Distinct().ToList();
                    var named = string.Join(", ", numbers.Take(5)) + (numbers.Count > 5 ? $" and {numbers.Count - 5} more" : "");
                    return $"{bySku[s.Value].Sum(o => o.Leaf.Open):N0} allocated to {(numbers.Count == 1 ? "order" : "orders")} {named}";
                }
            );
    }

    protected override async Task<IActionResult> Put(string sentence, Func<ImmutableArray<Option>, Read<ImmutableArray<Option>>> change)
    {
        if (!await Look())
            return NotFound();
        var wanted = change(Copy.Product.Options);
        if (!wanted.Ok)
            return await Answer(Outcome.No("", wanted.Problem!));
        var preview = await changeOptions.Preview(Code, wanted.Value, new OptionDecisions());
        if (!preview.Done)
            return await Answer(preview);
        var difference = preview.Result!;
        var first = Copy.Product.Options.IsEmpty;
        var stockQuestion = first ? difference.Kept.Sum(k => k.Stake.OnHand) : 0;
        var adds = wanted.Value.Any(o => Copy.Product.Options.All(b => b.Key != o.Key));
        if (difference.IsHarmless && !(adds && difference.Kept.Any(k => !k.Stake.IsBlank)))
        {
            var outcome = await changeOptions.Run(Code, wanted.Value, new OptionDecisions(), sentence, Visit.Actor, Copy.Version);
            if (outcome.Done)
                (TypedLabel, TypedValuesText) = (null, null);
            var size = outcome.Done && outcome.Result!.New.Length + outcome.Result.Deleted.Length > 0 ? outcome.Result.InWords() : null;
            return await Answer(outcome, size, canUndo: size is not null);
        }
        var document = DocumentWriter
            .Write(new Product(Copy.Product.Code, "x") { Options = wanted.Value }, ListedVariants.None)
            .ToJsonString();
        Pending = new PendingOptions(
            Here,
            document,
            Copy.Version,
            sentence,
            difference,
            Copy.Product.Options,
            wanted.Value,
            stockQuestion,
            await AllocatedOf(difference)
        );
        return Visit.IsHtmx ? Partial(ChapterPartialName, this) : Page();
    }

    private Read<OptionValue> ReadValue(Option option, OptionValue value, string? label, string? sku, string? surcharge, string? colour)
    {
        var added = TypedSurcharge.Read(surcharge, Copy.Shop.Currency, Ask.One);
        if (!added.Ok)
            return Read<OptionValue>.No($"Surcharge: {added.Problem}");
        if (added.Value is Surcharge.Once)
            return Read<OptionValue>.No("Surcharge: a variant has its price for each unit; what is once for the line is an extra.");
        var read = TypedSwatch.Value(option, value, label, sku, colour);
        return read.Ok ? Read<OptionValue>.Of(read.Value! with { Surcharge = added.Value }) : read;
    }
}
