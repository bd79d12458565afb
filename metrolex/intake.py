"""From plain JSON to frozen dataclasses and back, with errors that name the place.

The command line, the job file and the web forms share this one gate, so a wrong value is refused
in the same words everywhere. A dataclass is the whole description of an input: its field names are
the keys, its annotations the types, ``Limits`` and ``Text`` the ranges. A union of dataclasses is
told apart by the ``kind`` each of them carries. A field called ``with_`` reads the key ``with``. ``__post_init__`` may raise
:class:`~metrolex.errors.BadInput` with a field of its own; the path to it is added here.
"""

from __future__ import annotations

import dataclasses
import functools
import json
import math
import types
import typing
from collections.abc import Callable
from dataclasses import dataclass
from difflib import get_close_matches
from typing import Annotated, Any, Literal, TypeVar, Union, get_args, get_origin

from metrolex.characters import unfit, unprinted
from metrolex.errors import BadInput
from metrolex.limits import most_of, no_more_than

__all__ = [
    "AnyNumber",
    "Key",
    "Limits",
    "NonNegative",
    "Note",
    "Percent",
    "Positive",
    "Temperature",
    "Text",
    "Title",
    "dump",
    "parse_json",
    "read",
    "read_anew",
]

T = TypeVar("T")
_LONGEST_NUMBER = 400


@dataclass(frozen=True, slots=True)
class Limits:
    """Allowed range of a number; ``above`` leaves its own value out."""

    low: float | None = None
    high: float | None = None
    above: float | None = None

    def words(self) -> str:
        if self.above is not None:
            upper = f" and up to {self.high:g}" if self.high is not None else ""
            return f"a number above {self.above:g}{upper}"
        if self.low is not None and self.high is not None:
            return f"a number from {self.low:g} to {self.high:g}"
        if self.low is not None:
            return f"a number of {self.low:g} or more"
        return f"a number up to {self.high:g}" if self.high is not None else "a number"

    def admit(self, value: float) -> bool:
        return not (
            (self.above is not None and value <= self.above)
            or (self.low is not None and value < self.low)
            or (self.high is not None and value > self.high)
        )


@dataclass(frozen=True, slots=True)
class Text:
    """Allowed length of a text; ``blank`` says whether it may be empty."""

    longest: int = 200
    blank: bool = True

    def words(self) -> str:
        return f"a text of {0 if self.blank else 1} to {self.longest} characters"

    def admit(self, value: str) -> bool:
        return len(value) <= self.longest and (self.blank or bool(value.strip()))

    def refusal(self, value: str) -> str:
        """What is wrong, where it is the length; else it goes without saying."""
        return (
            f"At most {self.longest} characters fit; this has {len(value)}."
            if len(value) > self.longest
            else ""
        )


AnyNumber = Annotated[float, Limits(low=-1e15, high=1e15)]
Positive = Annotated[float, Limits(above=0, high=1e12)]
NonNegative = Annotated[float, Limits(low=0, high=1e12)]
Percent = Annotated[float, Limits(low=0, high=100)]
Temperature = Annotated[float, Limits(low=-273.15, high=3000)]
Key = Annotated[str, Text(60, blank=False)]
Title = Annotated[str, Text(120, blank=False)]
Note = Annotated[str, Text(2000)]


def parse_json(text: str) -> dict[str, Any]:
    """Strict JSON object from text. Raises BadInput with field ``input`` for anything else."""
    allowed = "a JSON object"

    def refuse(word: str) -> float:
        raise BadInput("input", word, allowed, f"{word} is not a number in JSON.")

    def short_enough(digits: str) -> int:
        if len(digits) > _LONGEST_NUMBER:
            raise BadInput(
                "input", f"{digits[:20]}...", allowed, f"A number of {len(digits)} digits is not meant."
            )
        return int(digits)

    def once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        found: dict[str, Any] = {}
        for key, value in pairs:
            if key in found:
                raise BadInput(key, value, "each key once", f"The key '{key}' stands twice in one object.")
            found[key] = value
        return found

    try:
        data = json.loads(text, parse_constant=refuse, parse_int=short_enough, object_pairs_hook=once)
    except json.JSONDecodeError as fault:
        raise BadInput(
            "input",
            text[:80],
            allowed,
            f"The text is not complete JSON: {fault.msg} at line {fault.lineno}, column {fault.colno}.",
        ) from None
    except RecursionError:
        raise BadInput("input", text[:80], allowed, "The text is nested too deeply to be meant.") from None
    if not isinstance(data, dict):
        raise BadInput("input", text[:80], allowed, f"Expected {allowed}, but got a {_json_word(data)}.")
    return data


def read(kind: type[T], data: object, path: str = "") -> T:
    """Build ``kind`` from plain data. Raises BadInput naming the first place that cannot be meant."""
    return typing.cast(T, _reader(typing.cast(Any, kind))(data, path))


