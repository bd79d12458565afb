"""The ways fittings join: threads by name with their figures, and joints that hold a hose, a line or a probe.

Figures stand in ``data/connections.toml`` with their source. Millimetres inside; the taper of NPT, BSPT and metric
taper threads is 1 in 16 on the diameter.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Iterator
from dataclasses import dataclass
from difflib import get_close_matches
from typing import Any, Literal, get_args

from metrolex.errors import BadInput
from metrolex.tables import load_table

__all__ = [
    "TAPER",
    "Connection",
    "Family",
    "alike",
    "all_threads",
    "connection_called",
    "family_words",
    "source_of",
    "split_gender",
]

MM_PER_IN = 25.4
_ISO_PITCHES = (
    0.25,
    0.3,
    0.35,
    0.4,
    0.45,
    0.5,
    0.6,
    0.7,
    0.75,
    0.8,
    1,
    1.25,
    1.5,
    1.75,
    2,
    2.5,
    3,
    3.5,
    4,
    4.5,
    5,
    5.5,
    6,
)
#: Change of diameter over length of a taper thread (ASME B1.20.1, ISO 7-1).
TAPER = 1 / 16

Family = Literal[
    "npt",
    "bspt",
    "bspp",
    "metric",
    "metric_taper",
    "unf",
    "orb",
    "flare",
    "hose",
    "tube",
    "probe",
    "quick",
    "hole",
    "through",
    "filter",
    "plug",
]
_PLAIN = ("hose", "tube", "probe", "quick", "hole", "through", "filter", "plug")
_WORDS = {
    "npt": "American taper pipe thread",
    "bspt": "British taper pipe thread",
    "bspp": "British parallel pipe thread",
    "metric": "metric parallel thread",
    "metric_taper": "metric taper thread",
    "unf": "unified fine thread",
    "orb": "straight thread with O-ring",
    "flare": "37° flare",
    "hose": "hose",
    "tube": "line",
    "probe": "probe",
    "quick": "quick connector",
    "hole": "hole in sheet",
    "through": "hole for a fitting with a nut behind",
    "filter": "filter seat",
    "plug": "spark plug seat",
}


@dataclass(frozen=True, slots=True)
class Connection:
    """One connection. ``pitch_mm`` is 0 where there is no thread.

    ``hand_tight_mm`` is how far a taper male enters by hand, ``effective_mm`` its usable thread;
    both 0 for anything but a taper. ``drill_mm`` is the tap drill, 0 where a practice or nothing decides.
    ``pitch_diameter_mm`` of a taper is taken at the small end of the male thread.
    """

    name: str
    family: Family
    major_mm: float
    pitch_mm: float = 0.0
    hand_tight_mm: float = 0.0
    effective_mm: float = 0.0
    pitch_diameter_mm: float = 0.0
    drill_mm: float = 0.0

    @property
    def tapered(self) -> bool:
        """Whether it seals by wedging thread into thread."""
        return self.family in ("npt", "bspt", "metric_taper")

    @property
    def threaded(self) -> bool:
        return self.pitch_mm > 0

    @property
    def flank_deg(self) -> int:
        """The angle between the flanks; 0 without a thread."""
        if not self.threaded:
            return 0
        return 55 if self.family in ("bspt", "bspp") else 60


def source_of(family: Family) -> str:
    """Where the figures of a family come from."""
    return str(load_table("connections")["source"].get(family, "common practice, no source"))


def family_words(family: Family) -> str:
    """A family in the trade's words."""
    return _WORDS[family]


@functools.cache
def all_threads() -> tuple[Connection, ...]:
    """Every thread known, family by family."""
    return tuple(thread for family in get_args(Family) if family not in _PLAIN for thread in _rows(family))


def _rows(family: Family) -> Iterator[Connection]:
    for row in load_table("connections")[family]["rows"]:
        pitch = row["pitch_mm"] if "pitch_mm" in row else MM_PER_IN / row["tpi"]
        if family == "npt":
            yield Connection(
                row["name"],
                family,
                row["outside_in"] * MM_PER_IN,
                pitch,
                row["hand_tight_in"] * MM_PER_IN,
                row["effective_in"] * MM_PER_IN,
                row["small_end_pitch_in"] * MM_PER_IN,
            )
            continue
        major = float(row["major_mm"] if "major_mm" in row else row["major_in"] * MM_PER_IN)
        drill = float(row.get("drill_mm", row.get("drill_in", 0.0) * MM_PER_IN))
        if family == "bspt":
            # Flank height of the 55 degree form is 0.640327 of the pitch (ISO 7-1).
            small_end = major - 0.640327 * pitch - TAPER * row["gauge_mm"]
            yield Connection(
                row["name"], family, major, pitch, row["gauge_mm"], row["useful_mm"], small_end, drill
            )
        elif family == "metric_taper":
            hand_tight = 0.6 * row["useful_mm"]
            small_end = major - 0.649519 * pitch - TAPER * hand_tight
            yield Connection(
                row["name"], family, major, pitch, hand_tight, row["useful_mm"], small_end, drill
            )
        else:
            yield Connection(row["name"], family, major, float(pitch), drill_mm=drill)


