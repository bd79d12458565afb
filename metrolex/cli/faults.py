"""Command line: diagnose, prove."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from metrolex.circuit import Fault
from metrolex.circuit.elements import Name
from metrolex.cli.calculation import Calculation, findings_out
from metrolex.cli.examples import EXAMPLES
from metrolex.errors import BadInput
from metrolex.faults import catalogue
from metrolex.faults.classes import classes_of
from metrolex.faults.complaints import Complaint
from metrolex.faults.kinds import Entered, Face, LikelyFault, OtherClass, OtherLaw, Scaled, Shifted
from metrolex.faults.likelihood import Seen
from metrolex.faults.minutes import MINUTES, Kind
from metrolex.faults.next_test import NextTest, ranked_tests
from metrolex.faults.probes import Action, Probe
from metrolex.faults.suspects import Suspect, Verdict, suspects
from metrolex.faults.written import probe_words, said_of
from metrolex.findings import Finding
from metrolex.intake import AnyNumber, Key, Positive
from metrolex.job import Job, State
from metrolex.job.search import Do, OwnersWord
from metrolex.job.words import SeenWord
from metrolex.jobfile import job_from_data
from metrolex.proving import least_set
from metrolex.twin import build, solve
from metrolex.twin.addresses import printed
from metrolex.twin.build import Network
from metrolex.twin.spoken import node_called

__all__ = ["CALCULATIONS"]


@dataclass(frozen=True, slots=True)
class Looked:
    """What is read after an action: volts or a face."""

    kind: Literal["volts", "shown"]
    red: Key | None = None
    black: Key | None = None
    channel: Key | None = None


@dataclass(frozen=True, slots=True)
class TestSaid:
    """A test as it is written: volts between two nodes, a channel's face, the ohms of a sender, or an action and what is looked at then."""

    __test__ = False  # keep test collectors away from the name

    kind: Kind
    red: Key | None = None
    black: Key | None = None
    channel: Key | None = None
    sender: Key | None = None
    do: Do | None = None
    on: Key | None = None
    other: Key | None = None
    then: Looked | None = None


@dataclass(frozen=True, slots=True)
class ObservationSaid:
    """What was seen at a test in a state."""

    state: State
    test: TestSaid
    value: AnyNumber | SeenWord


@dataclass(frozen=True, slots=True)
class DiagnoseInput:
    """A job, what was seen and said, which tests are allowed, how many minutes a kind takes."""

    job: dict[str, Any]
    observations: tuple[ObservationSaid, ...] = ()
    words: tuple[OwnersWord, ...] = ()
    allow: tuple[Kind, ...] = tuple(MINUTES)
    minutes: dict[str, Positive] = field(default_factory=dict)
    list: bool = False

    def __post_init__(self) -> None:
        _known_kinds(self.minutes)