def dump(value: object, *, whole: bool = False) -> Any:
    """Plain JSON data of a dataclass; fields at their default are left out unless the ``whole`` of it is asked for."""
    if isinstance(value, (tuple, list)):
        return [dump(item, whole=whole) for item in value]
    if isinstance(value, dict):
        return {key: dump(item, whole=whole) for key, item in value.items()}
    if not dataclasses.is_dataclass(value) or isinstance(value, type):
        return value
    plain = {}
    for name, key, default in _dumped(type(value)):
        item = getattr(value, name)
        if whole or default is dataclasses.MISSING or item != default:
            plain[key] = item if isinstance(item, _BARE) else dump(item, whole=whole)
    return plain


_BARE = (str, float, int, type(None))


@functools.cache
def _dumped(kind: type) -> tuple[tuple[str, str, object], ...]:
    """(field, its key, the default at which it is left out: MISSING where it never is) of a dataclass."""
    return tuple(
        (f.name, f.name.rstrip("_"), dataclasses.MISSING if f.name == "kind" else f.default)
        for f in dataclasses.fields(kind)
        if f.init
    )


def read_anew(value: T, known: T) -> T:
    """A record through the gate again, but for the fields, and the items of its lists, that ``known`` holds too: those have been.

    Raises BadInput as ``read`` does.
    """
    kind: Any = type(value)
    hints, fresh = _hints(kind), {}
    for name, key, _ in _dumped(kind):
        new, old = getattr(value, name), getattr(known, name)
        if new is old:
            continue
        if isinstance(new, tuple) and get_args(hints[name])[-1] is Ellipsis:
            no_more_than(key, len(new))
            been, one = {id(item) for item in old}, get_args(hints[name])[0]
            fresh[name] = tuple(
                item if id(item) in been else read(one, dump(item), f"{key}[{i}]")
                for i, item in enumerate(new)
            )
        else:
            fresh[name] = read(hints[name], dump(new), key)
    return dataclasses.replace(value, **fresh) if fresh else value  # type: ignore[type-var]


Reader = Callable[[object, str], Any]


@functools.cache
def _reader(kind: Any) -> Reader:
    """The reader of an annotation, made once: it takes data and its path, and gives the value or raises BadInput."""
    origin, args = get_origin(kind), get_args(kind)
    if origin is Annotated:
        return _ruled(_reader(args[0]), args[1])
    if origin is Literal:
        return functools.partial(_read_word, args)
    if origin in (Union, types.UnionType):
        return _union(args)
    if origin is tuple:
        return _list(args)
    if origin is dict:
        return _dict(_reader(args[1]))
    if dataclasses.is_dataclass(kind):
        return _record(typing.cast(type, kind))
    if kind in _PLAIN:
        return _PLAIN[kind]
    raise TypeError(f"no rule to read {kind!r}")


def _read_float(data: object, path: str) -> float:
    if isinstance(data, bool) or not isinstance(data, (int, float)) or not _finite(data):
        raise BadInput(path, data, "a number")
    return float(data)


def _read_int(data: object, path: str) -> int:
    if isinstance(data, bool) or not isinstance(data, (int, float)) or not _finite(data) or data != int(data):
        raise BadInput(path, data, "a whole number")
    return int(data)


def _read_bool(data: object, path: str) -> bool:
    if not isinstance(data, bool):
        raise BadInput(path, data, "true or false")
    return data


def _read_str(data: object, path: str) -> str:
    if not isinstance(data, str):
        raise BadInput(path, data, "a text")
    wrong = unfit(data)
    if wrong:
        shown = unprinted(data)
        raise BadInput(
            path,
            shown,
            "a text of characters that can be read",
            f"There is a character in it that nobody can read ({wrong}).",
        )
    return data


_PLAIN: dict[Any, Reader] = {
    float: _read_float,
    int: _read_int,
    bool: _read_bool,
    str: _read_str,
    Any: lambda data, path: data,
}


def _ruled(base: Reader, rule: Any) -> Reader:
    def reader(data: object, path: str) -> Any:
        value = base(data, path)
        if not rule.admit(value):
            raise BadInput(path, data, rule.words(), rule.refusal(value) if isinstance(rule, Text) else "")
        return value

    return reader


def _dict(item_reader: Reader) -> Reader:
    def reader(data: object, path: str) -> Any:
        if not isinstance(data, dict):
            raise BadInput(path, data, "an object", f"Expected an object, but got a {_json_word(data)}.")
        return {key: item_reader(item, _join(path, key)) for key, item in data.items()}

    return reader


