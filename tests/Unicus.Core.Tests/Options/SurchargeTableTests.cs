namespace Unicus.CoreTests;

/// <summary>Tables of surcharges as they are copied from a spreadsheet.</summary>
public class SurchargeTableTests
{
    private static readonly Key Width = Key.Of("width");

    private static Read<Surcharge?> Read(string text, Key? by) => TypedSurcharge.Table(text.Replace('|', '\n'), by, Currency.Euro);

    [Fact]
    public void A_table_of_two_measures_is_read_and_written_again()
    {
        var table = (Surcharge.Table)Read(";30;60|20;1.00;2.00|40;3.00;4.00", Width).Value!;
        Assert.Equal(
            ["20/30 1.00", "20/60 2.00", "40/30 3.00", "40/60 4.00"],
            table.Rows.SelectMany(r => r.Columns.Select(c => $"{r.Max:0}/{c.Max:0} {c.Amount.Amount:0.00}"))
        );
        Assert.Equal(table, TypedSurcharge.Table(TypedSurcharge.Write(table), Width, Currency.Euro).Value);
    }

    [Theory]
    [InlineData("20;1.00;2.00", null, "The line of 20 has 2 amounts; 1 is needed.")]
    [InlineData(";30;60|20;1.00", "width", "The line of 20 has 1 amount; 2 are needed.")]
    [InlineData(";30;60", "width", "A table of two measures has the bounds of the columns in its first line and at least one line more.")]
    [InlineData(";30;deep|20;1.00;2.00", "width", "“deep” in the first line is not a bound of a column. Type a number there, like 60.")]
    [InlineData("wide;1.00", null, "“wide” is not a bound. A line begins with a number, like 30.")]
    [InlineData("5", null, "The line of 5 has 0 amounts; 1 is needed.")]
    [InlineData("20;", null, "The line of 20 lacks an amount.")]
    [InlineData("40;1.00|20;2.00", null, "The bounds of a table rise from line to line and from column to column.")]
    [InlineData(";60;30|20;1.00;2.00", "width", "The bounds of a table rise from line to line and from column to column.")]
    public void What_is_wrong_with_a_table_is_said(string text, string? by, string problem) =>
        Assert.Equal(problem, Read(text, by is null ? null : Key.Of(by)).Problem);

    [Fact]
    public void Nothing_typed_is_no_table() => Assert.Equal((true, null), (Read("  | ", null).Ok, Read("  | ", null).Value));
}
