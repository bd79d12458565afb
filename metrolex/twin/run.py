"""Solve the twin for one state and say what each display shows."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from metrolex.characters import whole_number
from metrolex.circuit import GROUND, Element, Fault, Replaced, Solution, apply_faults
from metrolex.circuit import solve as solve_circuit
from metrolex.circuit.elements import Name
from metrolex.circuit.equations import Joints
from metrolex.circuit.solve import Solutions
from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.job import Display, Input, Job, MeasuringChain, Sender, State
from metrolex.job.display import WITHOUT_PIN
from metrolex.quantities import in_unit, rounded, unit_words
from metrolex.scaling.counting import COUNTED, carrier_of, shown_over_true
from metrolex.scaling.reading import (
    Faces,
    Shown,
    ends,
    faces_of_supply,
    faces_of_thermocouple,
    faces_of_volts,
    in_range,
    read_supply,
    read_thermocouple,
    read_volts,
)
from metrolex.scaling.table import look_up, rounded_text
from metrolex.senders import PULSED, is_monotonic, y_range
from metrolex.senders.thermocouple import COLD_DEGC
from metrolex.speed.gear import gates_of, gear_at
from metrolex.topology import at_pin, topology_of
from metrolex.twin import addresses
from metrolex.twin.addresses import printed
from metrolex.twin.boxes import outputs_of_boxes, same_outputs
from metrolex.twin.build import Network, elements_for, sender_output
from metrolex.twin.data import no_data, sent
from metrolex.twin.kept import once
from metrolex.twin.pulses import pulses_arrive
from metrolex.twin.reach import missing_on_the_way, not_worked_out

__all__ = [
    "Off",
    "Solved",
    "faces_by_volts",
    "has_power",
    "have_power",
    "pull",
    "pulling",
    "reading_of",
    "readings",
    "solve",
    "state_findings",
    "true_values",
    "unrounded",
]


MOST_ROUNDS = 12  # relays that pull and boxes that answer: what a box gives does not come back to its own input, and a buzzing relay is cut off here


@dataclass(frozen=True, slots=True)
class Solved:
    """One state worked out: the elements as they stood, the solution, which displays are awake."""

    network: Network
    state: State
    true: dict[str, float]
    elements: tuple[Element, ...]
    solution: Solution
    powered: frozenset[str]
    pulled: frozenset[str] = frozenset()
    """the relays whose coil pulls"""
    kept: dict[Hashable, Any] = field(default_factory=dict, init=False, compare=False, repr=False)

    def volts(self, node: Name) -> float | None:
        """Volts of a node to battery negative; None where it floats or is not there."""
        if isinstance(node, str) and node != GROUND:
            raise TypeError(f"'{node}' is only spelt: ask by its address")
        return None if node in self.solution.floating else self.solution.potentials.get(node)

    def across(self, a: Name, b: Name) -> float | None:
        """Volts from b up to a, None where either is not there or floats."""
        first, second = self.volts(a), self.volts(b)
        return None if first is None or second is None else first - second


def true_values(job: Job, state: State) -> dict[str, float]:
    """What is really there by channel id, at the operating point of the state: as said, else as is usual."""
    found = {}
    for channel in job.channels:
        value = channel.true(state.point)
        if value is not None:
            found[channel.id] = value
    return found


def solve(
    network: Network,
    state: State,
    faults: Sequence[Fault | Replaced] = (),
    true: Mapping[str, float] | None = None,
    extra: Sequence[Element] = (),
    outputs: Mapping[str, float] | None = None,
) -> Solved:
    """Solve the network in one state, with faults and with elements hung on it (a meter, a lamp).

    ``true`` stands in for the channels' own true values; ``outputs`` the ohms or volts of senders by id.

    A display below its lowest working voltage drops its references and its constant-current loads, which
    may lift its supply again; the set of displays awake is worked out until it stands still, and a display
    that would flutter is counted as asleep.

    A state as it is, without faults or anything else, is solved once for a network.

    Raises CircuitError in words, BadInput for a fault at a part that is not there.
    """
    plain = not (faults or true or extra or outputs)
    if plain and state in network.plain:
        return network.plain[state]  # type: ignore[no-any-return]
    solved = _solve(network, state, faults, true, extra, outputs)
    if plain:
        network.plain[state] = solved
    return solved


def _solve(
    network: Network,
    state: State,
    faults: Sequence[Fault | Replaced],
    true: Mapping[str, float] | None,
    extra: Sequence[Element],
    outputs: Mapping[str, float] | None,
) -> Solved:
    values = true_values(network.job, state) | dict(true or {})
    given, pulled = dict(outputs or {}), frozenset[str]()

    def standing(awake: frozenset[str]) -> tuple[Element, ...]:
        return (*apply_faults(elements_for(network, state, values, awake, given, pulled), faults), *extra)

    awake = frozenset(display.id for display in network.job.displays)
    elements = standing(awake)
    joints = Joints(elements)
    if any(pin.load_kind == "constant" for display in network.job.displays for pin in display.pins):
        joined = _joined(network.job, joints)
        if joined != awake:
            awake, elements = joined, standing(joined)
            joints = Joints(elements)
    rounds = 0
    while True:
        solution = solve_circuit(elements, joints)
        pulls = pulling(network.job, solution)
        if (
            pulls != pulled and rounds < MOST_ROUNDS
        ):  # a relay that wakes a display comes before the display is judged
            pulled, rounds = pulls, rounds + 1
            elements = standing(awake)
            joints = Joints(elements)
            continue
        still = frozenset(key for key in awake if has_power(network.job, key, solution))
        if still == awake:
            said = outputs_of_boxes(network.job, elements, solution.across, awake, values)
            said |= dict(outputs or {})
            if rounds >= MOST_ROUNDS or same_outputs(network.job, said, given):
                return Solved(network, state, values, elements, solution, awake, pulled)
            given, rounds = said, rounds + 1
        awake, elements = still, standing(still)
        joints = Joints(elements)


def pulling(job: Job, solution: Solution) -> frozenset[str]:
    """The relays whose coil has the volts to pull."""
    return frozenset(key for key, pulls in pull(job, solution).items() if pulls)


def pull(job: Job, solved: Solution | Solutions) -> dict[str, NDArray[np.bool_]]:
    """By relay whether its coil has the volts to pull; of many solutions an array with one for each."""
    return {
        switch.id: np.asarray(
            np.abs(
                solved.across(addresses.switch_node(switch.id, "86"), addresses.switch_node(switch.id, "85"))
            )
            >= switch.pulls_v
        )
        for switch in job.switches
        if switch.kind == "relay"
    }


def _joined(job: Job, joints: Joints) -> frozenset[str]:
    """The displays whose supply and ground pins both lead somewhere: the others cannot draw a constant current."""
    found = set()
    for display in job.displays:
        pins = [pin for role in ("ignition", "ground") if (pin := display.pin_for(role)) is not None]
        nodes = [addresses.pin_node(display, pin.id) for pin in pins]
        if len(nodes) == 2 and not any(node in joints.floating or node not in joints.row for node in nodes):
            found.add(display.id)
    return frozenset(found)


def has_power(job: Job, key: str, solution: Solution) -> bool:
    """Whether a display has the volts it lives by."""
    return bool(have_power(job, key, solution))


def have_power(job: Job, key: str, solved: Solution | Solutions) -> NDArray[np.bool_]:
    """The same of many solutions, an array with one for each; of one its only one."""
    display = job.display(key)
    supply = display.pin_for("ignition") if display else None
    ground = display.pin_for("ground") if display else None
    whole = np.ones(np.shape(solved.potentials[GROUND]), dtype=bool)  # as many as there are solutions
    if display is None or ground is None:
        return np.zeros_like(whole)
    if display.supply.own_battery:
        return whole
    if supply is None:
        return np.zeros_like(whole)
    plus, minus = addresses.pin_node(display, supply.id), addresses.pin_node(display, ground.id)
    return np.asarray(solved.across(plus, minus) >= display.supply.min_v)


@once
def readings(solved: Solved, believed: Job | None = None) -> dict[str, Shown]:
    """What stands on the face for every channel of the job, by channel id.

    ``believed`` is the job as the displays take it to be (nominal pull-ups and references), where the
    network was solved with parts off their nominal value.
    """
    job = believed or solved.network.job
    return {channel.id: _shown(solved, job, channel) for channel in job.chains}


def reading_of(solved: Solved, channel: MeasuringChain) -> Shown:
    """What stands on the face for one channel."""
    return _shown(solved, solved.network.job, channel)


@dataclass(frozen=True, slots=True)
class Off:
    """How far a display's input itself is off: steps of its converter more, its reference by a share, its cold junction in kelvin."""

    steps: float = 0.0
    gain: float = 1.0
    cold_k: float = 0.0


