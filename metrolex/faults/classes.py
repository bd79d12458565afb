"""Which faults no test can tell apart, and by which test each is noticed at all."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from metrolex.faults.cases import NONE
from metrolex.faults.catalogue import catalogue
from metrolex.faults.dictionary import steps_of
from metrolex.faults.lineup import Lineup, lineup_of
from metrolex.faults.minutes import Kind
from metrolex.faults.probes import Probe, actions_of, probe_of, probes_at
from metrolex.job import State, TestRef
from metrolex.twin.build import Network
from metrolex.twin.expectations import (
    Expectation,
    TestPoint,
    expect_at,
    passing,
    points_at,
    states_of,
    verdict,
)
from metrolex.twin.kept import once_per_circuit

__all__ = ["Column", "classes_of", "columns_of", "noticed_by"]

SIGMAS = 3.0  # of a reading's spread: the half of the band of a test that stands on no sheet


@dataclass(frozen=True, slots=True)
class Column:
    """One test in one state: what the sound job is held to there, and what each fault of the catalogue shows, as a meter or a face shows it."""

    state: State
    probe: Probe
    expected: Expectation
    values: NDArray[np.float64]
    words: tuple[str, ...]
    kept: dict[str, NDArray[np.bool_]] = field(default_factory=dict, compare=False, repr=False)

    def found(self, place: int) -> float | str:
        """What one fault of the catalogue shows: a figure, or a word."""
        return self.words[place] if np.isnan(self.values[place]) else float(self.values[place])


@once_per_circuit
def columns_of(network: Network, allow: tuple[Kind, ...]) -> tuple[Column, ...]:
    """Every allowed test of the sheet in every state, ohms with the key off only; faces after actions with the key in run."""
    return tuple(_columns(network, allow))


def _columns(network: Network, allow: Iterable[Kind]) -> Iterator[Column]:
    everything = _usual(network)
    states = states_of(network.job)
    for state in states:
        for probe in probes_at(network, state):
            if probe.kind in allow and not (probe.kind == "ohms" and state != states[0]):
                yield _column(everything, state, probe)
    if "action" in allow:
        yield from _after_actions(everything)


def _usual(network: Network) -> Lineup:
    """The sound job, and the catalogue at its usual sizes."""
    return lineup_of(network, ((NONE, NONE), *((case, NONE) for case in range(len(catalogue(network))))))


def _after_actions(everything: Lineup) -> Iterator[Column]:
    """The faces, key in run, after everything that may be done to the vehicle."""
    state = State("run")
    for action in actions_of(everything.network):
        if everything.can(state, action):
            for chain in everything.network.job.chains:
                yield _column(everything, state, Probe("shown", on=chain.id, after=action))


def _column(everything: Lineup, state: State, probe: Probe) -> Column:
    network, shown = everything.network, everything.shows(state, probe)
    words = tuple(shown.said(i) for i in range(len(shown)))
    step = steps_of(network.job, probe)[0]
    values = np.round(shown.value / step) * step if probe.kind != "shown" else shown.value
    expected = _on_the_sheet(network, state).get(probe) or _elsewhere(network, state, probe)
    return Column(state, probe, expected, values[1:], words[1:])


@once_per_circuit
def _on_the_sheet(network: Network, state: State) -> dict[Probe, Expectation]:
    """What the sheet of Proving expects in a state, by probe."""
    return {
        probe: expect_at(network, state, point)
        for point in points_at(network, state)
        if (probe := probe_of(point)) is not None
    }


def _elsewhere(network: Network, state: State, probe: Probe) -> Expectation:
    """What is expected where the sheet does not go: the value of the sound job, three times its spread either way."""
    sound = lineup_of(network, ((NONE, NONE),)).predict(state, probe)
    kind, value = probe.kind, float(sound.value[0])
    point = TestPoint(TestRef("readout", probe.on, "shown"), "", kind, "", probe.red, probe.black, probe.on)
    if np.isnan(value):
        words = sound.shows.words[sound.shows.word[0]]
        return Expectation(point, state, None, None, None, sound.shows.said(0), words)
    half = SIGMAS * float(np.sqrt(sound.moved[0] @ sound.moved[0] / 3 + sound.own[0]))
    return Expectation(point, state, value, value - half, value + half)


def noticed_by(column: Column) -> NDArray[np.bool_]:
    """Which faults of the catalogue a test notices, judged as Proving judges a reading; none where no reading would pass."""
    if "noticed" not in column.kept:
        column.kept["noticed"] = _noticed_by(column)
    return column.kept["noticed"]


def _noticed_by(column: Column) -> NDArray[np.bool_]:
    if passing(column.expected) is None:
        return np.zeros(len(column.words), dtype=bool)
    return np.array(
        [
            verdict(column.expected, column.found(place))[0] != "as expected"
            for place in range(len(column.words))
        ],
        dtype=bool,
    )


def classes_of(network: Network, allow: Iterable[Kind]) -> tuple[int, ...]:
    """A number for each fault of the catalogue: those of one number show the same, within the bands, at every allowed test."""
    columns = columns_of(network, tuple(allow))
    count = len(catalogue(network))
    if not columns:
        return (0,) * count
    values = np.array([column.values for column in columns])
    bands = np.array([max(column.expected.band, 1e-9) for column in columns])
    words = np.array([column.words for column in columns])
    found: list[int] = []
    leaders: list[int] = []
    for i in range(count):
        for number, leader in enumerate(leaders):
            both = np.isnan(values[:, i]) & np.isnan(values[:, leader])
            with np.errstate(invalid="ignore"):
                near = np.abs(values[:, i] - values[:, leader]) <= bands
            if bool(np.where(both, words[:, i] == words[:, leader], near).all()):
                found.append(number)
                break
        else:
            found.append(len(leaders))
            leaders.append(i)
    return tuple(found)
