using Xunit.Sdk;
using Xunit.v3;

[assembly: TestCaseOrderer(typeof(Unicus.Tests.AsWritten))]

namespace Unicus.Tests;

/// <summary>Runs the tests of a class in the order in which they are written, on every machine: those of one class share a database, or a
/// shop, and a fault in one that shows in another can then be found again.</summary>
internal sealed class AsWritten : ITestCaseOrderer
{
    /// <inheritdoc/>
    public IReadOnlyCollection<T> OrderTestCases<T>(IReadOnlyCollection<T> testCases)
        where T : notnull, ITestCase =>
        [
            .. testCases
                .OrderBy(t => (t as IXunitTestCase)?.TestMethod.Method.MetadataToken ?? 0)
                .ThenBy(t => t.TestCaseDisplayName, StringComparer.Ordinal),
        ];
}
