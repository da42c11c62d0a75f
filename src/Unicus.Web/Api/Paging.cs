namespace Unicus.Web.Api;

/// <summary>The pages of a list.</summary>
public static class Paging
{
    /// <summary>The most rows of one page.</summary>
    public const int LargestPage = 500;

    /// <summary>What is wrong with the page asked for; null if nothing is. A page beyond the end is empty, not wrong.</summary>
    public static IResult? Problem(long page, int size) =>
        page < 1 || size is < 1 or > LargestPage ? Problems.Of(422, $"page begins at 1, size lies between 1 and {LargestPage}.") : null;

    /// <summary>How many rows lie before a page; at most as many as can be counted.</summary>
    public static int Skipped(long page, int size) => (int)Math.Min((decimal)(page - 1) * size, int.MaxValue);
}
