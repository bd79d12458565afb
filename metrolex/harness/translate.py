"""From the vehicle's plugs to the displays' pins: old colour, function, new colour, terminal, and what must not be joined.

Each maker has colours of its own: what is constant in one kit is ignition in the next. A wire goes by its function, proved by
the meter; polarity and left and right are checked before anything is joined. Common practice, no source.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.findings import Finding
from metrolex.harness.colours import colour_words
from metrolex.job import Cavity, Conductor, Connector, Display, End, Job, Pin
from metrolex.tables import load_table
from metrolex.topology import at_pin, topology_of

__all__ = [
    "Row",
    "function_of",
    "function_words",
    "joints_to_lay",
    "mirrored",
    "places_of",
    "plug_findings",
    "translation",
    "unused_pins",
]

ROLE_WORDS = {
    "memory": "constant",
    "ignition": "ignition",
    "lamps": "illumination",
    "ground": "ground",
    "can_high": "data high",
    "can_low": "data low",
    "data_in": "data in",
    "data_out": "data out",
}
#: Pins to which the wires of the old plug are laid: lamp inputs, outputs, the data pair. Feeds come from taps, signals from senders.
LAID_ROLES = ("lamp_input", "output", "can_high", "can_low")
OUTPUT_LIMIT_A = (
    0.5  # what a low-side output carries where its maker does not say (common practice, no source)
)


@dataclass(frozen=True, slots=True)
class Row:
    """One cavity of a vehicle plug and where its function goes. ``display`` and ``pin`` None where no display takes it.

    ``do`` is what becomes of the wire while it is not joined; it may be capped only where nothing needs it.
    """

    connector: Connector
    cavity: Cavity
    display: Display | None
    pin: Pin | None
    wire: Conductor | None
    conflicts: tuple[str, ...]
    do: str = ""


def function_words(function: str) -> str:
    """A function in words; a word of the fitter's own stands as it is."""
    row = load_table("functions").get(function)
    return str(row["words"]) if row else function


def function_of(pin: Pin) -> str:
    """What a pin of a display is for."""
    return pin.function or ROLE_WORDS.get(pin.role, "")


def translation(job: Job) -> tuple[Row, ...]:
    """Every cavity of the vehicle's plugs, in their order, with its partner at the displays."""
    partners: dict[str, tuple[Display, Pin]] = {}
    for display in job.displays:
        for pin in display.pins:
            if function_of(pin):
                partners.setdefault(function_of(pin), (display, pin))
    partners |= {key: pair for key, pair in _read_as(job).items() if key not in partners}
    rows = []
    for connector in job.connectors:
        if connector.display is not None:
            continue
        for cavity in connector.cavities:
            wire = _wire_at(job, End("plug", connector.id, cavity.pin))
            joined = _joined_pin(job, connector, cavity, wire)
            found = joined or partners.get(cavity.function)
            rows.append(_row(job, connector, cavity, wire, found))
    return tuple(rows)


def _row(
    job: Job,
    connector: Connector,
    cavity: Cavity,
    wire: Conductor | None,
    partner: tuple[Display, Pin] | None,
) -> Row:
    display, pin = partner if partner else (None, None)
    conflicts = tuple(_conflicts(job, connector, cavity, pin, wire))
    do = "" if wire is not None else _becomes(job, cavity, display, pin)
    return Row(connector, cavity, display, pin, wire, conflicts, do)


def _read_as(job: Job) -> dict[str, tuple[Display, Pin]]:
    """The pins at which channels are read, by the function of the old plug that speaks of the same thing."""
    found: dict[str, tuple[Display, Pin]] = {}
    for function, row in load_table("functions").items():
        for chain in job.chains:
            display, stage = job.display(chain.display), job.input_of(chain)
            pin = display.pin_called(stage.pin) if display and stage and stage.pin else None
            if display and pin and row.get("measurand") == chain.measurand:
                found.setdefault(function, (display, pin))
    return found


