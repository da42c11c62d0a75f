using System.Collections.Immutable;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>The chapter Extras: questions that do not split variants, and the shared sets that reach the product.</summary>
public sealed class ExtrasChapter(Bench bench, ChangeExtraSets extraSets, StockReading stock, PictureStore pictures)
    : CuttingModel(bench, pictures)
{
    public override Chapter Chapter => Chapter.Extras;

    /// <summary>What was typed for an extra that could not be taken, so that it stays in its form.</summary>
    public (string Extra, IFormCollection Form)? Refused { get; private set; }

    public Task<IActionResult> OnPostNewExtra(string? label) =>
        Change($"New extra {label}", (list, copy) => ExtraForm.Add(list, Request.Form, copy.Whole.Questions, copy.Shop.Currency));

    /// <summary>Takes an extra as its form shows it, moves it or takes it out.</summary>
    public Task<IActionResult> OnPostExtra(string extra, string? act) =>
        Change(
            act == "out" ? $"Extra {extra} removed" : $"Extra {extra}",
            (list, copy) => ExtraForm.Edit(list, Request.Form, act, copy.Shop.Currency, copy.Whole.Questions),
            act?.StartsWith("out", StringComparison.Ordinal) == true ? "Taken out" : null,
            extra
        );

    private async Task<IActionResult> Change(
        string sentence,
        Func<ImmutableArray<Option>, WorkingCopy, Read<ImmutableArray<Option>>> change,
        string? said = null,
        string? refused = null
    )
    {
        var outcome = await Products.Apply(Code, sentence, Visit.Actor, copy =>
        {
            var lost = "";
            var read = change(copy.Product.Extras, copy);
            if (read.Ok)
                lost = string.Join(
                    ", ",
                    copy.Product.Extras.Where(e =>
                            read.Value.FirstOrDefault(x => x.Key == e.Key) is { IsPicked: false } && e.Values.Length > 0
                        )
                        .Select(e => $"{e.Values.Length} values of {e.Label}")
                );
            if (lost.Length > 0)
                said = $"Left out: {lost}";
            return read.Ok ? Read<Product>.Of(copy.Product with { Extras = read.Value }) : Read<Product>.No(read.Problem!);
        });
        if (!outcome.Done && refused is not null)
            Refused = (refused, Request.Form);
        return await Answer(outcome, said, canUndo: said is not null);
    }

    /// <inheritdoc/>
    protected override Task<IActionResult> Put(string sentence, Func<ImmutableArray<Option>, Read<ImmutableArray<Option>>> change) =>
        Change(sentence, (extras, _) => change(extras));

    /// <summary>Takes the extras in the order they were dragged to.</summary>
    public Task<IActionResult> OnPostOrder(string[] keys) =>
        Put("Order of extras", extras => Read<ImmutableArray<Option>>.Of(InOrder(extras, e => e.Key.Text, keys)));

    /// <summary>SKUs that can be parts, for the boxes that ask for one.</summary>
    public Task<IReadOnlyList<string>> SomeSkus() => stock.OtherSkus(Copy.Id, 200);

    /// <summary>Leaves a shared set out, or takes it again.</summary>
    public async Task<IActionResult> OnPostSet(string set, bool taken) =>
        await Answer(await Products.Apply(Code, $"{(taken ? "With" : "Without")} the set {set}", Visit.Actor, copy =>
            {
                if (copy.Sets.FirstOrDefault(s => s.Key.Text == set) is not { } found)
                    return Read<Product>.No("That set is no longer there.");
                var product = copy.Product with
                {
                    ExtraSets = copy.Product.ExtraSets.Remove(found.Key),
                    WithoutSets = copy.Product.WithoutSets.Remove(found.Key),
                };
                if (taken && !found.ReachesByItself(product))
                    product = product with { ExtraSets = product.ExtraSets.Add(found.Key) };
                if (!taken && found.ReachesByItself(product))
                    product = product with { WithoutSets = product.WithoutSets.Add(found.Key) };
                return Read<Product>.Of(product);
            }));

    /// <summary>Keeps the product's own extras and rules among them as a shared set, which the product then takes.</summary>
    public async Task<IActionResult> OnPostKeepSet(string name, string[] extras) =>
        await Answer(await extraSets.Keep(Code, name, extras, Visit.Actor), "Kept as a set");
}
