"""What is done where a signal is picked up and nothing is opened: cable drive, magnet, coil, plug lead, gear lever, bus, antenna.

Figures are those of the channel: its pulses, its turns, its taught gears. Order and words are common practice, no source.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

from metrolex.errors import BadInput
from metrolex.fittings.joints import size_words
from metrolex.ports.card_bench import Bench, Step
from metrolex.speed.engine import engine_pulses
from metrolex.speed.pulses import CABLE_TURNS_PER_MILE, MILE_M, Pulses, pulses_per_km
from metrolex.speed.tyres import circumference_m, read_tyre

__all__ = ["KINDS", "SOURCES", "TITLES"]

USUAL_TURNS = 6.0
GAP_MM = (1.0, 2.0)
WALK_KMH, TOWN_KMH = 5.0, 50.0
ANTENNA_CLEAR_M = 0.3  # from other antennas, displays and the metal of a roof rack

TITLES = {
    "cable": "electronic sender in place of the cable",
    "magnet": "magnet and pick-up at the wheel",
    "shaft": "pick-up at the prop shaft",
    "share": "signal shared with the vehicle",
    "coil": "tap at the coil",
    "tach": "wire to the tach output",
    "wrap": "turns round the plug lead",
    "lever": "lever sensor, taught gear by gear",
    "teach": "gears taught from two speeds",
    "bus": "tap on the data bus",
    "antenna": "GPS antenna",
    "rides": "read off another sensor's pulses",
    "level": "wire to the tank sender",
}


def _cable(bench: Bench) -> Iterator[Step]:
    road = bench.channel.road
    turns = (road.cable_turns_per_km if road else None) or CABLE_TURNS_PER_MILE / MILE_M * 1000
    known = road is not None and road.cable_turns_per_km is not None
    yield Step(
        "Nut of the old cable off by hand, cable drawn out straight; a rag under it, the drive may be wet with oil."
    )
    yield Step(
        "Turns of the drive over a kilometre: mark the inner cable, roll ten turns of the wheel, count."
        if not known
        else "Turns of the drive over a kilometre.",
        f"{turns:.0f}{'' if known else ' if nobody counted'}",
    )
    yield Step(
        "The sender's tongue into the drive: it must slide in and turn freely by hand before the nut bites."
    )
    yield Step(
        "Screw it on three quarters of the way, push its plug on until it clicks, then tighten it fully.",
        "hand-tight, then a nip with pliers",
    )
    if road is not None:
        yield Step("Pulses it gives for a turn.", f"{road.pulses_per_rev:g}")
    yield Step(
        "Clips and the rubber of the old cable carry the new lead through the bulkhead; the hole is not left open."
    )
    yield from _proof_by_wheel(bench)


def _magnet(bench: Bench) -> Iterator[Step]:
    road = bench.channel.road
    count = road.pulses_per_rev if road is not None and road.sensed == "wheel" else 1.0
    yield Step(
        "Does a bare magnet hold there? Aluminium holds none, floating discs are of two metals: try it first."
    )
    yield Step("Magnets, evenly spaced, the same face of each to the pick-up.", f"{count:g}")
    yield Step(
        "Each held mechanically: a screw or a magnet bolt in a hole of its own with nut and washer, thread locker on it; bond is only the second hold. Never in place of a brake disc's bolt."
    )
    yield Step(
        "Pick-up on a bracket that moves with the wheel; a flat of the bracket drilled to the sensor's thread."
    )
    yield Step("Gap at the closest pass, set with both nuts.", f"{GAP_MM[0]:g} to {GAP_MM[1]:g} mm")
    yield Step(
        "Turn the wheel once by hand, steer to both locks, press the suspension through its travel: disc, caliper and lead stay clear."
    )
    yield from _proof_by_wheel(bench)


def _shaft(bench: Bench) -> Iterator[Step]:
    road = bench.channel.road
    if road is not None:
        yield Step(
            "What passes the pick-up in a turn of the shaft: bolt heads or magnets.",
            f"{road.pulses_per_rev:g}",
        )
    yield Step(
        "Bracket on the same casing as the end of the shaft that is sensed: one on the body sees the gap open and close with every bump."
    )
    yield Step(
        "Gap at the tallest head, shaft turned by hand through a full turn.",
        f"{GAP_MM[0]:g} to {GAP_MM[1]:g} mm",
    )
    yield Step(
        "Lead tied away from the shaft all the way: a loop it can catch is torn off at the first bump."
    )
    yield from _proof_by_wheel(bench)


def _share(bench: Bench) -> Iterator[Step]:
    yield Step("The wire by the diagram of the exact year, by plug and pin number; back-probed, not pierced.")
    yield Step(
        "Read the signal before anything is joined, at standstill and rolling: pulses between which volts, how many a turn."
    )
    yield Step(
        "The display's input must be high in resistance; a sensor that brakes or gearbox control read is never loaded.",
        "10 kohm at least",
    )
    yield Step(
        "Joined at the plug, soldered or crimped, sealed; then the scan tool: no new stored fault, the factory reading as before."
    )
    yield from _proof_by_wheel(bench)


def _coil(bench: Bench) -> Iterator[Step]:
    yield Step(
        "The terminal the control unit switches, not the one that is live with the key: a lamp from it to battery positive flickers while the engine cranks."
    )
    yield Step(
        "The display's resistor or filter at the coil's end of the lead, if its leaflet asks for one: hundreds of volts stand there at each spark."
    )
    yield Step("Lead alone, away from sender leads; no other wire in its sleeve.")
    yield from _count(bench)


def _tach(bench: Bench) -> Iterator[Step]:
    yield Step("Pin by the maker's diagram; the factory tachometer stays joined and must read as before.")
    yield Step(
        "Some outputs only pull to ground: where the meter shows nothing, a pull-up to the ignition feed wakes them.",
        "1 to 10 kohm",
    )
    yield from _count(bench)


def _wrap(bench: Bench) -> Iterator[Step]:
    count = bench.channel.engine
    turns = (count.turns if count else None) or USUAL_TURNS
    yield Step(
        "Take the cap off the lead and cut a little off the lead's end: fresh copper under the cap.",
        size_words(3.0),
    )
    yield Step("Sleeve slid over the lead before it is wound: it cannot be put on afterwards.")
    yield Step(
        "Turns of insulated wire, side by side, at the coil's end; half a turn more or less does no harm.",
        f"{turns:g} turns",
    )
    yield Step("Shrink the sleeve over the turns, leaving room for the boot.")
    yield Step(
        "Needle jumps at speed: fewer turns, or further from the other leads. Nothing shown: more turns."
    )
    yield from _count(bench)


def _lever(bench: Bench) -> Iterator[Step]:
    yield Step(
        "Walk the lever through every gear with the sensor held in place by hand: its arm must not reach either stop, and clear the studs on both sides."
    )
    yield Step("Slot the bracket, not the gearbox; link short and without play.")
    yield from _taught(bench, "V")
    yield Step("Walk through all gears again, up and down: each shows itself, neutral between them.")


def _teach(bench: Bench) -> Iterator[Step]:
    yield Step("Engine speed and road speed must be right first: a gear is the one divided by the other.")
    yield Step("Each gear held at a steady speed, clutch home, no slip.", "10 s each")
    yield from _taught(bench, "rpm per km/h")
    yield Step("Coast with the clutch in: the display must show a dash, not a gear.")


def _bus(bench: Bench) -> Iterator[Step]:
    bus = bench.job.bus
    yield Step(
        "Battery off. Across the pair, at the plug where it is tapped.",
        "60 ohm wanted" + (f", read {bus.pair_ohm:g}" if bus.pair_ohm is not None else ""),
    )
    yield Step(
        "High to high, low to low, by the diagram's pin numbers; the branch twisted to the display.",
        f"{bus.stub_m:g} m" if bus.stub_m else "short: 0.6 m at 500 kbit/s",
    )
    yield Step("The display's own end resistor off, unless it sits at an end of the bus.")
    yield Step(
        "Never at the wires of airbags or brakes; the diagnostic socket or the plug of the old cluster is the place."
    )
    if bench.channel.signal:
        yield Step("The signal to look for.", bench.channel.signal)
    yield Step("Key on: no new warning lamp, no stored fault; the value moves with the engine.")


def _antenna(bench: Bench) -> Iterator[Step]:
    antenna = bench.job.bus.antenna
    where = antenna.where if antenna else ""
    yield Step(
        "Place with open sky above: roof first, then under plain glass, face up and level.",
        where or "place not said",
    )
    yield Step(
        "No metal, carbon or coated glass above it; away from other antennas and from displays.",
        size_words(1000 * ANTENNA_CLEAR_M),
    )
    yield Step(
        "Lead by an opening whose seal still closes round it; what is too long is laid in a flat figure of eight, never cut.",
        f"{antenna.lead_m:g} m" if antenna and antenna.lead_m else "",
    )
    yield Step("First fix under open sky, engine off.", "up to 15 min, then under 1 min")
    yield Step("Speed against the old speedometer on a straight road; in a tunnel it stops.")


def _rides(bench: Bench) -> Iterator[Step]:
    yield Step(
        "No wire of its own: it is read off how long the content sensor's line stays low, at the same input."
    )
    yield Step("Key on, engine cold: it reads as the day does.", "within 3 °C")


def _level(bench: Bench) -> Iterator[Step]:
    yield Step(
        "The sender's wire at its plug, key off; meter across sender and ground with the old gauge off: its ohms empty and full."
    )
    yield Step("One gauge on one sender: the old one off, or its share counted on the Suits page.")
    yield Step(
        "Float moved by filling, litre by litre, not by hand in an open tank; ohms written down at each step.",
        "Bay: fillings",
    )


def _taught(bench: Bench, unit: str) -> Iterator[Step]:
    if not bench.channel.gears:
        yield Step("Each gear held for three seconds while its value is written down.", f"{unit} each")
    for gear in bench.channel.gears:
        yield Step(f"Gear {gear.gear}.", f"{gear.value:g} {unit}")


def _count(bench: Bench) -> Iterator[Step]:
    """Pulses for a turn, and what is seen at idle."""
    count, engine = bench.channel.engine, bench.job.vehicle.engine
    if count is None or engine.cylinders is None:
        yield Step("Pulses for a turn of the crank: say cylinders and pick-up on Scaling.", "pulses ?")
        return
    try:
        pulses = engine_pulses(engine.cylinders, engine.strokes, count.pickup, count.pulses_per_rev)
    except BadInput:
        return
    idle = engine.idle_rpm or 800.0
    yield Step(
        f"Pulses for a turn; a meter that counts shows at {idle:g} rpm.",
        f"{pulses.per_rev:g}, {pulses.hertz(idle):.1f} Hz",
    )


def _proof_by_wheel(bench: Bench) -> Iterator[Step]:
    pulses = _pulses(bench)
    if pulses is None:
        yield Step("Spin the wheel by hand: any reading proves the pulses, before anything is set.")
        return
    yield Step(
        f"Spin the wheel by hand: any reading proves the pulses. A meter that counts shows at {WALK_KMH:g} and {TOWN_KMH:g} km/h.",
        f"{pulses.hertz(WALK_KMH):.1f} and {pulses.hertz(TOWN_KMH):.0f} Hz",
    )


def _pulses(bench: Bench) -> Pulses | None:
    road, line = bench.channel.road, bench.job.vehicle.driveline
    if road is None:
        return None
    try:
        around = road.circumference_m or (
            circumference_m(read_tyre(line.tyre), line.tyre_wear_mm) if line.tyre else None
        )
        return pulses_per_km(
            road.sensed,
            road.pulses_per_rev,
            circumference_m=around,
            axle_ratio=line.axle_ratio,
            cable_turns_per_km=road.cable_turns_per_km,
        )
    except BadInput:
        return None


#: The steps of each kind of card.
KINDS: dict[str, Callable[[Bench], Iterator[Step]]] = {
    "cable": _cable,
    "magnet": _magnet,
    "shaft": _shaft,
    "share": _share,
    "coil": _coil,
    "tach": _tach,
    "wrap": _wrap,
    "lever": _lever,
    "teach": _teach,
    "bus": _bus,
    "antenna": _antenna,
    "rides": _rides,
    "level": _level,
}

#: The card of a source that has no place: data, GPS, what is worked out.
SOURCES = {"ecu": "bus", "gps": "antenna", "worked_out": "teach"}
