namespace Unicus.Core.Rules;

/// <summary>A decision diagram laid out level by level, without the jumps of the reduced one.</summary>
internal static class DiagramLayers
{
    /// <summary>For each level and node in it the node of the next level that each value leads to, −1 for none; and how many nodes each
    /// level has.</summary>
    /// <param name="diagram">What is laid out.</param>
    /// <param name="root">The node that it begins at.</param>
    /// <param name="sizes">Values of each level.</param>
    public static (int[][] Edges, int[] Nodes) Of(DecisionDiagram diagram, int root, int[] sizes)
    {
        var edges = new int[sizes.Length][];
        var nodes = new int[sizes.Length + 1];
        var here = root == DecisionDiagram.False ? new List<int>() : [root];
        for (var level = 0; level < sizes.Length; level++)
        {
            nodes[level] = here.Count;
            edges[level] = new int[here.Count * sizes[level]];
            var (next, index) = (new List<int>(), new Dictionary<int, int>());
            for (var n = 0; n < here.Count; n++)
                for (var v = 0; v < sizes[level]; v++)
                {
                    var to = diagram.LevelOf(here[n]) == level ? diagram.Child(here[n], v) : here[n];
                    if (to != DecisionDiagram.False && !index.ContainsKey(to))
                    {
                        index[to] = next.Count;
                        next.Add(to);
                    }
                    edges[level][n * sizes[level] + v] = to == DecisionDiagram.False ? -1 : index[to];
                }
            here = next;
        }
        nodes[^1] = here.Count;
        return (edges, nodes);
    }
}
