"""What one act changed in a job: found, said in words, taken back, and laid over what somebody else changed meanwhile.

Everything but ``changes_of`` works on the whole plain data of a job (``intake.dump(job, whole=True)``). A list whose items carry a key of their own is followed by that
key, so that two people's work on two wires, or on two inputs of one display, are two things; any other list is one value.
"""

from __future__ import annotations

import copy
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, fields
from typing import Any

from metrolex.intake import dump
from metrolex.job.field_words import field_words, in_words
from metrolex.job.whole import LISTS, Job

__all__ = [
    "Change",
    "Clash",
    "Path",
    "changes_between",
    "changes_of",
    "done_again",
    "merged",
    "part_of",
    "touched",
    "undone",
    "value_at",
    "words_of",
]

#: What each field of a job is called; of a list, one of its parts.
CALLED = {
    "name": "name of the job",
    "vehicle": "vehicle",
    "brief": "brief",
    "survey": "survey",
    "bus": "data bus",
    "closing": "closing words",
    "work_hours": "hours of work",
    "channels": "channel",
    "sources": "source",
    "readouts": "readout",
    "displays": "display",
    "senders": "sender",
    "ports": "place",
    "circuits": "circuit",
    "taps": "tap",
    "grounds": "ground point",
    "conductors": "wire",
    "splices": "splice",
    "switches": "switch",
    "runs": "run",
    "settings": "set-up entry",
    "observations": "reading",
    "waivers": "reason",
    "cluster": "factory instrument",
    "paths": "flow path",
    "kit": "kit item",
    "fluids": "fluid",
    "openings": "opening",
    "panels": "panel",
    "zones": "zone",
    "ways": "way",
    "connectors": "plug",
    "searches": "search for a fault",
    "checks": "check",
    "left_out": "test left out",
    "later": "later work",
    "work": "step of the work",
    "own_steps": "step of its own",
    "altered_steps": "change of a step",
    "sites": "mounting place",
    "fixtures": "part of the dash",
    "mountings": "mounting",
    "pages": "page",
    "faces": "face",
}

Path = tuple[str, ...]


class _Absent:
    """Stands where there is nothing: a part that is not there."""

    def __repr__(self) -> str:
        return "nothing"


ABSENT: Any = _Absent()


@dataclass(frozen=True, slots=True)
class Change:
    """One value of a job's plain data before and after; ABSENT where there was or is none.

    ``path`` is the names on the way to it: ``("conductors", "W19", "length_m")``.
    """

    path: Path
    before: Any
    after: Any

    def plain(self) -> dict[str, Any]:
        """JSON data of it; a missing ``before`` or ``after`` says that there was or is nothing."""
        sides = (("before", self.before), ("after", self.after))
        return {"path": list(self.path)} | {name: value for name, value in sides if value is not ABSENT}

    @staticmethod
    def of(plain: dict[str, Any]) -> Change:
        """The change again, from ``plain()``."""
        return Change(tuple(plain["path"]), plain.get("before", ABSENT), plain.get("after", ABSENT))


@dataclass(frozen=True, slots=True)
class Clash:
    """One value two people changed, each to something else."""

    path: Path
    theirs: Any
    mine: Any

    def words(self, who: str) -> str:
        """Both values, in a sentence."""
        if self.mine is ABSENT and len(self.path) == 2:
            return f"{who} changed {_subject(self.path)} after you opened this page. Do it again to take it out all the same."
        if self.theirs is ABSENT and len(self.path) == 2:
            return (
                f"{who} took {_subject(self.path)} out after you opened this page. Save again to put it back."
            )
        name = field_words(self.path[-1])
        return (
            f"{who} saved {in_words(self.path[-1], _value(self.theirs))} as {name} after you opened this page; "
            f"you say {in_words(self.path[-1], _value(self.mine))}. Save again to put yours in its place."
        )


def changes_between(before: Any, after: Any, path: Path = ()) -> tuple[Change, ...]:
    """What differs between two jobs' plain data, part by part and field by field."""
    if before == after:
        return ()
    old, new = _followed(before), _followed(after)
    if old is None or new is None or _other_kind(before, after) or _reordered(before, after, old, new):
        return (Change(path, before, after),)
    found: list[Change] = []
    for key in dict.fromkeys((*old, *new)):
        found += changes_between(old.get(key, ABSENT), new.get(key, ABSENT), (*path, key))
    return tuple(found)


def changes_of(before: Job, after: Job) -> tuple[Change, ...]:
    """What differs between two jobs; what both share is not gone through."""
    old, new = {}, {}
    for name in (f.name for f in fields(Job) if f.init):
        was, now = getattr(before, name), getattr(after, name)
        if was is now:
            continue
        if isinstance(was, tuple) and _in_place(was, now):
            pairs = [(a, b) for a, b in zip(was, now, strict=True) if a is not b]
            was, now = tuple(a for a, _ in pairs), tuple(b for _, b in pairs)
        old[name], new[name] = dump(was, whole=True), dump(now, whole=True)
    return changes_between(old, new)


def _in_place(was: tuple[Any, ...], now: tuple[Any, ...]) -> bool:
    """Whether two lists hold parts of the same ids in the same order."""
    before, after = ([getattr(part, "id", None) for part in parts] for parts in (was, now))
    return before == after and None not in before


def undone(data: dict[str, Any], changes: Iterable[Change]) -> dict[str, Any]:
    """A job's plain data as it was before these changes, given oldest first; parts taken out come back at the end."""
    earlier = copy.deepcopy(data)
    for change in reversed(tuple(changes)):
        _put(earlier, change.path, change.before)
    return earlier


def done_again(data: dict[str, Any], changes: Iterable[Change]) -> dict[str, Any]:
    """A job's plain data with these changes made in it, given oldest first."""
    later = copy.deepcopy(data)
    for change in changes:
        _put(later, change.path, change.after)
    return later


