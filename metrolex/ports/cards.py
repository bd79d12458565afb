"""The work card of a place: what to do in order, each step with its figure, from opening it to the last leak check.

Geometry and sizes come from the fittings and the section; the order and the words are common practice, no source. The
vehicle maker's instructions come first.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.fittings.drills import DrillPlan
from metrolex.fittings.joints import size_words
from metrolex.job import Job, MeasuringChain, Port
from metrolex.ports import card_signals, card_steps
from metrolex.ports.assembly import joints_made
from metrolex.ports.card_bench import Bench, Step
from metrolex.ports.card_steps import drill_plan
from metrolex.ports.facts import facts_of
from metrolex.ports.places import place_of
from metrolex.ports.section import Section, section_of
from metrolex.tables import load_table

__all__ = ["Card", "Step", "card_for", "card_for_source"]

KINDS = {**card_steps.KINDS, **card_signals.KINDS}
TITLES = {**card_steps.TITLES, **card_signals.TITLES}

BELOW = 2  # the mark of access from which one works under the vehicle


@dataclass(frozen=True, slots=True)
class Card:
    """A card: what is done to open the place, to fit what goes in, and after it; the drills in order (empty where nothing is drilled), the tools, the cautions."""

    title: str
    place: str
    opening: tuple[Step, ...]
    fitting: tuple[Step, ...]
    closing: tuple[Step, ...]
    cautions: tuple[str, ...]
    tools: tuple[str, ...]
    drills_mm: tuple[float, ...] = ()
    plan: DrillPlan | None = None
    section: Section | None = None
    refused: tuple[Finding, ...] = ()

    @property
    def steps(self) -> tuple[Step, ...]:
        """All of it, in order."""
        return (*self.opening, *self.fitting, *self.closing)


def card_for(job: Job, channel: MeasuringChain, port: Port) -> Card:
    """The card of a place of a job; a wall that holds no thread is refused with what to do instead."""
    sender, facts, place = (
        job.sender(channel.sender),
        facts_of(job, channel, port),
        place_of(channel.measurand, port),
    )
    section = None
    if sender is not None and sender.body.thread and port.thread:
        try:
            section = section_of(job, channel, port, sender)
        except BadInput:
            section = None
    bench = Bench(job, channel, port, sender, facts, place, section)
    kind = (
        place.card
        if place
        else {"drilled": "drill", "welded": "weld", "cut_hose": "hose", "cut_line": "tee"}.get(
            facts.entry, "plug"
        )
    )
    plan = drill_plan(bench) if facts.entry == "drilled" else None
    refused = tuple(f for f in plan.findings if f.grade == "stop") if plan else ()
    opening, fitting, closing = (
        ((), (), ())
        if refused
        else ((*_opening(bench), *KINDS[kind](bench)), tuple(_assembly(bench)), tuple(_closing(bench)))
    )
    return Card(
        f"{channel.name}: {TITLES[kind]}",
        port.name,
        opening,
        fitting,
        closing,
        tuple(_cautions(bench)),
        tuple(dict.fromkeys(_tools(bench, kind, plan))),
        plan.steps_mm if plan and not refused else (),
        plan,
        section,
        refused,
    )


def card_for_source(job: Job, channel: MeasuringChain) -> Card | None:
    """The card of a signal that has no place: tap on the bus, antenna, gears worked out; None where there is nothing to do."""
    kind = card_signals.SOURCES.get(channel.source)
    if kind is None or (kind == "teach" and channel.measurand != "gear"):
        return None
    port = Port("source", TITLES[kind][:1].upper() + TITLES[kind][1:], "own")
    bench = Bench(job, channel, port, None, facts_of(job, channel, port), None, None)
    cautions = {
        "bus": "Battery off before any joint is made; never on wires of airbags or brakes.",
        "antenna": "Off the roof with a second person; nobody looks down at a display while driving.",
    }
    found = (
        cautions.get(kind, "Off the public road, or with a second person at the display."),
        "The vehicle maker's instructions come first.",
    )
    tools = {"bus": ("meter", "diagram of the exact year"), "antenna": ("cable pulling wire", "grommet")}.get(
        kind, ()
    )
    return Card(f"{channel.name}: {TITLES[kind]}", port.name, tuple(KINDS[kind](bench)), (), (), found, tools)


def _opening(bench: Bench) -> Iterator[Step]:
    if bench.place is not None and bench.place.fluid:
        yield Step("Pan and rag under it before anything is opened.", f"about {bench.place.loss_l:g} L out")


def _assembly(bench: Bench) -> Iterator[Step]:
    section = bench.section
    if section is None or not section.stack.found:
        return
    if section.stack.chain and _lead_would_twist(bench):
        yield Step(
            "The fitting first, alone, to its torque. Then the sender, its lead turning free: screwed in together the lead twists off."
        )
    elif section.stack.chain and any(fitting.sort in _FIRST for fitting in section.stack.chain):
        yield Step("What goes into the line or under the filter first; the rest goes on once that is tight.")
    elif section.stack.chain:
        yield Step(
            "Put the chain and the sender together on the bench, where the torque can be felt; then screw it in as one."
        )
    if section.probe_mark_mm is not None:
        yield Step(
            "Mark the probe before it goes in: from its tip to the top of the fitting's nut.",
            size_words(section.probe_mark_mm),
        )
    for made in joints_made(bench.job, bench.channel, bench.port, section):
        words = f"{made.joint.male.name} into {made.joint.female.name}: {made.put_on}"
        yield Step(words, made.tighten.rstrip("."))
    yield Step(
        "Hold the body with a second spanner wherever a joint is turned. Clock the sender up or sideways, never down."
    )
    if section.probe_mark_mm is None and section.tip_mm is not None:
        yield Step("Tip in the stream, past the wall.", size_words(max(section.tip_mm, 0.0)))


_FIRST = (
    "sandwich plate",
    "compression tee",
    "quick tee",
    "hose tee",
    "hose adapter",
    "banjo",
    "remote hose",
)


def _lead_would_twist(bench: Bench) -> bool:
    """Whether the sender has a lead of its own that turns with it: probes in clamps, thermocouples, lambda sensors."""
    section, sender = bench.section, bench.sender
    clamped = section is not None and any(joint.male.family == "probe" for joint in section.stack.joints)
    return (
        clamped
        or bench.channel.measurand == "lambda"
        or (sender is not None and sender.curve.x_unit == "millivolt")
    )


def _opens_something(bench: Bench) -> bool:
    """Whether anything is opened that could leak afterwards."""
    if bench.place is not None and bench.place.fluid:
        return True
    return bench.facts.entry != "held_on" and bool(bench.port.thread)


def _closing(bench: Bench) -> Iterator[Step]:
    if bench.place is not None and bench.place.fluid:
        back = load_table("fluids")[bench.place.fluid]["back"]
        yield Step(str(back))
    if bench.sender is not None and bench.sender.wires == 1:
        yield Step("Meter from the sender's body to battery negative.", "under 1 ohm")
    if _opens_something(bench):
        yield Step("Leaks: at the first start, warm, and again cold after the first heat cycle.")


def _cautions(bench: Bench) -> Iterator[str]:
    if bench.place is not None:
        yield bench.place.caution
    if bench.facts.access <= BELOW and not (bench.place and "stands" in bench.place.caution):
        yield "From below: vehicle on stands on firm ground, never on a jack alone."
    if bench.facts.entry == "drilled":
        yield "Eye protection on before the drill turns. Engine off, key out."
    yield "The vehicle maker's instructions come first."


def _tools(bench: Bench, kind: str, plan: DrillPlan | None) -> Iterator[str]:
    if plan is not None:
        yield from (f"drill {size:g} mm" for size in plan.steps_mm)
        yield from (
            f"tap {plan.thread.name}",
            "centre punch",
            "grease",
            "pen magnet",
            "vacuum cleaner",
            "goggles",
        )
    for fitting in bench.port.stack:
        if fitting.spanner_mm:
            yield f"spanner {fitting.spanner_mm:g} mm"
    if bench.section is not None and bench.section.stack.chain:
        yield "second spanner to hold"
    yield from {
        "tee": ("pipe cutter", "deburring tool"),
        "hose": ("hose knife", "clamp driver"),
        "plate": ("filter strap",),
        "lambda": ("22 mm slotted socket",),
        "fuel_line": ("closed fuel can", "fire extinguisher"),
        "fuel_port": ("rags", "fire extinguisher"),
        "spot": ("bracket for the sensor",),
        "cable": ("pliers", "rag", "chalk"),
        "magnet": ("bracket for the pick-up", "feeler gauge", "thread locker"),
        "shaft": ("bracket for the pick-up", "feeler gauge"),
        "banjo": ("second spanner to hold", "2 washers"),
        "through": ("step drill", "deburring tool", "2 washers"),
        "wrap": ("insulated wire", "shrink sleeve", "side cutters"),
        "lever": ("bracket and link", "meter"),
        "share": ("meter", "back-probe pins"),
        "coil": ("test lamp", "crimped terminal"),
    }.get(kind, ())
    if bench.place is not None and bench.place.fluid:
        yield from load_table("fluids")[bench.place.fluid]["ready"]