def _read_word(allowed: tuple[Any, ...], data: object, path: str) -> Any:
    if isinstance(data, (str, int, float)) and not isinstance(data, bool):
        for word in allowed:
            if data == word:
                return word
    words = " | ".join(str(word) for word in allowed)
    near = get_close_matches(str(data), [str(word) for word in allowed], 1)
    hint = f" Did you mean '{near[0]}'?" if near else ""
    raise BadInput(path, data, words, f"Expected one of {words}, but got {data!r:.60}.{hint}")


def _union(members: tuple[Any, ...]) -> Reader:
    real = [member for member in members if member is not type(None)]
    nothing = len(real) < len(members)
    if len(real) == 1:
        only = _reader(real[0])
        return lambda data, path: None if data is None and nothing else only(data, path)
    if all(dataclasses.is_dataclass(member) for member in real):
        return _one_of_kinds({get_args(_hints(member)["kind"])[0]: member for member in real}, nothing)
    readers = [_reader(member) for member in real]

    def reader(data: object, path: str) -> Any:
        if data is None and nothing:
            return None
        refusals = []
        for one in readers:
            try:
                return one(data, path)
            except BadInput as fault:
                refusals.append(fault)
        raise BadInput(path, data, " or ".join(dict.fromkeys(fault.allowed for fault in refusals)))

    return reader


def _one_of_kinds(by_kind: dict[str, Any], nothing: bool) -> Reader:
    def reader(data: object, path: str) -> Any:
        if data is None and nothing:
            return None
        if not isinstance(data, dict):
            raise BadInput(path, data, "an object", f"Expected an object, but got a {_json_word(data)}.")
        if "kind" not in data:
            raise BadInput(_join(path, "kind"), None, " | ".join(by_kind), "The key 'kind' is missing.")
        word = _read_word(tuple(by_kind), data["kind"], _join(path, "kind"))
        return _reader(by_kind[word])(data, path)

    return reader


def _list(members: tuple[Any, ...]) -> Reader:
    endless = len(members) == 2 and members[1] is Ellipsis
    readers = [_reader(members[0])] if endless else [_reader(member) for member in members]

    def reader(data: object, path: str) -> tuple[Any, ...]:
        if not isinstance(data, (list, tuple)):
            raise BadInput(path, data, "a list", f"Expected a list, but got a {_json_word(data)}.")
        if endless:
            return tuple(readers[0](item, f"{path}[{i}]") for i, item in enumerate(data))
        if len(data) != len(readers):
            raise BadInput(path, list(data), f"a list of {len(readers)}")
        return tuple(
            one(item, f"{path}[{i}]") for i, (one, item) in enumerate(zip(readers, data, strict=True))
        )

    return reader


def _counted(name: str, base: Reader) -> Reader:
    """A reader that counts a list before it reads it, where limits.toml says how many it may hold."""
    if most_of(name) is None:
        return base

    def reader(data: object, path: str) -> Any:
        if isinstance(data, (list, tuple)):
            no_more_than(name, len(data), path)
        return base(data, path)

    return reader


def _record(kind: type) -> Reader:
    hints = _hints(kind)
    fields = {
        f.name.rstrip("_"): (
            f.name,
            _counted(f.name, _reader(hints[f.name])),
            f.default is dataclasses.MISSING and f.default_factory is dataclasses.MISSING,
        )
        for f in dataclasses.fields(kind)
        if f.init
    }

    def reader(data: object, path: str) -> Any:
        if not isinstance(data, dict):
            raise BadInput(
                path or "input", data, "an object", f"Expected an object, but got a {_json_word(data)}."
            )
        values: dict[str, Any] = {}
        for key in data:
            if key not in fields:
                raise _unknown_key(key, data[key], path, list(fields))
        for name, (field, one, needed) in fields.items():
            if name in data:
                values[field] = one(data[name], _join(path, name))
            elif needed:
                raise BadInput(_join(path, name), None, "a value", f"The key '{name}' is missing.")
        try:
            return kind(**values)
        except BadInput as fault:
            raise fault.within(path) from None

    return reader


def _unknown_key(key: object, value: object, path: str, known: list[str]) -> BadInput:
    near = get_close_matches(str(key), known, 1)
    hint = f" Did you mean '{near[0]}'?" if near else ""
    return BadInput(
        _join(path, str(key)), value, "one of " + ", ".join(known), f"Unknown key '{key:.60}'.{hint}"
    )


@functools.cache
def _hints(kind: type) -> dict[str, Any]:
    return typing.get_type_hints(kind, include_extras=True)


def _finite(value: int | float) -> bool:
    try:
        return math.isfinite(value)
    except OverflowError:
        return False


def _join(path: str, key: str) -> str:
    return f"{path}.{key}" if path else key


def _json_word(data: object) -> str:
    names = {dict: "object", list: "list", tuple: "list", str: "text", bool: "true/false", type(None): "null"}
    return names.get(type(data), "number")
