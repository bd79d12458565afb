"""What an owner says is wrong, in the words fitters use, and whether a fault would make him say so."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import get_args

from metrolex.faults.dictionary import Key, Row, sheet_of
from metrolex.faults.kinds import row_of
from metrolex.job import Job, MeasuringChain, State
from metrolex.job.search import OwnersWord
from metrolex.scaling.reading import Shown, ends
from metrolex.twin import addresses
from metrolex.twin.build import Network

__all__ = ["HEARD_IN", "WORDS", "Complaint", "holds"]

WORDS: tuple[OwnersWord, ...] = get_args(OwnersWord)

RUN, LAMPS, CRANK, OFF, RUNNING = (
    State("run"),
    State("run", "head", "running"),
    State("crank"),
    State("off"),
    State("run", "off", "running"),
)
#: The states in which a word is tried.
HEARD_IN = (RUN, LAMPS, CRANK, OFF, RUNNING)
NOTICED = 0.04  # of the span of a face: what somebody notices without a meter (common practice, no source)
RATIO = 0.2  # of a logarithm: what is called 'wrong by a ratio'
MEMORY_V = 8.0


@dataclass(frozen=True, slots=True)
class Complaint:
    """A word, of one channel or of any."""

    word: OwnersWord
    channel: str = ""


def holds(network: Network, key: Key, complaint: Complaint) -> bool:
    """Whether a suspect makes one say this, and the sound job does not."""
    chains = [c for c in network.job.chains if complaint.channel in ("", c.id)]
    return any(_HOLDS[complaint.word](_Faces(network, key), chain) for chain in chains)


class _Faces:
    """The faces of a suspect beside those of the sound job."""

    def __init__(self, network: Network, key: Key) -> None:
        self.network, self.job, self.key = network, network.job, key

    def row(self, state: State, key: Key | None = None) -> Row:
        sheet = sheet_of(self.network, state)
        assert sheet is not None
        sheet.need([self.key])
        return sheet.rows[self.key if key is None else key]

    def now(self, state: State, chain: MeasuringChain) -> Shown:
        return self.row(state).faces[chain.id]

    def sound(self, state: State, chain: MeasuringChain) -> Shown:
        return self.row(state, ()).faces[chain.id]


def _worded(word: str) -> Callable[[_Faces, MeasuringChain], bool]:
    def says(faces: _Faces, chain: MeasuringChain) -> bool:
        now, sound = faces.now(RUNNING, chain), faces.sound(RUNNING, chain)
        return _word(now) == word and _word(sound) != word

    return says


def _word(face: Shown) -> str:
    if face.value is not None:
        return ""
    return "dark" if face.state == "dark" else {"--": "dashes", "- -": "flashes"}.get(face.text, face.state)


def _dead_in_crank(faces: _Faces, chain: MeasuringChain) -> bool:
    return (
        faces.now(CRANK, chain).state == "dark"
        and faces.sound(CRANK, chain).state != "dark"
        and faces.now(RUN, chain).state != "dark"
    )


def _pegged(high: bool) -> Callable[[_Faces, MeasuringChain], bool]:
    def says(faces: _Faces, chain: MeasuringChain) -> bool:
        now, sound = faces.now(RUNNING, chain), faces.sound(RUNNING, chain)
        end = ends(chain.scaling)[1 if high else 0]
        if now.state in ("above", "below"):
            return (now.state == "above") == high and sound.state != now.state
        return now.value is not None and end is not None and now.value == end and sound.value != end

    return says


def _span(chain: MeasuringChain) -> float:
    low, high = ends(chain.scaling)
    return abs(high - low) if low is not None and high is not None and high != low else 100.0


def _by(faces: _Faces, chain: MeasuringChain, state: State) -> float | None:
    now, sound = faces.now(state, chain).value, faces.sound(state, chain).value
    return None if now is None or sound is None else (now - sound) / _span(chain)


def _jumps(faces: _Faces, chain: MeasuringChain) -> bool:
    lit, unlit = _by(faces, chain, LAMPS), _by(faces, chain, RUNNING)
    return lit is not None and unlit is not None and abs(lit - unlit) > NOTICED / 2


def _always(sign: int) -> Callable[[_Faces, MeasuringChain], bool]:
    def says(faces: _Faces, chain: MeasuringChain) -> bool:
        off = [_by(faces, chain, state) for state in (RUN, RUNNING)]
        return all(one is not None and sign * one > NOTICED / 4 for one in off) and any(
            one is not None and sign * one > NOTICED for one in off
        )

    return says


def _wrong_ratio(faces: _Faces, chain: MeasuringChain) -> bool:
    now, sound = faces.now(RUNNING, chain).value, faces.sound(RUNNING, chain).value
    return bool(now and sound and now / sound > 0 and abs(math.log(now / sound)) > RATIO)


def _comes_and_goes(faces: _Faces, chain: MeasuringChain) -> bool:
    return any(row_of(kind).get("comes_and_goes") for kind in _kinds(faces))


def _kinds(faces: _Faces) -> Iterator[str]:
    fault = faces.row(RUNNING).fault
    if fault is not None and fault.kind != "both":
        yield fault.kind


def _forgets(faces: _Faces, chain: MeasuringChain) -> bool:
    display = faces.job.display(chain.display)
    pin = display.pin_for("memory") if display else None
    if display is None or pin is None:
        return False
    node = addresses.pin_node(display, pin.id)
    now, sound = (
        faces.row(OFF, key).changed.solved.solution.potentials.get(node, 0.0) for key in (faces.key, ())
    )
    return now < MEMORY_V <= sound


def _wrong_way(faces: _Faces, chain: MeasuringChain) -> bool:
    values = [face(state, chain).value for face in (faces.now, faces.sound) for state in (RUN, RUNNING)]
    if any(value is None for value in values):
        return False
    moved, should = (float(values[i + 1] or 0.0) - float(values[i] or 0.0) for i in (0, 2))
    return moved * should < 0 and abs(moved) > NOTICED / 4 * _span(chain)


def _disagree(faces: _Faces, chain: MeasuringChain) -> bool:
    mine = _by(faces, chain, RUNNING)
    return any(
        (its := _by(faces, other, RUNNING)) is not None and mine is not None and abs(its - mine) > NOTICED
        for other in _like(faces.job, chain)
    )


def _like(job: Job, chain: MeasuringChain) -> list[MeasuringChain]:
    return [
        c for c in job.chains if c.id != chain.id and (c.measurand, c.unit) == (chain.measurand, chain.unit)
    ]


_HOLDS: dict[OwnersWord, Callable[[_Faces, MeasuringChain], bool]] = {
    "flashes": _worded("flashes"),
    "dark": _worded("dark"),
    "dead_in_crank": _dead_in_crank,
    "pegged_high": _pegged(True),
    "pegged_low": _pegged(False),
    "dashes": _worded("dashes"),
    "jumps_with_lamps": _jumps,
    "always_high": _always(1),
    "always_low": _always(-1),
    "wrong_ratio": _wrong_ratio,
    "comes_and_goes": _comes_and_goes,
    "forgets": _forgets,
    "wrong_way": _wrong_way,
    "two_disagree": _disagree,
}
