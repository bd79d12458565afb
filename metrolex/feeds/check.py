"""Rules of the feeds: what is tapped, what it is tapped for, and how it is fused."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from metrolex.feeds.choose import SERVES, Choice, Site, choose_taps, late_reading_missing, purpose_unknown
from metrolex.feeds.classify import Verdict, classify_circuits
from metrolex.feeds.clearance import clearance_of, same_place
from metrolex.feeds.fuses import tap_limit_a
from metrolex.feeds.proof import proof_of
from metrolex.feeds.safety import standing_of_circuit
from metrolex.findings import Finding, about
from metrolex.job import PROBE_STATES, Circuit, GroundPoint, Job, Tap
from metrolex.job.once import once_per_job
from metrolex.layout.routes import distance_m
from metrolex.tables import load_table

__all__ = [
    "NEED_OF_ROLE",
    "Want",
    "display_needs",
    "feed_findings",
    "loads_by_need",
    "proved_for_meter",
    "recommend",
    "sites_of",
    "wants_of",
]

METER_GROUND_V = 0.2  # between battery and meter ground without load (common practice, no source)
MAX_GROUND_DROP_V = 0.1  # under load (common practice, no source)
NOISY = ("motor", "lamp", "fan", "pump", "starter", "horn", "heater", "winch", "amplifier")
RISKS = 7  # the leading elements of a candidate's rank that are risks; the rest is convenience

NEED_OF_ROLE = {"memory": "constant", "ignition": "ignition", "lamps": "lamps"}


def display_needs(job: Job) -> dict[str, list[tuple[str, str, float]]]:
    """What the displays of the job ask for: (display id, pin id, load in ampere) by need."""
    needs: dict[str, list[tuple[str, str, float]]] = {}
    for display in job.displays:
        for pin in display.pins:
            need = NEED_OF_ROLE.get(pin.role)
            if need == "ignition" and display.supply.needs_crank:
                need = "ignition_crank"
            if need:
                needs.setdefault(need, []).append((display.id, pin.id, pin.load_a))
    return needs


@once_per_job
def loads_by_need(job: Job) -> dict[str, float]:
    """Total load in ampere by need, in the order the needs are met."""
    needs = display_needs(job)
    order = ("constant", "ignition", "ignition_crank", "accessory", "lamps")
    return {need: sum(load for _, _, load in needs[need]) for need in order if need in needs}


@dataclass(frozen=True, slots=True)
class Want:
    """What one need asks for in all: amperes for good, and at start-up for ``peak_s`` seconds."""

    need: str
    load_a: float
    peak_a: float
    peak_s: float


@once_per_job
def wants_of(job: Job) -> tuple[Want, ...]:
    """The needs of the displays with their start-up peaks, all of which come together when the key is turned."""
    pins = {(d.id, p.id): p for d in job.displays for p in d.pins}
    needs = display_needs(job)
    return tuple(
        Want(
            need,
            load,
            sum(pins[d, p].highest_a for d, p, _ in needs[need]),
            max((pins[d, p].peak_s for d, p, _ in needs[need]), default=0.0),
        )
        for need, load in loads_by_need(job).items()
    )


def sites_of(job: Job) -> dict[str, Site]:
    """Where each circuit lies: its way to the nearest display that has a zone, and what a tap there runs into."""
    ends = {run.finish for run in job.runs if run.finish} | {
        zone.id for zone in job.zones if zone.kind == "dash"
    }
    goals = [zone for zone in ends if zone]
    found = {}
    for circuit in job.circuits:
        panel = job.panel(circuit.slot.panel)
        zone = circuit.where.zone or (panel.zone if panel else None)
        ways = [distance_m(job, zone, goal) for goal in goals]
        known = [way for way in ways if way is not None]
        found[circuit.id] = Site(min(known, default=0.0), clearance_of(circuit, panel, job.circuits))
    return found


#: A reading between these shares of the resting volts is that of one battery of two in series.
_HALF_THE_PAIR = (0.4, 0.6)


@once_per_job
def recommend(job: Job) -> Choice:
    """The best set of taps for all needs of the job at once."""
    return choose_taps(
        job.circuits,
        {w.need: max(w.load_a, w.peak_a) for w in wants_of(job)},
        {},
        sites_of(job),
        cluster_out=job.brief.cluster_removed,
    )


def feed_findings(job: Job) -> Iterator[Finding]:
    """Findings of the panels and the sheet, of every tap of the job, and of needs no tap meets."""
    verdicts = classify_circuits(job.circuits)
    yield from _sheet_findings(job, verdicts)
    best = recommend(job)
    for tap in job.taps:
        circuit = job.circuit(tap.circuit)
        if circuit is None:
            continue
        verdict = verdicts[circuit.id]
        yield from about(
            f"tap {tap.id}",
            (
                *_tap_findings(tap, circuit, verdict, _better(job, tap, best), job.brief.cluster_removed),
                *_second_best(tap, circuit, verdict, best),
                *_between_batteries(job, tap, circuit),
            ),
        )
    met = {tap.need for tap in job.taps if tap.circuit}
    for need in loads_by_need(job):
        if not (met & _meets(need)):
            yield Finding(
                "note",
                "need_open",
                need.replace("_", " "),
                "Nothing feeds this need of the displays yet.",
                f"{loads_by_need(job)[need]:.2g} A",
                "Probe the panel and choose a tap.",
                "feeds",
            )
    for point in job.grounds:
        yield from _ground_findings(job, point)


def proved_for_meter(job: Job, point: GroundPoint) -> bool:
    """Whether the meter's black lead may trust a ground: positive to it reads what the battery reads."""
    return point.where == "battery" or (
        point.reads_v is not None and abs(point.reads_v - job.vehicle.electrics.rest_v) <= METER_GROUND_V
    )


