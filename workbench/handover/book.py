"""What the book holds, gathered from one look at the job."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, TypedDict

from django.utils.safestring import SafeString

from metrolex.brief.survey import new_lamps
from metrolex.check import Row
from metrolex.dash.faces import pages_of
from metrolex.errors import BadInput
from metrolex.feeds.fuses import nearest_rating
from metrolex.findings import Finding
from metrolex.handover import Recheck, Warned, WillSee, rechecks_of, what_to_do, will_see
from metrolex.job import (
    POINT_HEADS,
    Checked,
    Circuit,
    ClusterItem,
    Conductor,
    Connector,
    Display,
    EnginePoint,
    GroundPoint,
    Input,
    Job,
    LeftOut,
    MeasuringChain,
    Panel,
    Port,
    Sender,
    State,
    Survey,
    Switch,
    Tap,
    Waiver,
)
from metrolex.job.search import Search
from metrolex.ports.assembly import joints_made
from metrolex.ports.fluids import FluidPlan, fluids_of
from metrolex.ports.section import section_of
from metrolex.proving import Check, Judged, checks_of, judge_all
from metrolex.scaling.reading import Shown, ends
from metrolex.senders.law_words import law_words
from metrolex.topology import at_terminal, topology_of
from metrolex.twin import points_to_test, solve
from metrolex.twin.accuracy import accuracy
from metrolex.twin.faces import faces_at_points
from workbench.dash.page_drawing import Showing, page_drawing
from workbench.harness.wires import WireRow, cut_list
from workbench.harness.wiring_drawing import TALL, wiring_strips
from workbench.jobs.look import Look

__all__ = ["book_of", "fuse_card"]

CAUTIONS = (
    "Battery negative off before any work on this wiring, both of them where there are two.",
    "The circuits of belts and airbags, brakes, steering, engine and gearbox control are left alone.",
    "Coolant under pressure, oil and exhaust burn: cold engine, pressure off.",
    "The vehicle maker's instructions, local codes and a licensed technician where the law asks for one come first.",
)


#: The operating points an owner meets; all eight stand on Operating points.
POINTS: tuple[EnginePoint, ...] = ("stopped", "cold start", "running", "full load")


class ChannelPage(TypedDict):
    """What the book says of one channel."""

    channel: MeasuringChain
    row: Row
    display: Display | None
    sender: Sender | None
    box: Display | None
    port: Port | None
    no_port: str
    low: float | None
    high: float | None
    input: Input | None
    joints: list[dict[str, Any]]
    error: float | None
    law: str
    wires: list[tuple[str, Conductor]]
    feed: str
    proof: str


class FacePicture(TypedDict):
    """A page of a display as it is printed."""

    name: str
    picture: SafeString


class FuseRow(TypedDict):
    """A line of the fuse card."""

    tap: Tap
    circuit: Circuit | None
    colour: str
    panel: Panel | None


class Book(TypedDict):
    """Everything the book prints."""

    set_up: list[dict[str, Any]]
    channels: list[ChannelPage]
    point_heads: list[str]
    points: list[tuple[MeasuringChain, list[Shown]]]
    boxes: list[Display]
    switches: tuple[Switch, ...]
    fuse_card: list[FuseRow]
    wires: list[WireRow]
    wiring: list[SafeString]
    wiring_state: State
    judged: list[Judged]
    grounds: tuple[GroundPoint, ...]
    stops: list[Finding]
    cautions_open: list[Finding]
    safety: Sequence[str]
    fluids: list[FluidPlan]
    survey: Survey
    new_lamps: tuple[str, ...]
    cluster: tuple[ClusterItem, ...]
    passed: list[tuple[Finding, Waiver]]
    will_see: tuple[WillSee, ...]
    warned: tuple[Warned, ...]
    rechecks: tuple[Recheck, ...]
    checked: list[tuple[Check, Checked]]
    left_out: list[tuple[str, LeftOut]]
    searches: tuple[Search, ...]
    connectors: tuple[Connector, ...]
    faces: list[tuple[Display, list[FacePicture]]]


def book_of(look: Look) -> Book:
    """Everything the book prints. The circuit is shown with the key in run, lamps off, engine stopped."""
    job = look.job
    still = solve(look.network, State("run"))
    return {
        "set_up": [
            {"display": d, "settings": [s for s in job.settings if s.display == d.id]}
            for d in job.displays
            if any(s.display == d.id for s in job.settings)
        ],
        "faces": _faces(look),
        "channels": [_channel(look, row) for row in look.rows],
        "point_heads": [POINT_HEADS[point] for point in POINTS],
        "points": [
            (chain, [faces_at_points(look.network)[point][chain.id] for point in POINTS])
            for chain in job.chains
        ],
        "boxes": [display for display in job.displays if not display.face],
        "switches": job.switches,
        "fuse_card": fuse_card(job),
        "will_see": will_see(look.network),
        "warned": what_to_do(job),
        "rechecks": rechecks_of(look.job),
        "checked": _checked(look),
        "left_out": _left_out(look),
        "searches": tuple(one for one in job.searches if one.ended),
        "connectors": job.connectors,
        "wires": cut_list(still),
        "wiring": wiring_strips(look.network, still.state, TALL),
        "wiring_state": still.state,
        "judged": judge_all(look.network),
        "grounds": job.grounds,
        "stops": [f for f in look.standing if f.grade == "stop"],
        "cautions_open": [f for f in look.standing if f.grade == "caution"],
        "safety": CAUTIONS,
        "fluids": [plan for plan in fluids_of(job) if plan.record],
        "survey": job.survey,
        "new_lamps": new_lamps(job),
        "cluster": job.cluster if job.brief.cluster_removed else (),
        "passed": [(f, o) for f in look.findings if (o := look.waived(f))],
    }


def _channel(look: Look, row: Row) -> ChannelPage:
    job, channel = look.job, row.channel
    display, sender, port = job.display(channel.display), job.sender(channel.sender), job.port(channel.port)
    low, high = ends(channel.scaling)
    return {
        "channel": channel,
        "row": row,
        "display": display,
        "sender": sender,
        "box": job.display(channel.box),
        "port": port,
        "no_port": cell.fact if (cell := row.cell("port")).state == "settled" else "not chosen",
        "low": low,
        "high": high,
        "input": job.input_of(channel),
        "joints": _joints(job, channel),
        "error": found.half if (found := accuracy(look.network, channel)) else None,
        "law": law_words(sender.curve) if sender else "",
        "wires": _wires(job, sender),
        "feed": row.cell("feed").fact,
        "proof": " ".join(part for part in (row.cell("proof").fact, row.cell("proof").detail) if part),
    }


def _faces(look: Look) -> list[tuple[Display, list[FacePicture]]]:
    """Every display with its pages as they stand at warm idle, key in run."""
    shown = faces_at_points(look.network)["running"]
    found = []
    for display in look.job.displays:
        pages = pages_of(look.job, display.id) if display.face else ()
        pictures: list[FacePicture] = [
            {
                "name": page.page.name if page.made else "",
                "picture": page_drawing(display, page, Showing(shown)).safe(),
            }
            for page in pages
        ]
        if pictures:
            found.append((display, pictures))
    return found


def _wires(job: Job, sender: Sender | None) -> list[tuple[str, Conductor]]:
    """The wires at a sender, by its terminals."""
    return [
        (terminal, wire)
        for terminal in (sender.terminals if sender else ())
        for wire in topology_of(job).wires_at(at_terminal(sender, terminal))  # type: ignore[arg-type]
    ]


def _checked(look: Look) -> list[tuple[Check, Checked]]:
    """What was written down of the checks with hand and eye."""
    done = {one.check: one for one in look.job.checks}
    if not done:
        return []
    return [(check, done[check.ref]) for check in checks_of(look.network) if check.ref in done]


def _left_out(look: Look) -> list[tuple[str, LeftOut]]:
    """The tests that were not done, by name."""
    names = {point.test: point.name for point in points_to_test(look.network)}
    return [(names.get(one.test, str(one.test)), one) for one in look.job.left_out]


def _joints(job: Job, channel: MeasuringChain) -> list[dict[str, Any]]:
    """The way in, joint by joint: what is screwed into what, how it seals, how tight."""
    port, sender = job.port(channel.port), job.sender(channel.sender)
    if port is None or sender is None or not port.thread or not sender.body.thread:
        return []
    try:
        section = section_of(job, channel, port, sender)
    except BadInput:
        return []
    return [
        {
            "joint": made.joint,
            "name": made.fitting.name if made.fitting else sender.called,
            "tighten": made.tighten,
        }
        for made in joints_made(job, channel, port, section)
    ]


def fuse_card(job: Job) -> list[FuseRow]:
    """Every tap with the circuit it sits in and the fuse that was added."""
    return [_fuse(job, tap) for tap in job.taps]


def _fuse(job: Job, tap: Tap) -> FuseRow:
    circuit = job.circuit(tap.circuit)
    try:
        colour = str(nearest_rating(tap.fuse_a)["colour"]).replace("_", "-") if tap.fuse_a else ""
    except BadInput:  # a rating of no standard size
        colour = ""
    return {
        "tap": tap,
        "circuit": circuit,
        "colour": colour,
        "panel": job.panel(circuit.slot.panel) if circuit else None,
    }