def _becomes(job: Job, cavity: Cavity, display: Display | None, pin: Pin | None) -> str:
    """What becomes of a wire of the old plug that is not joined yet."""
    row = load_table("functions").get(cavity.function, {})
    if display is not None and pin is not None:
        chain = next((c for c in job.measured if c.measurand == row.get("measurand")), None)
        if chain is not None and chain.source == "sender":
            return f"{display.id} reads {chain.name} by a sender of its own: leave this to the old one, or share it on Ports"
        return "not joined yet"
    if row.get("alone"):
        return str(row["alone"])
    if cavity.function in ("constant", "ignition", "illumination", "ground"):
        return "a feed to take, or cap it"
    return "cap it"


def joints_to_lay(job: Job) -> tuple[tuple[End, Display, Pin, str], ...]:
    """Wires of the old plug that a pin of a display waits for: the cavity, the pin, the name of the pair it is twisted in."""
    wiring = topology_of(job)
    found = []
    for row in translation(job):
        if row.wire is not None or row.display is None or row.pin is None or row.pin.role not in LAID_ROLES:
            continue
        if not wiring.wired(at_pin(row.display, row.pin)):
            twist = "data pair" if row.pin.role in ("can_high", "can_low") else ""
            found.append((End("plug", row.connector.id, row.cavity.pin), row.display, row.pin, twist))
    return tuple(found)


def _wire_at(job: Job, end: End) -> Conductor | None:
    return next(iter(topology_of(job).wires_at(end)), None)


def _joined_pin(
    job: Job, connector: Connector, cavity: Cavity, wire: Conductor | None
) -> tuple[Display, Pin] | None:
    if wire is None:
        return None
    far = wire.b if wire.a == End("plug", connector.id, cavity.pin) else wire.a
    display = job.display(far.id) if far.kind == "display" else None
    pin = next((p for p in display.pins if p.id == far.terminal), None) if display else None
    return (display, pin) if display and pin else None


def _conflicts(
    job: Job, connector: Connector, cavity: Cavity, pin: Pin | None, wire: Conductor | None
) -> Iterator[str]:
    if cavity.function:
        twins = [c.pin for c in connector.cavities if c.function == cavity.function and c.pin != cavity.pin]
        if twins and cavity.function != "ground":
            yield f"Pin {twins[0]} is said to be {function_words(cavity.function).lower()} too."
    if cavity.colour and cavity.function and not cavity.stripe:
        for display in job.displays:
            for other in display.pins:
                if other.colour == cavity.colour and _misleads(function_of(other), cavity.function):
                    yield f"{colour_words(cavity.colour).capitalize()} means {function_words(function_of(other)).lower()} on {display.id}: go by the function."
                    break
    if pin is None or not cavity.function:
        return
    if wire is not None and function_of(pin) and function_of(pin) != cavity.function:
        yield f"It is joined to {function_words(function_of(pin)).lower()}."
    switched = cavity.switched or load_table("functions").get(cavity.function, {}).get("switched", "")
    if pin.active and switched and pin.active != switched:
        yield f"It acts by {switched}, the input waits for {pin.active}."


def _misleads(one: str, other: str) -> bool:
    """Whether taking one function for the other does harm: a supply or ground on either side."""
    return (
        bool(one) and one != other and bool({one, other} & {"constant", "ignition", "illumination", "ground"})
    )


def plug_findings(job: Job) -> Iterator[Finding]:
    """Functions swapped, polarity wrong, colours that mislead, pins taken from hearsay, outputs asked too much."""
    for row in translation(job):
        yield from _row_findings(row)
    for connector in job.connectors:
        if connector.display is None and connector.cavities and not connector.proved:
            yield Finding(
                "caution",
                "plug_unproved",
                connector.name,
                "Its pins stand as a drawing or hearsay tells: none was read with the meter.",
                connector.source or "no source",
                "Back-probe each wire in use before it is joined, then say so.",
                "harness",
                about=f"plug {connector.id}",
            )
    for display in job.displays:
        for pin in display.pins:
            if pin.role == "output":
                yield from _output_findings(display, pin)


