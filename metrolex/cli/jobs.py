"""Command line: twin, check. Both read ``{"job": {…}, "state": {…}, "faults": […]}``."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from metrolex.brief.estimate import estimate, ways
from metrolex.check import chain_board, find_all, still_standing
from metrolex.check.stages import next_action
from metrolex.circuit import spice_deck
from metrolex.cli.calculation import Calculation, findings_out
from metrolex.cli.examples import EXAMPLES
from metrolex.errors import BadInput
from metrolex.intake import AnyNumber, Key, Positive
from metrolex.job import Job, State
from metrolex.jobfile import job_from_data
from metrolex.twin import build, read_meter, read_test_lamp, readings, solve
from metrolex.twin.build import Network
from metrolex.twin.faces import faces_at_points
from metrolex.twin.run import Solved, currents_of, nodes_of, state_findings
from metrolex.twin.spoken import FaultSaid, faults_meant, node_called
from metrolex.twin.warm_up import MINUTES, warm_up

__all__ = ["CALCULATIONS", "JobInput"]


@dataclass(frozen=True, slots=True)
class Instrument:
    """A meter or a test lamp hung between two nodes."""

    kind: Literal["meter", "lamp"]
    red: Key
    black: Key
    watts: Positive = 5.0


@dataclass(frozen=True, slots=True)
class JobInput:
    """A job, the state to look at, faults put into it, instruments hung on it, true values by channel."""

    job: dict[str, Any]
    state: State = field(default=State())
    faults: tuple[FaultSaid, ...] = ()
    instruments: tuple[Instrument, ...] = ()
    true: dict[str, AnyNumber] = field(default_factory=dict)

    def parsed(self) -> Job:
        job = job_from_data(self.job, "job")
        for key in self.true:
            if all(c.id != key for c in job.channels):
                raise BadInput(f"true.{key}", key, ", ".join(c.id for c in job.channels) or "no channel yet")
        return job


def run_twin(asked: JobInput, flags: Sequence[str] = ()) -> dict[str, Any] | str:
    """Volts of every node, current of every element, what is shown; with --spice the deck."""
    network = build(asked.parsed())
    solved = _solved(network, asked)
    if "--spice" in flags:
        return spice_deck(solved.elements, f"{network.job.name}: {asked.state.words()}")
    shown = readings(solved)
    return {
        "nodes": nodes_of(solved),
        "currents": currents_of(solved),
        "shown": {key: face.value for key, face in shown.items()},
        "faces": {
            key: {"text": face.text, "state": face.state, "reason": face.reason}
            for key, face in shown.items()
        },
        "awake": sorted(solved.powered),
        "instruments": [_instrument(network, asked, i) for i in range(len(asked.instruments))],
        "findings": findings_out(state_findings(solved)),
    }


def _solved(network: Network, asked: JobInput) -> Solved:
    if not asked.faults:
        return solve(network, asked.state, (), asked.true)
    faults = faults_meant(solve(network, asked.state), asked.faults)
    return solve(network, asked.state, faults, asked.true)


def _instrument(network: Network, asked: JobInput, i: int) -> dict[str, Any]:
    tool, healthy = asked.instruments[i], solve(network, asked.state)
    faults = faults_meant(healthy, asked.faults)
    try:
        red, black = (
            node_called(healthy, word, side) for word, side in ((tool.red, "red"), (tool.black, "black"))
        )
        if tool.kind == "meter":
            return {
                "kind": "meter",
                "volts": read_meter(network, asked.state, red, black, faults),
            }
        lamp = read_test_lamp(network, asked.state, red, black, tool.watts, faults)
    except BadInput as fault:
        raise fault.within(f"instruments[{i}]") from None
    return {"kind": "lamp", "volts": lamp.volts, "current_a": lamp.current_a, "looks": lamp.looks}


def run_check(asked: JobInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Findings, what is open, the chain board."""
    network = build(asked.parsed())
    solved = _solved(network, asked)
    findings = find_all(network, solved)
    standing = still_standing(network.job, findings)
    rows = chain_board(network, solved, standing)
    return {
        "findings": findings_out(findings),
        "open": [
            f"{row.channel.name}: {cell.fact}" for row in rows for cell in row.cells if cell.state == "open"
        ],
        "next": next_action(network.job, rows, standing)[0],
        "channels": [
            {
                "id": row.channel.id,
                "name": row.channel.name,
                "shown": row.shown.value,
                "face": row.shown.text,
                "true": row.true,
                "unit": row.channel.unit,
                "links": {c.link: {"state": c.state, "fact": c.fact, "detail": c.detail} for c in row.cells},
            }
            for row in rows
        ],
    }


def run_points(asked: JobInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """The faces at every operating point, and through a cold start."""
    network = build(asked.parsed())
    faces = faces_at_points(network, asked.state)
    return {
        "points": {
            point: {key: face.text or face.reason for key, face in shown.items()}
            for point, shown in faces.items()
        },
        "true": {point: {c.id: c.true(point) for c in network.job.channels} for point in faces},
        "minutes": list(MINUTES),
        "cold_start": {
            found.channel: {"faces": [face.text for face in found.shown], "settled_min": found.warm_min}
            for found in warm_up(network)
        },
        "findings": findings_out(state_findings(solve(network, asked.state))),
    }


def run_estimate(asked: JobInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Parts, hours, the ways beside it."""
    job = asked.parsed()
    found = estimate(job)
    return {
        "parts": found.parts,
        "without_price": list(found.unpriced),
        "hours": found.hours,
        "lines": [{"words": line.words, "count": line.count, "hours": line.hours} for line in found.lines],
        "labour": found.labour,
        "total": found.total,
        "ways": [
            {
                "words": way.words,
                "parts": way.parts,
                "hours": way.hours,
                "total": way.total,
                "chosen": way.chosen,
            }
            for way in ways(job)
        ],
        "findings": [],
    }


CALCULATIONS = {
    "twin": Calculation(JobInput, run_twin, EXAMPLES["twin"](), ("--spice",)),
    "check": Calculation(JobInput, run_check, EXAMPLES["check"]()),
    "points": Calculation(JobInput, run_points, EXAMPLES["check"]()),
    "estimate": Calculation(JobInput, run_estimate, EXAMPLES["check"]()),
}