ManyFacesRead = Callable[[Solutions, Off], Faces]


def unrounded(
    solved: Solved, channel: MeasuringChain
) -> Callable[[Solutions, Off], NDArray[np.float64]] | None:
    """How a channel's face follows the circuit, before its digits: from solutions and what the input is off to the readings.

    None for a face that does not follow volts (pulses, data); NaN in a solution where no number is shown. What the
    converter rounds is left out.
    """
    read = faces_by_volts(solved, channel, converted=False)
    return None if read is None else lambda solutions, off: read(solutions, off).value


def faces_by_volts(
    solved: Solved, channel: MeasuringChain, *, converted: bool = True
) -> ManyFacesRead | None:
    """A channel's faces in many solutions, before their digits; None for a face that does not follow volts. ``converted``: as the converter rounds."""
    job = solved.network.job
    display, stage = job.display(channel.display), job.input_of(channel)
    ground = display.pin_for("ground") if display else None
    if (
        display is None
        or stage is None
        or ground is None
        or channel.gears
        or stage.kind not in ("supply", "pull_up", "volts", "loop", "thermocouple")
        or (stage.kind != "supply" and _in_ohms_without_pull_up(stage, channel))
    ):
        return None
    rail = addresses.pin_node(display, ground.id)
    supply = display.pin_for("ignition")
    node = addresses.pin_node(
        display, (supply.id if supply else "") if stage.kind == "supply" else stage.pin or ""
    )
    if node not in solved.solution.potentials or rail not in solved.solution.potentials:
        return None
    seen = stage if converted else replace(stage, converter=replace(stage.converter, adc_bits=None))
    step_v = (
        (stage.circuit.reference_v or 0.0) / 2**stage.converter.adc_bits
        if stage.converter.adc_bits and stage.kind not in ("supply", "thermocouple")
        else 0.0
    )

    def read(solutions: Solutions, off: Off) -> Faces:
        volts = _counted_volts(solutions, display, stage, node, rail) * off.gain + off.steps * step_v
        if stage.kind == "supply":
            return faces_of_supply(volts, channel.scaling, display.behaviour)
        if stage.kind == "thermocouple":
            return faces_of_thermocouple(volts, seen, channel, display.behaviour, COLD_DEGC + off.cold_k)
        return faces_of_volts(volts, seen, channel.scaling, display.behaviour)

    return read


