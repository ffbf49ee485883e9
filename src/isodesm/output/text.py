"""Making foreign text safe and short for people: control characters escaped, names cut at their beginning."""

from __future__ import annotations


def printable(text: str) -> str:
    """`text` with control characters, and those that turn the writing direction, spelt out; tabs become four spaces."""
    if text.isprintable():
        return text
    return "".join(_shown(char) for char in text)


def _shown(char: str) -> str:
    if char == "\t":
        return "    "
    if char.isprintable():
        return char
    code = ord(char) - 0xF700 if 0xF780 <= ord(char) <= 0xF7FF else ord(char)  # bytes of names that are no UTF-8
    return f"\\x{code:02x}" if code < 256 else f"\\u{code:04x}"


def cut_front(name: str, width: int, separators: str = "./\\#") -> str:
    """`name` in at most `width` characters, its end kept: whole leading parts make way for an ellipsis.

    The last part is never cut, even where it is wider. Parts are those of the names of any language.

    >>> cut_front("org.hollin.desk.app.BulletinService", 25)
    '….app.BulletinService'
    """
    if len(name) <= width:
        return name
    ends = [index for index, char in enumerate(name) if char in separators]
    for end in ends:
        if len(name) - end + 1 <= width:
            return f"…{name[end:]}"
    return name[ends[-1] + 1 :] if ends else name


def counted(number: int, one: str, many: str = "") -> str:
    """A number with its noun: `1 class`, `2,000 classes`."""
    return f"{number:,} {one if number == 1 else many or one + 's'}"


def number_of(value: float) -> str:
    """A measure without needless decimals: `42`, `4.5`."""
    return f"{value:,.0f}" if value == int(value) else f"{value:,.1f}"
