"""How Java spells what steps put into code."""

from __future__ import annotations

from collections.abc import Sequence

from isodesm.planning.writing.writer import Interface, Need, Signature, Typed, Writer, joined

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
    remark = f"/** Keeps callers compiling until they hand in the dependencies themselves. */\n{indent}"
    return remark + constructor(name, visibility, parameters, [call], errors, indent)


def signature(member: Signature, indent: str) -> list[str]:
    """A method as an interface declares it, with its comment."""
    generics = f"{member.generics} " if member.generics else ""
    docs = [indent + line for line in member.docs.split("\n")] if member.docs else []
    return [*docs, f"{indent}{generics}{member.result} {member.name}({member.parameters}){member.throws};"]


def interface(wanted: Interface) -> str:
    """The file of an interface."""
    indent = (
        "\t"
        if "\n\t" in wanted.model
        else "  "
        if "\n  " in wanted.model and "\n    " not in wanted.model.split("{", 1)[-1][:400]
        else "    "
    )
    parts = [f"package {wanted.home};", ""] if wanted.home else []
    parts += [*(f"import {each};" for each in wanted.imports), ""] if wanted.imports else []
    parts += [
        f"/** What the rest of the code asks of {wanted.target}. */",
        f"public interface {wanted.name}{wanted.generics} {{",
    ]
    for member in wanted.members:
        parts += ["", *signature(member, indent)]
    return "\n".join([*parts, "}", ""])


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
    file_name=lambda name: f"{name}.java",
    import_line=lambda need, path: f"import {need.home}.{need.name};",
    override=override,
    public_members=True,
    factory=factory,
)