def _sheet_findings(job: Job, verdicts: Mapping[str, Verdict]) -> Iterator[Finding]:
    read = [c for c in job.circuits if any(c.readings.at(s) is not None for s in PROBE_STATES)]
    if read and not any(proved_for_meter(job, point) for point in job.grounds):
        yield Finding(
            "caution",
            "meter_ground_unproved",
            "Probe sheet",
            "No ground of the job is proved, so no reading on the sheet is.",
            remedy="Read from battery positive to the meter's ground: it must show what the battery shows. Enter it at the ground point.",
            place="feeds",
        )
    for circuit in read:
        verdict = verdicts[circuit.id]
        if verdict.contradicts:
            yield Finding(
                "caution",
                "readings_contradict",
                circuit.id,
                verdict.reason,
                remedy=verdict.next_step,
                place="feeds",
            )
    for panel in job.panels:
        slots = [c for c in job.circuits if c.slot.panel == panel.id]
        if not slots:
            yield Finding(
                "note",
                "panel_without_slots",
                panel.name,
                "The panel has no slots yet.",
                remedy="Add its slots, or take it off.",
                place="feeds",
                about=f"panel {panel.id}",
            )
        for i, slot in enumerate(slots):
            twin = next((other for other in slots[:i] if same_place(slot, other)), None)
            if twin is not None:
                yield Finding(
                    "caution",
                    "slots_on_one_spot",
                    slot.id,
                    f"{slot.id} and {twin.id} lie on the same spot of {panel.name}.",
                    f"row {slot.slot.row}, column {slot.slot.column}",
                    "Give one of them its own place.",
                    "feeds",
                )


def _between_batteries(job: Job, tap: Tap, circuit: Circuit) -> Iterator[Finding]:
    """Power taken from one of two batteries in series."""
    electrics = job.vehicle.electrics
    volts = [v for v in (circuit.readings.off, circuit.readings.run) if isinstance(v, float)]
    if electrics.battery.batteries != "in series" or not volts:
        return
    low, high = (share * electrics.rest_v for share in _HALF_THE_PAIR)
    if low <= max(volts) <= high:
        yield Finding(
            "stop",
            "between_batteries",
            circuit.id,
            "It reads half the volts of the vehicle: it is taken between the two batteries, one of which runs down while the other is overcharged.",
            f"{max(volts):.1f} of {electrics.rest_v:.1f} V",
            f"Take {tap.id} from the full volts, through a converter if the display wants 12 V.",
            "feeds",
        )


