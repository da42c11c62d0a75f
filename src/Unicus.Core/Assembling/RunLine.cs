namespace Unicus.Core.Assembling;

using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Rules;

/// <summary>A line whose variant is decided and whose answers are complete, to be priced.</summary>
/// <param name="Goods">The variant.</param>
/// <param name="Answers">Those that count: of questions that are shown.</param>
/// <param name="Quantity">Units; 1 or more.</param>
/// <param name="Needs">What one unit takes, as <see cref="ComingApart.Needs"/> gives it.</param>
/// <param name="Through">The code of the page that it is bought through; null for its own.</param>
public sealed record RunLine(
    VariantOnSale Goods,
    Configuration Answers,
    int Quantity,
    ImmutableArray<LeafNeed> Needs,
    string? Through = null
) : IBoughtGoods
{
    /// <summary>How the goods come to the buyer.</summary>
    public Supply Supply { get; init; } = Supply.Sold;

    /// <summary>The parts of a set; null for a product without.</summary>
    public AssembledSet? Assembled { get; init; }

    /// <summary>Whether it is what a group's own extras cost.</summary>
    public bool IsOfGroup => Goods.Edition.Product.IsGroup;

    /// <summary>Whether it is a group's line without anything answered: nothing is bought by it.</summary>
    public bool IsEmpty => IsOfGroup && Answers.Given.All(g => g.Answer is Answer.None);

    /// <summary>What was asked of parts, as it came; null for nothing.</summary>
    public JsonObject? AskedParts { get; init; }

    /// <summary>“Garden hive, deep, cedar”.</summary>
    public string Title => Goods.Figures.Name;
}