def _shown(solved: Solved, job: Job, channel: MeasuringChain) -> Shown:
    display, stage = job.display(channel.display), job.input_of(channel)
    if display is None or stage is None:
        return Shown("", None, "unfinished", "no display chosen")
    ground = display.pin_for("ground")
    if ground is None:
        return Shown("", None, "unfinished", "the display has no ground pin")
    if display.id not in solved.powered:
        missing = missing_on_the_way(job, display)
        return Shown("", None, "unfinished", missing) if missing else _dark(solved, display)
    rail = addresses.pin_node(display, ground.id)
    if stage.kind == "supply":
        supply = display.pin_for("ignition")
        volts = solved.across(addresses.pin_node(display, supply.id), rail) if supply else None
        return read_supply(volts or 0.0, channel.scaling, display.behaviour)
    silent = _stands_elsewhere(solved, channel) or _silent_box(solved, channel)
    if silent:
        return Shown("", None, "unfinished", silent)
    if stage.kind == "data":
        missing = no_data(solved.network.job, channel, display, solved.powered)
        return Shown("", None, "unfinished", missing) if missing else _arrived(solved, channel)
    if stage.kind == "pulse":
        return _counted(solved, job, channel, display, stage)
    return _by_volts(solved, job, channel, display, stage)


def _by_volts(solved: Solved, job: Job, channel: MeasuringChain, display: Display, stage: Input) -> Shown:
    """What a display makes of the volts at a signal pin."""
    if job.heard(channel) is None:
        return Shown("", None, "unfinished", "no sender chosen")
    by_gates = bool(channel.gears) and stage.kind == "volts"
    if not (channel.scaling.table or by_gates) and stage.kind != "thermocouple":
        return Shown("", None, "unfinished", "no table entered")
    if not by_gates and _in_ohms_without_pull_up(stage, channel):
        return Shown("", None, "unfinished", "its table is in ohms, its input has no pull-up")
    if not _wired(job, display, stage):
        return Shown("", None, "unfinished", _no_signal(job, display, stage))
    node, ground = addresses.pin_node(display, stage.pin or ""), display.pin_for("ground")
    rail = addresses.pin_node(display, ground.id if ground else "")
    volts = float(_counted_volts(solved.solution, display, stage, node, rail))
    if by_gates:
        return _gear(channel, volts)
    if stage.kind == "thermocouple":
        return read_thermocouple(volts, stage, channel, display.behaviour, COLD_DEGC)
    return read_volts(volts, stage, channel.scaling, display.behaviour)