def _second_best(tap: Tap, circuit: Circuit, verdict: Verdict, best: Choice) -> Iterator[Finding]:
    """A tap that serves, where another circuit would serve better and nobody said why not."""
    wanted = best.taken.get(tap.need)
    if wanted is None or wanted == circuit.id or tap.why or verdict.feed not in SERVES[tap.need]:
        return
    chosen = {c.circuit.id: c for c in best.candidates[tap.need]}
    mine, other = chosen[circuit.id], chosen[wanted]
    if not mine.serves or mine.rank[:RISKS] <= other.rank[:RISKS]:
        return
    yield Finding(
        "note",
        "second_best_feed",
        tap.id,
        f"{circuit.id} serves; {wanted} ({other.circuit.purpose or 'not said'}) is the lesser risk: {other.reason}",
        remedy=f"Move {tap.id} to {wanted}, or write down why not.",
        place="feeds",
    )


def _ground_findings(job: Job, point: GroundPoint) -> Iterator[Finding]:
    if point.reads_v is not None and not proved_for_meter(job, point):
        yield Finding(
            "caution",
            "ground_not_proved",
            point.id,
            f"From battery positive to {point.name} the meter reads other than the battery does.",
            f"{point.reads_v:.2f} V, battery {job.vehicle.electrics.rest_v:.2f} V",
            "Bare metal, or another point; then read again.",
            "feeds",
        )
    if point.drop_v is not None and point.drop_v > MAX_GROUND_DROP_V:
        yield Finding(
            "caution",
            "ground_drops",
            point.id,
            f"{point.name} drops too much under load.",
            f"{point.drop_v:.2f} V at {point.drop_load_a:g} A",
            "Clean it to bare metal, star washer, or take another point.",
            "feeds",
        )
    if point.terminal == "bare wire":
        yield Finding(
            "caution",
            "ground_without_terminal",
            point.id,
            "A bare wire wound round a bolt works loose.",
            remedy="Crimp a ring terminal on.",
            place="feeds",
        )
    busy = [word for word in NOISY if word in point.shared_with.lower()]
    if busy:
        yield Finding(
            "caution",
            "ground_shared",
            point.id,
            f"{point.name} is shared with a {busy[0]}: its current lifts every reading that returns here.",
            remedy="Take a point of its own for displays and senders.",
            place="feeds",
        )


def _meets(need: str) -> set[str]:
    return {"ignition", "ignition_crank"} if need == "ignition" else {need}


def _better(job: Job, tap: Tap, best: Choice) -> str:
    """The circuit that would serve a tap's need best, as the way out of a wrong one; '' where none does."""
    wanted = best.taken.get(tap.need)
    circuit = job.circuit(wanted)
    if circuit is None or circuit.id == tap.circuit:
        return ""
    loads = loads_by_need(job)
    beside = sum(
        loads.get(need, 0.0) for need, key in best.taken.items() if key == wanted and need != tap.need
    )
    return f"Move {tap.id} to {circuit.id} ({circuit.purpose or 'not said'}): {tap_limit_a() - beside:.3g} A free there."


