"""The chain board: one row per channel, one cell per link, each with the fact that matters and its state."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from metrolex.findings import Finding
from metrolex.harness.loads import wires_after
from metrolex.harness.runs import plan_run
from metrolex.job import Job, MeasuringChain, Tap
from metrolex.places import LINKS
from metrolex.proving.proof import Judged, judge_all, proof_of
from metrolex.quantities import unit_words
from metrolex.scaling.counting import COUNTED
from metrolex.scaling.error import table_error
from metrolex.scaling.reading import Shown, ends
from metrolex.senders import is_monotonic
from metrolex.topology import topology_of
from metrolex.twin import addresses
from metrolex.twin.accuracy import accuracy
from metrolex.twin.addresses import Address
from metrolex.twin.build import Network
from metrolex.twin.run import Solved, readings

__all__ = ["Cell", "CellState", "Row", "chain_board", "feeds_of", "with_accuracy"]

CellState = Literal["open", "settled", "caution", "stop", "proved", "none"]
#: How a reading arrives that has no port of its own.
_ARRIVES = {"ecu": "data the vehicle sends", "gps": "GPS", "worked_out": "worked out from others"}
_COLOURED_BY = {link.key: place for link, place in LINKS if link.coloured}


@dataclass(frozen=True, slots=True)
class Cell:
    """One link of a chain: its state, the fact that matters, a line of detail."""

    link: str
    state: CellState
    fact: str
    detail: str = ""


@dataclass(frozen=True, slots=True)
class Row:
    """One channel: its cells in the order of ``places.LINKS``, what its display shows, what is really there.

    ``bias`` is what its place reads off from what one wants to know, in the channel's unit.
    """

    channel: MeasuringChain
    cells: tuple[Cell, ...]
    shown: Shown
    true: float | None
    bias: float = 0.0

    @property
    def wanted(self) -> float | None:
        """What one wants to know, by the place's bias; None without one."""
        return None if self.true is None or not self.bias else self.true - self.bias

    def cell(self, link: str) -> Cell:
        return next(cell for cell in self.cells if cell.link == link)

    @property
    def open_links(self) -> tuple[str, ...]:
        return tuple(cell.link for cell in self.cells if cell.state == "open")


def chain_board(network: Network, solved: Solved, findings: Sequence[Finding]) -> tuple[Row, ...]:
    """The rows of a job in one state; ``findings`` are those still standing."""
    shown, judged = readings(solved), judge_all(network)
    return tuple(
        _row(network, solved, channel, shown[channel.id], findings, judged) for channel in network.job.chains
    )


def with_accuracy(network: Network, rows: Sequence[Row]) -> tuple[Row, ...]:
    """The rows with how true each reading is in place of how well its table follows: for the page that shows them."""
    return tuple(
        replace(row, cells=tuple(_accurate(network, row, cell) for cell in row.cells)) for row in rows
    )


def _accurate(network: Network, row: Row, cell: Cell) -> Cell:
    found = accuracy(network, row.channel) if cell.link == "scaling" and cell.state != "open" else None
    if found is None:
        return cell
    unit, digits = unit_words(row.channel.unit), max(row.channel.scaling.decimals, 1)
    return replace(cell, fact=f"± {found.half:.{digits}f} {unit}", detail=f"at {found.at:g}, 95 in 100")


def _row(
    network: Network,
    solved: Solved,
    channel: MeasuringChain,
    shown: Shown,
    findings: Sequence[Finding],
    judged: Sequence[Judged],
) -> Row:
    job = network.job
    stage = job.input_of(channel)
    rest = [
        _feed(network, solved, channel, findings),
        _scaling(job, channel),
        _proof(network, channel, judged),
    ]
    if stage and stage.kind == "supply":
        note = "reads its own supply"
        own = [Cell("port", "none", "", note), Cell("sender", "none", ""), Cell("run", "none", "")]
        pins = _supply_pins(job, channel)
        return Row(channel, (*own, *rest), shown, solved.across(*pins) if pins else None)
    if stage and stage.kind == "data" and channel.box is None:
        own = [
            Cell("port", "none", "", _ARRIVES.get(channel.source, "data")),
            Cell("sender", "none", ""),
            Cell("run", "none", ""),
        ]
        return Row(channel, (*own, *rest), shown, solved.true.get(channel.channel))
    cells = [_port(job, channel), _sender(job, channel), _run(job, channel), *rest]
    port = job.port(channel.port)
    return Row(
        channel,
        tuple(_graded(cell, channel, findings) for cell in cells),
        shown,
        solved.true.get(channel.channel),
        port.bias if port else 0.0,
    )


def _supply_pins(job: Job, channel: MeasuringChain) -> tuple[Address, Address] | None:
    display = job.display(channel.display)
    supply = display.pin_for("ignition") if display else None
    ground = display.pin_for("ground") if display else None
    if display is None or supply is None or ground is None:
        return None
    return addresses.pin_node(display, supply.id), addresses.pin_node(display, ground.id)