def _stands_elsewhere(solved: Solved, channel: MeasuringChain) -> str:
    """That the switch of a shared dial shows the other reading, in words; '' where it shows this one, or there is none."""
    by = solved.network.job.shown_by(channel)
    if by is None or (by[0].id in solved.state.thrown) == by[1]:
        return ""
    return f"{by[0].name} stands at {by[0].position(thrown=not by[1])}"


def _silent_box(solved: Solved, channel: MeasuringChain) -> str:
    """Why the box of a chain cannot speak yet, in words; '' where it can, or where there is none."""
    job, box = solved.network.job, solved.network.job.display(channel.box)
    if box is None:
        return ""
    if box.id not in solved.powered and (missing := missing_on_the_way(job, box)):
        return f"{box.name}: {missing}"
    stage = box.input_called(channel.box_input)
    if stage is None:
        return ""  # a second reading of a sensor another channel has
    if channel.sender is None:
        return "no sender chosen"
    if stage.kind not in WITHOUT_PIN and not _wired(job, box, stage):
        return f"{box.name}: {_no_signal(job, box, stage)}"
    return ""


def _in_ohms_without_pull_up(stage: Input, channel: MeasuringChain) -> bool:
    """Whether the table cannot be read by its input at all."""
    known = stage.circuit.pull_up_ohm is not None and stage.circuit.reference_v is not None
    return stage.kind != "thermocouple" and channel.scaling.x_unit == "ohm" and not known


def _counted_volts(
    solved: Solution | Solutions, display: Display, stage: Input, node: Name, rail: Name
) -> NDArray[np.float64]:
    """The volts a display takes its input for: by the reference that feeds pull-up or sender where it is ratiometric."""
    volts = np.asarray(solved.across(node, rail))
    if not stage.converter.ratiometric:
        return volts
    if stage.kind == "pull_up":
        reference, nominal = addresses.reference_node(display.id, stage.id), stage.circuit.reference_v
    else:
        reference = addresses.sensor_supply_node(display.id)
        nominal = max(
            (one.circuit.reference_v for one in display.inputs if one.circuit.reference_v), default=None
        )
    if nominal is None or reference not in solved.potentials:
        return volts
    real = np.asarray(solved.across(reference, rail))
    return np.where(real > 0, volts * nominal / np.where(real > 0, real, 1.0), volts)


