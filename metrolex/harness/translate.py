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
}
OUTPUT_LIMIT_A = (
    0.5  # what a low-side output carries where its maker does not say (common practice, no source)
)


@dataclass(frozen=True, slots=True)
class Row:
    """One cavity of a vehicle plug and where its function goes. ``display`` and ``pin`` None where no display takes it."""

    connector: Connector
    cavity: Cavity
    display: Display | None
    pin: Pin | None
    wire: Conductor | None
    conflicts: tuple[str, ...]


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
    return Row(connector, cavity, display, pin, wire, tuple(_conflicts(job, connector, cavity, pin, wire)))


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
        )
    if pin.function == "fan" and pin.drives_a:
        yield Finding(
            "caution",
            "fan_on_a_switch",
            f"{display.id} {pin.name}",
            "A fan that only the screen switches is forgotten one day.",
            remedy="Let a thermostat or the display's own temperature rule switch it.",
            place="harness",
        )


def unused_pins(job: Job) -> tuple[tuple[Display, Pin, str], ...]:
    """Pins of the displays without a wire, and what to do with each."""
    wiring = topology_of(job)
    return tuple(
        (display, pin, _what_to_do(pin))
        for display in job.displays
        for pin in display.pins
        if not wiring.wired(at_pin(display, pin))
    )


def _what_to_do(pin: Pin) -> str:
    if pin.role in ("memory", "ignition", "ground"):
        return "Needed: find its feed."
    if pin.role == "lamps":
        return "Cap it by itself if the backlight is left off."
    if pin.role == "signal":
        return "Take the terminal out, or cap it by itself; switch the input off in the menu."
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
