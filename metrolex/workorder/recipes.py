"""The steps of a job, from its parts: recipes.toml says what each kind of part asks for, the job how much of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from metrolex.errors import BadInput
from metrolex.harness.runs import plan_run
from metrolex.harness.supports import zones_passed
from metrolex.job import Display, MeasuringChain, Mounting, Opening, Port
from metrolex.mount.held import cure_of, glued, heed_of, ways_of
from metrolex.ports.assembly import joints_made
from metrolex.ports.cards import card_for
from metrolex.ports.fluids import fluids_of
from metrolex.ports.places import Place, place_of
from metrolex.ports.section import section_of
from metrolex.proving import phases, usual_minutes
from metrolex.tables import load_table
from metrolex.topology import at_pin, topology_of
from metrolex.twin.build import Network
from metrolex.twin.left_alone import tap_left_alone
from metrolex.workorder.figures import at_display, at_ground, at_hole, at_mount, at_tap, at_wires, spanners_of
from metrolex.workorder.planned import Doing, Planned, Recipes, recipes_by

__all__ = ["steps_of"]

from metrolex.workorder.schools import Ways

METRE_MINUTES = 7.0  # a metre of lead laid and tied (common practice, no source)
LONG_LEAD_M = 2.5  # from here on a second person feeds while one pulls (common practice, no source)
OPENS = 0.6  # of a place's usual minutes: the rest is what goes in and what is filled up again
DRAINED = {
    "coolant": "drained coolant",
    "engine oil": "drained oil",
    "gearbox fluid": "drained gearbox",
}
#: What can hurt where a place is opened, by the fluid in it, and by what flows past where there is none.
BY_FLUID = {
    "coolant": "hot coolant",
    "water": "hot coolant",
    "engine oil": "hot oil",
    "gearbox fluid": "hot oil",
    "fuel": "fuel under pressure",
}
OPEN_TO = frozenset({"exhaust", "intake"})
LEAST_DRAINED_L = 0.3  # less is caught in a tray
BELOW = frozenset({"exhaust", "gearbox_oil"})
SEALANT_MINUTES = 30.0  # before pressure comes on a sealed thread (common practice, no source)
PROVED = {
    "battery_off": ("battery off", "all join"),
    "first_power": ("not battery off", "all fuses", "all plug_in", "all plug_sender"),
    "accessory": ("not battery off", "all set_up", "all prove_first_power"),
    "run": ("not battery off", "all set_up", "all prove_first_power"),
    "lamps": ("not battery off", "all set_up", "all prove_first_power"),
    "crank": ("not battery off", "all set_up", "all prove_first_power", "all refill", "all fit"),
    "engine_running": (
        "not battery off",
        "not cold",
        "all set_up",
        "all refill",
        "all fit",
        "all prove_first_power",
    ),
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
#: Phases in which one sits at the wheel and another reads: nobody is busy with a telephone while he drives.
TWO_PEOPLE = ("drive",)


def steps_of(network: Network, ways: Ways = ()) -> tuple[Planned, ...]:
    """Every step the parts of a job make, by the usual ways or those said; a need is the name of a state or of a step. Raises CircuitError in words."""
    found = list(_Parts(network, recipes_by(ways)).steps())
    taken: dict[str, int] = {}
    for i, one in enumerate(found):
        count = taken[one.step.name] = taken.get(one.step.name, 0) + 1
        if count > 1:
            found[i] = replace(one, step=replace(one.step, name=f"{one.step.name} ({count})"))
    return tuple(replace(one, step=replace(one.step, needs=tuple(_needs(one, found)))) for one in found)


def _needs(one: Planned, found: list[Planned]) -> Iterator[str]:
    """'all KIND' is every step of that kind, KIND alone that of the same part; a state stays as it is."""
    kinds = {other.kind for other in found}
    for need in dict.fromkeys(one.step.needs):
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


class _Parts:
    """The parts of a job, one kind after the other, each with its steps."""

    def __init__(self, network: Network, recipes: Recipes) -> None:
        self.network, self.job = network, network.job
        self.asked, self.made = recipes.asked, recipes.made

    def steps(self) -> Iterator[Planned]:
        job = self.job
        needs = list(dict.fromkeys(tap.need for tap in job.taps if tap.circuit))
        if needs:
            said = ", ".join(NEED_WORDS[need] for need in needs)
            yield self.made("find_feeds", "feeds", said, count=len(needs))
        for opening in job.openings:
            if opening.made in HOLES:
                yield self._hole(opening)
        yield from self._places()
        yield from self._leads()
        for tap in job.taps:
            if tap.circuit:
                kind = "other_feed" if tap_left_alone(self.network, tap) else "tap"
                doing = at_tap(job, tap) if kind == "tap" else ()
                yield self.made(kind, tap.id, tap.id, tap.circuit, doing=doing)
        for point in job.grounds:
            yield self.made("ground", point.id, f"{point.id} {point.name}", doing=at_ground(job, point))
        for display in job.displays:
            yield from self._display(display)
        taps = [t for t in job.taps if t.circuit and t.fuse_a and not tap_left_alone(self.network, t)]
        if taps:
            yield self.made("fuses", "fuses", ", ".join(f"{tap.id} {tap.fuse_a:g} A" for tap in taps))
        if job.displays:
            yield self.made("trim_back", "trim", "")
        yield from self._proofs()

    def _hole(self, opening: Opening) -> Planned:
        doing = at_hole(self.job, opening)
        return self.made("hole", opening.id, opening.name, doing=doing)

    def _places(self) -> Iterator[Planned]:
        """Each place opened, its sender in, its fluid back."""
        job = self.job
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
            below = (path.kind if path else place.path) in BELOW
            if below:
                states.append("lifted")
            card, where = card_for(job, chain, port), "under" if below else "bay"
            hazards = tuple(self._hazards(chain, port, place, below=below))
            yield self.made(
                "open",
                chain.channel,
                port.name,
                minutes=OPENS * place.minutes,
                needs=states,
                detail=port.way_in or place.way_in,
                caution=place.caution,
                doing=card.opening,
                tools=card.tools,
                place=where,
                hazards=hazards,
            )
            wait = SEALANT_MINUTES if self._sealed(chain, port) else 0.0
            yield self.made(
                "fit",
                chain.channel,
                sender.called,
                port.name,
                needs=states,
                wait=wait,
                doing=card.fitting,
                tools=spanners_of(port),
                place=where,
                hazards=tuple(one for one in hazards if one != "hot work"),
            )
            if place.fluid in DRAINED and place.loss_l >= LEAST_DRAINED_L:
                by_fluid.setdefault(place.fluid, []).append(chain.channel)
        plans = {plan.key: plan for plan in fluids_of(job)}
        for fluid in by_fluid:
            plan = plans.get(fluid)
            doing = (Doing(plan.back, f"{plan.lost_l:g} L out, by estimate"),) if plan else ()
            name = plan.name.lower() if plan else fluid
            yield self.made("refill", fluid, name, needs=(f"not {DRAINED[fluid]}",), doing=doing)

    def _hazards(self, chain: MeasuringChain, port: Port, place: Place, *, below: bool) -> Iterator[str]:
        """What can hurt where a place is opened."""
        path = self.job.path(port.spot.path)
        if chain.measurand == "fuel_level":
            yield "fuel vapour"
        elif place.fluid in BY_FLUID:
            yield BY_FLUID[place.fluid]
        if (path.kind if path else place.path) in OPEN_TO:
            yield "open turbine or inlet"
        if (port.spot.entry or place.entry) == "welded":
            yield "hot work"
        if below:
            yield "lifted"

    def _sealed(self, chain: MeasuringChain, port: Port) -> bool:
        """Whether a thread is sealed with something that cures."""
        job, sender = self.job, self.job.sender(chain.sender)
        if sender is None or not port.thread or not sender.body.thread:
            return False
        try:
            joints = joints_made(job, chain, port, section_of(job, chain, port, sender))
        except BadInput:
            return False
        return any(one.joint.seal == "sealant" for one in joints)

    def _leads(self) -> Iterator[Planned]:
        job, ways = self.job, topology_of(self.job).ways
        for run in job.runs:
            used = any(wire.run == run.id for wire in job.conductors) or any(
                c.run == run.id for c in job.measured
            )
            if not used:
                continue
            way = ways.get(run.id, run)
            metres = plan_run(way).length_m if way.segments else 0.0
            through = [opening for opening in job.openings if run.id in opening.runs]
            yield self.made(
                "lay",
                run.id,
                run.name,
                minutes=5.0 + METRE_MINUTES * metres,
                needs=[self._hole(one).step.name for one in through if one.made in HOLES],
                hands=2 if metres >= LONG_LEAD_M else 1,
                doing=at_wires(job, run),
                hazards=("airbag",) if any(zone.airbag == "there" for zone in zones_passed(job, run)) else (),
            )
        for chain in job.measured:
            sender = job.sender(chain.sender)
            if sender is not None and any(
                end.kind == "sender" and end.id == sender.id
                for wire in job.conductors
                for end in (wire.a, wire.b)
            ):
                laid = [f"Lay {run.name}" for run in job.runs if run.id == chain.run]
                yield self.made(
                    "plug_sender", chain.channel, sender.called, needs=tuple(laid), hazards=("belts and fan",)
                )

    def _display(self, display: Display) -> Iterator[Planned]:
        job, wiring = self.job, topology_of(self.job)
        wires = {
            wire.id for pin in display.pins for wire in wiring.wires_at(at_pin(display, pin), measured=False)
        }
        if "try_in" in self.asked and display.face:
            yield self.made("try_in", display.id, display.name)
        mounting = next((one for one in job.mountings if one.display == display.id), None)
        yield self._mount(display, mounting)
        if wires:
            said = "1 wire" if len(wires) == 1 else f"{len(wires)} wires"
            joints = at_display(job, display)
            yield self.made("join", display.id, display.name, said, count=len(wires), doing=joints)
        plug = self.made("plug_in", display.id, display.name)
        if mounting is not None and glued(mounting):
            first = replace(plug.step, needs=tuple(need for need in plug.step.needs if need != "mount"))
            plug = replace(plug, step=first)
        yield plug
        chains = [chain for chain in job.chains if chain.display == display.id]
        if chains:
            yield self.made("set_up", display.id, display.name, count=len(chains))

    def _mount(self, display: Display, mounting: Mounting | None) -> Planned:
        """Putting a display in its place; what is glued or pressed home has its plug in before, and rests after."""
        if mounting is None:
            return self.made("mount", display.id, display.name, display.position or "where it was planned")
        site, ways = self.job.site(mounting.site), ways_of(mounting)
        return self.made(
            "mount",
            display.id,
            display.name,
            display.position or (site.name if site else ""),
            needs=("plug_in",) if glued(mounting) else (),
            wait=cure_of(mounting),
            detail=heed_of(site) if site else "",
            doing=at_mount(self.job, display, mounting),
            goods=tuple(way.goods for way in ways if way.goods),
            hazards=(
                *(("glue not cured",) if cure_of(mounting) else ()),
                *(("airbag",) if site is not None and site.airbag == "there" else ()),
            ),
        )

    def _proofs(self) -> Iterator[Planned]:
        """Proving, phase by phase: the checks of each, and usual minutes for the meter at every display."""
        displays = len(self.job.displays)
        for phase in phases() if displays else ():
            checked = usual_minutes(self.network).get(phase.key, 0.0)
            minutes = checked + displays * METER_MINUTES.get(phase.key, 0.0)
            if phase.key in PROVED and minutes:
                made = self.made(
                    "prove",
                    phase.key,
                    phase.name.lower(),
                    minutes=minutes,
                    needs=PROVED[phase.key],
                    hands=2 if phase.key in TWO_PEOPLE else 1,
                    caution=phase.caution,
                )
                yield replace(made, kind=f"prove_{phase.key}")