def _graded(cell: Cell, channel: MeasuringChain, findings: Sequence[Finding]) -> Cell:
    place = _COLOURED_BY.get(cell.link)
    grades = {f.grade for f in findings if f.channel in (channel.id, channel.channel) and f.place == place}
    worst: CellState | None = "stop" if "stop" in grades else ("caution" if "caution" in grades else None)
    if worst is None or cell.state in ("open", "none"):
        return cell
    return Cell(cell.link, worst, cell.fact, cell.detail)


def _port(job: Job, channel: MeasuringChain) -> Cell:
    port, sender = job.port(channel.port), job.sender(channel.sender)
    if second_reading(job, channel):
        return Cell("port", "settled", "No port of its own", f"a second reading of {_box_name(job, channel)}")
    if sender is not None and sender.rides:
        return Cell("port", "settled", "No port of its own", "read off the pulses of another sender")
    if port is None and sender is not None and sender.readers:
        return Cell("port", "settled", "There already", f"read by {sender.readers[0].name}")
    if port is None:
        return Cell("port", "open", "Choose a port", "compared on the Ports page")
    bias = f"reads {port.bias:+g} {unit_words(channel.unit)}" if port.bias else ""
    return Cell("port", "settled", port.name, ", ".join(filter(None, (port.thread, bias))))


def second_reading(job: Job, channel: MeasuringChain) -> bool:
    """Whether a channel is another reading of a box whose sensor a channel beside it has."""
    return channel.box is not None and channel.box_input is None and channel.sender is None


def _box_name(job: Job, channel: MeasuringChain) -> str:
    box = job.display(channel.box)
    return box.name if box else "its box"


def _sender(job: Job, channel: MeasuringChain) -> Cell:
    sender = job.sender(channel.sender)
    if second_reading(job, channel):
        return Cell("sender", "settled", _box_name(job, channel), "its sensor tells this too")
    if sender is None and channel.road is not None:
        return Cell(
            "sender",
            "settled",
            f"{channel.road.pulses_per_rev:g} pulses a turn",
            f"sensed at the {channel.road.sensed}",
        )
    if sender is None and channel.engine is not None:
        return Cell("sender", "settled", channel.engine.pickup.replace("_", " "), "its pulses are the signal")
    if sender is None:
        return Cell("sender", "open", "Choose a sender")
    ways = {
        0: "no wires of its own, rides on pulses",
        1: "one wire, returns by its body",
        2: "two wires",
        3: f"three wires, fed {sender.output.supply_v:g} V",
    }[sender.wires]
    _, stage = job.sender_wired_to(channel)
    if stage is not None and stage.kind == "own_lead":
        ways = "on its maker's lead"
    if channel.box is not None:
        return Cell("sender", "settled", sender.called, f"{ways}, by {_box_name(job, channel)}")
    return Cell("sender", "settled", sender.called, ways)


def _run(job: Job, channel: MeasuringChain) -> Cell:
    sender = job.sender(channel.sender)
    if second_reading(job, channel):
        return Cell("run", "settled", "No lead of its own", f"on the output of {_box_name(job, channel)}")
    if sender is not None and sender.rides:
        return Cell("run", "settled", "No lead of its own", "on the line of another sender")
    run = job.run(channel.run)
    way = topology_of(job).ways[run.id] if run else None
    if way is None or not way.segments:
        return Cell("run", "open", "Measure the way", "length, reach and drop follow")
    plan = plan_run(way)
    if plan.supplied_m is None:
        return Cell("run", "settled", f"{plan.length_m:.2f} m to cut", f"class {plan.insulation_class}")
    if plan.extension_m > 0:
        return Cell(
            "run",
            "caution",
            f"Short by {plan.extension_m:.2f} m",
            f"needs {plan.length_m:.2f}, lead {plan.supplied_m:.2f}",
        )
    return Cell("run", "settled", "Reaches", f"{plan.spare_m:.2f} m to spare")


def feeds_of(job: Job, channel: MeasuringChain) -> dict[str, Tap]:
    """The taps that feed a channel's display, by the role of the pin they end at."""
    found = {}
    for tap in job.taps:
        for wire in wires_after(job, tap):
            for end in (wire.a, wire.b):
                if end.kind == "display" and end.id == channel.display:
                    display = job.display(end.id)
                    pin = display.pin_called(end.terminal) if display else None
                    if pin is not None:
                        found[pin.role] = tap
    return {str(role): tap for role, tap in found.items()}


