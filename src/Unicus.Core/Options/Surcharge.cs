namespace Unicus.Core.Options;

using System.Collections.Immutable;
using Unicus.Core.Money;

/// <summary>What an answer adds to the price or, negative, takes off.</summary>
public abstract record Surcharge
{
    private Surcharge() { }

    /// <summary>A fixed amount for each unit.</summary>
    public sealed record PerUnit(Money Amount) : Surcharge;

    /// <summary>A percentage: of the base price for a variant's value, of the variant's list price for an extra; several do not
    /// compound.</summary>
    public sealed record Percent(Percentage Rate) : Surcharge;

    /// <summary>An amount for the whole line, whatever its quantity.</summary>
    public sealed record Once(Money Amount) : Surcharge;

    /// <summary>An amount for each text element that is not white space, for each unit.</summary>
    /// <param name="Rate">What each one adds.</param>
    /// <param name="Minimum">At least so much where there is any text; null means none.</param>
    public sealed record PerCharacter(Money Rate, Money? Minimum) : Surcharge;

    /// <summary>An amount for each measured unit of a number, for each unit.</summary>
    public sealed record PerMeasure(Money Rate) : Surcharge;

    /// <summary>From a table over the number itself and, if named, a second number.</summary>
    /// <param name="By">The question whose number chooses the column; null for a table of one measure.</param>
    /// <param name="Rows">By rising bound.</param>
    public sealed record Table(Key? By, ImmutableArray<TableRow> Rows) : Surcharge
    {
        /// <summary>The amount of the band that holds the measures, upper bounds inclusive; null beyond the last bound.</summary>
        public Money? Look(decimal measure, decimal column)
        {
            foreach (var row in Rows)
            {
                if (measure > row.Max)
                    continue;
                foreach (var cell in row.Columns)
                    if (By is null || column <= cell.Max)
                        return cell.Amount;
                return null;
            }
            return null;
        }

        /// <summary>Whether bounds rise from one to the next, as those of rows and of columns must.</summary>
        public static bool IsRising(IEnumerable<decimal> bounds) => bounds.Zip(bounds.Skip(1)).All(p => p.First < p.Second);

        /// <summary>Whether the other table has the same rows.</summary>
        public bool Equals(Table? other) => other is not null && By == other.By && Rows.SequenceEqual(other.Rows);

        /// <inheritdoc/>
        public override int GetHashCode() => HashCode.Combine(By, Rows.Length);
    }

    /// <summary>What a fixed amount or a percentage adds to one unit whose base price is <paramref name="basis"/>, rounded half away from
    /// zero.</summary>
    /// <exception cref="InvalidOperationException">It is of another kind.</exception>
    public Money On(Money basis) =>
        this switch
        {
            PerUnit s => s.Amount,
            Percent s => s.Rate.Of(basis),
            _ => throw new InvalidOperationException("This surcharge is not one of a value of a variant."),
        };

    /// <summary>How people write it: <c>-32.00</c>, <c>8 %</c>, <c>6.00 once</c>.</summary>
    /// <param name="amounts">How amounts are written; null: as in the back office.</param>
    public string ForPeople(Func<Money, string>? amounts = null)
    {
        amounts ??= m => m.ForPeople();
        return this switch
        {
            PerUnit s => amounts(s.Amount),
            Percent s => $"{s.Rate} %",
            Once s => $"{amounts(s.Amount)} once",
            PerCharacter s => $"{amounts(s.Rate)} a character{(s.Minimum is { } m ? $", at least {amounts(m)}" : "")}",
            PerMeasure s => $"{amounts(s.Rate)} a unit",
            Table => "by a table",
            _ => "",
        };
    }
}

/// <summary>One band of a table of surcharges.</summary>
/// <param name="Max">Its upper bound, inclusive.</param>
/// <param name="Columns">One without a bound of its own for a table of one measure; else by rising bound.</param>
public sealed record TableRow(decimal Max, ImmutableArray<TableCell> Columns)
{
    /// <summary>Whether the other table has the same rows.</summary>
    public bool Equals(TableRow? other) => other is not null && Max == other.Max && Columns.SequenceEqual(other.Columns);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Max, Columns.Length);
}

/// <param name="Max">The upper bound of the column, inclusive; 0 in a table of one measure.</param>
/// <param name="Amount">What it comes to.</param>
public sealed record TableCell(decimal Max, Money Amount);
