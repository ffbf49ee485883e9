"""Classes that their host makes itself, without arguments, and those that have themselves filled in once they are made."""

from __future__ import annotations

from isodesm.codebase.model import Codebase
from isodesm.linking.symbols import simple_name


def host_base(codebase: Codebase, number: int) -> str:
    """The base, by its qualified name, for which a host makes a class by itself; '' where none does."""
    symbols = codebase.symbols
    language = symbols.dialect(number).name
    if symbols.types[number].kind != "class":
        return ""
    bases = (base for each in codebase.roles.ancestors(number) for base in codebase.roles.external_bases.get(each, ()))
    return next((base for base in bases if symbols.catalogues.is_host_made(base, language)), "")


def fills_itself(codebase: Codebase, number: int) -> bool:
    """Whether a class hands itself to what fills in its members, so that it is made by somebody who does not."""
    symbols = codebase.symbols
    words = {"inject", *codebase.wiring.injections.words(number).fills}
    own = {symbols.dialect(number).self_word, f"${symbols.dialect(number).self_word}"}
    file = symbols.file_of[number]
    local = number - symbols.first[file]
    return any(
        site.kind == "call" and site.type == local and simple_name(site.name) in words and site.arguments.strip() in own
        for site in codebase.content(file).sites
    )
