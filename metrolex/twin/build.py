"""From the job's records to one electrical network.

Battery with its resistance, alternator, starter and straps; key switch and lamp switch as contacts; every
circuit with its fuse; taps; wires by size, length and temperature; splices; ground points; the displays'
loads, references and pull-ups; the senders. Switches depend on the state and values on what is measured, so
the network is a list of makers that ``elements_for`` calls for one state.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from metrolex.circuit import GROUND, OPEN_OHM, Element, Resistor, VoltageFollower, VoltageSource
from metrolex.circuit.elements import CurrentSource, Name
from metrolex.feeds.classify import Verdict, classify_circuits
from metrolex.feeds.fuses import fuse_ohm
from metrolex.harness.conductors import wire_ohm
from metrolex.inputs.heating import self_heating
from metrolex.inputs.loop import thevenin_of
from metrolex.job import (
    Circuit,
    Display,
    End,
    GroundPoint,
    Input,
    Job,
    MeasuringChain,
    Pin,
    Sender,
    State,
    Switch,
)
from metrolex.job.heard import as_sender
from metrolex.job.once import once_per_job
from metrolex.quantities import in_unit
from metrolex.senders import ThermocoupleCurve, is_monotonic, x_at, x_range, y_range
from metrolex.senders.thermocouple import COLD_DEGC, emf_mv
from metrolex.topology import topology_of
from metrolex.twin import addresses
from metrolex.twin.addresses import Address
from metrolex.twin.kept import once_per_circuit

__all__ = ["Network", "build", "elements_for", "ground_ohm", "is_live"]

LEAK_OHM = 1e6  # from every circuit to the body, its load too where nobody has said it: dead, it reads nothing (common practice, no source)
POSTS_OHM = 1e-6  # between the cells and the posts, where what was read is what stands there
REGULATOR_GAIN = 1e4  # the regulator holds its volts at the battery posts
FEED_OHM = 0.01  # from the switch to the panel (common practice, no source)
DEFAULT_FUSE_A = 10.0
RETURN_OHM = 0.005  # inside a display, from a return pin to its ground pin
SENSOR_SUPPLY_OHM = 0.5
MIN_SENDER_OHM = 1e-3
OWN_WIRE_OHM = 0.01  # of the vehicle's own loom between a sender and its reader (common practice, no source)
COUPLE_OHM = 10.0  # a sheathed thermocouple with its leads (common practice, no source)

_BUS = {
    "accessory": "accessory contact of the key switch",
    "ignition": "ignition contact of the key switch",
    "ignition_crank": "run and crank contact of the key switch",
    "lamps": "lamp switch",
}


@dataclass(frozen=True, slots=True)
class Network:
    """A job ready to be solved: the job, the verdict on each circuit, the length of each wire in metres.

    ``plain`` keeps the states that were solved as they are, ``kept`` what else was worked out of it.
    """

    job: Job
    verdicts: Mapping[str, Verdict]
    lengths_m: Mapping[str, float]
    plain: dict[State, Any] = field(default_factory=dict, compare=False, repr=False)
    kept: dict[Hashable, Any] = field(default_factory=dict, compare=False, repr=False)


@once_per_job
def build(job: Job) -> Network:
    """Prepare the network of a job. Wires whose length is not known are left out."""
    return Network(job, classify_circuits(job.circuits), topology_of(job).lengths_m)


def is_live(verdict: Verdict, state: State) -> bool:
    """Whether a circuit is fed in a state. The key's part and the lamps' part add."""
    return state.key in verdict.live or (state.lamps != "off" and state.lamps in verdict.live)


def elements_for(
    network: Network,
    state: State,
    true: Mapping[str, float],
    powered: frozenset[str],
    outputs: Mapping[str, float] | None = None,
    pulled: frozenset[str] = frozenset(),
) -> list[Element]:
    """The elements in one state. ``true`` gives the measured quantity by channel id, in its unit;
    ``powered`` the displays whose electronics have enough volts to work; ``outputs`` the ohms or volts of
    senders and outputs of boxes, by the id they are heard by, that do not follow their curve; ``pulled`` the relays whose coil pulls."""
    found: list[Element] = []
    found.extend(_vehicle(network, state))
    for circuit in network.job.circuits:
        found.extend(_feed(network, circuit, state))
    found.extend(_in_every_state(network))
    for switch in network.job.switches:
        found.extend(
            _switch(switch, thrown=switch.id in (pulled if switch.kind == "relay" else state.thrown))
        )
    for display in network.job.displays:
        found.extend(_display(network, display, display.id in powered))
        if display.outputs:
            found.extend(_outputs(network.job, display, display.id in powered, true, outputs or {}))
    built: set[str] = set()
    for channel in network.job.measured:
        sender = network.job.sender(channel.sender)
        reader, stage = network.job.sender_wired_to(channel)
        if stage is not None and stage.kind == "own_lead":
            continue  # between its plug and its box flows what its maker knows
        if sender is not None and sender.id not in built:  # two displays may hang on one sender
            built.add(sender.id)
            awake = reader is not None and reader.id in powered
            x = (outputs or {}).get(sender.id, _standing_output(channel, sender, true, stage, awake))
            found.extend(_sender(network, channel, sender, x, awake))
            found.extend(_readers(sender, state))
        if (
            sender is not None
            and channel.plug is not None
            and channel.pin is not None
            and channel.box is None
        ):
            at = addresses.end_node(network.job, End("plug", channel.plug, channel.pin), "")
            signal = addresses.sender_node(sender.id, "signal")
            found.append(Resistor(addresses.joined_at(channel.plug, channel.pin), signal, at, OWN_WIRE_OHM))
    return found


def _vehicle(network: Network, state: State) -> Iterator[Element]:
    supply = network.job.vehicle.electrics
    cranking_v = supply.state.cranking_v if state.key == "crank" else None
    yield VoltageSource(
        addresses.vehicle("battery"), addresses.BATTERY_CELLS, GROUND, cranking_v or supply.rest_v
    )
    inner = supply.battery.charge_ohm if state.running else supply.battery.battery_ohm
    if cranking_v:  # read post to post while it cranked: it stands there, whatever flows
        inner = POSTS_OHM
    yield Resistor(
        addresses.vehicle("battery internal"), addresses.BATTERY_CELLS, addresses.BATTERY_POSITIVE, inner
    )
    if state.running:
        # What was read post to post is what the regulator holds there, whatever flows.
        yield VoltageSource(
            addresses.vehicle("regulator"),
            addresses.vehicle("regulator reference"),
            GROUND,
            supply.charging_v,
        )
        yield VoltageFollower(
            addresses.vehicle("alternator"),
            addresses.vehicle("alternator output"),
            addresses.ENGINE,
            addresses.vehicle("regulator reference"),
            addresses.BATTERY_POSITIVE,
            REGULATOR_GAIN,
        )
        yield Resistor(
            addresses.vehicle("charge lead"),
            addresses.vehicle("alternator output"),
            addresses.BATTERY_POSITIVE,
            supply.battery.alternator_ohm,
        )
    nominal_v = supply.nominal_v
    starter = nominal_v / supply.starting.starter_a if state.key == "crank" else OPEN_OHM
    yield Resistor(addresses.vehicle("starter"), addresses.BATTERY_POSITIVE, addresses.ENGINE, starter)
    yield Resistor(
        addresses.vehicle("engine ground lead"),
        addresses.ENGINE,
        GROUND,
        supply.straps.negative_to_engine_ohm,
    )
    yield Resistor(
        addresses.vehicle("body ground lead"), addresses.BODY, GROUND, supply.straps.negative_to_body_ohm
    )
    yield Resistor(
        addresses.vehicle("engine to body strap"),
        addresses.ENGINE,
        addresses.BODY,
        supply.straps.engine_to_body_ohm,
    )
    running_load = nominal_v / supply.loads.run_load_a if state.key in ("run", "crank") else OPEN_OHM
    yield Resistor(
        addresses.vehicle("engine systems"), addresses.BATTERY_POSITIVE, addresses.BODY, running_load
    )
    lamps_a = {"off": 0.0, "park": supply.loads.park_load_a, "head": supply.loads.head_load_a}[state.lamps]
    yield Resistor(
        addresses.vehicle("vehicle lamps"),
        addresses.BATTERY_POSITIVE,
        addresses.BODY,
        nominal_v / lamps_a if lamps_a else OPEN_OHM,
    )
    for feed, contact in _BUS.items():
        members = [c for c in network.job.circuits if network.verdicts[c.id].feed == feed and not c.straight]
        if members:
            closed = is_live(network.verdicts[members[0].id], state)
            # Circuits live in acc as well share the class of run and crank, so any live member closes it.
            closed = closed or any(is_live(network.verdicts[c.id], state) for c in members)
            yield Resistor(
                addresses.contact(contact),
                addresses.BATTERY_POSITIVE,
                addresses.contact_output(contact),
                supply.contact_ohm if closed else OPEN_OHM,
            )


@once_per_circuit
def _in_every_state(network: Network) -> tuple[Element, ...]:
    """What no switch and no reading alters: the circuits behind their feeds, the taps, the wires, the grounds."""
    circuits = [part for circuit in network.job.circuits for part in _circuit(network, circuit)]
    return (*circuits, *_taps(network), *_wiring(network))


def _circuit(network: Network, circuit: Circuit) -> Iterator[Element]:
    feed, load = addresses.feed_side(circuit.id), addresses.load_side(circuit.id)
    if circuit.straight:
        yield Resistor(
            addresses.circuit_part(circuit.id, "joint"), addresses.BATTERY_POSITIVE, feed, FEED_OHM / 10
        )
        return
    through = FEED_OHM / 10 if circuit.unfused else fuse_ohm(circuit.rating_a or DEFAULT_FUSE_A)
    yield Resistor(addresses.circuit_part(circuit.id, "fuse"), feed, load, through)
    load_a = circuit.load_a + circuit.taken_a
    drawn = network.job.vehicle.electrics.nominal_v / load_a if load_a else LEAK_OHM
    yield Resistor(addresses.circuit_part(circuit.id, "vehicle load"), load, addresses.BODY, drawn)
    yield Resistor(addresses.circuit_part(circuit.id, "leakage"), feed, addresses.BODY, LEAK_OHM)


def _feed(network: Network, circuit: Circuit, state: State) -> Iterator[Element]:
    if circuit.straight:
        return
    verdict = network.verdicts[circuit.id]
    name, feed = addresses.feed_of(circuit.id), addresses.feed_side(circuit.id)
    if verdict.feed == "dimmed":
        lit = verdict.dim_ratio if state.lamps != "off" else 0.0
        dimmed = addresses.circuit_part(circuit.id, "dimmer output")
        yield VoltageFollower(
            addresses.circuit_part(circuit.id, "dimmer"),
            dimmed,
            addresses.BODY,
            addresses.BATTERY_POSITIVE,
            addresses.BODY,
            lit,
        )
        yield Resistor(name, dimmed, feed, FEED_OHM)
    elif verdict.feed == "constant":
        yield Resistor(name, addresses.BATTERY_POSITIVE, feed, FEED_OHM)
    elif verdict.feed in _BUS and not ("acc" in verdict.live and verdict.feed == "ignition_crank"):
        yield Resistor(name, addresses.contact_output(_BUS[verdict.feed]), feed, FEED_OHM)
    else:
        closed = is_live(verdict, state)
        yield Resistor(
            name,
            addresses.BATTERY_POSITIVE,
            feed,
            FEED_OHM + network.job.vehicle.electrics.contact_ohm if closed else OPEN_OHM,
        )


def _switch(switch: Switch, *, thrown: bool) -> Iterator[Element]:
    """Its contacts as they stand, and its coil."""
    for contact in switch.contacts:
        yield Resistor(
            addresses.contact_of(switch.id, contact.a, contact.b),
            addresses.switch_node(switch.id, contact.a),
            addresses.switch_node(switch.id, contact.b),
            switch.contact_ohm if contact.thrown == thrown else OPEN_OHM,
        )
    if switch.kind == "relay":
        yield Resistor(
            addresses.coil(switch.id),
            addresses.switch_node(switch.id, "86"),
            addresses.switch_node(switch.id, "85"),
            switch.coil_ohm,
        )


def _taps(network: Network) -> Iterator[Element]:
    for tap in network.job.taps:
        circuit = network.job.circuit(tap.circuit)
        if circuit is None:
            continue
        on_load = tap.side == "load" and circuit.place == "fuse"
        source = addresses.load_side(circuit.id) if on_load else addresses.feed_side(circuit.id)
        ohm = tap.contact_ohm + (fuse_ohm(tap.fuse_a) if tap.fuse_a else 0.0)
        yield Resistor(addresses.tap(tap.id), source, addresses.tap_node(tap.id), ohm)


def _wiring(network: Network) -> Iterator[Element]:
    job = network.job
    for wire in job.conductors:
        if wire.id not in network.lengths_m:
            continue
        ohm = (
            wire_ohm(wire.size, wire.system, network.lengths_m[wire.id], wire.temperature_degc)
            + wire.joint_ohm
        )
        yield Resistor(
            addresses.wire(wire.id),
            addresses.end_node(job, wire.a, wire.id),
            addresses.end_node(job, wire.b, wire.id),
            ohm,
        )
        for end in (wire.a, wire.b):
            if end.kind == "splice":
                splice = next(s for s in job.splices if s.id == end.id)
                at = addresses.end_node(job, end, wire.id)
                yield Resistor(
                    addresses.splice_leg(splice.id, wire.id), at, addresses.splice_node(splice.id), splice.ohm
                )
    for point in job.grounds:
        yield Resistor(
            addresses.ground_node(point.id),
            addresses.ground_node(point.id),
            addresses.rail(point),
            ground_ohm(job, point),
        )


def ground_ohm(job: Job, point: GroundPoint) -> float:
    """The contact of a ground point, a measured drop counted once: the metal behind it has its own resistors."""
    supply = job.vehicle.electrics
    return point.ohm_to(supply.straps.engine_ohm if point.where == "engine" else supply.straps.body_ohm)


@once_per_circuit
def _display(network: Network, display: Display, powered: bool) -> tuple[Element, ...]:
    return tuple(_parts_of_display(display, powered))


def _parts_of_display(display: Display, powered: bool) -> Iterator[Element]:
    ground = display.pin_for("ground")
    if ground is None:
        return
    rail = addresses.pin_node(display, ground.id)

    def node_of(pin: Pin) -> Address:
        return addresses.pin_node(display, pin.id)

    for pin in display.pins:
        node = node_of(pin)
        if pin.role in ("memory", "ignition", "lamps") and pin.load_a:
            name = addresses.pin_load(display.id, pin.id)
            if pin.load_kind == "resistive":
                yield Resistor(name, node, rail, display.supply.nominal_v / pin.load_a)
            else:
                yield CurrentSource(name, node, rail, pin.load_a if powered else 0.0)
        elif pin.role == "return":
            yield Resistor(addresses.pin_return(display.id, pin.id), node, rail, RETURN_OHM)
    references = {stage.circuit.reference_v for stage in display.inputs if stage.circuit.reference_v}
    for pin in display.pins:
        if pin.role == "sensor_supply" and pin.passes:
            from_pin = addresses.pin_node(display, pin.passes)
            yield Resistor(
                addresses.supply_limiter(display.id, pin.id), from_pin, node_of(pin), SENSOR_SUPPLY_OHM
            )
        elif pin.role == "sensor_supply":
            volt = max(references, default=5.0) if powered else 0.0
            inner = addresses.sensor_supply_node(display.id)
            yield VoltageSource(addresses.sensor_supply(display.id, pin.id), inner, rail, volt)
            yield Resistor(
                addresses.supply_limiter(display.id, pin.id),
                inner,
                node_of(pin),
                SENSOR_SUPPLY_OHM,
            )
    yield from _inputs(display, rail, powered)


def _inputs(display: Display, rail: Name, powered: bool) -> Iterator[Element]:
    for stage in display.inputs:
        if stage.pin is None:
            continue
        node = addresses.pin_node(display, stage.pin)
        seen = thevenin_of(stage)
        if seen is None:
            continue
        if seen.volt:
            reference = addresses.reference_node(display.id, stage.id)
            yield VoltageSource(
                reference,
                reference,
                rail,
                seen.volt if powered else 0.0,
            )
            yield Resistor(addresses.pull_up(display.id, stage.id), reference, node, seen.ohm)
        else:
            yield Resistor(addresses.input_load(display.id, stage.id), node, rail, seen.ohm)


def _outputs(
    job: Job, box: Display, powered: bool, true: Mapping[str, float], given: Mapping[str, float]
) -> Iterator[Element]:
    """What a box gives at its outputs, against its ground: nothing while it is dark."""
    ground = box.pin_for("ground")
    if ground is None:
        return
    rail = addresses.pin_node(box, ground.id)
    for output in box.outputs:
        if box.by_data(output):
            continue
        heard = as_sender(box, output)
        channel = next((c for c in job.measured if (c.box, c.output) == (box.id, output.id)), None)
        low, high = x_range(output.curve)
        ideal = sender_output(channel, heard, true.get(channel.channel)) if channel else (low + high) / 2
        x, pin = given.get(heard.id, ideal), addresses.pin_node(box, output.pin)
        at, leg = addresses.output(box.id, output.id), addresses.output_leg(box.id, output.id)
        if output.curve.x_unit == "volt":
            yield VoltageSource(at, at, rail, x if powered else 0.0)
            yield Resistor(leg, at, pin, output.output_ohm)
        elif output.curve.x_unit == "ohm":
            yield Resistor(at, pin, rail, max(x, MIN_SENDER_OHM))


def _standing_output(
    channel: MeasuringChain, sender: Sender, true: Mapping[str, float], stage: Input | None, awake: bool
) -> float:
    """What a sender gives in the circuit, warmed by its own current where that is known."""
    cold = sender_output(channel, sender, true.get(channel.channel))
    heard = thevenin_of(stage) if stage is not None and stage.kind == "pull_up" else None
    warms = sender.body.dissipation_mw_per_k
    if heard is None or warms is None or not awake:
        return cold
    rise = self_heating(cold, heard.ohm, heard.volt, warms, sender.curve.y_unit)
    return sender_output(channel, sender, true.get(channel.channel), float(rise))


def _sender(
    network: Network, channel: MeasuringChain, sender: Sender, x: float, powered: bool
) -> Iterator[Element]:
    if sender.rides:
        return
    signal = addresses.sender_node(sender.id, "signal")
    if isinstance(sender.curve, ThermocoupleCurve):
        # What comes out is against its cold junction, at the temperature of the display.
        inner, back = addresses.sender_node(sender.id, "element"), addresses.sender_node(sender.id, "return")
        yield VoltageSource(
            addresses.sender_part(sender.id, "element"),
            inner,
            back,
            (x - emf_mv(sender.curve.type, COLD_DEGC)) / 1000,
        )
        yield Resistor(addresses.sender_part(sender.id, "leads"), signal, inner, COUPLE_OHM)
        return
    if sender.curve.x_unit == "milliampere":
        # A loop draws its own reading from its supply, which is live with its display.
        yield CurrentSource(
            addresses.sender_part(sender.id, "element"),
            addresses.sender_node(sender.id, "supply"),
            signal,
            x / 1000 if powered else 0.0,
        )
        return
    if sender.wires == 3:
        supply, back = addresses.sender_node(sender.id, "supply"), addresses.sender_node(sender.id, "return")
        if sender.curve.x_unit == "hertz":
            # Its output pulls the line down and lets go: between pulses it is not there.
            yield Resistor(
                addresses.sender_part(sender.id, "supply load"),
                supply,
                back,
                sender.output.supply_v / max(sender.output.load_a, 1e-6),
            )
            return
        inner = addresses.sender_node(sender.id, "element")
        yield Resistor(
            addresses.sender_part(sender.id, "supply load"),
            supply,
            back,
            sender.output.supply_v / max(sender.output.load_a, 1e-6),
        )
        yield VoltageFollower(
            addresses.sender_part(sender.id, "element"), inner, back, supply, back, x / sender.output.supply_v
        )
        yield Resistor(addresses.sender_part(sender.id, "output"), inner, signal, sender.output.output_ohm)
        return
    back = addresses.sender_node(sender.id, "return" if sender.wires == 2 else "body")
    yield Resistor(addresses.sender_part(sender.id, "element"), signal, back, max(x, MIN_SENDER_OHM))
    port = network.job.port(channel.port)
    if sender.wires == 1 and port is not None and port.ground.grounded:
        metal = addresses.ENGINE if port.ground.ground_at == "engine" else addresses.BODY
        yield Resistor(addresses.sender_part(sender.id, "thread"), back, metal, port.ground.thread_ohm)


def _readers(sender: Sender, state: State) -> Iterator[Element]:
    """Those of the vehicle that read a sender already, alive with the key; its return is theirs."""
    if not sender.readers or sender.wires == 0:
        return
    back = addresses.sender_node(sender.id, "body" if sender.wires == 1 else "return")
    if sender.wires > 1:
        yield Resistor(
            addresses.sender_part(sender.id, "vehicle return"), back, addresses.ENGINE, OWN_WIRE_OHM
        )
    awake = state.key in ("run", "crank")
    if sender.wires == 3:
        supply = addresses.sender_node(sender.id, "supply")
        feed = addresses.sender_part(sender.id, "vehicle supply")
        yield VoltageSource(feed, feed, back, sender.output.supply_v if awake else 0.0)
        yield Resistor(addresses.sender_part(sender.id, "vehicle supply lead"), feed, supply, OWN_WIRE_OHM)
    for one in sender.readers:
        at = addresses.reader(sender.id, one.id)
        yield VoltageSource(at, at, addresses.ENGINE, one.reference_v if awake else 0.0)
        yield Resistor(
            addresses.reader_pull_up(sender.id, one.id),
            at,
            addresses.sender_node(sender.id, "signal"),
            one.pull_up_ohm,
        )


def sender_output(channel: MeasuringChain, sender: Sender, true: float | None, y_shift: float = 0.0) -> float:
    """Ohms or volts of a sender at a true value of the channel, held at the ends of its curve.

    The middle of the curve where no true value is given, or where it turns back: both are findings.

    ``y_shift`` moves what it measures, in the curve's own unit.
    """
    low, high = y_range(sender.curve)
    if true is None or not is_monotonic(sender.curve):
        ends = x_range(sender.curve)
        return (ends[0] + ends[1]) / 2
    y = in_unit(true, channel.unit, sender.curve.y_unit) + y_shift
    return float(x_at(sender.curve, min(max(y, low), high)))
