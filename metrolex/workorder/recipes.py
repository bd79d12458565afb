"""The steps of a job, from its parts: recipes.toml says what each kind of part asks for, the job how much of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from metrolex.errors import BadInput
from metrolex.harness.runs import plan_run
from metrolex.job import Display, Job, MeasuringChain, Port
from metrolex.ports.assembly import joints_made
from metrolex.ports.fluids import fluids_of
from metrolex.ports.places import place_of
from metrolex.ports.section import section_of
from metrolex.proving import checks_of, phases
from metrolex.tables import load_table
from metrolex.topology import at_pin, topology_of
from metrolex.twin.build import Network
from metrolex.twin.left_alone import tap_left_alone
from metrolex.workorder.step import Step

__all__ = ["Planned", "State", "states_at_work", "steps_of"]

METRE_MINUTES = 7.0  # a metre of lead laid and tied (common practice, no source)
OPENS = 0.6  # of a place's usual minutes: the rest is what goes in and what is filled up again
DRAINED = {
    "coolant": "drained coolant",
    "engine oil": "drained oil",
    "gearbox fluid": "drained gearbox",
    "fuel": "fuel depressurised",
}
LEAST_DRAINED_L = 0.3  # less is caught in a tray
BELOW = frozenset({"exhaust", "gearbox_oil"})
SEALANT_MINUTES = 30.0  # before pressure comes on a sealed thread (common practice, no source)
PROVED = {
    "battery_off": ("battery off", "all join"),
    "first_power": ("not battery off", "all fuses"),
    "accessory": ("not battery off", "all set_up"),
    "run": ("not battery off", "all set_up"),
    "lamps": ("not battery off", "all set_up"),
    "crank": ("not battery off", "all set_up"),
    "engine_running": ("not battery off", "not cold", "all set_up", "all refill", "not lifted"),
    "warm": ("not battery off", "not cold", "all prove_engine_running"),
    "drive": ("not battery off", "not cold", "all prove_warm", "all trim_back"),
}
NEED_WORDS = {"constant": "constant", "ignition": "run", "ignition_crank": "run and crank", "lamps": "lamps"}
HOLES = ("new", "enlarged", "plate")
#: With meter and eye at a display, by phase (common practice, no source).
METER_MINUTES = {
    "first_power": 2.5,
    "accessory": 0.5,
    "run": 2.5,
    "lamps": 2.5,
    "crank": 0.5,
    "engine_running": 2.5,
}
STILL = ("accessory", "run", "lamps", "crank")


@dataclass(frozen=True, slots=True)
class State:
    """A state of the vehicle that is entered by hand: minutes to enter and leave it, what to heed."""

    name: str
    words: str
    minutes: float
    caution: str


@dataclass(frozen=True, slots=True)
class Planned:
    """A step with the kind of its recipe, the part it belongs to, its tools, its caution and what one wants to know while doing it."""

    step: Step
    kind: str
    part: str
    tools: tuple[str, ...] = ()
    caution: str = ""
    detail: str = ""

    @property
    def key(self) -> str:
        """What it is called in the job's record of the work."""
        return f"{self.kind} {self.part}"


def states_at_work() -> dict[str, State]:
    """The states by their names."""
    return {
        name: State(name, row["words"], float(row["minutes"]), row["caution"])
        for name, row in load_table("recipes")["states"].items()
    }


def steps_of(network: Network) -> tuple[Planned, ...]:
    """Every step of a job, each need turned into the name of a state or a step. Raises CircuitError in words."""
    found = list(_steps(network))
    taken: dict[str, int] = {}
    for i, one in enumerate(found):
        count = taken[one.step.name] = taken.get(one.step.name, 0) + 1
        if count > 1:
            found[i] = replace(one, step=replace(one.step, name=f"{one.step.name} ({count})"))
    return tuple(replace(one, step=replace(one.step, needs=tuple(_needs(one, found)))) for one in found)


def _needs(one: Planned, found: list[Planned]) -> Iterator[str]:
    """'all KIND' is every step of that kind, KIND alone that of the same part; a state stays as it is."""
    kinds = {other.kind for other in found}
    for need in one.step.needs:
        every = need.removeprefix("all ")
        if every != need:
            wanted = [o.step.name for o in found if o.kind == every or (every == "prove_still" and _still(o))]
            yield from (name for name in wanted if name != one.step.name)
        elif need in kinds or need in load_table("recipes"):
            yield from (o.step.name for o in found if o.kind == need and o.part == one.part)
        else:
            yield need


def _still(one: Planned) -> bool:
    return one.kind in {f"prove_{phase}" for phase in STILL}


def _made(
    kind: str,
    part: str,
    on: str,
    with_: str = "",
    *,
    count: int = 0,
    minutes: float | None = None,
    **more: Any,
) -> Planned:
    """A step by its recipe; ``count`` times its minutes for each, ``minutes`` in place of its own; ``needs`` beside its own, ``wait``."""
    row: dict[str, Any] = load_table("recipes")[kind]
    takes = float(row.get("minutes", 0.0)) if minutes is None else minutes
    step = Step(
        row["do"].format(on=on, **{"with": with_})[:120],
        round(takes + count * float(row.get("each_minutes", 0.0)), 1),
        (*row["needs"], *more.get("needs", ())),
        wait_minutes=more.get("wait", 0.0),
    )
    return Planned(step, kind, part, tuple(row.get("tools", ())), row.get("caution", ""))


