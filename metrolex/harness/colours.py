"""Wire colours: kept from the display to the feed, told apart where they meet, marked where they change. Codes: IEC 60757."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.findings import Finding
from metrolex.job import Conductor, End, Job
from metrolex.tables import load_table

__all__ = ["colour_findings", "colour_words", "function_of_wire"]


def colour_words(code: str, stripe: str = "", stripe_2: str = "") -> str:
    """A colour in words: 'red with a white stripe'."""
    names = load_table("colours")
    found = str(names.get(code, "no colour given"))
    stripes = [names[one] for one in (stripe, stripe_2) if one in names]
    if len(stripes) == 2:
        return f"{found} with a {stripes[0]} and a {stripes[1]} stripe"
    return f"{found} with a {stripes[0]} stripe" if stripes else found


def colour_findings(job: Job) -> Iterator[Finding]:
    """Wires that change colour without a mark, and wires nobody can tell apart where they end side by side."""
    for wire in job.conductors:
        for end in (wire.a, wire.b):
            if end.kind != "display":
                continue
            display = job.display(end.id)
            pin = next((p for p in display.pins if p.id == end.terminal), None) if display else None
            if (
                pin
                and pin.colour
                and wire.look.colour
                and pin.colour not in (wire.look.colour, wire.look.mark)
            ):
                yield Finding(
                    "note",
                    "colour_changes",
                    wire.id,
                    f"The {display.name if display else ''} lead at pin {pin.id} is {colour_words(pin.colour)}, the wire joined to it {colour_words(wire.look.colour)}.",
                    f"{pin.colour} to {wire.look.colour}",
                    f"Keep {pin.colour} through, or mark both ends with {colour_words(pin.colour)} tape.",
                    "harness",
                )
    yield from _clashes(job)


def _clashes(job: Job) -> Iterator[Finding]:
    """Two wires of one colour in one run, whose ends a hand can confuse: same kind of place, another function."""
    seen: dict[tuple[str, str, str], Conductor] = {}
    for wire in job.conductors:
        if wire.run is None or not wire.look.colour:
            continue
        key = (wire.run, wire.look.code, wire.look.mark)
        other = seen.setdefault(key, wire)
        if other is wire or function_of_wire(job, other) == function_of_wire(job, wire):
            continue
        yield Finding(
            "caution",
            "colour_clash",
            f"{other.id} and {wire.id}",
            f"Both are {colour_words(wire.look.colour, wire.look.stripe, wire.look.stripe_2)} in one run, and do different things.",
            wire.look.colour,
            "Another colour for one of them, or a band of tape at both its ends.",
            "harness",
        )


def function_of_wire(job: Job, wire: Conductor) -> str:
    """What a wire is for, by the pin or terminal it ends at."""
    for end in (wire.a, wire.b):
        word = _role(job, end)
        if word:
            return word
    return ""


def _role(job: Job, end: End) -> str:
    if end.kind == "display":
        display = job.display(end.id)
        pin = next((p for p in display.pins if p.id == end.terminal), None) if display else None
        return (
            f"{pin.role} {pin.id if pin.role == 'signal' else ''} {end.id if pin.role in ('signal', 'return') else ''}"
            if pin
            else ""
        )
    if end.kind == "tap":
        tap = job.tap(end.id)
        return {"constant": "memory", "lamps": "lamps"}.get(tap.need, "ignition") + "  " if tap else ""
    if end.kind == "ground":
        return "ground  "
    return ""
