using System.Diagnostics;
using OpenQA.Selenium;

namespace Unicus.Browser.Tests;

/// <summary>Large and shared work in the real interface: blocks, bulk changes, bringing together, labels, spreadsheets, the
/// library.</summary>
[Collection("app")]
public class MatrixStoryTests(App app)
{
    private Steps Merchant()
    {
        var steps = new Steps(App.Browser(), app.Url);
        steps.SignIn();
        return steps;
    }

    private static string MakeByKeyboard(Steps s, string name, string option, string values)
    {
        s.Open("/office/range?new=1");
        s.Type("#new-name", name);
        s.Press(Keys.Enter);
        s.Find("#f-name");
        var code = s.Browser.Url.Split('/')[5];
        s.Open($"/office/products/{code}/options");
        s.Send("#option-label", option + Keys.Tab);
        s.Press(values);
        s.Press(Keys.Enter);
        s.Until("the option is there", () => s.Has(".option-label"));
        return code;
    }

    private static void Paste(Steps s, string css, string text) =>
        s.Run(
            """
            const cell = document.querySelector(arguments[0]); cell.focus();
            const data = new DataTransfer(); data.setData('text/plain', arguments[1]);
            cell.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
            """,
            css,
            text
        );

    [Fact]
    public void A_block_of_thirty_rows_and_four_columns_is_pasted_and_what_does_not_fit_is_told()
    {
        using var s = Merchant();
        var code = MakeByKeyboard(s, "Spacer set", "Length", string.Join(", ", Enumerable.Range(1, 30).Select(n => $"{n * 10} mm")));
        s.Open($"/office/products/{code}/matrix?view=rows&columns=price,cost,rrp,low");
        s.Until("thirty rows", () => s.Browser.FindElements(By.CssSelector("table.rows tbody tr")).Count == 30);
        var block = string.Join("\n", Enumerable.Range(1, 31).Select(n => $"{n}.50\t{n}.00\t{n + 1},00\t{n}"));
        Paste(s, "input.cell[data-values='length=10-mm'][data-figure=price]", block);
        s.See("124 cells pasted, 120 fit");
        s.See("4 lie beyond the rows and columns shown: 31.50");
        s.Click("#paste-fits");
        s.See("Pasted 120 cells");
        s.Open($"/office/products/{code}/matrix?view=rows&columns=price,cost,rrp,low");
        Assert.Equal("30.50", s.Attribute("[data-values='length=300-mm'][data-figure=price]", "value"));
        Assert.Equal("31.00", s.Attribute("[data-values='length=300-mm'][data-figure=rrp]", "value"));
        Assert.Equal("30", s.Attribute("[data-values='length=300-mm'][data-figure=low]", "value"));
        s.Send("body", Keys.Escape);
        s.Run("document.activeElement.blur()");
        s.Send("body", Keys.Control + "z");
        s.See("Taken back");
        s.Until("the block is gone", () => s.Attribute("[data-values='length=300-mm'][data-figure=price]", "value")!.Length == 0);
        s.Run("document.activeElement.blur()");
        s.Send("body", Keys.Control + "y");
        s.See("Done again");
        s.Until("the block is back", () => s.Attribute("[data-values='length=300-mm'][data-figure=price]", "value") == "30.50");
    }

    [Fact]
    public void A_block_with_a_wrong_cell_writes_nothing_until_it_is_looked_at()
    {
        using var s = Merchant();
        var code = MakeByKeyboard(s, "Queen cage", "Length", "Short, Long");
        s.Open($"/office/products/{code}/matrix?view=rows");
        Paste(s, "input.cell[data-values='length=short'][data-figure=price]", "3.50\tcheap\n4.50\t2.00");
        s.See("4 cells pasted, 3 fit");
        s.See("“cheap” is not a number");
        s.Press(Keys.Escape);
        s.Until("the bar is gone", () => !s.Has("#paste-fits"));
        s.Open($"/office/products/{code}/matrix?view=rows");
        Assert.Equal("", s.Attribute("[data-values='length=short'][data-figure=price]", "value"));
    }