def _steps(network: Network) -> Iterator[Planned]:
    job = network.job
    needs = list(dict.fromkeys(tap.need for tap in job.taps if tap.circuit))
    if needs:
        said = ", ".join(NEED_WORDS[need] for need in needs)
        yield _made("find_feeds", "feeds", said, count=len(needs))
    for opening in job.openings:
        if opening.made in HOLES:
            yield _made("hole", opening.id, opening.name)
    yield from _places(job)
    yield from _leads(job)
    for tap in job.taps:
        if tap.circuit:
            kind = "other_feed" if tap_left_alone(network, tap) else "tap"
            yield _made(kind, tap.id, tap.id, tap.circuit)
    for point in job.grounds:
        yield _made("ground", point.id, f"{point.id} {point.name}")
    for display in job.displays:
        yield from _display(job, display)
    taps = [t for t in job.taps if t.circuit and t.fuse_a and not tap_left_alone(network, t)]
    if taps:
        yield _made("fuses", "fuses", ", ".join(f"{tap.id} {tap.fuse_a:g} A" for tap in taps))
    if job.displays:
        yield _made("trim_back", "trim", "")
    yield from _proofs(network)


def _places(job: Job) -> Iterator[Planned]:
    """Each place opened, its sender in, its fluid back."""
    by_fluid: dict[str, list[str]] = {}
    for chain in job.measured:
        port, sender = job.port(chain.port), job.sender(chain.sender)
        place = place_of(chain.measurand, port) if port else None
        if port is None or sender is None or sender.rides or sender.readers or place is None:
            continue
        states = []
        if place.fluid in DRAINED and place.loss_l >= LEAST_DRAINED_L:
            states.append(DRAINED[place.fluid])
        path = job.path(port.spot.path)
        if (path.kind if path else place.path) in BELOW:
            states.append("lifted")
        opened = _made("open", chain.channel, port.name, minutes=OPENS * place.minutes, needs=states)
        yield replace(opened, detail=port.way_in or place.way_in, caution=place.caution)
        joints, sealed = _joints(job, chain, port)
        wait = SEALANT_MINUTES if sealed else 0.0
        fitted = _made("fit", chain.channel, sender.called, port.name, needs=states, wait=wait)
        yield replace(fitted, detail=joints)
        if place.fluid in DRAINED and place.loss_l >= LEAST_DRAINED_L:
            by_fluid.setdefault(place.fluid, []).append(chain.channel)
    names = {plan.key: plan.name for plan in fluids_of(job)}
    for fluid in by_fluid:
        if fluid != "fuel":
            yield _made("refill", fluid, names.get(fluid, fluid).lower(), needs=(f"not {DRAINED[fluid]}",))


def _joints(job: Job, chain: MeasuringChain, port: Port) -> tuple[str, bool]:
    """What is screwed into what, in few words, and whether a thread is sealed with something that cures."""
    sender = job.sender(chain.sender)
    if sender is None or not port.thread or not sender.body.thread:
        return "", False
    try:
        made = joints_made(job, chain, port, section_of(job, chain, port, sender))
    except BadInput:
        return "", False
    words = "; ".join(f"{one.fitting.name if one.fitting else sender.called}: {one.tighten}" for one in made)
    return words, any(one.joint.seal == "sealant" for one in made)


def _leads(job: Job) -> Iterator[Planned]:
    ways = topology_of(job).ways
    for run in job.runs:
        used = any(wire.run == run.id for wire in job.conductors) or any(
            c.run == run.id for c in job.measured
        )
        if not used:
            continue
        way = ways.get(run.id, run)
        metres = plan_run(way).length_m if way.segments else 0.0
        holes = [
            _made("hole", opening.id, opening.name).step.name
            for opening in job.openings
            if run.id in opening.runs and opening.made in HOLES
        ]
        yield _made("lay", run.id, run.name, minutes=5.0 + METRE_MINUTES * metres, needs=holes)
    for chain in job.measured:
        sender = job.sender(chain.sender)
        if sender is not None and any(
            end.kind == "sender" and end.id == sender.id
            for wire in job.conductors
            for end in (wire.a, wire.b)
        ):
            laid = [f"Lay {run.name}" for run in job.runs if run.id == chain.run]
            yield _made("plug_sender", chain.channel, sender.called, needs=tuple(laid))


def _display(job: Job, display: Display) -> Iterator[Planned]:
    wiring = topology_of(job)
    wires = {
        wire.id for pin in display.pins for wire in wiring.wires_at(at_pin(display, pin), measured=False)
    }
    yield _made("mount", display.id, display.name, display.position or "where it was planned")
    yield _made("join", display.id, display.name, f"{len(wires)} wires", count=len(wires), needs=("all lay",))
    yield _made("plug_in", display.id, display.name)
    chains = [chain for chain in job.chains if chain.display == display.id]
    if chains:
        yield _made("set_up", display.id, display.name, count=len(chains))


def _proofs(network: Network) -> Iterator[Planned]:
    """Proving, phase by phase: the checks of each, and usual minutes for the meter at every display."""
    job = network.job
    displays = len(job.displays)
    for phase in phases() if displays else ():
        checks = [one for one in checks_of(network) if one.ref.phase == phase.key and one.needed]
        minutes = sum(one.minutes for one in checks) + displays * METER_MINUTES.get(phase.key, 0.0)
        if phase.key in PROVED and minutes:
            needs = PROVED[phase.key]
            made = _made("prove", phase.key, phase.name.lower(), minutes=minutes, needs=needs)
            yield replace(made, kind=f"prove_{phase.key}", caution=phase.caution)
