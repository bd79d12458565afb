"""What the sheet of Proving is made of: each test with what it should find, what was seen, the verdict."""

from __future__ import annotations

from typing import TypedDict

from metrolex.job import Job, LeftOut, Observation, State
from metrolex.proving import judge_all
from metrolex.twin import Network, verdict
from metrolex.twin.expectations import Expectation, TestPoint, expect_at, states_of
from workbench.jobs.state import thrown_said
from workbench.markup import id_part
from workbench.sheet_cell import SheetCell, reading_typed

__all__ = ["Counts", "TestRow", "counts_of", "element_of", "row_of", "words_of"]


class TestRow(TypedDict):
    """A test with what it should find, what was seen, and the verdict; ``key``, of the test in its state, stands in the ids of its elements."""

    key: str
    expectation: Expectation
    cell: SheetCell
    verdict: str
    words: str


class StateCount(TypedDict):
    """A state of the key to prove at: how much was seen there, how much of it was off."""

    state: State
    words: str
    here: bool
    thrown: str
    seen: int
    off: int


class Counts(TypedDict):
    """How much was seen in all and at each state of the key."""

    states: list[StateCount]
    seen_count: int
    off_count: int


def counts_of(network: Network, state: State) -> Counts:
    """How much was seen in all and at each state of the key."""
    judged = judge_all(network)
    return {
        "states": [
            {
                "state": s,
                "words": words_of(network.job, s),
                "here": s == state,
                "thrown": thrown_said(s),
                "seen": sum(j.observation.state == s for j in judged),
                "off": sum(j.observation.state == s and j.verdict == "off" for j in judged),
            }
            for s in states_of(network.job)
        ],
        "seen_count": len(judged),
        "off_count": sum(j.verdict == "off" for j in judged),
    }


def row_of(network: Network, state: State, point: TestPoint) -> TestRow:
    """One test at one state."""
    job = network.job
    expectation = expect_at(network, state, point)
    observation = next((o for o in job.observations if (o.state, o.test) == (state, point.test)), None)
    left = next((one for one in job.left_out if (one.state, one.test) == (state, point.test)), None)
    found, words = verdict(expectation, observation.value) if observation else ("", "")
    if left is not None and observation is None:
        found, words = "not done", left.why
    return {
        "key": element_of(state, point),
        "expectation": expectation,
        "cell": _cell(state, point, observation, left),
        "verdict": found,
        "words": words,
    }


def _cell(state: State, point: TestPoint, seen: Observation | None, left: LeftOut | None) -> SheetCell:
    typed = reading_typed(seen.value) if seen else f"not done: {left.why}" if left else ""
    return SheetCell(
        "found",
        typed,
        f"Seen: {point.name}",
        f"wrong-{element_of(state, point)}",
        (
            ("test", point.test.key),
            ("key", state.key),
            ("lamps", state.lamps),
            ("engine", state.engine),
            ("thrown", thrown_said(state)),
        ),
    )


def element_of(state: State, point: TestPoint) -> str:
    """A test at a state of the key: what came back late from another state must not land in this one's row."""
    return id_part(f"{state.key} {state.lamps} {state.engine} {' '.join(state.thrown)} {point.test.key}")


def words_of(job: Job, state: State) -> str:
    """A state in few words."""
    if state.thrown:
        return ", ".join(f"{s.name}: {s.position(thrown=True)}" for s in job.switches if s.id in state.thrown)
    lamps = "" if state.lamps == "off" else f" + {state.lamps}"
    return "engine running" if state.running else f"{state.key}{lamps}"