    [Fact]
    public void Values_and_options_are_put_in_order_with_the_keyboard_or_by_drag()
    {
        using var s = Merchant();
        var code = MakeByKeyboard(s, "Frame spacer", "Width", "Narrow, Middle, Wide");
        string Order(string list) =>
            string.Join(
                ' ',
                s.Browser.FindElements(By.CssSelector($"[data-order='{list}'] > [data-key]")).Select(e => e.GetAttribute("data-key"))
            );
        s.Run("document.querySelector('[data-key=wide] .handle').focus()");
        s.Press(Keys.ArrowUp);
        s.Until("it moved and keeps the focus", () =>
            Order("values:width") == "narrow wide middle"
            && s.Focused.GetAttribute("aria-label")?.StartsWith("Move Wide", StringComparison.Ordinal) == true
        );
        s.Send("#option-label", "Holes" + Keys.Tab);
        s.Press("Four, Six" + Keys.Enter);
        s.Until("two options", () => Order("options") == "width holes");
        s.Run("document.activeElement.blur()");
        s.Until("no request runs", () => (bool)s.Run("return document.querySelectorAll('.htmx-request').length === 0")!);
        s.Until("it was dragged to the front", () =>
        {
            if (Order("values:width") == "middle narrow wide")
                return true;
            var (from, to) = (s.Find("[data-key=middle] .handle"), s.Find("[data-key=narrow] .handle"));
            new OpenQA.Selenium.Interactions.Actions(s.Browser)
                .MoveToElement(from)
                .ClickAndHold()
                .MoveByOffset(0, -8)
                .MoveByOffset(0, -8)
                .MoveToElement(to)
                .MoveByOffset(0, -4)
                .MoveByOffset(0, -5)
                .Release()
                .Perform();
            return false;
        });
        s.Until("it is kept", () => (bool)s.Run("return document.querySelectorAll('.htmx-request').length === 0")!);
        s.Open($"/office/products/{code}/options");
        Assert.Equal("middle narrow wide", Order("values:width"));
    }

    [Fact]
    public void One_variant_is_split_off_from_its_row()
    {
        using var s = Merchant();
        var code = MakeByKeyboard(s, "Smoke pellets", "Wood", "Apple, Hemp");
        s.Open($"/office/products/{code}/matrix?view=rows");
        s.Click("tr[data-values='wood=hemp'] .acts summary");
        s.Click("tr[data-values='wood=hemp'] .split-off");
        s.Until("a name is suggested", () => s.Attribute("#change [name=name]", "value") == "Smoke pellets, hemp");
        s.Click("#change .btn.do");
        s.Until("the new product is open", () => s.Attribute("#f-name", "value") == "Smoke pellets, hemp");
        s.Open($"/office/products/{code}/matrix?view=rows");
        Assert.Single(s.Browser.FindElements(By.CssSelector("tr[data-values]")));
    }

    [Fact]
    public void A_swatch_is_cut_from_a_picture_with_a_click()
    {
        using var s = Merchant();
        var file = Path.Combine(Path.GetTempPath(), $"linen-{Guid.NewGuid():N}.png");
        File.WriteAllBytes(
            file,
            Convert.FromBase64String("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==")
        );
        s.Open("/office/products/SUIT/options?cut=cloth=linen#cut");
        s.See("Send a photograph to cut from.");
        s.Open("/office/products/SUIT/facts");
        s.Send(".upload input[type=file]", file);
        s.Until("three pictures", () => s.Browser.FindElements(By.CssSelector(".pictures-list li")).Count == 3);
        s.Open("/office/products/SUIT/options?cut=cloth=linen#cut");
        s.Click("#cut input[type=image]");
        s.Until("the swatch is a picture", () => s.Has("[data-key=linen] img.chip"));
        s.Until("and the shopper sees it", () => s.Has("#proof img.chip"));

        s.Open("/office/options/material?cut=linen#cut");
        s.Send(".cut-upload input[type=file]", file);
        s.Click(".cut-upload button");
        s.Click("#cut input[type=image]");
        s.Until("the library has the piece", () => s.Browser.FindElements(By.CssSelector(".library-option td img.chip")).Count == 1);

        // A value of an extra, of a product and of a shared set: from a photograph sent for it.
        foreach (
            var (page, value, seen) in new[]
            {
                ("/office/products/GH1/extras", "roof=gabled", ".extra[data-key=roof] img.chip"),
                ("/office/extras/gift-wrapping", "wrap=yes", ".extra[data-key=wrap] img.chip"),
            }
        )
        {
            s.Open($"{page}?cut={value}#cut");
            s.Send(".cut-upload input[type=file]", file);
            s.Click(".cut-upload button");
            s.Click("#cut input[type=image]");
            s.Until($"{value} has its piece", () => s.Has(seen));
        }
        s.Open("/p/garden-hive");
        s.Until("the shopper sees the wrapping", () => s.Has("label:has(#o-wrap-yes) img.chip"));
    }

