using Unicus.Mutants;

// bench/mutants [a folder's places] [seed] [folders]: puts faults into the core at random and counts how many its tests notice.
// README.md says how.
string[] everyFolder = ["Money", "Options", "Variants", "Pricing", "RuleBook", "Assembling", "Baskets", "Proof", "Stock", "Documents"];
var perFolder = args.Length > 0 ? int.Parse(args[0]) : 40;
var seed = args.Length > 1 ? int.Parse(args[1]) : 24;
var folders = args.Length > 2 ? args[2..] : everyFolder;
var root = Environment.GetEnvironmentVariable("UNICUS_ROOT") ?? Directory.GetCurrentDirectory();
var work = Directory.CreateTempSubdirectory("unicus-mutants.").FullName;

var wanted = folders.SelectMany(f => Drawn(f, new Random(seed))).ToList();
var tree = new MutatedTree(root, Path.Combine(work, "tree"));
await tree.Copy();
var mutants = await tree.Build(wanted);
Console.WriteLine($"{wanted.Count} places drawn, {mutants.Count} compile");

var atOnce = Environment.ProcessorCount;
var runs = new TestRuns(tree.Assembly, work);
var classes = await runs.Classes(atOnce);
Console.WriteLine($"{classes.Count} classes of tests, {classes.Sum(c => c.Takes.TotalSeconds):0} s");

var ends = new Dictionary<int, End>();
await Parallel.ForEachAsync(
    mutants,
    new ParallelOptions { MaxDegreeOfParallelism = atOnce },
    async (mutant, _) =>
    {
        var end = await runs.Try(mutant.Key, classes);
        lock (ends)
        {
            ends[mutant.Key] = end;
            Console.WriteLine($"{ends.Count,4}  {end,-10}  {mutant.Value}");
        }
    }
);

Console.WriteLine();
Console.WriteLine("| folder | places | covered | noticed | of the covered |");
Console.WriteLine("| --- | ---: | ---: | ---: | ---: |");
foreach (var part in mutants.GroupBy(m => m.Value.Folder))
    Row(part.Key, [.. part.Select(m => ends[m.Key])]);
Row("all", [.. ends.Values]);
Directory.Delete(work, recursive: true);

IEnumerable<Mutant> Drawn(string folder, Random random)
{
    var at = Path.Combine(root, "src", "Unicus.Core", folder);
    var places = Directory
        .EnumerateFiles(at, "*.cs", SearchOption.AllDirectories)
        .Order(StringComparer.Ordinal)
        .SelectMany(file => Sites.Of(folder, Path.GetRelativePath(root, file), File.ReadAllText(file)))
        .ToArray();
    random.Shuffle(places);
    // A place within another one would be switched twice.
    var taken = new List<Mutant>();
    foreach (var place in places)
    {
        if (taken.Count == perFolder)
            break;
        if (!taken.Any(t => t.File == place.File && t.Start < place.End && place.Start < t.End))
            taken.Add(place);
    }
    return taken;
}

static void Row(string name, IReadOnlyList<End> ends)
{
    var covered = ends.Count(e => e != End.NotCovered);
    var noticed = ends.Count(e => e is End.Killed or End.TimedOut);
    Console.WriteLine($"| {name} | {ends.Count} | {covered} | {noticed} | {100.0 * noticed / Math.Max(covered, 1):0} % |");
}
