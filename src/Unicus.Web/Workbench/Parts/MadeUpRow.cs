namespace Unicus.Web.Workbench;

/// <summary>A set that is made up ahead.</summary>
/// <param name="Available">Made up and free.</param>
/// <param name="Most">How many more the parts allow.</param>
/// <param name="Parts">What one takes, each with what is free of it.</param>
public sealed record MadeUpRow(VariantOnSale Set, int Available, int Most, IReadOnlyList<(LeafNeed Need, int Available)> Parts)
{
    /// <summary>“takes 1 × Frame grip (19 free)”.</summary>
    public string Takes => string.Join(", ", Parts.Select(p => $"{p.Need.PerUnit} × {p.Need.Goods.Figures.Name} ({p.Available:N0} free)"));
}