    [Fact]
    public async Task A_film_comes_from_a_file_or_an_allowed_host_and_from_nowhere_else()
    {
        using var s = Merchant();
        s.Open("/office/products/SMK/facts");
        s.Type(".film [name=address]", "https://films.example.org/smoker.mp4");
        s.Click(".film button");
        s.See("Films from films.example.org are not allowed yet");
        s.Type(".film [name=address]", "https://films.example.org/show?film=smoker");
        s.Click(".film button");
        s.See("That address is no film file. One ends with");
        s.Open("/office/settings");
        s.Type("[name=VideoHosts]", "films.example.org");
        s.Click(".form .do");
        s.See("Saved.");
        s.Open("/office/products/SMK/facts");
        s.Type(".film [name=title]", "Lighting it");
        s.Type(".film [name=address]", "https://films.example.org/smoker.mp4");
        s.Click(".film button");
        s.See("Lighting it");
        s.Open("/office/products/SMK/facts");
        s.Publish();
        s.Open("/p/smoker");
        Assert.Equal("https://films.example.org/smoker.mp4", s.Attribute("video", "src"));
        using var http = new HttpClient();
        var policy = (await http.GetAsync(new Uri(app.Url + "/p/smoker"))).Headers.GetValues("Content-Security-Policy").Single();
        Assert.Contains("media-src 'self' https://films.example.org", policy, StringComparison.Ordinal);
    }

    [Fact]
    public void Ten_thousand_variants_scroll_by_windows_are_filtered_and_changed_at_once()
    {
        using var s = Merchant();
        s.Open("/office/products/LBL/matrix?view=rows");
        Assert.InRange(s.Browser.FindElements(By.CssSelector("table.rows tbody tr:not(.pad)")).Count, 20, 200);
        s.Run("document.getElementById('matrix').scrollTop = 200000");
        s.Until("rows further down are there", () =>
            int.Parse(s.Attribute("#matrix", "data-from")!) > 4000
            && s.Browser.FindElements(By.CssSelector("table.rows tbody tr:not(.pad)")).Count > 20
        );
        s.Click("[data-pick='shape=ribbon']");
        s.See("ribbon variants");
        s.Type("#amount", "0.20");
        s.Until("old and new are shown", () => s.Text("#change-rows").Contains("more"));
        var offered = s.Text("#apply-bulk").Split(' ')[1];
        s.Click("#apply-bulk");
        s.See($"Changed the price of {offered} variants");
        s.Open("/office/products/LBL/matrix?view=rows&state=own");
        s.Until("they have a price of their own", () => s.Text("#found-count").StartsWith(offered, StringComparison.Ordinal));
        s.Run("document.activeElement.blur()");
        s.Send("body", Keys.Control + "z");
        s.See("No variant fits.");
    }

    [Fact]
    public void Three_feeders_are_brought_together_and_their_old_address_leads_to_the_value()
    {
        using var s = Merchant();
        s.Open("/office/range?q=Feeder&sort=name");
        foreach (var code in new[] { "FD1", "FD2", "FD4" })
            s.Click($"input[name=code][value^='{code}:']");
        s.Click("#bring-together");
        s.See("keeps its page and address");
        s.See("2 litres");
        s.Click("#apply-together");
        s.Until("the matrix has the three", () => s.Browser.FindElements(By.CssSelector("table.rows tbody tr[data-values]")).Count == 3);
        Assert.Equal(["FD1", "FD2", "FD4"], s.Values("input[data-figure=sku]"));
        using var shopper = new Steps(App.Browser(), app.Url);
        shopper.Open("/p/feeder-4-litres");
        shopper.Until("the value is picked", () => shopper.Browser.Url.Contains("4-litres") && shopper.Has("#buy-now:not([disabled])"));
        shopper.See("11.50");
    }

