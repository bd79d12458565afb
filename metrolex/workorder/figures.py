"""What one has to have in hand at a step: lengths to cut, pins, sizes, torque, taken from the plan and never typed again."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.harness.conductors import find_gauge
from metrolex.harness.cut_list import Cut, cut_list
from metrolex.job import Conductor, Display, End, GroundPoint, Job, Mounting, Opening, Port, Run, Tap
from metrolex.mount.fitted import hole_wanted
from metrolex.mount.held import ways_of
from metrolex.topology import at_pin, topology_of
from metrolex.workorder.planned import Doing

__all__ = [
    "at_display",
    "at_ground",
    "at_hole",
    "at_mount",
    "at_tap",
    "at_wires",
    "spanners_of",
]


def at_wires(job: Job, run: Run) -> Iterator[Doing]:
    """What is cut for a run: every wire of it with its length, size and colour."""
    for cut in cut_list(job):
        if cut.wire.run == run.id:
            yield Doing(f"{cut.wire.id}: {_look(cut.wire)}, {cut.a} to {cut.b}.", _length(cut))


def at_display(job: Job, display: Display) -> Iterator[Doing]:
    """Every pin of a display that is wired, and what comes into it."""
    wiring, cuts = topology_of(job), {cut.wire.id: cut for cut in cut_list(job)}
    for pin in display.pins:
        for wire in wiring.wires_at(at_pin(display, pin), measured=False):
            cut = cuts.get(wire.id)
            far = "" if cut is None else f", from {cut.b if wire.a == at_pin(display, pin) else cut.a}"
            yield Doing(f"{wire.id}: {_look(wire)}{far}.", f"pin {pin.id} {pin.name}")


def at_tap(job: Job, tap: Tap) -> Iterator[Doing]:
    """Where the feed is taken, behind which fuse, with what wire."""
    circuit = job.circuit(tap.circuit)
    if circuit is not None:
        slot = circuit.slot
        panel = next((one for one in job.panels if one.id == slot.panel), None)
        where = f"{panel.name}, row {slot.row}, column {slot.column}" if panel else circuit.where.found_at
        form = f"Fuse tap, {circuit.form or 'form not said'}" if circuit.kind == "fuse" else circuit.place
        yield Doing(f"{form[:1].upper()}{form[1:]}{', ' + where if where else ''}.", circuit.id)
    if tap.fuse_a:
        far = f"{100 * tap.fuse_at_m:.0f} cm along the wire" if tap.fuse_at_m else "in the tap itself"
        yield Doing(f"Added fuse {far}; it stays out until the last joint is made.", f"{tap.fuse_a:g} A")
    for wire in _wires_of(job, End("tap", tap.id)):
        yield Doing(f"{wire.id}: {_look(wire)}.", _size(wire))


def at_ground(job: Job, point: GroundPoint) -> Iterator[Doing]:
    """The terminals that come onto a ground point."""
    terminal = (point.terminal or "ring") + ("" if point.terminal == "bare wire" else " terminal")
    for wire in _wires_of(job, End("ground", point.id)):
        yield Doing(f"{terminal[:1].upper()}{terminal[1:]} on {wire.id}: {_look(wire)}.", _size(wire))
    yield Doing("Meter from here to battery negative.", "under 1 ohm")


def at_hole(job: Job, opening: Opening) -> Iterator[Doing]:
    """How large a hole is made, and what passes."""
    yield Doing(f"{opening.name}, edge: {opening.edge}.", f"{opening.hole_mm:g} mm")
    runs = [run.name for key in opening.runs if (run := job.run(key))]
    if runs:
        yield Doing(f"{', '.join(runs)} through it.")


def at_mount(job: Job, display: Display, mounting: Mounting) -> Iterator[Doing]:
    """Where a display goes, into which hole, turned how far, held how, packed with what."""
    site = job.site(mounting.site)
    if site is not None:
        yield Doing(
            f"{site.name}: from the point measured from, to the right and up.",
            f"{mounting.x:g}, {mounting.y:g} mm",
        )
    hole = hole_wanted(display, mounting)
    if hole is not None:
        made = "It is there." if mounting.hole.hole_mm is not None else "Print its template 1:1."
        size = f"{hole[0]:g} mm" if display.housing.shape == "round" else f"{hole[0]:g} x {hole[1]:g} mm"
        yield Doing(f"Hole. {made}", size)
    if mounting.turn_deg:
        way = "clockwise" if mounting.turn_deg > 0 else "anticlockwise"
        yield Doing(
            f"Turned {way}, so that its needle points up while all is well.", f"{abs(mounting.turn_deg):g}°"
        )
    for hold in ways_of(mounting):
        yield Doing(f"{hold.do}.", _hours(hold.cure_min))


def _hours(minutes: float) -> str:
    if not minutes:
        return ""
    return f"{minutes / 60:g} h to cure" if minutes >= 60 else f"{minutes:g} min to cure"


def spanners_of(port: Port) -> tuple[str, ...]:
    """Spanners the fittings of a place ask for, by size."""
    return tuple(f"spanner {one.spanner_mm:g} mm" for one in port.stack if one.spanner_mm)


def _wires_of(job: Job, end: End) -> tuple[Conductor, ...]:
    return tuple(
        wire
        for wire in job.conductors
        if (wire.a.kind, wire.a.id) == (end.kind, end.id) or (wire.b.kind, wire.b.id) == (end.kind, end.id)
    )


def _look(wire: Conductor) -> str:
    return f"{_size(wire)} {wire.look.colour}{'/' + wire.look.stripes if wire.look.stripes else ''}".strip()


def _length(cut: Cut) -> str:
    return f"{cut.length_m:.2f} m" if cut.length_m is not None else "length open"


def _size(wire: Conductor) -> str:
    return find_gauge(wire.size, wire.system).words
