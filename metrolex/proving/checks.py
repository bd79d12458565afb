"""Checks with hand and eye: what proves a job and is no volts, ohms or face at a turn of the key.

What each looks like stands in checks.toml; which of them a job has follows from its parts, and what a face should show in one from the twin.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from metrolex.brief.survey import cluster_facts, new_lamps
from metrolex.circuit import Fault
from metrolex.faults.cases import NONE
from metrolex.faults.lineup import lineup_of
from metrolex.faults.probes import Action, Probe, actions_of
from metrolex.job import Display, Job, MeasuringChain, Port, State, Survey, Tap
from metrolex.job.record import CheckKind, CheckRef, PhaseKey
from metrolex.ports.fluids import fluids_of
from metrolex.ports.places import place_of
from metrolex.proving.phases import phases
from metrolex.quantities import TEMPERATURE, dimension_of, in_unit, unit_words
from metrolex.scaling.reading import ends
from metrolex.tables import load_table
from metrolex.topology import at_pin, topology_of
from metrolex.twin import addresses
from metrolex.twin.build import Network
from metrolex.twin.expectations import expect_in, points_at
from metrolex.twin.kept import once_per_circuit
from metrolex.twin.left_alone import tap_left_alone
from metrolex.twin.load_test import LampPlace, feeds_for_lamp, load_test, telling_watts
from metrolex.twin.run import currents_of, solve

__all__ = ["Check", "Finds", "checks_later", "checks_of", "usual_minutes"]

RUN = State("run")
OPEN_OHM = 10_000.0  # less from a new feed to ground, with nothing plugged in, is a chafed lead (common practice, no source)
STANDING_RATIO, STANDING_MA = 1.5, 2.0  # a display may draw so much more than its maker says
PUMP_STEPS = (1.0, 2.0, 5.0)
MOST_WORKED_OUT = 80  # checks the twin is asked for one by one while somebody waits
TELLING_WATTS = "5 W"  # the lamp that tells at most plugs (common practice, no source)


@dataclass(frozen=True, slots=True)
class Finds:
    """What should be found: within ``low`` and ``high`` where there is a figure, else in ``words``. None: no bound on that side."""

    words: str
    unit: str = ""
    value: float | None = None
    low: float | None = None
    high: float | None = None

    def holds(self, value: float) -> bool:
        """Whether a figure is as it should be."""
        return (self.low is None or value >= self.low - 1e-9) and (
            self.high is None or value <= self.high + 1e-9
        )


@dataclass(frozen=True, slots=True)
class Check:
    """One check: what to do, what should be found, minutes. ``needed`` is False for what proves more than is usual.

    ``result`` stands where the job knows already how it came out ('' where nobody looked), ``place`` where that is written down.
    """

    ref: CheckRef
    do: str
    finds: Finds
    minutes: float
    caution: str = ""
    needed: bool = True
    place: str = ""
    result: str = ""


def checks_of(network: Network) -> tuple[Check, ...]:
    """All checks of a job, in the order of their phases."""
    return (*_of_the_circuit(network), *_of_the_survey(network.job))


def checks_later(job: Job) -> tuple[Check, ...]:
    """Those of the phases after the handing over, which ask nothing of the twin."""
    return tuple(_afterwards(job))


@once_per_circuit
def usual_minutes(network: Network) -> dict[str, float]:
    """About how long the checks that are needed take, by phase: counted, none of them worked out, for whoever plans a day."""
    found: dict[str, float] = {}
    for one in (*_by_the_parts(network), *_of_the_survey(network.job)):
        if one.needed:
            found[one.ref.phase] = found.get(one.ref.phase, 0.0) + one.minutes
    table = load_table("checks")
    asked = sum(float(table[kind]["minutes"]) for kind, _ in _asked(network))
    return {**found, "run": found.get("run", 0.0) + asked} if asked else found


@once_per_circuit
def _of_the_circuit(network: Network) -> tuple[Check, ...]:
    order = {phase.key: i for i, phase in enumerate(phases())}
    listed = (*_by_the_parts(network), *_run_worked_out(network))
    return tuple(sorted(listed, key=lambda one: order[one.ref.phase]))


def _by_the_parts(network: Network) -> Iterator[Check]:
    """What follows from the parts of the job, without the twin but for what a tap draws at rest."""
    yield from _battery_off(network)
    yield from _first_power(network)
    yield from _run(network)
    yield from _lamps(network.job)
    yield from _engine(network.job)
    yield from _afterwards(network.job)


def _check(
    phase: PhaseKey,
    kind: CheckKind,
    on: str,
    said: str = "",
    finds: Finds | None = None,
    *,
    needed: bool = True,
    words: str = "",
    watts: str = "",
) -> Check:
    row = load_table("checks")[words or kind]
    return Check(
        CheckRef(phase, kind, on),
        row["do"].format(on=said or on, watts=watts),
        finds or Finds(row["finds"], row.get("unit", "")),
        row["minutes"],
        row.get("caution", ""),
        needed,
    )


def _listed(names: Iterator[str] | list[str]) -> str:
    return ", ".join(dict.fromkeys(names))


def _battery_off(network: Network) -> Iterator[Check]:
    job = network.job
    if job.conductors:
        yield _check("battery_off", "ends", "")
    for tap in _taps(network):
        finds = Finds("open: no way to ground", "ohm", low=OPEN_OHM)
        yield _check("battery_off", "short", tap.id, finds=finds)
    plates = [port.name for _, port in _opened(job) if _card(job, port) == "plate"]
    if plates:
        yield _check("battery_off", "spare", "", _listed(plates))
    plugs = _listed([*_wired_displays(job), *(chain.sender or "" for chain in _wired_senders(job))])
    if plugs:
        yield _check("battery_off", "plugs", "", plugs)


def _first_power(network: Network) -> Iterator[Check]:
    job = network.job
    if job.displays:
        yield _check("first_power", "meter", "")
    fused = sorted((tap for tap in _taps(network) if tap.fuse_a), key=lambda tap: tap.fuse_a or 0.0)
    if fused:
        yield _check("first_power", "fuses", "", _listed([f"{tap.id} {tap.fuse_a:g} A" for tap in fused]))
    currents = currents_of(solve(network, State("off")))
    for tap in _taps(network):
        amps = abs(currents.get(str(addresses.tap(tap.id)), 0.0))
        if tap.need == "constant" and amps:
            most = STANDING_RATIO * 1000 * amps + STANDING_MA
            words = load_table("checks")["standing"]["finds"]
            yield _check("first_power", "standing", tap.id, finds=Finds(words, "mA", 1000 * amps, 0.0, most))
    displays = _listed(_wired_displays(job))
    if displays:
        yield _check("first_power", "still", "", f"{displays} and their fuses")


def _run(network: Network) -> Iterator[Check]:
    job = network.job
    wired = _wired_displays(job)
    faces = [display.id for display in job.displays if display.id in wired and display.face]
    if faces:
        yield _check("run", "sweep", "", _listed(faces))
    many = [d.id for d in job.displays if d.face and sum(c.display == d.id for c in job.chains) > 1]
    for key in many:
        yield _check("run", "pages", key)
    for chain in job.chains:
        if chain.gears and chain.display:
            yield _check("run", "positions", chain.id, chain.name)
    lamps = {fact.key for fact in cluster_facts() if fact.kind == "lamp"}
    told = [i.name for i in job.cluster if i.comes_from in ("display", "lamp") and i.function in lamps]
    if job.brief.cluster_removed and told:
        yield _check("run", "told", "", _listed(told))
    if wired:
        yield _check("run", "wiggle", "displays", _listed(wired))
    senders = [chain.sender or "" for chain in _wired_senders(job)]
    if senders:
        yield _check("run", "wiggle", "senders", _listed(senders))


def _run_worked_out(network: Network) -> Iterator[Check]:
    """What the twin is asked for with the key in run; of a job with very many of them each is told in words."""
    if len(asked := _asked(network)) > MOST_WORKED_OUT:
        yield from (_check("run", kind, on, watts=TELLING_WATTS) for kind, on in asked)
        return
    yield from _loaded(network)
    yield from _pulled(network)
    for action in _interfering(network):
        yield from _interfered(network, action)
    for chain in network.job.chains:
        yield from _known_values(network, chain)


def _asked(network: Network) -> list[tuple[CheckKind, str]]:
    """What the twin may be asked for, by kind and part: a lamp at each plug, each added fuse pulled, each sender unplugged and grounded."""
    return [
        *(("load", display.id) for display, _ in _lamp_places(network)),
        *(("pulled", tap.id) for tap in _taps(network) if tap.fuse_a and tap.need != "constant"),
        *(
            ("unplug" if action.do == "unplug_sender" else "ground", action.on)
            for action in _interfering(network)
        ),
    ]


def _interfering(network: Network) -> list[Action]:
    return [action for action in actions_of(network) if action.do in ("unplug_sender", "ground_signal")]


def _lamp_places(network: Network) -> Iterator[tuple[Display, LampPlace]]:
    """The pins that feed a display with the key in run, where a lamp goes."""
    for place in feeds_for_lamp(network):
        display = network.job.display(place.end.id) if place.end else None
        pin = display.pin_called(place.end.terminal) if display and place.end else None
        if display is not None and pin is not None and pin.role == "ignition":
            yield display, place


def _loaded(network: Network) -> Iterator[Check]:
    """A lamp at the far plug of each display that runs with the key: what a meter alone reads well through a bad joint, a lamp does not."""
    for display, place in _lamp_places(network):
        watts = telling_watts(network, RUN, place.key)
        if watts is None:
            continue
        good, *poor = load_test(network, RUN, place.key, "", watts).legs
        least = (good.lamp.volts + max(leg.lamp.volts for leg in poor)) / 2
        finds = Finds("", "V", good.lamp.volts, least, None)
        yield _check("run", "load", display.id, finds=finds, watts=f"{watts:g} W")


def _pulled(network: Network) -> Iterator[Check]:
    """Each added fuse pulled: that goes dark which hangs on it, so that the fuse card is true."""
    job, awake = network.job, solve(network, RUN).powered
    for tap in _taps(network):
        if not tap.fuse_a or tap.need == "constant":
            continue
        left = solve(network, RUN, [Fault(addresses.tap(tap.id), "open")]).powered
        dark = [display.id for display in job.displays if display.id in awake - left]
        if dark:
            finds = Finds(f"{_listed(dark)} dark, nothing else")
            yield _check("run", "pulled", tap.id, finds=finds)


def _interfered(network: Network, action: Action) -> Iterator[Check]:
    """A sender unplugged, its signal grounded: where the face goes then."""
    plain = lineup_of(network, ((NONE, NONE),))
    chain = next((c for c in network.job.chains if c.sender == action.on and c.box is None), None)
    if not plain.can(RUN, action) or chain is None or network.job.input_of(chain) is None:
        return
    sound = plain.predict(RUN, Probe("shown", on=chain.id, after=action))
    value, word = float(sound.value[0]), sound.shows.said(0)
    if math.isnan(value):
        where = Finds(f"{chain.name} shows {_FACE_WORDS.get(word, word)}")
    else:
        sure = 3.0 * float((sound.moved[0] @ sound.moved[0] / 3 + sound.own[0]) ** 0.5)
        where = Finds("", chain.unit, value, value - sure, value + sure)
    kind: CheckKind = "unplug" if action.do == "unplug_sender" else "ground"
    yield _check("run", kind, action.on, finds=where)


_FACE_WORDS = {
    "dashes": "dashes",
    "flash": "dashes that flash",
    "high": "its upper stop",
    "low": "its lower stop",
    "dark": "nothing",
}


def _known_values(network: Network, chain: MeasuringChain) -> Iterator[Check]:
    """What a face should show at something known: ice and boiling water, a pressure by hand pump."""
    job = network.job
    if chain.sender is None or job.input_of(chain) is None:
        return
    known: list[tuple[CheckKind, float, str]] = []
    if dimension_of(chain.unit) is TEMPERATURE:
        known = [
            ("ice", in_unit(0.0, "degC", chain.unit), ""),
            ("boiling", in_unit(100.0, "degC", chain.unit), ""),
        ]
    elif chain.measurand.endswith("pressure"):
        at = _handy((ends(chain.scaling)[1] or 0.0) / 2)
        known = [("pump", at, f": {at:g} {unit_words(chain.unit)}")] if at else []
    for kind, true, more in known:
        finds = _at(network, chain, true)
        if finds is not None:
            yield _check("run", kind, chain.id, f"{chain.name}{more}", finds, needed=False)


def _handy(value: float) -> float:
    """The largest of 1, 2, 5, 10... at or below a value; 0 for none."""
    if value <= 0:
        return 0.0
    found = [step * 10.0**power for power in range(-3, 5) for step in PUMP_STEPS]
    return max((one for one in found if one <= value), default=0.0)


def _at(network: Network, chain: MeasuringChain, true: float) -> Finds | None:
    """The band of a face with something known at its sender, key in run, engine stopped; None where it has no figure there."""
    point = next(
        (p for p in points_at(network, RUN) if p.kind == "shown" and p.channel == chain.id),
        None,
    )
    there = {**solve(network, RUN).true, chain.channel: true}
    found = expect_in(solve(network, RUN, true=there), point) if point else None
    if found is None or found.value is None or found.value in ends(chain.scaling):
        return None  # at its stop it proves nothing
    return Finds("", chain.unit, found.value, found.low, found.high)


def _lamps(job: Job) -> Iterator[Check]:
    wiring = topology_of(job)
    for display in job.displays:
        pin = display.pin_for("lamps")
        if pin is not None and wiring.wired(at_pin(display, pin), measured=True):
            yield _check("lamps", "dim", display.id)
        elif display.lamps.lighting == "sensor":
            yield _check("lamps", "dim", display.id, words="dim_sensor")


def _engine(job: Job) -> Iterator[Check]:
    for channel, port in _opened(job):
        yield _leak("engine_running", job, channel, port)
    smells = [port.name for _, port in _opened(job) if _path_kind(job, port) in ("fuel", "exhaust")]
    if smells:
        yield _check("engine_running", "fumes", "", _listed(smells))
    for channel, port in _opened(job):
        place = place_of(channel.measurand, port)
        if place is not None and place.keeps:
            yield _check("engine_running", "beside", port.id, port.name)
    for key, name in _levels(job):
        yield _check("warm", "level", key, name)
    for switch in job.switches:
        if switch.kind != "relay":
            yield _check("drive", "labelled", switch.id, switch.name)
    if job.displays:
        yield _check("drive", "refit", "")


def _levels(job: Job) -> list[tuple[str, str]]:
    """The fluids let out that have a level to look at."""
    return [(plan.key, plan.name.lower()) for plan in fluids_of(job) if plan.key != "fuel"]


def _leak(phase: PhaseKey, job: Job, channel: MeasuringChain, port: Port) -> Check:
    gas = _path_kind(job, port) in ("exhaust", "intake")
    return _check(
        phase, "leak", port.id, f"{channel.name.lower()}: {port.name}", words="leak_gas" if gas else ""
    )


def _afterwards(job: Job) -> Iterator[Check]:
    for channel, port in _opened(job):
        said = f"{channel.name.lower()}: {port.name}"
        if _path_kind(job, port) not in ("exhaust", "intake"):
            yield _check("first_heat", "mark", port.id, said)
        else:
            yield _leak("first_heat", job, channel, port)
    for key, name in _levels(job):
        yield _check("first_heat", "level", key, name)
    for channel, port in _opened(job):
        yield _leak("km_500", job, channel, port)
    plugs = _listed([*_wired_displays(job), *(chain.sender or "" for chain in _wired_senders(job))])
    if plugs:
        yield _check("km_500", "plugs", "", plugs)


def _of_the_survey(job: Job) -> Iterator[Check]:
    """What was compared with before the work is written down with the survey; GPS runs with their channel."""
    survey: Survey = job.survey
    seen = survey.lamps_after is not None
    result = "" if not seen else "off" if new_lamps(job) else "good"
    yield replace(_check("warm", "lamps", ""), place="brief", result=result)
    for reading in survey.readings:
        if reading.before:
            looked = _check("warm", "factory", reading.name)
            yield replace(looked, place="brief", result="good" if reading.after else "")
    for chain in job.chains:
        if chain.road is not None and chain.display is not None:
            done = "good" if chain.road.runs else ""
            yield replace(_check("drive", "gps", chain.id, chain.name), place="scaling", result=done)


def _wired_displays(job: Job) -> list[str]:
    wiring = topology_of(job)
    return [
        display.id
        for display in job.displays
        if any(wiring.wired(at_pin(display, pin), measured=True) for pin in display.pins)
    ]


def _wired_senders(job: Job) -> list[MeasuringChain]:
    """One chain for each sender that a wire of the job goes to."""
    at = {end.id for wire in job.conductors for end in (wire.a, wire.b) if end.kind == "sender"}
    return list({c.sender: c for c in reversed(job.measured) if c.sender in at}.values())[::-1]


def _taps(network: Network) -> list[Tap]:
    """The taps one may measure and pull at."""
    return [tap for tap in network.job.taps if tap.circuit and not tap_left_alone(network, tap)]


def _opened(job: Job) -> list[tuple[MeasuringChain, Port]]:
    """The places that something is screwed into, each once, with the first channel measured there."""
    found: dict[str, tuple[MeasuringChain, Port]] = {}
    for chain in job.measured:
        port = job.port(chain.port)
        if port is not None and _path_kind(job, port):
            found.setdefault(port.id, (chain, port))
    return list(found.values())


def _card(job: Job, port: Port) -> str:
    chain = next((c for c in job.measured if c.port == port.id), None)
    place = place_of(chain.measurand, port) if chain else None
    return place.card if place else ""


def _path_kind(job: Job, port: Port) -> str:
    """What flows past a place: the kind of its path, said or usual; '' where nothing does."""
    path = job.path(port.spot.path)
    if path is not None:
        return path.kind
    chain = next((c for c in job.measured if c.port == port.id), None)
    place = place_of(chain.measurand, port) if chain else None
    return place.path if place else ""