@functools.lru_cache(maxsize=2048)
def connection_called(name: str, field: str = "thread") -> Connection:
    """A connection by its name in any usual spelling.

    Raises BadInput (``field``) with the nearest known name.

    >>> connection_called('m12 x 1.5').name, connection_called('1/8 npt').name
    ('M12x1.5', '1/8-27 NPT')
    >>> connection_called('hose 1 1/2 in').name
    'hose 38.1 mm'
    """
    if not name.strip():
        raise BadInput(
            field, name, "a thread, like 1/8-27 NPT or M12x1.5", "There is no thread: say which it has."
        )
    folded = _fold(name)
    exact = _by_spelling().get(folded)
    if exact is not None:
        return exact
    other = _metric(folded) or _plain(name)
    if other is not None:
        return other
    near = get_close_matches(folded, list(_by_spelling()), 1, 0.5)
    hint = f" Did you mean '{_by_spelling()[near[0]].name}'?" if near else ""
    raise BadInput(
        field,
        name,
        "a thread, like 1/8-27 NPT, 1/8-28 BSPT, G1/8, M10x1, 9/16-18 ORB, AN6 flare",
        f"There is no thread '{name:.40}'.{hint}",
    )


def split_gender(
    text: str, field: str, default: Literal["male", "female"]
) -> tuple[Connection, Literal["male", "female"]]:
    """A connection with its gender word ('1/8-27 NPT female'); without one it is ``default``. Raises BadInput."""
    words = text.strip().split()
    gender = default
    if words and words[-1].lower() in ("male", "female"):
        gender = "male" if words.pop().lower() == "male" else "female"
    return connection_called(" ".join(words), field), gender


def alike(one: Connection, other: Connection) -> bool:
    """Whether two threads can be taken for each other by hand yet do not belong together.

    They start into each other: major diameters within 6 % and pitches within 20 % (common practice, no source).

    >>> alike(connection_called('1/8-27 NPT'), connection_called('1/8-28 BSPT'))
    True
    >>> alike(connection_called('M10x1'), connection_called('M10x1.25')), alike(connection_called('M14x1.25'), connection_called('M14x1.5'))
    (True, True)
    >>> alike(connection_called('M12x1.5'), connection_called('1/4-18 NPT'))
    False
    """
    if not (one.threaded and other.threaded) or one.name == other.name:
        return False
    return abs(one.major_mm - other.major_mm) <= 0.06 * max(one.major_mm, other.major_mm) and abs(
        one.pitch_mm - other.pitch_mm
    ) <= 0.2 * max(one.pitch_mm, other.pitch_mm)


@functools.cache
def _by_spelling() -> dict[str, Connection]:
    found: dict[str, Connection] = {}
    for thread in all_threads():
        found[_fold(thread.name)] = thread
    for thread in all_threads():
        if thread.family in ("npt", "bspt", "unf", "orb"):  # the pitch may be left out: '1/8 NPT'
            size, _, rest = thread.name.partition("-")
            found.setdefault(_fold(f"{size} {rest.split()[-1]}"), thread)
        if thread.family == "flare":
            found.setdefault(_fold(thread.name.split()[0]), thread)
        if thread.family == "bspp":
            found.setdefault(_fold(thread.name[1:] + " BSPP"), thread)
        if thread.family == "bspt":
            found.setdefault(_fold("R" + thread.name.partition("-")[0]), thread)
    return found


def _fold(name: str) -> str:
    return re.sub(
        r"[\s_.]+", lambda m: "." if "." in m[0] else "", name.lower().replace("×", "x").replace(",", ".")
    )


def _metric(folded: str) -> Connection | None:
    """A metric thread outside the table, by its diameter and an ISO 261 pitch that suits it; tap drill by ISO 2306's rule."""
    match = re.fullmatch(r"m([0-9]{1,2}(?:\.5)?)x([0-9](?:\.[0-9]{1,2})?)", folded)
    if match is None:
        return None
    major, pitch = float(match[1]), float(match[2])
    if pitch not in _ISO_PITCHES or not 0.02 * major <= pitch <= 0.21 * major:
        return None
    return Connection(f"M{major:g}x{pitch:g}", "metric", major, pitch, drill_mm=round(major - pitch, 2))


def _plain(name: str) -> Connection | None:
    from metrolex.quantities import LENGTH, parse

    word, _, size = name.strip().partition(" ")
    facts: dict[str, Any] = load_table("connections")["plain"]
    if word.lower() not in facts or not size:
        return None
    family: Family = word.lower()  # type: ignore[assignment]
    size_mm = round(parse(size, LENGTH, "mm") * 1000, 1)
    limits = facts[family]
    if not limits["low_mm"] <= size_mm <= limits["high_mm"]:
        raise BadInput(
            "thread",
            name,
            f"{limits['words']}, {limits['low_mm']} to {limits['high_mm']} mm",
            f"'{name:.40}' is no size of {_WORDS[family]}: {limits['low_mm']} to {limits['high_mm']} mm.",
        )
    return Connection(f"{family} {size_mm:g} mm", family, size_mm)
