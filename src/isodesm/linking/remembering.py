"""Methods that are asked the same thing for every place of a tree, though the answer only depends on a class or a member."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

Method = TypeVar("Method", bound=Callable[..., Any])


def remembered(method: Method) -> Method:
    """A method of an object that doesn't change, called by position: its answers are kept with the object."""
    place = f"_answers_of_{method.__name__}"

    @wraps(method)
    def ask(self: Any, *asked: Any) -> Any:
        known = self.__dict__.get(place)
        if known is None:
            known = self.__dict__[place] = {}
        try:
            return known[asked]
        except KeyError:
            found = known[asked] = method(self, *asked)
            return found

    return ask  # type: ignore[return-value]