    [Fact]
    public void A_label_sheet_is_read_back_by_another_program()
    {
        using var s = Merchant();
        s.Open("/office/products/GLV/matrix?view=rows&columns=sku,gtin,price");
        s.Type("input[data-figure=gtin]", "6291041500214");
        s.See("should be 3");
        s.Type("input[data-figure=gtin]", "6291041500213");
        s.Until("the fault is gone", () => !s.Has("input.cell[aria-invalid]"));
        s.Open("/office/products/GLV/labels");
        s.See("6291041500213");
        s.Click("[data-copies='1']");
        s.Click("#make-sheet");
        s.See("4 labels on 1 sheet");
        s.Run("document.querySelector('.label-sheet').scrollIntoView(); document.querySelector('.label-sheet').style.zoom = '1.6'");
        var picture = Path.Combine(Path.GetTempPath(), $"labels-{Guid.NewGuid():N}.png");
        s.Browser.Shape(1600, 1400);
        s.Browser.GetScreenshot().SaveAsFile(picture);
        using var reader = Process.Start(new ProcessStartInfo("zbarimg", $"--quiet {picture}") { RedirectStandardOutput = true })!;
        var read = reader.StandardOutput.ReadToEnd();
        File.Delete(picture);
        Assert.Contains("EAN-13:6291041500213", read, StringComparison.Ordinal);
        foreach (var sku in new[] { "GLV-M", "GLV-L" })
            Assert.Contains($"CODE-128:{sku}", read, StringComparison.Ordinal);
    }

    [Fact]
    public void A_spreadsheet_shows_its_changes_and_faults_before_it_is_written()
    {
        using var s = Merchant();
        var file = Path.Combine(Path.GetTempPath(), $"sheet-{Guid.NewGuid():N}.csv");
        void Send(string text)
        {
            File.WriteAllText(file, text);
            s.Open("/office/sheet/HT");
            s.Send("#sheet-file", file);
            s.Click("#read-sheet");
        }
        Send("SKU;cost;colour\nHT-J;5,55;red\nHT-X;1;red\n");
        s.See("Nothing was written. Mend these in the file");
        s.See("has no SKU HT-X");
        s.See("“colour”");
        Send("SKU;cost\nHT-J;5,55\n");
        s.Click("#apply-sheet");
        s.See("1 figure changed");
        s.Open("/office/products/HT/matrix?view=rows");
        Assert.Contains("5.55", s.Values("input[data-figure=cost]"));
        File.Delete(file);
    }

    [Fact]
    public void An_option_is_taken_from_the_library_and_a_pattern_is_changed()
    {
        using var s = Merchant();
        s.Open("/office/options");
        s.Type("#option-label", "Handle");
        s.Send("#option-values", "Ash, Beech");
        s.Click(".new-option button");
        s.See("Ash");
        var code = MakeByKeyboard(s, "Uncapping fork", "Tines", "8, 12");
        s.Run("[...document.querySelectorAll('.take-from > summary')].find(e => e.textContent.startsWith('Handle')).click()");
        s.Click(".take-from[open] button");
        s.Until("four variants", () => s.Text("#size").Contains("2 × 2 = 4"));
        s.Click("[name=add][value='counter:4']");
        s.Until("the counter is in the pattern", () => s.Text(".pattern").Contains("0001"));
        s.Click("#preview-rewrite");
        s.See("4 SKUs would change");
        s.Click("#apply-rewrite");
        s.See("SKUs rewritten");
        s.Open($"/office/products/{code}/matrix?view=rows");
        Assert.EndsWith("0001", s.Attribute("input[data-figure=sku]", "value"), StringComparison.Ordinal);
        // The whole option merged into another: shown first.
        s.Open("/office/options/handle?whole=material");
        s.See("Material gets Ash, Beech.");
        s.Click("#apply-merge");
        s.Until("the other option is shown with the values", () =>
            s.Browser.Url.EndsWith("/office/options/material") && s.Has("[aria-label='Label of Ash']")
        );
        s.Open($"/office/products/{code}/options");
        s.Until("the product uses it", () => s.Has("a[href='/office/options/material']"));
    }

    [Fact]
    public void All_variants_of_the_range_are_typed_into_as_one_sheet()
    {
        using var s = Merchant();
        s.Open("/office/variants?q=JAR-");
        const string Costs = "input.cell[data-values^='JAR|'][data-figure=cost]";
        Paste(s, Costs, "0.29\n0.28");
        s.See("Pasted 2 cells");
        s.Open("/office/variants?q=JAR-");
        s.Until("the figures are kept", () => s.Values(Costs) is ["0.29", "0.28", ..]);
    }
}