def run_diagnose(asked: DiagnoseInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Every suspect with its probability, the next best test, whether it is settled."""
    network = build(job_from_data(asked.job, "job"))
    seen = [_seen(network, one, f"observations[{i}]") for i, one in enumerate(asked.observations)]
    verdict = suspects(network, seen, [Complaint(word) for word in asked.words])
    here = seen[-1].state if seen else State("run", "off", "running")
    tests: tuple[NextTest, ...] = ()
    if not verdict.settled:
        tests = ranked_tests(
            network,
            verdict,
            here=here,
            allow=asked.allow,
            minutes=_minutes(asked.minutes),
            done=seen,
        )
    test = tests[0] if tests else None
    names = _Names(network)
    answer: dict[str, Any] = {
        "suspects": [_suspect(one, names) for one in verdict.suspects],
        "next_test": _next(test, verdict, names) if test else None,
        "settled": bool(verdict.settled) or test is None,
        "cure": verdict.settled or None,
        "does_not_fit": list(verdict.does_not_fit),
        "findings": findings_out([_odd(network, seen[place]) for place in verdict.does_not_fit]),
    }
    if asked.list:
        answer["catalogue"] = _catalogue(network, asked.allow, names)
    return answer


class _Names:
    """Nodes and elements as the twin prints them."""

    def __init__(self, network: Network) -> None:
        solved = solve(network, State("run", "off", "running"))
        self._nodes = printed(solved.solution.potentials)
        self._elements = printed(element.name for element in solved.elements)

    def node(self, name: Name) -> str:
        return self._nodes.get(name, str(name))

    def element(self, name: Name) -> str:
        return self._elements.get(name, str(name))


def _odd(network: Network, one: Seen) -> Finding:
    return Finding(
        "caution",
        "does_not_fit",
        probe_words(network, one.probe),
        "None of the likely suspects explains this reading.",
        str(one.value),
        "Read it again.",
        "faults",
    )


def _seen(network: Network, said: ObservationSaid, path: str) -> Seen:
    try:
        probe = _probe(network, said)
    except BadInput as fault:
        raise fault.within(path) from None
    words = said_of(network.job, probe)
    if isinstance(said.value, str) and said.value not in words:
        raise BadInput(f"{path}.value", said.value, f"a number, or {', '.join(words)}")
    return Seen(said.state, probe, said.value)


def _probe(network: Network, said: ObservationSaid) -> Probe:
    test, job = said.test, network.job
    if test.kind == "ohms":
        return Probe("ohms", on=_known(job, "sender", test.sender))
    if test.kind != "action":
        return _looked(network, said.state, test, None)
    if test.do is None or test.on is None or test.then is None:
        raise BadInput("test", test.kind, "do, on and then for an action")
    other = test.other or ""
    return _looked(network, said.state, test.then, Action(test.do, test.on, other))


def _looked(network: Network, state: State, said: TestSaid | Looked, after: Action | None) -> Probe:
    if said.kind == "shown":
        return Probe("shown", on=_known(network.job, "channel", said.channel), after=after)
    if said.red is None or said.black is None:
        raise BadInput("test.red", said.red, "a node for red and one for black")
    solved = solve(network, state)
    red, black = (
        node_called(solved, words, f"test.{side}")
        for words, side in ((said.red, "red"), (said.black, "black"))
    )
    return Probe("volts", red, black, after=after)


def _known(job: Job, what: Literal["sender", "channel"], key: str | None) -> str:
    there = [s.id for s in job.senders] if what == "sender" else [c.id for c in job.chains]
    if key is None or key not in there:
        raise BadInput(f"test.{what}", key, ", ".join(there))
    return key


def _suspect(one: Suspect, names: _Names) -> dict[str, Any]:
    found: dict[str, Any] = {"words": one.words, "probability": one.probability, "cure": one.cure}
    if one.key is None:
        return {**found, "words": "unknown"}
    found |= {"size": one.size} if one.size else {}
    return found | _as_twin_takes_it(one.likeliest, names)


def _as_twin_takes_it(faults: Sequence[LikelyFault], names: _Names) -> dict[str, Any]:
    plain = [_plain(effect, names) for fault in faults for effect in fault.does if isinstance(effect, Fault)]
    edits = [
        _edit(fault, effect, names)
        for fault in faults
        for effect in (*fault.does, *fault.entered, *fault.faces)
        if not isinstance(effect, Fault)
    ]
    return {"faults": plain} if not edits else {"edit": edits[0] if len(edits) == 1 else {"all": edits}}


def _plain(fault: Fault, names: _Names) -> dict[str, Any]:
    said: dict[str, Any] = {"element": names.element(fault.element), "kind": fault.kind}
    if fault.ohm is not None:
        said["ohm"] = fault.ohm
    if fault.to is not None:
        said["to"] = names.node(fault.to)
    if fault.with_ is not None:
        said |= {"with": names.element(fault.with_), "ends": fault.ends}
    return said


def _edit(
    fault: LikelyFault, effect: Scaled | Shifted | OtherLaw | OtherClass | Entered | Face, names: _Names
) -> dict[str, Any]:
    """What is other than written, by kind; a part by the name it has in the twin."""
    match effect:
        case Scaled():
            told: dict[str, Any] = {"element": names.element(effect.name), "ratio": effect.ratio}
        case Shifted():
            told = {"element": names.element(effect.name), "more": effect.by}
        case OtherLaw():
            told = {"channel": effect.chain, "law": fault.part.which}
        case OtherClass():
            told = {"circuit": effect.circuit, "live": sorted(effect.live)}
        case Entered():
            told = {"channel": effect.chain}
            told |= {"rows": [list(row) for row in effect.rows]} if effect.rows else {}
            told |= {"input": effect.input} if effect.input else {}
        case Face():
            told = {"channel": effect.chain, "ratio": effect.ratio, "more": effect.shift, "word": effect.word}
    return {"kind": fault.kind} | told


def _next(test: NextTest, verdict: Verdict, names: _Names) -> dict[str, Any]:
    return {
        "state": _state(test.state),
        "test": _written(test.probe, names),
        "why": _why(test, verdict),
        "again": test.again,
        "minutes": test.minutes,
        "expected_bits": test.bits,
        "predictions": [
            ({"word": one.word} if one.value is None else {"value": one.value})
            | {"suspects": list(one.suspects)}
            for one in test.outcomes
        ],
    }


def _written(probe: Probe, names: _Names) -> dict[str, Any]:
    if probe.kind == "volts":
        plain: dict[str, Any] = {
            "kind": "volts",
            "red": names.node(probe.red),
            "black": names.node(probe.black),
        }
    elif probe.kind == "shown":
        plain = {"kind": "shown", "channel": probe.on}
    else:
        plain = {"kind": "ohms", "sender": probe.on}
    if probe.after is None:
        return plain
    action = {"kind": "action", "do": probe.after.do, "on": probe.after.on, "then": plain}
    return action | ({"other": probe.after.other} if probe.after.other else {})


def _why(test: NextTest, verdict: Verdict) -> str:
    """The likeliest outcomes with what each would mean."""
    said = []
    for one in test.outcomes[:3]:
        what = one.word if one.value is None else f"{one.value:.3g}"
        who = [verdict.suspects[place].words for place in one.suspects[:2]]
        more = len(one.suspects) - len(who)
        said.append(f"{what}: {' or '.join(who)}{f' or {more} more' if more else ''}")
    return "; ".join(said)


def _catalogue(network: Network, allow: Sequence[Kind], names: _Names) -> list[dict[str, Any]]:
    listed = catalogue(network)
    whole = sum(fault.weight for fault in listed)
    return [
        {"words": fault.words, "prior": fault.weight / whole, "class": group}
        | _as_twin_takes_it([fault], names)
        for fault, group in zip(listed, classes_of(network, allow), strict=True)
    ]


@dataclass(frozen=True, slots=True)
class ProveInput:
    """A job, which tests are allowed, how many minutes a kind takes."""

    job: dict[str, Any]
    allow: tuple[Kind, ...] = ("volts", "shown", "ohms")
    minutes: dict[str, Positive] = field(default_factory=dict)

    def __post_init__(self) -> None:
        _known_kinds(self.minutes)


def run_prove(asked: ProveInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """The least set of tests that notices every fault any allowed test notices."""
    network = build(job_from_data(asked.job, "job"))
    found = least_set(network, asked.allow, _minutes(asked.minutes))
    names, listed = _Names(network), catalogue(network)
    return {
        "tests": [
            {
                "state": _state(one.column.state),
                "test": _written(one.column.probe, names),
                "value": one.column.expected.word
                if one.column.expected.value is None
                else one.column.expected.value,
                "low": one.column.expected.low,
                "high": one.column.expected.high,
                "minutes": one.minutes,
            }
            for one in found.tests
        ],
        "minutes": found.minutes,
        "lower_bound_minutes": found.at_least,
        "noticed": len(listed) - len(found.unnoticed),
        "catalogue": len(listed),
        "unnoticed": [listed[place].words for place in found.unnoticed],
        "findings": [],
    }


def _known_kinds(minutes: dict[str, float]) -> None:
    for kind in minutes:
        if kind not in MINUTES:
            raise BadInput(f"minutes.{kind}", kind, " | ".join(MINUTES))


def _minutes(said: dict[str, float]) -> dict[Kind, float]:
    return {kind: said.get(kind, usual) for kind, usual in MINUTES.items()}


def _state(state: State) -> dict[str, Any]:
    return {"key": state.key, "lamps": state.lamps, "engine": state.engine} | (
        {"thrown": list(state.thrown)} if state.thrown else {}
    )


CALCULATIONS = {
    "diagnose": Calculation(DiagnoseInput, run_diagnose, EXAMPLES["diagnose"]()),
    "prove": Calculation(ProveInput, run_prove, EXAMPLES["prove"]()),
}
