"""What every case shows at every probe, in a state of the key, after what was done to the vehicle, beside a first fault.

One sheet for each of these; whoever asks of some cases gets them worked out together, as arrays. Values come from the twin with each fault in it; how
far tolerances may move them, to first order, from the same networks (``circuit.first_order``), so that readings which go wrong together are known to.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit import GROUND, Element, Fault, Replaced, Resistor
from metrolex.circuit.answers import Worked
from metrolex.circuit.elements import Name
from metrolex.circuit.first_order import FirstOrder
from metrolex.circuit.solve import Solutions
from metrolex.errors import CircuitError
from metrolex.faults.cases import NONE, Case, cases_of
from metrolex.faults.kinds import LikelyFault
from metrolex.faults.predicted import Predicted, Shows, Steps
from metrolex.faults.probes import Action, Probe
from metrolex.job import Job, MeasuringChain, State
from metrolex.scaling.face_words import face_word, face_words
from metrolex.scaling.reading import Shown, ends
from metrolex.twin import addresses
from metrolex.twin.build import Network, sender_output
from metrolex.twin.each import Together, change_each
from metrolex.twin.expectations import (
    METER_DIGIT_V,
    METER_OHM_DIGIT,
    METER_OHM_RATIO,
    METER_RATIO,
    own_errors,
    states_of,
)
from metrolex.twin.kept import once_per_circuit
from metrolex.twin.many_faces import faces_of_each, look_of
from metrolex.twin.run import Off, Solved, solve, unrounded
from metrolex.twin.spread import tolerances

__all__ = ["Block", "Sheet", "columns", "sheet_of", "steps_of", "toleranced_parts"]

Array = NDArray[np.float64]

#: What holds every point a little, as a meter does the one it is put on: behind a broken wire it reads next to nothing.
HOLD_OHM = 1e8
OPEN_WORD = "open"
MOST_OHM = 1e6  # above it a meter says open
SENDER_COMMON = 0.5  # of the variance of what a sender is off (common practice, no source)
ONE_BLOCK = 400  # cases whose faces are moved by every part at once


@once_per_circuit
def toleranced_parts(network: Network) -> dict[Name, int]:
    """Every part that may be off in some state, with its place among them."""
    names = dict.fromkeys(
        name for state in states_of(network.job) for name, _ in tolerances(solve(network, state))
    )
    return {name: i for i, name in enumerate(names)}


@once_per_circuit
def _apart(network: Network, state: State) -> dict[int, int]:
    """By the place of a sender: a place for what it is off at this one value, after those of all parts.

    A sender that is off by so much at work need not be off as much at rest: half of the variance is the same wherever it stands, half belongs
    to the value measured.
    """
    parts, listed = toleranced_parts(network), dict[tuple[int, float], int]()
    here: dict[int, int] = {}
    for one in dict.fromkeys((*states_of(network.job), state)):
        for chain in network.job.measured:
            place = parts.get(addresses.sender_part(chain.sender or "", "element"))
            true = solve(network, one).true.get(chain.channel)
            if place is None or true is None:
                continue
            own = listed.setdefault((place, true), len(parts) + len(listed))
            if one == state:
                here[place] = own
    return here


def columns(network: Network) -> int:
    """How many columns ``moved`` has: the toleranced parts, the senders at each of their values, the size."""
    most = (own for state in states_of(network.job) for own in _apart(network, state).values())
    return max((len(toleranced_parts(network)) - 1, *most)) + 2


@dataclass(frozen=True, slots=True)
class Sheet:
    """One state, after an action, with a first fault in it. A case is worked out once, with those asked for at the same time."""

    network: Network
    state: State
    after: Action | None
    beside: Case
    home: dict[Case, tuple[Block, int]] = field(default_factory=dict)

    def rows(self, cases: Sequence[Case]) -> list[tuple[list[int], Block, NDArray[np.intp]]]:
        """Where some cases stand: for each block the places of ``cases`` in it, and its rows. Raises CircuitError in words."""
        missing = [case for case in dict.fromkeys((*cases, NONE)) if case not in self.home]
        if missing:
            block = Block(self, missing)
            row_of = {case: row for row, case in enumerate(block.cases)}
            self.home.update((case, (block, row_of[case])) for case in missing)
        by_block: dict[int, tuple[list[int], Block, list[int]]] = {}
        for place, case in enumerate(cases):
            block, row = self.home[case]
            here = by_block.setdefault(id(block), ([], block, []))
            here[0].append(place)
            here[2].append(row)
        return [(places, block, np.array(rows, dtype=np.intp)) for places, block, rows in by_block.values()]

    @property
    def first(self) -> LikelyFault | None:
        """The fault that every case comes on top of."""
        return None if self.beside == NONE else cases_of(self.network).listed[self.beside]


class Block:
    """Some cases of a sheet that are worked out together, each with its neighbours along the size."""

    def __init__(self, sheet: Sheet, cases: Sequence[Case]) -> None:
        network, known = sheet.network, cases_of(sheet.network)
        asked = [case for case in cases if case != NONE]
        beside = [int(some[case]) for some in (known.before, known.after) for case in asked]
        self.sheet, self.network = sheet, network
        self.cases = tuple(dict.fromkeys((*asked, *beside, NONE)))
        place = {case: i for i, case in enumerate(self.cases)}
        self.before, self.after = (
            np.array([_row_beside(some, case, place, i) for i, case in enumerate(self.cases)], dtype=np.intp)
            for some in (known.before, known.after)
        )
        self.faults = [None if case == NONE else known.listed[case] for case in self.cases]
        self.groups = self._worked_out()
        self._first_order: dict[int, tuple[FirstOrder, tuple[int, ...]]] = {}
        self._volts: dict[Name, Array] = {}

    def _worked_out(self) -> list[Together]:
        sheet = self.sheet
        plain = solve(sheet.network, sheet.state)
        there = {element.name: element for element in plain.elements}
        first = sheet.first
        besides = (
            *(sheet.after.faults(sheet.network.job) if sheet.after else ()),
            *(first.in_state(plain, there) if first else ()),
        )
        taken = {_name(one) for one in besides if not isinstance(one, Fault) or one.kind != "short"}
        self.does = [
            tuple(one for one in fault.in_state(plain, there) if _name(one) not in taken) if fault else ()
            for fault in self.faults
        ]
        return change_each(sheet.network, sheet.state, self.does, besides, _held(plain.elements))

    @cached_property
    def sound(self) -> Solved:
        """The state without any of the cases."""
        place = self.cases.index(NONE)
        group = next(group for group in self.groups if place in group.which)
        return group.solved(group.which.index(place))

    @cached_property
    def faces(self) -> dict[str, tuple[Array, NDArray[np.intp], list[Shown]]]:
        """By channel id: what stands on the faces (NaN where no number), and the place of how each looks in the list of looks."""
        job, count = self.network.job, len(self.cases)
        found = {
            c.id: (np.full(count, np.nan), np.zeros(count, dtype=np.intp), list[Shown]()) for c in job.chains
        }
        for group in self.groups:
            which = list(group.which)
            for key, faces in faces_of_each(group).items():
                value, look, looks = found[key]
                value[which], look[which] = faces.value, faces.look + len(looks)
                looks += faces.looks
        for group in self.groups:
            for i, place in enumerate(group.which):
                for fault in (self.faults[place], self.sheet.first):
                    if fault is not None and (fault.entered or fault.faces):
                        self._instead(fault, group.solved(i), place, found)
        return found

    def _instead(
        self,
        fault: LikelyFault,
        solved: Solved,
        place: int,
        found: dict[str, tuple[Array, NDArray[np.intp], list[Shown]]],
    ) -> None:
        for key, face in fault.seen_instead(solved).items():
            value, look, looks = found[key]
            value[place], look[place] = np.nan if face.value is None else face.value, len(looks)
            looks.append(look_of(face))

    def volts(self, node: Name) -> Array:
        """Volts of a point in each case; NaN where it is not there."""
        if node not in self._volts:
            found = np.full(len(self.cases), np.nan)
            for group in self.groups:
                if node in group.solutions.potentials:
                    found[list(group.which)] = group.solutions.potentials[node]
            self._volts[node] = found
        return self._volts[node]

    def shows(self, probe: Probe) -> Shows:
        """What every case and neighbour shows."""
        if probe.kind == "shown":
            return self._shown(probe)
        if probe.kind == "ohms":
            return self._ohms(probe)
        value = self.volts(probe.red) - self.volts(probe.black)
        return Shows(value, np.isnan(value).astype(np.intp), ((), ("nothing there",)))

    def predict(self, probe: Probe, rows: NDArray[np.intp]) -> Predicted:
        """What some rows show, with what moves it."""
        everything, parts = self.shows(probe), toleranced_parts(self.network)
        shows = everything.some(rows)
        here = shows.value
        moved, own = np.zeros((len(rows), columns(self.network))), np.zeros(len(rows))
        if probe.kind == "volts":
            moved[:, : len(parts)] = np.subtract(*self.moved((probe.red, probe.black), rows))
            own = (METER_RATIO * np.abs(here) + METER_DIGIT_V) ** 2 / 3
        elif probe.kind == "ohms":
            own = (METER_OHM_RATIO * np.abs(here) + METER_OHM_DIGIT) ** 2 / 3
            place = parts.get(addresses.sender_part(probe.on, "element"))
            sender = self.network.job.sender(probe.on)
            if place is not None and probe.what == "" and sender is not None:
                moved[:, place] = sender.tolerance.x_pct / 100 * here
        else:
            moved[:, : len(parts)], own = self._faces_moved(probe, rows)
        for place, apart in _apart(self.network, self.sheet.state).items():
            moved[:, place] *= math.sqrt(SENDER_COMMON)
            moved[:, apart] = moved[:, place] * math.sqrt((1 - SENDER_COMMON) / SENDER_COMMON)
        none = np.isnan(here)
        moved[none], own[none] = 0.0, 0.0
        moved[:, -1], bent = self._by_size(everything.value, rows)
        return Predicted(shows, moved.astype(np.float32), own + bent, *steps_of(self.network.job, probe))

    def _by_size(self, value: Array, rows: NDArray[np.intp]) -> tuple[Array, Array]:
        """How far a value is from those half the way to the sizes beside, and, squared, what is left where it does not follow a straight line."""
        here = value[rows]
        before, after = (
            np.where(np.isnan(value[some[rows]]), here, value[some[rows]])
            for some in (self.before, self.after)
        )
        beside = (self.before[rows] != rows).astype(np.intp) + (self.after[rows] != rows)
        half = np.nan_to_num((after - before) / 2 / np.maximum(beside, 1))
        bend = np.where(beside == 2, np.nan_to_num((after - 2 * here + before) / 8), 0.0)
        return half, bend**2 / 5  # the mean square of what a parabola is off over the cell

    def moved(self, nodes: Sequence[Name], rows: NDArray[np.intp]) -> Array:
        """Volts more at some points (first), in each of some rows, with each toleranced part (last) off by its whole tolerance."""
        found = np.zeros((len(nodes), len(rows), len(toleranced_parts(self.network))))
        asked = {int(row): k for k, row in enumerate(rows)}
        for at, group in enumerate(self.groups):
            inside = [(i, asked[row]) for i, row in enumerate(group.which) if row in asked]
            if inside:
                self._move(at, group, nodes, inside, found)
        parts = toleranced_parts(self.network)
        for row, k in asked.items():
            for name in (named for effect in self.does[row] for named in _names(effect)):
                if name in parts:
                    found[:, k, parts[name]] = 0.0  # its own value is the fault's
        return found

    def _move(
        self, at: int, group: Together, nodes: Sequence[Name], inside: Sequence[tuple[int, int]], found: Array
    ) -> None:
        """Of those of one network: their places in the group, and among what is ``found``."""
        if at not in self._first_order:
            self._first_order[at] = _first_order(self.network, group.base)
        first, columns = self._first_order[at]
        joint = first.written.joints.row
        there = [
            k for k, node in enumerate(nodes) if joint.get(node, -1) >= 0
        ]  # battery negative never moves
        joints = [joint[nodes[k]] for k in there]
        if not there:
            return
        unknowns, effects = group.unknowns, np.zeros((len(inside), len(joints), len(columns)))
        single = [k for k, (i, _) in enumerate(inside) if len(group.changes[i]) == 1]
        if single:
            some = [inside[k][0] for k in single]
            changes = [group.changes[i][0] for i in some]
            effects[single] = first.effects_of_each(changes, unknowns[:, some], joints)
        for k, (i, _) in enumerate(inside):
            if len(group.changes[i]) != 1:
                effects[k] = first.effects(group.changes[i], unknowns[:, i], joints)
        for k, node in enumerate(there):
            found[np.ix_([node], [place for _, place in inside], columns)] = effects[None, :, k]

    def _shown(self, probe: Probe) -> Shows:
        chain = self.network.job.chain(probe.on)
        if chain is None:
            return _nothing(len(self.cases), "unfinished")
        value, look, looks = self.faces[probe.on]
        low, high = ends(chain.scaling)
        at_low, at_high = (
            np.zeros(len(value), dtype=bool) if end is None else value == end for end in (low, high)
        )
        codes, which = np.unique(look * 3 + np.where(at_high, 2, at_low), return_inverse=True)
        which, words = which.reshape(-1).astype(np.intp), list[tuple[str, ...]]()
        for place, code in enumerate(codes.tolist()):
            face, end = looks[code // 3], (None, low, high)[code % 3]
            own = (face_word(face),) if np.isnan(value[which == place]).any() else ()
            words.append(tuple(dict.fromkeys((*own, *face_words(replace(face, value=end), chain)))))
        return Shows(value, which, tuple(words))

    def _faces_moved(self, probe: Probe, rows: NDArray[np.intp]) -> tuple[Array, Array]:
        """Of the faces in some rows: how parts move them, and their own error squared."""
        job, count = self.network.job, len(rows)
        chain = job.chain(probe.on)
        moved, own = np.zeros((count, len(toleranced_parts(self.network)))), np.zeros(count)
        if chain is None:
            return moved, own
        own += (10.0**-chain.scaling.decimals) ** 2 / 12
        read = unrounded(self.sound, chain)
        there = [node for node in _nodes_of(job, chain) if node in self.sound.solution.potentials]
        if read is None or not there:
            return moved, own
        joints = {node: k for k, node in enumerate(there)}
        standing = np.array([self.volts(node)[rows] for node in there])
        by_node = self.moved(there, rows)

        def faces(volts: Array, off: Off) -> Array:
            flat = Solutions(joints, frozenset(), Worked(volts.reshape(len(there), -1)))
            return read(flat, off).reshape(volts.shape[1:])

        plain = faces(standing, Off())
        for first in range(0, count, ONE_BLOCK):
            some = slice(first, first + ONE_BLOCK)
            more, less = (
                np.nan_to_num(
                    faces(standing[:, some, None] + way * by_node[:, some], Off()) - plain[some, None],
                    nan=0.0,
                )
                for way in (1, -1)
            )
            moved[some] = np.where(
                np.abs(more) >= np.abs(less), more, -less
            )  # at an end it moves one way only
        for both in own_errors(job, chain):
            off = [np.nan_to_num(faces(standing, end) - plain, nan=0.0) for end in both]
            own += np.max([d * d for d in off], axis=0) / 3 if off else 0.0
        ratio = np.ones(count)
        for i, row in enumerate(rows.tolist()):
            for fault in (self.faults[row], self.sheet.first):
                for face in fault.faces if fault else ():
                    if face.chain == probe.on:
                        ratio[i] *= face.ratio
        return moved * ratio[:, None], own

    def _ohms(self, probe: Probe) -> Shows:
        job, sound = self.network.job, self.sound
        chain = next((c for c in job.measured if c.sender == probe.on), None)
        sender = job.sender(probe.on)
        if chain is None or sender is None:
            return _nothing(len(self.cases), "no sender")
        part = addresses.sender_part(sender.id, "thread" if probe.what else "element")
        port = job.port(chain.port)
        if probe.what:
            plain = port.ground.thread_ohm if port else 0.0
        else:
            plain = sender_output(chain, sender, sound.true.get(chain.channel))
        value = np.full(len(self.cases), plain, dtype=np.float64)
        elements = {element.name: element for element in sound.elements}
        for i, fault in enumerate(self.faults):
            for both in (self.sheet.first, fault):
                if both is not None and any(_name(effect) == part for effect in both.does):
                    value[i] = _ohms_with(both, part, float(value[i]), sound, elements)
        opened = value > MOST_OHM
        value[opened] = np.nan
        return Shows(value, opened.astype(np.intp), ((), (OPEN_WORD,)))


def _nothing(count: int, word: str) -> Shows:
    return Shows(np.full(count, np.nan), np.zeros(count, dtype=np.intp), ((word,),))


def steps_of(job: Job, probe: Probe) -> Steps:
    """The steps a reading at a probe comes in, and its least and its greatest."""
    chain = job.chain(probe.on) if probe.kind == "shown" else None
    if chain is None:
        return (METER_OHM_DIGIT if probe.kind == "ohms" else METER_DIGIT_V), -math.inf, math.inf
    low, high = ends(chain.scaling)
    return (
        10.0**-chain.scaling.decimals,
        -math.inf if low is None else low,
        math.inf if high is None else high,
    )


def _row_beside(neighbours: NDArray[np.intp], case: Case, rows: Mapping[Case, int], own: int) -> int:
    """The row of a case's neighbour; its own where there is none."""
    neighbour = NONE if case == NONE else int(neighbours[case])
    return own if neighbour == NONE else rows.get(neighbour, own)


