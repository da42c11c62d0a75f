using System.Collections.Immutable;
using System.Globalization;
using Microsoft.AspNetCore.Mvc;

namespace Unicus.Web.Workbench;

/// <summary>The pictures of a lookbook with their pins, in the chapter Parts.</summary>
public sealed partial class PartsChapter
{
    /// <summary>The product's pictures that the lookbook does not show yet.</summary>
    public IEnumerable<ProductPicture> PicturesToAdd =>
        Copy.Product.Pictures.Where(p => Copy.Product.Parts?.Pictures.Any(l => l.File == p.File) != true);

    /// <summary>A place of a pin as it stands in its box, in per cent; empty where there is no pin.</summary>
    public static string Percent(decimal? place) => place is { } at ? (at * 100).ToString("0.#", CultureInfo.InvariantCulture) : "";

    /// <summary>Shows one of the product's pictures in the lookbook.</summary>
    public Task<IActionResult> OnPostLookPicture(string file) =>
        ChangeParts("A picture of the lookbook added", (parts, copy) => copy.Product.Pictures.FirstOrDefault(p => p.File == file)
                is not { } picture
                ? Read<SetParts>.No("That picture is no longer there.")
            : parts.Pictures.Any(p => p.File == file) ? Read<SetParts>.Of(parts)
            : Read<SetParts>.Of(parts with { Pictures = parts.Pictures.Add(new LookbookPicture(file, picture.Alt, [])) }));

    /// <summary>Takes the pins of a picture as its form shows them, or takes the picture out.</summary>
    public Task<IActionResult> OnPostPins(int picture, string? act)
    {
        var form = Request.Form;
        return ChangeParts(act == "remove" ? "A picture of the lookbook removed" : "Pins", (parts, _) =>
        {
            if (picture < 0 || picture >= parts.Pictures.Length)
                return Read<SetParts>.No("That picture is no longer there.");
            if (act == "remove")
                return Read<SetParts>.Of(parts with { Pictures = parts.Pictures.RemoveAt(picture) });
            var pins = ImmutableArray.CreateBuilder<Pin>();
            foreach (var slot in parts.Slots)
            {
                var (x, y) = (form[$"x-{slot.Key}"].ToString().Trim(), form[$"y-{slot.Key}"].ToString().Trim());
                if (x.Length == 0 && y.Length == 0)
                    continue;
                if (PlaceOf(x) is not { } across || PlaceOf(y) is not { } down)
                    return Read<SetParts>.No($"{slot.Label}: a pin stands at 0 to 100 per cent, across and down.");
                pins.Add(new Pin(slot.Key, across, down));
            }
            var changed = parts.Pictures[picture] with { Pins = pins.ToImmutable() };
            return Read<SetParts>.Of(parts with { Pictures = parts.Pictures.SetItem(picture, changed) });
        });
    }

    private static decimal? PlaceOf(string typed) =>
        TypedNumbers.Percent(typed) is { Value: { Value: >= 0 and <= 100 and var percent } } ? Math.Round(percent / 100, 4) : null;
}