def _tap_findings(
    tap: Tap, circuit: Circuit, verdict: Verdict, better: str, cluster_out: bool
) -> Iterator[Finding]:
    standing, proof = standing_of_circuit(circuit, verdict, cluster_out), proof_of(circuit)
    name = circuit.id
    if standing.grade == "never":
        yield Finding(
            "stop",
            "safety_critical_tap",
            name,
            f"'{circuit.purpose or circuit.id}' is on the never-tap list: {standing.system}.",
            figure=name,
            remedy=better or "Move the tap to a comfort circuit of the same kind.",
            place="feeds",
            final=standing.final,
        )
    elif standing.grade == "avoid":
        yield Finding(
            "caution",
            "better_left_alone",
            name,
            f"'{circuit.purpose or circuit.id}' is better left alone: {standing.system}.",
            remedy=better or "Take a comfort circuit if one serves.",
            place="feeds",
        )
    elif standing.grade == "unknown" and not circuit.straight:
        yield purpose_unknown(circuit)
    if verdict.feed == "unclear":
        yield Finding(
            "caution",
            "feed_unclear",
            name,
            f"It is tapped as {tap.need.replace('_', ' ')}, but: {verdict.reason}",
            remedy="Read it in every state.",
            place="feeds",
        )
    elif verdict.feed not in SERVES[tap.need]:
        yield from _mismatch(tap, circuit, verdict, better)
    elif verdict.feed == "dimmed":
        yield Finding(
            "caution",
            "dimmed_lamp_feed",
            name,
            "This lamp feed is dimmed; some displays must not see a dimmer.",
            f"{verdict.dim_ratio:.0%} of full",
            "Take a plain parking-lamp circuit.",
            "feeds",
        )
    if tap.need == "constant" and verdict.may_sleep and standing.grade != "never" and not circuit.straight:
        yield late_reading_missing(circuit, verdict)
    if proof.needed and circuit.fuse_pulled_dead is not True and standing.grade != "never":
        yield Finding("caution", "unproved_circuit", name, proof.missing, remedy=proof.remedy, place="feeds")
    yield from _guarded(tap, circuit)


def _guarded(tap: Tap, circuit: Circuit) -> Iterator[Finding]:
    """Which side the tap is on, and what guards its wire."""
    name = circuit.id
    if tap.side == "load" and circuit.place == "fuse":
        yield Finding(
            "caution",
            "tap_on_load_side",
            name,
            "The tap sits on the load side: what it draws passes through the vehicle's own fuse as well.",
            remedy="Turn the tap round so that its feed leg is on the fed side.",
            place="feeds",
        )
    if tap.fuse_a is None:
        yield Finding(
            "stop" if circuit.unfused else "caution",
            "tap_without_fuse",
            name,
            "Nothing protects the added wire.",
            tap.id,
            remedy="Fit a fuse within a hand's length of the tap.",
            place="feeds",
        )

    within = load_table("fuses")["fuse_within_m"]
    if tap.fuse_at_m is not None and tap.fuse_at_m > within:
        yield Finding(
            "stop" if circuit.unfused else "caution",
            "fuse_far_from_tap",
            tap.id,
            "Between the tap and its fuse nothing guards the wire.",
            f"{tap.fuse_at_m:g} m, {within:g} m at the most",
            "Move the fuse to within a hand's length of the tap.",
            "feeds",
        )


def _mismatch(tap: Tap, circuit: Circuit, verdict: Verdict, better: str) -> Iterator[Finding]:
    feed = verdict.feed.replace("_", " ")
    if verdict.feed == "timed":
        yield Finding(
            "caution",
            "feed_goes_to_sleep",
            circuit.id,
            f"It is tapped as {tap.need.replace('_', ' ')}, but goes to sleep after key-off.",
            remedy=better or "Choose a circuit of the right kind.",
            place="feeds",
        )
    elif tap.need == "constant":
        yield Finding(
            "caution",
            "memory_not_constant",
            circuit.id,
            f"The memory feed is {feed}: settings are lost at key off.",
            feed,
            better or "Take a circuit that is live in every state.",
            "feeds",
        )
    elif verdict.feed in ("accessory", "ignition") and tap.need in ("ignition", "ignition_crank"):
        yield Finding(
            "caution",
            "accessory_where_crank_needed",
            circuit.id,
            f"The feed is {feed}: it drops while cranking and the display restarts.",
            feed,
            better or "Take a circuit live in run and crank.",
            "feeds",
        )
    else:
        yield Finding(
            "caution",
            "wrong_feed",
            circuit.id,
            f"It is tapped as {tap.need.replace('_', ' ')}, but it is {feed}.",
            feed,
            better or "Choose a circuit of the right kind.",
            "feeds",
        )
