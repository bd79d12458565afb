"""A vehicle drawn at random with one fault or two, of any size, read by a meter that errs: what the searches are held against.

The vehicle is a whole job with every toleranced field anywhere in its tolerance, solved from the beginning with the fault in it, by the plain way.
Sizes are drawn evenly over two decades of ohms, of ratios from 8 % to three times, never one that the search keeps.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from metrolex.circuit import GROUND, Fault, Resistor
from metrolex.faults import catalogue
from metrolex.faults.cases import NONE, cases_of
from metrolex.faults.complaints import WORDS, Complaint, holds
from metrolex.faults.dictionary import HOLD_OHM, MOST_OHM
from metrolex.faults.kinds import Face, LikelyFault, Scaled
from metrolex.faults.likelihood import Seen
from metrolex.faults.lineup import lineup_of
from metrolex.faults.next_test import ranked_tests
from metrolex.faults.suspects import suspects
from metrolex.job import State
from metrolex.scaling.face_words import face_word
from metrolex.twin import addresses, build, solve
from metrolex.twin.build import sender_output
from tests.truth.test_bands import drawn, outputs_of

RUNNING = State("run", "off", "running")
MOST_PROBES = 16
#: Ohms about which two decades are drawn, by kind; the ranges of the table of faults are wider.
ABOUT_OHM = {
    "joint.poor": 50.0,
    "splice.poor": 50.0,
    "tap.loose": 10.0,
    "strap.corroded": 1.0,
    "strap.lost": 0.3,
    "battery.not_charged": 0.5,
    "thread.taped": 300.0,
    "wire.chafed": 5.0,
    "wire.touches": 5.0,
}
WHOLE = {"splice.poor", "tap.loose", "strap.lost", "battery.not_charged", "wire.chafed", "wire.touches"}
RATIOS = {"sender.off", "input.other", "table.other"}


def of_a_size(fault: LikelyFault, rng) -> LikelyFault:
    """The fault at a size drawn at random; one that comes whole as well is whole every other time."""
    if fault.kind in ABOUT_OHM:
        if fault.kind in WHOLE and rng.random() < 0.5:
            return fault
        ohm, (does,) = ABOUT_OHM[fault.kind] * 10 ** rng.uniform(-1, 1), fault.does
        kind = "short" if does.kind == "short" else "resistance"
        return replace(fault, does=(Fault(does.element, kind, ohm, to=does.to),))
    if fault.kind in RATIOS:
        ratio = (1.08 * (3 / 1.08) ** rng.random()) ** rng.choice((1, -1))
        if fault.entered:
            (entered,) = fault.sizes[0].fault.entered
            first = fault.sizes[0].cell.size
            rows = tuple((x / first * ratio, y) for x, y in entered.rows)
            return replace(fault, entered=(replace(entered, rows=rows),))
        return replace(fault, does=(Scaled(fault.does[0].name, ratio),))
    if fault.kind == "battery.low":
        return replace(fault, does=(Scaled(fault.does[0].name, rng.uniform(0.65, 0.95)),))
    if fault.kind == "display.reference":
        return replace(
            fault, does=(Scaled(fault.does[0].name, rng.uniform(1.03, 1.25) ** rng.choice((1, -1))),)
        )
    if fault.kind == "input.cold":
        return replace(
            fault, faces=(Face(fault.faces[0].chain, shift=rng.uniform(4, 30) * rng.choice((1, -1))),)
        )
    return rng.choice(fault.sizes).fault if fault.kind == "table.decimal" and fault.sizes else fault


@dataclass
class FaultyVehicle:
    """A drawn vehicle with ``faults``; the reading at the place ``misread`` among those taken is misread, others as often as ``chance``."""

    nominal: object
    faults: tuple[LikelyFault, ...]
    rng: object
    misread: int | None = None
    chance: float = 0.0
    taken: int = 0

    def __post_init__(self):
        self.actual = build.__wrapped__(drawn(self.nominal.job, self.rng))
        self.outputs = outputs_of(self.nominal.job, solve(self.nominal, RUNNING).true, self.rng)
        self.kept = {}

    def _outputs(self, state):
        """What the senders give in a state: each off by what it is off, wherever it stands."""
        running, here = solve(self.nominal, RUNNING).true, solve(self.nominal, state).true
        found = {}
        for chain in self.nominal.job.chains:
            sender = self.nominal.job.sender(chain.sender)
            if sender is not None and sender.id in self.outputs and chain.id in here:
                plain = sender_output(chain, sender, running[chain.id])
                share = self.outputs[sender.id] / plain if plain else 1.0
                found.setdefault(sender.id, sender_output(chain, sender, here[chain.id]) * share)
        return found

    def solved(self, state, after):
        if (state, after) not in self.kept:
            plain = solve(self.actual, state)
            there = {element.name: element for element in plain.elements}
            does = [effect for fault in self.faults for effect in fault.in_state(plain, there)]
            done = after.faults(self.nominal.job) if after else ()
            nodes = dict.fromkeys(n for e in plain.elements if isinstance(e, Resistor) for n in (e.a, e.b))
            held = [Resistor(f"hand {i}", n, GROUND, HOLD_OHM) for i, n in enumerate(nodes) if n != GROUND]
            solved = solve(self.actual, state, [*done, *does], extra=held, outputs=self._outputs(state))
            believed = replace(solved, network=self.nominal)
            faces = None
            for fault in self.faults:
                faces = fault.seen(believed) if faces is None else faces | fault.seen_instead(believed, faces)
            self.kept[state, after] = solved, faces or {}
        return self.kept[state, after]

    def read(self, state, probe):
        """What a fitter writes down."""
        rng = self.rng
        misread = self.taken == self.misread or rng.random() < self.chance
        self.taken += 1
        solved, faces = self.solved(state, probe.after)
        if probe.kind == "shown":
            face = faces[probe.on]
            if face.value is None:
                return face_word(face)
            return face.value * rng.choice((0.6, 0.8, 1.2, 1.5)) if misread else face.value
        value = self._ohms(state, probe) if probe.kind == "ohms" else solved.across(probe.red, probe.black)
        if value is None:
            return "open"
        if misread:
            return (
                round(rng.uniform(0, 12), 2)
                if probe.kind == "volts"
                else value * rng.choice((0.1, 0.5, 2, 10))
            )
        if probe.kind == "volts":
            return round(value * (1 + rng.uniform(-0.005, 0.005)), 2) + rng.choice((-0.01, 0.0, 0.01))
        return value * (1 + rng.uniform(-0.01, 0.01))

    def _ohms(self, state, probe):
        solved, _ = self.solved(state, None)
        part = addresses.sender_part(probe.on, "thread" if probe.what else "element")
        element = next((e for e in solved.elements if e.name == part), None)
        if element is None or not isinstance(element, Resistor):
            job = self.nominal.job
            chain = next(c for c in job.measured if c.sender == probe.on)
            return sender_output(
                chain, job.sender(probe.on), solve(self.nominal, state).true.get(chain.channel)
            )
        shorted = any(
            isinstance(e, Fault) and e.element == part and e.kind == "short"
            for f in self.faults
            for e in f.does
        )
        ohm = 0.0 if shorted else element.ohm
        return None if ohm > MOST_OHM else ohm


@dataclass(frozen=True)
class Searched:
    """How a search ended: the verdict, and how many readings it took."""

    verdict: object
    readings: int
    seen: tuple[Seen, ...]


def complaint(network, vehicle, rng) -> list[Complaint]:
    """One thing the owner of a vehicle with one fault would say of it; nothing where he would not notice."""
    (fault,) = vehicle.faults
    case = next(
        i
        for i, one in enumerate(cases_of(network).listed)
        if (one.part, one.kind) == (fault.part, fault.kind)
    )
    one = lineup_of(network, ((case, NONE),))
    said = [
        Complaint(word, chain.id)
        for chain in network.job.chains
        for word in WORDS
        if word != "comes_and_goes" and holds(one, Complaint(word, chain.id))[0]
    ]
    return [rng.choice(said)] if said else []


def searched(network, vehicle, said=()) -> Searched:
    """Readings taken one after the other as the search asks for them, until it is settled or nothing tells more."""
    seen, here = [], RUNNING
    while True:
        verdict = suspects(network, seen, said)
        if verdict.settled or len(seen) >= MOST_PROBES:
            break
        tests = ranked_tests(network, verdict, here=here, done=seen)
        if not tests:
            break
        here = tests[0].state
        seen.append(Seen(here, tests[0].probe, vehicle.read(here, tests[0].probe)))
    return Searched(verdict, len(seen), tuple(seen))


def likely(network, rng, count=1):
    """Faults drawn as often as their weights say, each of a size of its own; two are of different cures."""
    listed = catalogue(network)
    while True:
        found = rng.choices(listed, [fault.weight for fault in listed], k=count)
        if len({fault.cure for fault in found}) == count and len({fault.part for fault in found}) == count:
            return tuple(of_a_size(fault, rng) for fault in found)


def settled_on(network, verdict) -> set[str]:
    """What a search says has to be mended; nothing where it is open."""
    return {catalogue(network)[place].cure for place in verdict.lead.key} if verdict.lead else set()


def cure_of(faults) -> set[str]:
    """What has to be mended."""
    return {fault.cure for fault in faults}


def bits_to_tell(network) -> float:
    """Log2 of the cures a search may have to tell apart."""
    return math.log2(len({fault.cure for fault in catalogue(network)}))
