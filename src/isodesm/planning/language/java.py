"""How Java spells what steps put into code."""

from __future__ import annotations

from collections.abc import Sequence

from isodesm.planning.language.writer import OLD_CONSTRUCTOR, Writer, joined
from isodesm.planning.model.code import Adapter, FactoryClass, Interface, Need, Signature, Table, Typed

_BOXES = {
    "int": "Integer",
    "long": "Long",
    "boolean": "Boolean",
    "double": "Double",
    "float": "Float",
    "char": "Character",
    "byte": "Byte",
    "short": "Short",
}
_FUNCTIONS = {0: "Supplier", 1: "Function", 2: "BiFunction"}
_CALLS = {0: "get", 1: "apply", 2: "apply"}
MOST_ARGUMENTS = max(_FUNCTIONS)
WIDENING = frozenset(("long", "float", "double", "short", "byte"))
"""Types that take numbers of other types as they are, which their boxes do not."""
"""Parameters up to which the standard library has a type for a function."""


def constructor(
    name: str, visibility: str, parameters: Sequence[str], statements: Sequence[str], errors: str, indent: str
) -> str:
    """A constructor with its statements, a line each."""
    head = joined(parameters, f"{visibility + ' ' if visibility else ''}{name}(", f"){errors} {{", indent, indent)
    return "\n".join([head, *(f"{indent}{indent}{line}" for line in statements), f"{indent}}}"])


def delegating(
    name: str, visibility: str, parameters: Sequence[str], arguments: Sequence[str], errors: str, indent: str
) -> str:
    """A bridging constructor."""
    call = joined(arguments, "this(", ");", indent * 2, indent)
    remark = f"/** {OLD_CONSTRUCTOR} */\n{indent}"
    return remark + constructor(name, visibility, parameters, [call], errors, indent)


def signature(member: Signature, indent: str) -> list[str]:
    """A method as an interface declares it, with its comment."""
    generics = f"{member.generics} " if member.generics else ""
    docs = [indent + line for line in member.docs.split("\n")] if member.docs else []
    return [*docs, f"{indent}{generics}{member.result} {member.name}({member.parameters}){member.throws};"]


def _indent(model: str) -> str:
    """One level of indentation as a file has it."""
    if "\n\t" in model:
        return "\t"
    return "  " if "\n  " in model and "\n    " not in model.split("{", 1)[-1][:400] else "    "


def _head(wanted: Interface | Adapter | FactoryClass | Table) -> list[str]:
    """What a file begins with."""
    parts = [f"package {wanted.home};", ""] if wanted.home else []
    return [*parts, *(f"import {each};" for each in wanted.imports), ""] if wanted.imports else parts


def interface(wanted: Interface) -> str:
    """The file of an interface."""
    indent, parts = _indent(wanted.model), _head(wanted)
    parts += [
        f"/** {wanted.purpose} */",
        f"public interface {wanted.name}{wanted.generics} {{",
    ]
    for member in wanted.members:
        parts += ["", *signature(member, indent)]
    return "\n".join([*parts, "}", ""])


def adapter(wanted: Adapter) -> str:
    """The file of a class that passes on."""
    indent, parts = _indent(wanted.model), _head(wanted)
    parts += [f"/** Passes on to {wanted.target}. */", f"public final class {wanted.name} implements {wanted.interface} {{"]
    for each in wanted.members:
        lines = signature(each.signature._replace(docs=""), indent)
        head = f"{indent}public {lines[-1].strip().removesuffix(';')} {{"
        call = f"{indent * 2}{'return ' if each.gives_back else ''}{each.call};"
        parts += ["", f"{indent}@Override", head, call, f"{indent}}}"]
    return "\n".join([*parts, "}", ""])


def maker(wanted: FactoryClass) -> str:
    """The file of a class that makes objects of another."""
    indent = _indent(wanted.model)
    head = joined(wanted.parameters, f"public static {wanted.made} make(", ") {", indent, indent)
    parts = [*_head(wanted), f"/** Makes {wanted.made}, with what no definition file can hold. */"]
    parts += [f"public final class {wanted.name} {{", "", f"{indent}private {wanted.name}() {{", f"{indent}}}", ""]
    return "\n".join([*parts, indent + head, f"{indent * 2}return {wanted.call};", f"{indent}}}", "}", ""])


def table(wanted: Table) -> str:
    """The file of a class that keeps data."""
    indent = _indent(wanted.model)
    parts = [*_head(wanted), f"/** The data of {wanted.owner}. */", f"public final class {wanted.name} {{", ""]
    return "\n".join([*parts, f"{indent}public final {wanted.type} {wanted.field} = {wanted.value};", "}", ""])


def factory(made: str, parameters: Sequence[tuple[str, str]], abstraction: str) -> tuple[Typed, str, str]:
    """A function of the standard library that makes an object."""
    name = _FUNCTIONS[len(parameters)]
    taken = [boxed(kind) for kind, _ in parameters]
    typed = Typed(f"{name}<{', '.join([*taken, abstraction])}>", (Need(name, "java.util.function"),))
    return typed, f"{made}::new", f"{{field}}.{_CALLS[len(parameters)]}({{arguments}})"


def boxed(type: str) -> str:
    """A type as a type argument."""
    return _BOXES.get(type, type)


def override(indent: str) -> str:
    """The mark of a method that an interface asks for, in front of the method at a margin."""
    return f"@Override\n{indent}"


WRITER = Writer(
    language="java",
    overloads=True,
    use=str,
    argument=str,
    parameter=lambda type, name: f"{type} {name}",
    field=lambda type, name: f"private final {type} {name};",
    assignment=lambda name, value: f"this.{name} = {value};",
    constructor=constructor,
    delegating=delegating,
    interface=interface,
    signature=signature,
    adapter=adapter,
    file_name=lambda name: f"{name}.java",
    import_line=lambda need, path: f"import {need.home}.{need.name};",
    override=override,
    public_members=True,
    factory=factory,
    table=table,
    maker=maker,
)