def _ohms_with(
    fault: LikelyFault, part: Name, value: float, sound: Solved, elements: dict[Name, Element]
) -> float:
    for effect in fault.in_state(sound, elements):
        if isinstance(effect, Replaced) and effect.name == part:
            value = effect.value
        elif isinstance(effect, Fault) and effect.element == part:
            value = {
                "open": math.inf,
                "short": effect.ohm or 0.0,
                "resistance": value + (effect.ohm or 0.0),
                "swap": value,
            }[effect.kind]
    return value


def _name(effect: object) -> Name:
    return effect.element if isinstance(effect, Fault) else getattr(effect, "name", "")


def _names(effect: object) -> Iterator[Name]:
    yield _name(effect)
    if isinstance(effect, Fault) and effect.with_ is not None:
        yield effect.with_


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


def _first_order(network: Network, base: Solved) -> tuple[FirstOrder, tuple[int, ...]]:
    parts = toleranced_parts(network)
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
def sheet_of(
    network: Network, state: State, after: Action | None = None, beside: Case = NONE
) -> Sheet | None:
    """The sheet of a state, after an action; None where the action does nothing, or cannot be done there. Raises CircuitError in words."""
    besides = after.faults(network.job) if after else ()
    if after:
        there = {element.name for element in solve(network, state).elements}
        if not besides or any(fault.element not in there for fault in besides):
            return None
    sheet = Sheet(network, state, after, beside)
    try:
        sheet.rows((NONE,))
    except CircuitError:
        if after:
            return None
        raise
    return sheet


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