def _feed(network: Network, solved: Solved, channel: MeasuringChain, findings: Sequence[Finding]) -> Cell:
    job = network.job
    display = job.display(channel.display)
    if display is None:
        return Cell("feed", "open", "Choose a display")
    if not any(pin.role in ("ignition", "memory", "lamps") for pin in display.pins):
        if display.supply.own_battery:
            return Cell("feed", "settled", "Its own battery", "no feed to find")
        return Cell("feed", "open", "Describe its pins", "none of them takes a supply")
    taps = feeds_of(job, channel)
    main = taps.get("ignition")
    if main is None and display.supply.own_battery:
        main = next(iter(taps.values()), None)
    if main is None:
        return Cell("feed", "open", "Find its feeds", "probe, then choose taps")
    circuits = {tap.circuit for tap in taps.values()}
    grades = {f.grade for f in findings if f.subject in circuits | {display.id} and f.place == "feeds"}
    pins = _supply_pins(job, channel)
    volts = solved.across(*pins) if pins else None
    load = abs(solved.solution.currents.get(addresses.tap(main.id), 0.0))
    limit = min(main.limit_a, main.fuse_a or main.limit_a)
    detail = f"{load:.2f} of {limit:g} A" + (f", {volts:.1f} V" if volts is not None else "")
    if "stop" in grades:
        refused = next(
            f
            for f in findings
            if f.grade == "stop" and f.place == "feeds" and f.subject in circuits | {display.id}
        )
        return Cell("feed", "stop", f"{refused.subject} refused", detail)
    missing = [p.name for p in display.pins if p.role in ("memory", "lamps") and p.role not in taps]
    fact = f"{main.circuit}, {main.need.replace('_', ' and ').replace('ignition and crank', 'run and crank')}"
    if missing:
        return Cell("feed", "open", fact, f"{detail}; no {' or '.join(missing)} feed yet")
    return Cell("feed", "caution" if "caution" in grades else "settled", fact, detail)


def _scaling(job: Job, channel: MeasuringChain) -> Cell:
    sender, stage = job.heard(channel), job.input_of(channel)
    low, high = ends(channel.scaling)
    span = f"{low:g} to {high:g}" if low is not None and high is not None else ""
    if stage is not None and stage.kind in ("supply", "data"):
        half = 0.5 * 10.0**-channel.scaling.decimals
        return Cell("scaling", "settled", f"± {half:g} {unit_words(channel.unit)}", span)
    if stage is not None and stage.kind == "pulse" and channel.measurand in COUNTED:
        return _pulse_scaling(channel)
    if sender is None or stage is None:
        return Cell("scaling", "open", "Needs sender and display")
    if len(channel.gears) > 1 and stage.kind == "volts":
        return Cell("scaling", "settled", f"{len(channel.gears)} gears taught", "by the volts of each gate")
    if stage.kind == "thermocouple":
        return Cell(
            "scaling",
            "settled",
            f"Type {stage.thermocouple_type}",
            "read by its own law, cold junction added",
        )
    if channel.scaling.assumed:
        display = job.display(channel.display)
        dash = display is not None and len(display.inputs) > 1
        return Cell(
            "scaling",
            "open",
            "Enter the table" if dash else "Compare its table",
            "one is worked out for this sender" if dash else "taken as made for this sender",
        )
    strip = table_error(channel, sender, stage) if is_monotonic(sender.curve) else None
    if strip is None or not strip.true.size:
        return Cell("scaling", "open", "Enter the table")
    digits = max(channel.scaling.decimals, 1)
    return Cell(
        "scaling",
        "settled",
        f"± {strip.largest:.{digits}f} {unit_words(channel.unit)}",
        f"{len(channel.scaling.table)} points, {span}",
    )


def _pulse_scaling(channel: MeasuringChain) -> Cell:
    if channel.road is not None and channel.road.setting is not None:
        words = {
            "pulses_per_km": "pulses/km",
            "pulses_per_mile": "pulses/mile",
            "circumference_mm": "mm a turn",
        }[channel.road.enters]
        runs = len(channel.road.runs)
        return Cell(
            "scaling",
            "settled",
            f"{channel.road.setting:g} {words}",
            f"by {runs} GPS runs" if runs else "not driven against GPS yet",
        )
    if channel.engine is not None and channel.engine.setting is not None:
        return Cell("scaling", "settled", f"{channel.engine.setting:g} pulses a turn", "")
    return Cell("scaling", "open", "Enter its pulses")


def _proof(network: Network, channel: MeasuringChain, judged: Sequence[Judged]) -> Cell:
    proof = proof_of(network, channel, judged)
    if proof.off:
        return Cell("proof", "caution", f"{proof.off} off", f"{proof.good} of {proof.points} as expected")
    if proof.points and proof.good_points == proof.points:
        return Cell("proof", "proved", "Proved", f"{proof.good} readings as expected")
    return Cell(
        "proof",
        "open",
        f"{proof.good_points} of {proof.points} seen" if proof.points else "Nothing to test yet",
    )