def value_at(data: Any, path: Path) -> Any:
    """What stands at a path, ABSENT where nothing does."""
    for key in path:
        inside = _followed(data)
        if inside is None or key not in inside:
            return ABSENT
        data = inside[key]
    return data


def merged(
    base: dict[str, Any],
    theirs: dict[str, Any],
    mine: dict[str, Any],
    foreign: Sequence[Change],
    untold: Sequence[Change],
    as_one: Sequence[Path] = (),
) -> tuple[dict[str, Any], tuple[Clash, ...]]:
    """My act laid over what others did since I looked, and the values both of us changed.

    ``base`` is the job I looked at, ``theirs`` the job of now, ``mine`` the job of now after my act; ``foreign`` what others
    changed in between, ``untold`` the part of it I have not been told of yet. What I merely sent back as I found it is left as they
    made it, unless it lies in what my act sets ``as_one``: half of my choice and half of theirs is what nobody chose.
    """
    kept = copy.deepcopy(theirs)
    clashes = []
    for change in changes_between(theirs, mine):
        found = value_at(base, change.path)
        mine_alone = found == change.before or not touched(change.path, foreign) or _goes(change, base, mine)
        chosen = any(change.path[: len(path)] == path for path in as_one)
        if not mine_alone and found == change.after and not chosen:
            continue
        if not mine_alone and touched(change.path, untold):
            clashes.append(Clash(change.path, change.before, change.after))
        else:
            _put(kept, change.path, change.after)
    return kept, tuple(clashes)


def _goes(change: Change, base: dict[str, Any], mine: dict[str, Any]) -> bool:
    """Whether a part I never saw only loses the name of another that I took out."""
    unseen = value_at(base, change.path[:-1]) is ABSENT
    return (
        unseen
        and change.after is None
        and isinstance(change.before, str)
        and not any(change.before in (_followed(mine[name]) or {}) for name in LISTS if name in mine)
    )


def words_of(changes: Sequence[Change], most: int = 4) -> str:
    """The changes in a line: 'wire W19: length 2 m to 2.4 m; tap T3 added'."""
    said = [_said(change) for change in changes[:most]]
    if len(changes) > most:
        said.append(f"and {len(changes) - most} more")
    return "; ".join(said)


def part_of(change: Change) -> Path:
    """The part a change is of: one item of a list, or a whole record."""
    return change.path[:2] if change.path[0] in LISTS else change.path[:1]


def _said(change: Change) -> str:
    subject = _subject(change.path)
    if len(change.path) == 2 and change.path[0] in LISTS and change.before is ABSENT:
        return f"{subject} added"
    if len(change.path) == 2 and change.path[0] in LISTS and change.after is ABSENT:
        return f"{subject} taken out"
    name = field_words(change.path[-1])
    old, new = (in_words(change.path[-1], _value(value)) for value in (change.before, change.after))
    said = f"{name} {old} to {new}"
    if "nothing" in (old, new):
        said = f"{name} {new}" if old == "nothing" else f"{name} cleared (was {old})"
    return f"{subject}: {said}" if subject != name else said


def _subject(path: Path) -> str:
    called = CALLED[path[0]]
    return f"{called} {path[1].replace(chr(10), ' ')}" if path[0] in LISTS and len(path) > 1 else called


def _value(value: Any) -> Any:
    return None if value is ABSENT else value


def touched(path: Path, changes: Iterable[Change]) -> bool:
    """Whether one of the changes lies at this path, above it or below it."""
    return any(path[: len(c.path)] == c.path or c.path[: len(path)] == path for c in changes)


def _followed(value: Any) -> dict[str, Any] | None:
    """What is followed inside a value: a record by field, a list by the keys of its items; None for a value of its own."""
    if isinstance(value, dict):
        return value
    if not isinstance(value, list):
        return None
    keyed = {_key(item): item for item in value}
    return keyed if len(keyed) == len(value) and None not in keyed else None  # type: ignore[return-value]


def _key(item: Any) -> str | None:
    if not isinstance(item, dict):
        return None
    for names in (("id",), ("display", "name"), ("code", "subject")):
        if all(isinstance(item.get(name), str) for name in names):
            return "\n".join(item[name] for name in names)
    return None


def _other_kind(before: Any, after: Any) -> bool:
    kinds = [value.get("kind") for value in (before, after) if isinstance(value, dict)]
    return type(before) is not type(after) or (len(kinds) == 2 and kinds[0] != kinds[1])


def _reordered(before: Any, after: Any, old: dict[str, Any], new: dict[str, Any]) -> bool:
    """Whether the items both lists have stand in another order."""
    return isinstance(before, list) and [k for k in old if k in new] != [k for k in new if k in old]


def _put(data: Any, path: Path, value: Any) -> None:
    """Set what stands at a path; a record or list that is not there yet is made."""
    *way, last = path
    for step, key in enumerate(way):
        inside = _followed(data) or {}
        if key not in inside:
            fresh: Any = (
                [] if isinstance(value, dict) and step == len(way) - 1 and _key(value) == last else {}
            )
            _set(data, key, fresh)
            inside = {key: fresh}
        data = inside[key]
    _set(data, last, value)


def _set(data: Any, key: str, value: Any) -> None:
    if isinstance(data, dict):
        if value is ABSENT:
            data.pop(key, None)
        else:
            data[key] = copy.deepcopy(value)
        return
    at = next((i for i, item in enumerate(data) if _key(item) == key), None)
    if value is ABSENT:
        if at is not None:
            del data[at]
    elif at is None:
        data.append(copy.deepcopy(value))
    else:
        data[at] = copy.deepcopy(value)
