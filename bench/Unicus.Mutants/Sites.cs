using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;
using Microsoft.CodeAnalysis.CSharp.Syntax;

namespace Unicus.Mutants;

/// <summary>
/// Every place of a file where one of the usual faults can be put: an operator, a comparison, a condition, a number, the opposite of a
/// method, a statement left out, a key emptied. (The usual operators of mutation testing; the names of the kinds are common practice, no
/// source.)
/// </summary>
internal sealed class Sites(string folder, string file, SyntaxTree tree)
{
    private static readonly Dictionary<SyntaxKind, string> Operators = new()
    {
        [SyntaxKind.AddExpression] = "-",
        [SyntaxKind.SubtractExpression] = "+",
        [SyntaxKind.MultiplyExpression] = "/",
        [SyntaxKind.DivideExpression] = "*",
        [SyntaxKind.ModuloExpression] = "*",
        [SyntaxKind.LessThanExpression] = "<=",
        [SyntaxKind.LessThanOrEqualExpression] = "<",
        [SyntaxKind.GreaterThanExpression] = ">=",
        [SyntaxKind.GreaterThanOrEqualExpression] = ">",
        [SyntaxKind.EqualsExpression] = "!=",
        [SyntaxKind.NotEqualsExpression] = "==",
        [SyntaxKind.LogicalAndExpression] = "||",
        [SyntaxKind.LogicalOrExpression] = "&&",
        [SyntaxKind.AddAssignmentExpression] = "-=",
        [SyntaxKind.SubtractAssignmentExpression] = "+=",
        [SyntaxKind.MultiplyAssignmentExpression] = "/=",
    };

    private static readonly Dictionary<string, string> Opposites = new()
    {
        ["Min"] = "Max",
        ["Max"] = "Min",
        ["MinBy"] = "MaxBy",
        ["MaxBy"] = "MinBy",
        ["Any"] = "All",
        ["All"] = "Any",
        ["First"] = "Last",
        ["Last"] = "First",
        ["FirstOrDefault"] = "LastOrDefault",
        ["LastOrDefault"] = "FirstOrDefault",
        ["OrderBy"] = "OrderByDescending",
        ["OrderByDescending"] = "OrderBy",
        ["ThenBy"] = "ThenByDescending",
        ["ThenByDescending"] = "ThenBy",
        ["Floor"] = "Ceiling",
        ["Ceiling"] = "Floor",
        ["Skip"] = "Take",
        ["Take"] = "Skip",
        ["Union"] = "Intersect",
        ["Intersect"] = "Union",
        ["TakeWhile"] = "SkipWhile",
        ["SkipWhile"] = "TakeWhile",
    };

    private static readonly HashSet<string> Sieves = ["Where", "Distinct", "DistinctBy", "Reverse"];

    /// <summary>Reads the file and lists its places.</summary>
    public static IEnumerable<Mutant> Of(string folder, string file, string text) =>
        new Sites(folder, file, CSharpSyntaxTree.ParseText(text)).All();

    private IEnumerable<Mutant> All() =>
        tree.GetRoot().DescendantNodes().Where(MayChange).SelectMany(Changes).Where(m => m.Was != m.Becomes);

    /// <summary>Not where the language wants a constant, in what is thrown, and not where a name is declared in passing.</summary>
    private static bool MayChange(SyntaxNode node) =>
        !node.Ancestors()
            .Any(a =>
                a
                    is AttributeSyntax
                        or ParameterSyntax
                        or PatternSyntax
                        or SwitchLabelSyntax
                        or EnumMemberDeclarationSyntax
                        or ThrowStatementSyntax
                        or ThrowExpressionSyntax
                || a is FieldDeclarationSyntax { Modifiers: var ofField } && ofField.Any(SyntaxKind.ConstKeyword)
                || a is LocalDeclarationStatementSyntax { Modifiers: var ofLocal } && ofLocal.Any(SyntaxKind.ConstKeyword)
            )
        && !node.DescendantNodes().Any(d => d is SingleVariableDesignationSyntax);

    private IEnumerable<Mutant> Changes(SyntaxNode node) =>
        node switch
        {
            ExpressionStatementSyntax { Expression: PostfixUnaryExpressionSyntax step } statement => Stepped(statement, step),
            ExpressionStatementSyntax { Expression: AssignmentExpressionSyntax set } statement => Assigned(statement, set),
            ExpressionStatementSyntax { Expression: InvocationExpressionSyntax } statement => [Statement(statement, "")],
            ContinueStatementSyntax or BreakStatementSyntax => node.Parent is SwitchSectionSyntax ? [] : [Statement(node, "")],
            BinaryExpressionSyntax binary when Operators.TryGetValue(binary.Kind(), out var other) =>
            [
                Expression(binary, $"{binary.Left} {other} {binary.Right}"),
            ],
            BinaryExpressionSyntax { RawKind: (int)SyntaxKind.CoalesceExpression } either => [Expression(either, either.Right.ToString())],
            PrefixUnaryExpressionSyntax { OperatorToken.RawKind: (int)SyntaxKind.ExclamationToken or (int)SyntaxKind.MinusToken } sign =>
            [
                Expression(sign, sign.Operand.ToString()),
            ],
            ConditionalExpressionSyntax choice => [Expression(choice, $"{choice.Condition} ? {choice.WhenFalse} : {choice.WhenTrue}")],
            IfStatementSyntax branch => [Expression(branch.Condition, $"!({branch.Condition})")],
            LiteralExpressionSyntax literal => Literal(literal),
            InvocationExpressionSyntax { Expression: MemberAccessExpressionSyntax member } call => Called(call, member),
            _ => [],
        };

    private IEnumerable<Mutant> Stepped(StatementSyntax statement, PostfixUnaryExpressionSyntax step) =>
        [Statement(statement, $"{step.Operand}{(step.OperatorToken.IsKind(SyntaxKind.PlusPlusToken) ? "--" : "++")};")];

    private IEnumerable<Mutant> Assigned(StatementSyntax statement, AssignmentExpressionSyntax set) =>
        Operators.TryGetValue(set.Kind(), out var other)
            ? [Statement(statement, $"{set.Left} {other} {set.Right};"), Statement(statement, "")]
            : [Statement(statement, "")];

    private IEnumerable<Mutant> Called(InvocationExpressionSyntax call, MemberAccessExpressionSyntax member)
    {
        var name = member.Name.ToString();
        if (Opposites.TryGetValue(name, out var other))
            yield return Expression(call, $"{member.Expression}.{other}{call.ArgumentList}");
        if (Sieves.Contains(name))
            yield return Expression(call, member.Expression.ToString());
    }

    private IEnumerable<Mutant> Literal(LiteralExpressionSyntax literal) =>
        literal.Token.Value switch
        {
            bool => [Expression(literal, literal.IsKind(SyntaxKind.TrueLiteralExpression) ? "false" : "true")],
            int or long or decimal => [Expression(literal, $"{literal} + 1")],
            string { Length: > 1 } key when key.All(c => char.IsAsciiLetter(c)) && char.IsLower(key[0]) => [Expression(literal, "\"\"")],
            _ => [],
        };

    private Mutant Expression(SyntaxNode node, string becomes) => At(node, becomes, false);

    private Mutant Statement(SyntaxNode node, string becomes) => At(node, becomes, true);

    private Mutant At(SyntaxNode node, string becomes, bool isStatement) =>
        new(
            folder,
            file,
            node.SpanStart,
            node.GetLocation().GetLineSpan().StartLinePosition.Line + 1,
            node.ToString(),
            becomes,
            isStatement
        );
}
