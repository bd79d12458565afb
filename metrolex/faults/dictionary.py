"""The fault dictionary: what every likely fault shows at every probe, in a state of the key, after what was done to the vehicle.

One sheet for each state and action. Values come from the twin with each fault in it; how far tolerances may move them, to first order, from the
same networks (``circuit.first_order``), so that readings which go wrong together are known to.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit import GROUND, Element, Fault, Replaced, Resistor
from metrolex.circuit.answers import Worked
from metrolex.circuit.elements import Name
from metrolex.circuit.first_order import FirstOrder
from metrolex.circuit.solve import Solutions
from metrolex.errors import CircuitError
from metrolex.faults.catalogue import catalogue
from metrolex.faults.kinds import LikelyFault
from metrolex.faults.probes import Action, Probe
from metrolex.job import Job, MeasuringChain, State
from metrolex.scaling.face_words import face_word, face_words
from metrolex.scaling.reading import Shown
from metrolex.twin import addresses
from metrolex.twin.build import Network, sender_output
from metrolex.twin.each import Changed, change_each
from metrolex.twin.expectations import (
    METER_DIGIT_V,
    METER_OHM_DIGIT,
    METER_OHM_RATIO,
    METER_RATIO,
    own_errors,
    states_of,
)
from metrolex.twin.kept import once_per_circuit
from metrolex.twin.run import Off, Solved, readings, solve, unrounded
from metrolex.twin.spread import tolerances

__all__ = ["Key", "Prediction", "Sheet", "fault_of", "sheet_of", "toleranced_parts"]

Array = NDArray[np.float64]

#: What holds every point a little, as a meter does the one it is put on: behind a broken wire it reads next to nothing.
HOLD_OHM = 1e8
OPEN_WORD = "open"
MOST_OHM = 1e6  # above it a meter says open
OWN_SHARE = 0.5  # how far a fault's own value may be off what the catalogue says (common practice, no source)


@dataclass(frozen=True, slots=True)
class Prediction:
    """What one fault shows at one probe: a value, or a word; ``moved`` by each toleranced part off by its whole tolerance, ``own`` its own error squared.

    ``also`` are all words for it: a face that stands at its end because its sender is shorted is 'short' and 'high' to who looks at it.
    """

    value: float | None
    word: str = ""
    moved: Array = field(default_factory=lambda: np.zeros(0))
    own: float = 0.0
    also: tuple[str, ...] = ()


@once_per_circuit
def toleranced_parts(network: Network) -> dict[Name, int]:
    """Every part that may be off in some state, with its place among them."""
    names = dict.fromkeys(
        name for state in states_of(network.job) for name, _ in tolerances(solve(network, state))
    )
    return {name: i for i, name in enumerate(names)}


Key = tuple[int, ...]  # places in the catalogue: none for the sound job, two for two faults at once


@dataclass(frozen=True, slots=True)
class Row:
    """One suspect on a sheet: the network with it, and the faces."""

    fault: LikelyFault | None
    changed: Changed
    faces: dict[str, Shown]


@dataclass(frozen=True, slots=True)
class Sheet:
    """One state, after an action. Rows are worked out as they are asked for, many at once."""

    network: Network
    state: State
    after: Action | None
    rows: dict[Key, Row] = field(default_factory=dict)
    predicted: dict[tuple[Key, Probe], Prediction] = field(default_factory=dict)
    first_order: list[tuple[Solved, FirstOrder, tuple[int, ...]]] = field(default_factory=list)
    sound: dict[Name, Array] = field(default_factory=dict)

    def need(self, keys: Iterable[Key]) -> None:
        """Work out the rows of some suspects. Raises CircuitError in words."""
        missing = [key for key in dict.fromkeys(((), *keys)) if key not in self.rows]
        if not missing:
            return
        network, state = self.network, self.state
        plain = solve(network, state)
        there = {element.name: element for element in plain.elements}
        faults = [fault_of(network, key) for key in missing]
        does = [fault.in_state(plain, there) if fault else () for fault in faults]
        besides = self.after.faults(network.job) if self.after else ()
        changed = change_each(network, state, does, besides, _held(plain.elements))
        for key, fault, one in zip(missing, faults, changed, strict=True):
            self.rows[key] = Row(fault, one, fault.seen(one.solved) if fault else readings(one.solved))

    def value(self, key: Key, probe: Probe) -> tuple[float | None, str]:
        """What a suspect shows: a number, or None and a word."""
        row = self.rows[key]
        if probe.kind == "shown":
            return _face(row.faces.get(probe.on))
        if probe.kind == "ohms":
            return self._ohms(row, probe)
        return _between(row.changed.solved.solution.potentials, probe)

    def values(self, keys: Sequence[Key], probe: Probe) -> list[tuple[float | None, str]]:
        """What each of some suspects shows; rows that are worked out already."""
        if probe.kind != "volts":
            return [self.value(key, probe) for key in keys]
        return [_between(self.rows[key].changed.solved.solution.potentials, probe) for key in keys]

    def predict(self, key: Key, probe: Probe) -> Prediction:
        """The value with what moves it."""
        if (key, probe) not in self.predicted:
            self.predicted[key, probe] = self._predict(key, probe)
        return self.predicted[key, probe]

    def _predict(self, key: Key, probe: Probe) -> Prediction:
        value, word = self.value(key, probe)
        face, chain = self.rows[key].faces.get(probe.on), self.network.job.chain(probe.on)
        also = face_words(face, chain) if probe.kind == "shown" and face and chain else ()
        if value is None:
            return Prediction(None, word, also=also)
        if probe.kind == "shown":
            return replace(self._shown(key, probe, value), also=also)
        if probe.kind == "ohms":
            moved = np.zeros(len(toleranced_parts(self.network)))
            own = (METER_OHM_RATIO * abs(value) + METER_OHM_DIGIT) ** 2 / 3
            place = toleranced_parts(self.network).get(addresses.sender_part(probe.on, "element"))
            if place is not None and probe.what == "":
                moved[place] = self._sender_half(probe.on) * value
            return Prediction(value, "", moved, own)
        red, black = self._moved(key, (probe.red, probe.black))
        return Prediction(value, "", red - black, (METER_RATIO * abs(value) + METER_DIGIT_V) ** 2 / 3)

    def _moved(self, key: Key, nodes: Sequence[Name]) -> Array:
        """Volts more at each of some nodes (a row) with each toleranced part (a column) off by its whole tolerance."""
        if not key:
            return np.array([self._sound_moved()[node] for node in nodes])
        return self._moved_by(key, nodes)

    def _sound_moved(self) -> dict[Name, Array]:
        """The same for every point of the sound job: asked for one after the other by every test."""
        if not self.sound:
            nodes = list(self.rows[()].changed.solved.solution.potentials)
            self.sound.update(zip(nodes, self._moved_by((), nodes), strict=True))
        return self.sound

    def _moved_by(self, key: Key, nodes: Sequence[Name]) -> Array:
        row, one = self.rows[key], self.rows[key].changed
        known = next((row for row in self.first_order if row[0] is one.base), None)
        if known is None:
            known = (one.base, *_first_order(self.network, one))
            self.first_order.append(known)
        _, first, places = known
        joints = first.written.joints.row
        free = [i for i, node in enumerate(nodes) if joints[node] >= 0]  # battery negative moves nowhere
        wide = np.zeros((len(nodes), len(toleranced_parts(self.network))))
        wide[np.ix_(free, places)] = first.effects(
            one.changes, one.unknowns, [joints[nodes[i]] for i in free]
        )
        for effect in row.fault.does if row.fault else ():
            for name in _named_by(effect):
                place = toleranced_parts(self.network).get(name)
                if place is not None:
                    wide[:, place] = 0.0
        return wide

    def _shown(self, key: Key, probe: Probe, value: float) -> Prediction:
        job, row = self.network.job, self.rows[key]
        one = row.changed
        chain = job.chain(probe.on)
        none = np.zeros(len(toleranced_parts(self.network)))
        if chain is None:
            return Prediction(value, "", none, 0.0)
        step = 10.0**-chain.scaling.decimals
        read = unrounded(one.solved, chain)
        if read is None:
            return Prediction(value, "", none, step**2 / 12)
        nodes = _nodes_of(job, chain)
        volts = one.solved.solution.potentials
        there = [node for node in nodes if node in volts]
        standing = np.array([[volts[node]] for node in there])
        columns = np.hstack([standing, standing + self._moved(key, there)])
        faces = read(
            Solutions({node: k for k, node in enumerate(there)}, frozenset(), Worked(columns)), Off()
        )
        moved = np.nan_to_num(faces[1:] - faces[0], nan=0.0)
        still = Solutions({node: k for k, node in enumerate(there)}, frozenset(), Worked(columns[:, :1]))
        own = step**2 / 12
        for both in own_errors(job, chain):
            off = [read(still, end).item() - faces[0] for end in both]
            own += max((d * d for d in off if not math.isnan(d)), default=0.0) / 3
        for face in row.fault.faces if row.fault else ():
            if face.chain == probe.on:
                moved = moved * face.ratio
        return Prediction(value, "", moved, own)

    def _ohms(self, row: Row, probe: Probe) -> tuple[float | None, str]:
        job, sound = self.network.job, self.rows[()].changed.solved
        chain = next((c for c in job.measured if c.sender == probe.on), None)
        sender = job.sender(probe.on)
        if chain is None or sender is None:
            return None, "no sender"
        part = addresses.sender_part(sender.id, "thread" if probe.what else "element")
        port = job.port(chain.port)
        if probe.what:
            value = port.ground.thread_ohm if port else 0.0
        else:
            value = sender_output(chain, sender, sound.true.get(chain.channel))
        elements = {element.name: element for element in sound.elements}
        for effect in row.fault.in_state(sound, elements) if row.fault else ():
            if isinstance(effect, Replaced) and effect.name == part:
                value = effect.value
            elif isinstance(effect, Fault) and effect.element == part:
                value = {
                    "open": math.inf,
                    "short": 0.0,
                    "resistance": value + (effect.ohm or 0.0),
                    "swap": value,
                }[effect.kind]
        return (None, OPEN_WORD) if value > MOST_OHM else (value, "")

    def _sender_half(self, key: str) -> float:
        sender = self.network.job.sender(key)
        return sender.tolerance.x_pct / 100 if sender else 0.0


def _between(volts: Mapping[Name, float], probe: Probe) -> tuple[float | None, str]:
    """Volts from red to black."""
    try:
        return volts[probe.red] - volts[probe.black], ""
    except KeyError:
        return None, "nothing there"


def _face(face: Shown | None) -> tuple[float | None, str]:
    if face is None:
        return None, "unfinished"
    if face.value is not None:
        return face.value, ""
    return None, face_word(face)


def _named_by(effect: object) -> tuple[Name, ...]:
    if isinstance(effect, Fault):
        return (effect.element,) if effect.with_ is None else (effect.element, effect.with_)
    return (getattr(effect, "name", ""),)


def _nodes_of(job: Job, chain: MeasuringChain) -> tuple[Name, ...]:
    """The nodes a face is read by: its pin, its ground, its supply, its reference."""
    display, stage = job.display(chain.display), job.input_of(chain)
    if display is None or stage is None:
        return ()
    pins = [pin.id for role in ("ground", "ignition") if (pin := display.pin_for(role))]
    pins += [stage.pin] if stage.pin else []
    return (
        *dict.fromkeys(addresses.pin_node(display, pin) for pin in pins),
        addresses.reference_node(display.id, stage.id),
        addresses.sensor_supply_node(display.id),
    )


def _first_order(network: Network, one: Changed) -> tuple[FirstOrder, tuple[int, ...]]:
    base, parts = one.base, toleranced_parts(network)
    listed = [(name, ends) for name, ends in tolerances(base) if name in parts]
    written = base.solution.written
    assert written is not None
    nodes = sorted((place, node) for node, place in written.joints.row.items() if place >= 0)
    first = FirstOrder.of(
        written,
        base.elements,
        [node for _, node in nodes],
        [Replaced(name, ends[1]) for name, ends in listed],
    )
    return first, tuple(parts[name] for name, _ in listed)


@once_per_circuit
def sheet_of(network: Network, state: State, after: Action | None = None) -> Sheet | None:
    """The sheet of a state, after an action; None where the action does nothing, or cannot be done there. Raises CircuitError in words."""
    besides = after.faults(network.job) if after else ()
    if after:
        there = {element.name for element in solve(network, state).elements}
        if not besides or any(fault.element not in there for fault in besides):
            return None
    sheet = Sheet(network, state, after)
    try:
        sheet.need([])
    except CircuitError:
        if after:
            return None
        raise
    return sheet


def fault_of(network: Network, key: Key) -> LikelyFault | None:
    """The fault at one place of the catalogue, or those at two at once; None for no place."""
    listed = [catalogue(network)[place] for place in key]
    return None if not listed else listed[0] if len(listed) == 1 else _both(*listed)


def _both(one: LikelyFault, other: LikelyFault) -> LikelyFault:
    return LikelyFault(
        one.part,
        "both",
        f"{one.words}, and {other.words}",
        0.0,
        f"{one.cure}, and {other.cure}",
        (*one.does, *other.does),
        (*one.entered, *other.entered),
        (*one.faces, *other.faces),
    )


def _held(elements: Sequence[Element]) -> list[Element]:
    nodes: dict[Name, None] = {}
    for element in elements:
        ends = (element.a, element.b) if isinstance(element, Resistor) else ()
        nodes |= dict.fromkeys(ends)
    return [
        Resistor(addresses.instrument(f"meter at {i}"), node, GROUND, HOLD_OHM)
        for i, node in enumerate(nodes)
        if node != GROUND
    ]
