
namespace Unicus.Web.Workbench;

/// <summary>The chapter Checks.</summary>
public sealed partial class WorkbenchModel
{
    public static string ChapterName(Chapter chapter) => chapter == Chapter.Money ? "Money & measure" : chapter.ToString();
}