def _gear(channel: MeasuringChain, volts: float) -> Shown:
    """The gear whose taught volts are nearest; dashes beyond all of them."""
    if len(channel.gears) < 2:
        return Shown("", None, "unfinished", "fewer than two gears are taught")
    gates, _ = gates_of(tuple((gear.gear, gear.value) for gear in channel.gears))
    gear = gear_at(gates, volts)
    if gear is None:
        return Shown(
            "--",
            None,
            "above" if volts > gates[-1].value else "below",
            f"{volts:.2f} V belongs to no gear",
            volts,
        )
    return Shown(gear, whole_number(gear), "reading", "", volts)


def _counted(solved: Solved, job: Job, channel: MeasuringChain, display: Display, stage: Input) -> Shown:
    """Pulses counted by what is set; their wires are followed as far as they are there or not."""
    sender = job.heard(channel)
    if sender is not None and sender.curve.x_unit in PULSED:
        return _by_pulses(solved, job, channel, sender, display, stage)
    if channel.measurand not in COUNTED:
        return Shown("", None, "unfinished", "no sender chosen")
    # A pick-up comes with a lead of its own: where its run is laid it is joined, with or without wires of the job.
    way = topology_of(job).ways.get(channel.run or "")
    if not (way and way.segments) and not _wired(job, display, stage):
        return Shown("", None, "unfinished", "its lead is not laid yet")
    true = solved.true.get(channel.channel)
    if true is None:
        return Shown("", None, "unfinished", "no true value given")
    try:
        value = true * shown_over_true(job, channel)
    except BadInput as fault:
        return Shown("", None, "unfinished", fault.message)
    return in_range(value, true, channel.scaling, display.behaviour)


def _by_pulses(
    solved: Solved, job: Job, channel: MeasuringChain, sender: Sender, display: Display, stage: Input
) -> Shown:
    """A sender that speaks in pulses: their frequency, or how long they are low, looked up in the display's table."""
    if not _wired(job, display, stage):
        return Shown("", None, "unfinished", _no_signal(job, display, stage))
    if not channel.scaling.table:
        return Shown("", None, "unfinished", "no table entered")
    if sender.rides and carrier_of(job, channel) is None:
        return Shown("", None, "unfinished", "no sender sends pulses there")
    given = sender_output(channel, sender, solved.true.get(channel.channel))
    if not _pulses_arrive(solved, job, channel, sender, display, stage):
        given = 0.0
    return in_range(float(look_up(channel.scaling.table, given)), given, channel.scaling, display.behaviour)


def _pulses_arrive(
    solved: Solved, job: Job, channel: MeasuringChain, sender: Sender, display: Display, stage: Input
) -> bool:
    """Whether pulses reach the display; those of a box are its own affair."""
    if channel.box is not None:
        return channel.box in solved.powered
    carrier = carrier_of(job, channel) if sender.rides else channel
    sends = job.sender(carrier.sender) if carrier else None
    return sends is not None and pulses_arrive(solved.elements, solved.across, sends, display, stage)


def _arrived(solved: Solved, channel: MeasuringChain) -> Shown:
    """A number that comes ready-made is shown as it is, to the digits of the face."""
    true = solved.true.get(channel.channel)
    if true is None:
        return Shown("", None, "unfinished", "no true value given")
    said = sent(
        solved.network.job, channel, solved.elements, solved.solution.across, solved.powered, solved.true
    )
    if said is not None and np.isnan(said):
        return Shown("--", None, "open", "its box has no reading")
    true = true if said is None else said
    digits = channel.scaling.decimals
    return Shown(rounded_text(true, digits), rounded(true, digits), "reading", "", true)


