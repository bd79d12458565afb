"""The faces of one network in many solutions at once: what ``readings`` says of each, as arrays."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.job import MeasuringChain
from metrolex.scaling.reading import Shown
from metrolex.scaling.table import rounded_array
from metrolex.twin.each import Together
from metrolex.twin.run import Off, faces_by_volts, reading_of
from metrolex.twin.touched import touched

__all__ = ["ManyFaces", "faces_of_each", "look_of"]


@dataclass(frozen=True, slots=True)
class ManyFaces:
    """One chain's face in many solutions: its number (NaN where none is shown), and the place in ``looks`` of how it looks without its number."""

    value: NDArray[np.float64]
    look: NDArray[np.intp]
    looks: tuple[Shown, ...]


def look_of(face: Shown) -> Shown:
    """A face without its number and its reasons: two that look the same are one."""
    return Shown(face.text if face.value is None else "", None, face.state)


def faces_of_each(one: Together) -> dict[str, ManyFaces]:
    """By channel id, what stands on the face in each of the solutions of one network."""
    return {chain.id: _faces(one, chain) for chain in one.base.network.job.chains}


def _faces(one: Together, chain: MeasuringChain) -> ManyFaces:
    count, plain = len(one.which), reading_of(one.base, chain)
    if plain.state in ("unfinished", "dark"):  # whether it is fed is the same for all of one network
        return ManyFaces(np.full(count, np.nan), np.zeros(count, dtype=np.intp), (look_of(plain),))
    read = faces_by_volts(one.base, chain)
    if read is not None:
        faces = read(one.solutions, Off())
        states, which = np.unique(faces.state, return_inverse=True)
        value = rounded_array(faces.value, chain.scaling.decimals)
        return _told(one, chain, value, [str(state) for state in states], which.reshape(-1))
    again = np.flatnonzero(touched(one.base, one.faults, one.solutions, chain))
    shown = {int(i): reading_of(one.solved(int(i)), chain) for i in again}
    looks = dict.fromkeys(look_of(face) for face in (plain, *shown.values()))
    place = {look: i for i, look in enumerate(looks)}
    value = np.full(count, np.nan if plain.value is None else plain.value, dtype=np.float64)
    look = np.full(count, place[look_of(plain)], dtype=np.intp)
    for i, face in shown.items():
        value[i] = np.nan if face.value is None else face.value
        look[i] = place[look_of(face)]
    return ManyFaces(value, look, tuple(looks))


def _told(
    one: Together,
    chain: MeasuringChain,
    value: NDArray[np.float64],
    states: Sequence[str],
    which: NDArray[np.intp],
) -> ManyFaces:
    """Looks of faces read from volts: by their state, and with what a display shows in place of a number."""
    display = one.base.network.job.display(chain.display)
    assert display is not None
    looks = list[Shown]()
    look = np.zeros(len(value), dtype=np.intp)
    for i, state in enumerate(states):
        for numbered in (True, False):
            here = (which == i) & (~np.isnan(value) == numbered)
            if here.any():
                flashes = state != "reading" and getattr(display.behaviour, state) == "flash"
                text = "" if numbered else "- -" if flashes else "--"
                look[here] = len(looks)
                looks.append(Shown(text, None, state))  # type: ignore[arg-type]
    return ManyFaces(value, look, tuple(looks))
