using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;
using Unicus.Web.Options;
using Unicus.Web.Shell;

namespace Unicus.Web.Workbench;

/// <summary>Options and values taken from the library of the shop, and given to it.</summary>
public sealed partial class OptionsChapter
{
    /// <summary>Options of the library that the product does not use yet, those usual in its categories first.</summary>
    public async Task<IReadOnlyList<(Option Option, bool Usual)>> FromLibrary()
    {
        var usual = (await categories.Named(Copy.Product.Categories)).SelectMany(c => c.Options).ToHashSet();
        var used = Copy.Product.Options.Select(o => o.Library?.Text).ToHashSet();
        return
        [
            .. (await library.All())
                .Where(e => !used.Contains(e.Option.Key.Text))
                .Select(e => (e.Option, usual.Contains(e.Option.Key.Text)))
                .OrderByDescending(e => e.Item2),
        ];
    }

    /// <summary>Values of the library's option that the product leaves out.</summary>
    public async Task<IReadOnlyList<OptionValue>> LeftOut(Option option) =>
        option.Library is { } key && await library.Find(key.Text) is { } entry
            ?
            [
                .. entry.Option.Values.Where(v =>
                    option.Find(v.Key) is null
                    && option.Values.All(o => !string.Equals(o.Label, v.Label, StringComparison.OrdinalIgnoreCase))
                ),
            ]
            : [];

    /// <summary>Takes an option from the library, or one more value of it.</summary>
    public async Task<IActionResult> OnPostTake(string option, string[] values, string? into)
    {
        if (await library.Find(option) is not { } entry)
            return await Answer(Outcome.No("", "That option is no longer in the library."));
        var taken = entry.Option.Values.Where(v => values.Contains(v.Key.Text)).ToImmutableArray();
        if (taken.IsEmpty)
            return await Answer(Outcome.No("", $"Tick at least one value of {entry.Option.Label}."));
        return await Put($"{entry.Option.Label} from the library", options =>
        {
            if (into is not null)
                return WithOption(options, into, o =>
                    Read<Option?>.Of(
                        o with
                        {
                            Values =
                            [
                                .. o.Values,
                                .. taken
                                    .Where(t => o.Find(t.Key) is null)
                                    .Select(t =>
                                        o.Values.Any(v => v.SkuPiece == t.SkuPiece)
                                            ? TypedValues.Make([t.Label], o.Values)[0] with
                                            {
                                                Key = t.Key,
                                            }
                                            : t
                                    ),
                            ],
                        }
                    )
                );
            var key = Copy.Whole.FreeKey(entry.Option.Label);
            return Read<ImmutableArray<Option>>.Of(
                options.Add(
                    new Option(key, entry.Option.Label, OptionRole.Variant)
                    {
                        Library = entry.Option.Key,
                        Help = entry.Option.Help,
                        Values = taken,
                    }
                )
            );
        });
    }

    public async Task<IActionResult> OnPostKeep(string option) =>
        await Answer(
            Key.TryParse(option, out var key)
                ? await library.Keep(Code, key, Visit.Actor)
                : Outcome.No("", "That option was removed meanwhile."),
            "Kept in the library"
        );
}
