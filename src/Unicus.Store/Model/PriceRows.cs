namespace Unicus.Store;

/// <summary>A price rule of the shop.</summary>
internal sealed class PriceRuleRow
{
    public int Id { get; set; }
    public required string Key { get; set; }
    public required string Name { get; set; }

    /// <summary>The rule as a document.</summary>
    public required string Document { get; set; }

    /// <summary>Kept aside: out of the list, and never acting.</summary>
    public bool Archived { get; set; }

    /// <summary>Counts up with every change; the entity tag of the HTTP interface.</summary>
    public int Version { get; set; }

    public DateTimeOffset ChangedAt { get; set; }
    public string ChangedBy { get; set; } = "";
}

/// <summary>A state of a rule, or of the shop's terms, from a moment on: what public prices went by.</summary>
internal sealed class PriceHistoryRow
{
    public long Id { get; set; }

    /// <summary>The key of the rule; empty for the shop's terms.</summary>
    public required string Key { get; set; }

    /// <summary>As a document; null from when on it is archived or gone.</summary>
    public string? Document { get; set; }

    public DateTimeOffset At { get; set; }
}

/// <summary>A group of customers.</summary>
internal sealed class CustomerGroupRow
{
    public required string Key { get; set; }
    public required string Label { get; set; }

    /// <summary>The word by which shoppers say that they belong to it, in capitals; null: only by their account.</summary>
    public string? Code { get; set; }
}

/// <summary>A code of a list that works once.</summary>
internal sealed class CouponCodeRow
{
    /// <summary>The key of the list.</summary>
    public required string List { get; set; }

    /// <summary>In capitals.</summary>
    public required string Code { get; set; }

    /// <summary>The order that used it; null while it can be used.</summary>
    public int? OrderNumber { get; set; }
}

/// <summary>One use of a rule by an order.</summary>
internal sealed class RuleUseRow
{
    public int Id { get; set; }
    public int OrderNumber { get; set; }

    /// <summary>The rule as workings name it.</summary>
    public required string Rule { get; set; }

    /// <summary>The buyer's email in small letters; empty where none was given.</summary>
    public required string Buyer { get; set; }

    /// <summary>What it took off; 0 or less.</summary>
    public decimal Amount { get; set; }

    public DateTimeOffset At { get; set; }

    /// <summary>The list of the code that was used; null for none.</summary>
    public string? List { get; set; }

    /// <summary>The code of that list, in capitals.</summary>
    public string? Code { get; set; }

    /// <summary>Whether the order was cancelled, so that it does not count.</summary>
    public bool GivenBack { get; set; }
}
