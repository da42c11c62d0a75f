using System.Reflection;
using System.Reflection.Emit;
using System.Reflection.Metadata;

namespace Unicus.CoreTests;

/// <summary>Which types of an assembly refer to which others of it, read from what was compiled, and their files.</summary>
/// <remarks>Nested types count as the outermost one that holds them. What the compiler works out and leaves no trace of (constants,
/// names) is no reference.</remarks>
internal sealed class CompiledReferences(Assembly assembly)
{
    private const BindingFlags All =
        BindingFlags.Public | BindingFlags.NonPublic | BindingFlags.Instance | BindingFlags.Static | BindingFlags.DeclaredOnly;

    private static readonly Dictionary<short, OpCode> Codes = typeof(OpCodes)
        .GetFields()
        .Select(f => (OpCode)f.GetValue(null)!)
        .ToDictionary(c => c.Value);

    /// <summary>Each outermost type with the others that it refers to.</summary>
    public ILookup<Type, Type> ByType { get; } =
        assembly
            .GetTypes()
            .SelectMany(t => Named(t).SelectMany(Parts).Where(n => n.Assembly == assembly).Select(n => (From: Outer(t), To: Outer(n))))
            .Where(r => r.From != r.To && r.To.Namespace is not null)
            .Distinct()
            .ToLookup(r => r.From, r => r.To);

    /// <summary>The source file of each outermost type, as the symbols beside the assembly say; the first where it has several.</summary>
    public IReadOnlyDictionary<Type, string> Files()
    {
        using var stream = File.OpenRead(Path.ChangeExtension(assembly.Location, "pdb"));
        using var provider = MetadataReaderProvider.FromPortablePdbStream(stream);
        var reader = provider.GetMetadataReader();
        var files = new Dictionary<Type, string>();
        foreach (var handle in reader.MethodDebugInformation)
        {
            var document = reader.GetMethodDebugInformation(handle).Document;
            if (document.IsNil)
                continue;
            var token = System.Reflection.Metadata.Ecma335.MetadataTokens.GetToken(handle.ToDefinitionHandle());
            var type = Outer(assembly.ManifestModule.ResolveMethod(token)!.DeclaringType!);
            files.TryAdd(type, reader.GetString(reader.GetDocument(document).Name));
        }
        return files;
    }

    private static Type Outer(Type type)
    {
        while (type.DeclaringType is { } outer)
            type = outer;
        return type;
    }

    /// <summary>A type without array, reference and the like, and what it is made of.</summary>
    private static IEnumerable<Type> Parts(Type type)
    {
        while (type.HasElementType)
            type = type.GetElementType()!;
        if (type.IsGenericParameter)
            return [];
        return type.IsGenericType ? type.GetGenericArguments().SelectMany(Parts).Prepend(type.GetGenericTypeDefinition()) : [type];
    }

    private static IEnumerable<Type> Named(Type type)
    {
        if (type.BaseType is { } above)
            yield return above;
        foreach (var face in type.GetInterfaces())
            yield return face;
        foreach (var field in type.GetFields(All))
            yield return field.FieldType;
        foreach (var method in type.GetMethods(All).Concat<MethodBase>(type.GetConstructors(All)))
        {
            if (method is MethodInfo { ReturnType: var result })
                yield return result;
            foreach (var parameter in method.GetParameters())
                yield return parameter.ParameterType;
            foreach (var named in InBody(method))
                yield return named;
        }
    }

    private static IEnumerable<Type> InBody(MethodBase method)
    {
        if (method.GetMethodBody() is not { } body)
            yield break;
        foreach (var local in body.LocalVariables)
            yield return local.LocalType;
        var ofType = method.DeclaringType!.IsGenericType ? method.DeclaringType.GetGenericArguments() : null;
        var ofMethod = method.IsGenericMethod ? method.GetGenericArguments() : null;
        foreach (var token in Tokens(body.GetILAsByteArray()!))
        {
            var member = method.Module.ResolveMember(token, ofType, ofMethod)!;
            if ((member as Type ?? member.DeclaringType) is { } named)
                yield return named;
            if (member is MethodInfo { IsGenericMethod: true } generic)
                foreach (var argument in generic.GetGenericArguments())
                    yield return argument;
        }
    }

    /// <summary>The members that instructions name (ECMA-335, partition III).</summary>
    private static IEnumerable<int> Tokens(byte[] code)
    {
        for (var at = 0; at < code.Length;)
        {
            var isLong = code[at] == 0xFE;
            var instruction = Codes[isLong ? (short)(0xFE00 | code[at + 1]) : code[at]];
            at += isLong ? 2 : 1;
            if (
                instruction.OperandType
                is OperandType.InlineField
                    or OperandType.InlineMethod
                    or OperandType.InlineTok
                    or OperandType.InlineType
            )
                yield return BitConverter.ToInt32(code, at);
            at += instruction.OperandType switch
            {
                OperandType.InlineNone => 0,
                OperandType.ShortInlineBrTarget or OperandType.ShortInlineI or OperandType.ShortInlineVar => 1,
                OperandType.InlineVar => 2,
                OperandType.InlineI8 or OperandType.InlineR => 8,
                OperandType.InlineSwitch => 4 + 4 * BitConverter.ToInt32(code, at),
                _ => 4,
            };
        }
    }
}