def _row_findings(row: Row) -> Iterator[Finding]:
    if row.wire is None or row.pin is None or row.display is None or not row.cavity.function:
        return
    function, got = row.cavity.function, function_of(row.pin)
    mate = load_table("functions").get(function, {}).get("mate")
    if got and got == mate:
        yield Finding(
            "stop",
            "swapped",
            row.wire.id,
            f"{function_words(function)} of {row.connector.name} is joined to {function_words(got).lower()} of {row.display.id}.",
            f"pin {row.cavity.pin} to pin {row.pin.id}",
            "Swap the two wires before power is on.",
            "harness",
        )
    elif got and got != function:
        yield Finding(
            "stop" if "constant" in (got, function) or "ground" in (got, function) else "caution",
            "wrong_function",
            row.wire.id,
            f"{function_words(function)} of {row.connector.name} is joined to {function_words(got).lower()} of {row.display.id}.",
            f"pin {row.cavity.pin} to pin {row.pin.id}",
            "Go by the function, proved with the meter; not by the colour.",
            "harness",
        )
    switched = row.cavity.switched or load_table("functions").get(function, {}).get("switched", "")
    if row.pin.active and switched and row.pin.active != switched:
        yield Finding(
            "caution",
            "polarity_wrong",
            row.wire.id,
            f"{function_words(function)} is switched to {switched}; pin {row.pin.id} of {row.display.id} waits for {row.pin.active}.",
            remedy=f"Set that input to {switched} in the display's menu, or put a relay between.",
            place="harness",
        )


def _output_findings(display: Display, pin: Pin) -> Iterator[Finding]:
    limit = pin.limit_a or OUTPUT_LIMIT_A
    if pin.drives_a > limit:
        yield Finding(
            "stop",
            "output_overloaded",
            f"{display.id} {pin.name}",
            f"What hangs on this output is more than it carries: it pulls to ground, up to {limit:g} A.",
            f"{pin.drives_a:g} A",
            "A relay between: its coil on the output, its contact from the battery behind a fuse.",
            "harness",
            about=f"pin {display.id} {pin.id}",
        )
    drive = pin.drive
    by_hand, alone = drive.works_by in ("", "screen switch"), drive.backed_by in ("", "nothing")
    if pin.function == "fan" and pin.drives_a and by_hand and alone and drive.when_dark != "on":
        said = drive.works_by == "screen switch" and drive.backed_by == "nothing"
        yield Finding(
            "stop" if said else "caution",
            "fan_on_a_switch",
            f"{display.id} {pin.name}",
            "A fan that only the screen switches is forgotten one day, and stands still while the display is dark.",
            remedy="Let a thermo switch work it besides, or the display's own temperature rule and a relay that rests closed.",
            place="dash",
            about=f"pin {display.id} {pin.id}",
        )


def unused_pins(job: Job) -> tuple[tuple[Display, Pin, str], ...]:
    """Pins of the displays without a wire, and what to do with each."""
    wiring = topology_of(job)
    return tuple(
        (display, pin, _what_to_do(job, display, pin))
        for display in job.displays
        for pin in display.pins
        if not wiring.wired(at_pin(display, pin))
    )


def _what_to_do(job: Job, display: Display, pin: Pin) -> str:
    if pin.role in ("memory", "ignition", "ground"):
        return "Needed: find its feed."
    if pin.role == "lamps":
        return "Cap it by itself if the backlight is left off."
    if pin.role == "signal":
        read = next(
            (c for c in job.chains if c.display == display.id and (s := job.input_of(c)) and s.pin == pin.id),
            None,
        )
        if read is not None and read.source in ("sender", "shared"):
            return f"Needed: {read.name} is read here."
        return "Take the terminal out, or cap it by itself; switch the input off in the menu."
    by_data = any((s := job.input_of(c)) and s.kind == "data" and c.display == display.id for c in job.chains)
    if pin.role in ("can_high", "can_low", "data_in") and by_data:
        return "Needed: what it shows comes as data."
    if pin.role in ("lamp_input", "output") and pin.function:
        return f"Needed: {function_words(pin.function).lower()}."
    if pin.role == "sensor_supply":
        return "Cap it by itself: it is live."
    return "Take the terminal out, or cap it by itself."


def places_of(connector: Connector, view: str) -> tuple[tuple[Cavity, int, int], ...]:
    """Each cavity with its row and column as seen from a side; the other side mirrors left and right."""
    if view == connector.view:
        return tuple((c, c.row, c.column) for c in connector.cavities)
    widest = max((c.column for c in connector.cavities), default=0)
    return tuple((c, c.row, widest + 1 - c.column) for c in connector.cavities)


def mirrored(view: str) -> str:
    """The other side to look at a connector from."""
    return "mating side" if view == "wire side" else "wire side"
