"""The one family of errors a person can act on. Everything else is a defect and crashes loudly."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from pydantic import ValidationError


class GlazeError(Exception):
    """A message in plain words that says what is wrong, where, and what to do. It goes from process to process with all that it
    has, whatever its kind is made of."""

    def __reduce__(self) -> tuple[Any, ...]:
        return _again, (type(self), self.args, self.__dict__)


def _again(kind: type[GlazeError], args: tuple[Any, ...], has: dict[str, Any]) -> GlazeError:
    made: GlazeError = kind.__new__(kind, *args)
    made.__dict__.update(has)
    return made


class BadFile(GlazeError):
    """A file that cannot be read as what it was given for. `line` counts from 1 where a line is to blame."""

    def __init__(self, message: str, line: int | None = None) -> None:
        super().__init__(f"line {line}: {message}" if line is not None else message)
        self.line = line


class BadEffect(GlazeError):
    """An effect document that cannot be compiled. `layer` is the id of the layer to blame, where one is."""

    def __init__(self, message: str, layer: str | None = None) -> None:
        super().__init__(message)
        self.layer = layer


class Unfit(BadEffect):
    """What is wired to a node or set on it is of the right type, but cannot be computed; rules and the language raise it."""


def in_words(error: ValidationError, what: str = "the document") -> str:
    """The first fault of a validation, with its place in the document; `what` is said where that is the whole."""
    first = error.errors(include_url=False, include_context=False, include_input=False)[0]
    place = ".".join(str(part) for part in first["loc"])
    return f"{place or what}: {first['msg'].removeprefix('Value error, ')}"
