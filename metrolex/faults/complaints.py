"""What an owner says is wrong, in the words fitters use, and whether a fault would make him say so."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import get_args

import numpy as np
from numpy.typing import NDArray

from metrolex.faults.cases import NONE, cases_of
from metrolex.faults.kinds import row_of
from metrolex.faults.lineup import Lineup, lineup_of
from metrolex.job import Job, MeasuringChain, State
from metrolex.job.search import OwnersWord
from metrolex.scaling.reading import Shown, ends
from metrolex.twin import addresses

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]

__all__ = ["WORDS", "Complaint", "holds"]

WORDS: tuple[OwnersWord, ...] = get_args(OwnersWord)

RUN, LAMPS, CRANK, OFF, RUNNING = (
    State("run"),
    State("run", "head", "running"),
    State("crank"),
    State("off"),
    State("run", "off", "running"),
)
NOTICED = 0.04  # of the span of a face: what somebody notices without a meter (common practice, no source)
RATIO = 0.2  # of a logarithm: what is called 'wrong by a ratio'
MEMORY_V = 8.0


@dataclass(frozen=True, slots=True)
class Complaint:
    """A word, of one channel or of any."""

    word: OwnersWord
    channel: str = ""


def holds(lineup: Lineup, complaint: Complaint) -> NDArray[np.bool_]:
    """Of which hypotheses one says this, and not of the sound job. Raises CircuitError in words."""
    job = lineup.network.job
    faces, found = _Faces(lineup), np.zeros(len(lineup), dtype=bool)
    for chain in job.chains:
        if complaint.channel in ("", chain.id):
            found |= _HOLDS[complaint.word](faces, chain)
    return found


class _Faces:
    """The faces of a line-up beside those of the sound job."""

    def __init__(self, lineup: Lineup) -> None:
        self.lineup, self.job = lineup, lineup.network.job
        self.plain = lineup_of(lineup.network, ((NONE, NONE),))

    def values(self, state: State, chain: MeasuringChain) -> tuple[Array, float]:
        """The numbers on the face, and the sound one; NaN for none."""
        return self.lineup.faces(state, chain.id)[0], float(self.plain.faces(state, chain.id)[0][0])

    def looks(
        self, state: State, chain: MeasuringChain, is_so: Callable[[Shown], bool]
    ) -> tuple[Flags, bool]:
        """Whose face looks so without its number, and whether the sound one does."""
        looks, plain = (one.faces(state, chain.id)[1] for one in (self.lineup, self.plain))
        return np.array([is_so(look) for look in looks], dtype=bool), is_so(plain[0])


def _worded(word: str) -> Callable[[_Faces, MeasuringChain], Flags]:
    def says(faces: _Faces, chain: MeasuringChain) -> Flags:
        now, sound = faces.looks(RUNNING, chain, lambda look: _word(look) == word)
        return now & np.isnan(faces.values(RUNNING, chain)[0]) & (not sound)

    return says


def _word(face: Shown) -> str:
    return "dark" if face.state == "dark" else {"--": "dashes", "- -": "flashes"}.get(face.text, face.state)


def _is_dark(face: Shown) -> bool:
    return face.state == "dark"


def _dead_in_crank(faces: _Faces, chain: MeasuringChain) -> Flags:
    now, sound = faces.looks(CRANK, chain, _is_dark)
    return now & ~faces.looks(RUN, chain, _is_dark)[0] & (not sound)


def _pegged(high: bool) -> Callable[[_Faces, MeasuringChain], Flags]:
    state = "above" if high else "below"

    def says(faces: _Faces, chain: MeasuringChain) -> Flags:
        end = ends(chain.scaling)[1 if high else 0]
        beyond, sound_beyond = faces.looks(RUNNING, chain, lambda look: look.state == state)
        neither = ~faces.looks(RUNNING, chain, lambda look: look.state in ("above", "below"))[0]
        values, sound = faces.values(RUNNING, chain)
        at_end = (values == end) & (sound != end) if end is not None else np.zeros(len(values), dtype=bool)
        return np.asarray((beyond & (not sound_beyond)) | (neither & at_end))

    return says


def _span(chain: MeasuringChain) -> float:
    low, high = ends(chain.scaling)
    return abs(high - low) if low is not None and high is not None and high != low else 100.0


def _by(faces: _Faces, chain: MeasuringChain, state: State) -> Array:
    """How far above the sound face, in spans; NaN where either shows no number."""
    values, sound = faces.values(state, chain)
    return (values - sound) / _span(chain)


def _jumps(faces: _Faces, chain: MeasuringChain) -> Flags:
    return np.asarray(np.abs(_by(faces, chain, LAMPS) - _by(faces, chain, RUNNING)) > NOTICED / 2)


def _always(sign: int) -> Callable[[_Faces, MeasuringChain], Flags]:
    def says(faces: _Faces, chain: MeasuringChain) -> Flags:
        off = [sign * _by(faces, chain, state) for state in (RUN, RUNNING)]
        least, most = np.minimum(*off), np.maximum(*off)
        return (least > NOTICED / 4) & (most > NOTICED)

    return says


def _wrong_ratio(faces: _Faces, chain: MeasuringChain) -> Flags:
    values, sound = faces.values(RUNNING, chain)
    if not sound or math.isnan(sound):
        return np.zeros(len(values), dtype=bool)
    ratio = np.where(values / sound > 0, values / sound, 1.0)
    return np.abs(np.log(ratio)) > RATIO


def _comes_and_goes(faces: _Faces, chain: MeasuringChain) -> Flags:
    known = cases_of(faces.lineup.network).listed
    return np.array(
        [
            beside == NONE and case != NONE and bool(row_of(known[case].kind).get("comes_and_goes"))
            for case, beside in faces.lineup.hypotheses
        ],
        dtype=bool,
    )


def _forgets(faces: _Faces, chain: MeasuringChain) -> Flags:
    display = faces.job.display(chain.display)
    pin = display.pin_for("memory") if display else None
    if display is None or pin is None:
        return np.zeros(len(faces.lineup), dtype=bool)
    node = addresses.pin_node(display, pin.id)
    now, sound = (np.nan_to_num(one.volts(OFF, node), nan=0.0) for one in (faces.lineup, faces.plain))
    return np.asarray((now < MEMORY_V) & (sound[0] >= MEMORY_V))


def _wrong_way(faces: _Faces, chain: MeasuringChain) -> Flags:
    (stopped, sound_stopped), (running, sound_running) = (
        faces.values(state, chain) for state in (RUN, RUNNING)
    )
    moved, should = running - stopped, sound_running - sound_stopped
    return np.asarray((moved * should < 0) & (np.abs(moved) > NOTICED / 4 * _span(chain)))


def _disagree(faces: _Faces, chain: MeasuringChain) -> Flags:
    mine, found = _by(faces, chain, RUNNING), np.zeros(len(faces.lineup), dtype=bool)
    for other in _like(faces.job, chain):
        found |= np.abs(_by(faces, other, RUNNING) - mine) > NOTICED
    return found


def _like(job: Job, chain: MeasuringChain) -> list[MeasuringChain]:
    return [
        c for c in job.chains if c.id != chain.id and (c.measurand, c.unit) == (chain.measurand, chain.unit)
    ]


_HOLDS: dict[OwnersWord, Callable[[_Faces, MeasuringChain], Flags]] = {
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