def _no_signal(job: Job, display: Display, stage: Input) -> str:
    pin = display.pin_called(stage.pin)
    return (not_worked_out(job, display, pin) if pin else "") or "no signal wire yet"


def _wired(job: Job, display: Display, stage: Input) -> bool:
    return topology_of(job).wired(at_pin(display, stage.pin or ""), measured=True)


def _dark(solved: Solved, display: Display) -> Shown:
    """A face without the volts it lives by."""
    supply, ground = display.pin_for("ignition"), display.pin_for("ground")
    assert supply is not None
    assert ground is not None
    volts = (
        solved.across(addresses.pin_node(display, supply.id), addresses.pin_node(display, ground.id)) or 0.0
    )
    if solved.state.key in ("off", "acc") and volts < 1:
        return Shown("", None, "dark", f"key {solved.state.key}")
    return Shown("", None, "dark", f"{volts:.1f} V, needs {display.supply.min_v:g} V")


def state_findings(solved: Solved) -> list[Finding]:
    """What had to be assumed to solve this state: values held at the end of a curve, an engine that cannot run."""
    found = []
    if solved.state.point != solved.state.engine:
        found.append(
            Finding(
                "note",
                "engine_stopped",
                f"key {solved.state.key}",
                "An engine runs with the key in run only: taken as stopped.",
            )
        )
    for channel in solved.network.job.measured:
        sender, true = solved.network.job.heard(channel), solved.true.get(channel.channel)
        if sender is None or not is_monotonic(sender.curve):
            continue
        if true is None:
            found.append(
                Finding(
                    "note",
                    "true_value_assumed",
                    channel.name,
                    "No true value is given: the middle of the sender's curve is taken.",
                    remedy="Give the value with the engine stopped and running.",
                    place="scaling",
                    channel=channel.id,
                    about=f"channel {channel.id}",
                )
            )
            continue
        if _only_usual(solved, channel):
            continue
        low, high = y_range(sender.curve)
        there = in_unit(true, channel.unit, sender.curve.y_unit)
        if not low <= there <= high:
            beyond = _shown_beyond(channel, sender, low if there < low else high)
            found.append(
                Finding(
                    "caution" if beyond else "note",
                    "outside_curve",
                    channel.name,
                    "The true value lies outside the sender's curve; its end is taken.",
                    f"{true:g} {unit_words(channel.unit)}, curve {low:g} to {high:g} {unit_words(sender.curve.y_unit)}",
                    "Get more points of the curve.",
                    "scaling",
                    channel.id,
                    about=f"channel {channel.id}",
                )
            )
    return found


def _only_usual(solved: Solved, channel: MeasuringChain) -> bool:
    """Whether nobody said what is there at this operating point: what our own table says is no finding."""
    said = next(c for c in solved.network.job.channels if c.id == channel.channel).said(solved.state.point)
    return said is None


def _shown_beyond(channel: MeasuringChain, sender: Sender, end: float) -> bool:
    """Whether the face goes beyond an end of the sender's curve: else what lies there is not shown anyway."""
    face = [value for value in ends(channel.scaling) if value is not None]
    at = in_unit(end, sender.curve.y_unit, channel.unit)
    middle = float(np.mean([in_unit(y, sender.curve.y_unit, channel.unit) for y in y_range(sender.curve)]))
    slack = 1e-9 * max(1.0, abs(at))
    return not face or (min(face) < at - slack if at < middle else max(face) > at + slack)


def nodes_of(solved: Solved) -> dict[str, float | None]:
    """Volts of every node by its name, battery negative included."""
    volts: dict[Name, float | None] = {GROUND: 0.0, **solved.solution.nodes}
    return {name: volts[node] for node, name in printed(volts).items()}


def currents_of(solved: Solved) -> dict[str, float]:
    """Amperes of every element by its name."""
    currents = solved.solution.currents
    return {name: currents[element] for element, name in printed(currents).items()}
