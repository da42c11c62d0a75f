using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>The chapter Checks.</summary>
public sealed class ChecksChapter(Bench bench) : ChapterModel(bench)
{
    public override Chapter Chapter => Chapter.Checks;

    public static string ChapterName(Chapter chapter) => chapter == Chapter.Money ? "Money & measure" : chapter.ToString();

    /// <summary>What stands in the way of its parts.</summary>
    public async Task<IEnumerable<ProductCheck>> OfParts() =>
        (await PartsView.Now(Code, Reading, Visit)).Troubles.Select(t => new ProductCheck(false, t, Chapter.Parts));

    /// <inheritdoc/>
    protected override Task Prepare() => Goods.RefreshSummary(Code);

    /// <inheritdoc/>
    protected override VariantScope Needed(Product product) => VariantScope.All;
}
