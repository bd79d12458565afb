"""What is wrong with a place for a sender: zones of its path, heat, wall, bore, straight length, stack, ground.

Figures marked in the code are common practice, no source.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import cast

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.fittings.connections import connection_called
from metrolex.fittings.drills import MATERIALS, TapPractice, plan_hole
from metrolex.job import Job, MeasuringChain, Port, Sender
from metrolex.ports.facts import Facts, facts_of, spare_mouths
from metrolex.ports.fuel import fuel_findings
from metrolex.ports.paths import line_of, paths_for
from metrolex.ports.places import place_of, usual_spots
from metrolex.ports.practices import practice_of
from metrolex.ports.section import Section, section_of
from metrolex.ports.spot import CONE_DEG, distance_for_spot_mm, spot_mm
from metrolex.ports.voice import Voice
from metrolex.ports.wideband import LEAST_TIP_DEG, Practice
from metrolex.ports.zones import verdicts_at, zones_of
from metrolex.quantities import inch_fraction
from metrolex.tables import load_table

__all__ = [
    "HOSE_CLAMP_MM",
    "LONG_STACK_MM",
    "lambda_practice",
    "port_findings",
    "straight_needed_mm",
    "tap_practice",
]

HOSE_CLAMP_MM = 15.0  # of hose under each clamp (common practice)
#: What a sender's body with its plug and the bend of its lead stands above the thread where nobody measured (common practice, no source).
USUAL_BODY_MM = 45.0
#: What a sender's body with its plug and the bend of its lead stands above the thread where nobody measured (common practice, no source).
USUAL_BODY_MM = 45.0
LONG_STACK_MM = 60.0  # brass above a port on an engine that shakes (common practice)
LEAST_TIP_MM = 5.0  # of the tip in the stream (common practice)


def port_findings(
    job: Job, channel: MeasuringChain, port: Port, sender: Sender | None
) -> tuple[Finding, ...]:
    """Every finding of one place for one channel, chosen or only considered."""
    facts = facts_of(job, channel, port)
    say = Voice(port.name, channel.id, f"port {port.id} {channel.channel}")
    found: list[Finding] = []
    if facts.path is not None and facts.at_m is not None:
        if facts.path.length_m is not None and facts.at_m > facts.path.length_m:
            found.append(
                say(
                    "stop",
                    "beyond_path",
                    "The place lies beyond the end of its path.",
                    f"{facts.at_m:g} of {facts.path.length_m:g} m",
                    "Move the pin back.",
                )
            )
        zones = zones_of(channel.measurand, facts.path, job.paths, lambda_practice(job))
        found.extend(verdicts_at(zones, facts.at_m, port.name, channel.id))
        if not facts.path.measured:
            found.append(
                say(
                    "note",
                    "not_measured",
                    f"The lengths of {facts.path.name} are a template's.",
                    "",
                    "Measure it along the pipe and say so.",
                )
            )
    elif facts.path is None:
        found.extend(_unplaced(say, job, channel, port))
    found.extend(fuel_findings(say, job, channel, port, sender))
    found.extend(_heat(say, facts, sender))
    found.extend(_wall(say, job, port, facts))
    found.extend(_swarf(say, job, facts))
    found.extend(_hose(say, port, facts))
    found.extend(_attitude(say, channel, port))
    found.extend(_tread(say, port))
    if sender is not None:
        found.extend(_fit(say, job, channel, port, sender, facts))
    return tuple(found)


def _unplaced(say: Voice, job: Job, channel: MeasuringChain, port: Port) -> Iterator[Finding]:
    """A place without a path: a usual one judged where it usually is, any by what nobody has said yet."""
    place = place_of(channel.measurand, port)
    for path, at_m in usual_spots(job, place)[:1] if place else ():
        zones = zones_of(channel.measurand, path, paths_for(job.vehicle), lambda_practice(job))
        yield from verdicts_at(zones, at_m, port.name, channel.id)
    if channel.measurand != "lambda":
        return
    if "turbo" in job.vehicle.engine.induction.lower():
        yield say(
            "caution",
            "turbine_not_placed",
            "Before a turbine pressure and heat spoil the sensor, and nobody has said where this place is.",
            "",
            "Put it on its flow path, or see for yourself that the turbine comes first.",
        )
    elif job.vehicle.engine.induction not in ("none", "supercharger"):
        yield say(
            "note",
            "turbine_not_placed",
            "With a turbine the place must be behind it; nobody has said yet whether there is one.",
            "",
            "Say on Brief how the engine breathes.",
        )


def lambda_practice(job: Job) -> Practice:
    """The practice of lambda distance chosen on a job."""
    return cast(Practice, practice_of(job, "wideband_distance").key)


def _heat(say: Voice, facts: Facts, sender: Sender | None) -> Iterator[Finding]:
    if sender is None or sender.body.max_degc is None or facts.peak_degc is None:
        return
    if facts.path is not None and facts.path.kind == "exhaust":
        return  # only the tip stands in the gas; the body sits outside
    if facts.peak_degc > sender.body.max_degc:
        yield say(
            "stop",
            "too_hot_for_sender",
            "It gets hotter here than the sender stands.",
            f"{facts.peak_degc:g} °C, sender {sender.body.max_degc:g} °C",
            "Take a sender for the heat, or a cooler place with a hose between.",
        )


def _wall(say: Voice, job: Job, port: Port, facts: Facts) -> Iterator[Finding]:
    if facts.entry != "drilled" or not port.thread:
        return
    if facts.wall_mm is None:
        yield say(
            "caution",
            "wall_not_known",
            "The wall must be known before it is drilled.",
            "wall ?",
            "Measure it: a small pilot hole and a bent wire show it.",
        )
        return
    try:
        thread = connection_called(port.thread)
        plan = plan_hole(
            thread,
            facts.wall_mm,
            facts.material if facts.material in MATERIALS else "steel",
            practice=tap_practice(job),
        )
    except BadInput as fault:
        yield say(
            "stop", "thread_not_for_tapping", fault.message, port.thread, "Choose a thread that is tapped."
        )
        return
    for finding in plan.findings:
        yield say(finding.grade, finding.code, finding.reason, finding.figure, finding.remedy)


def tap_practice(job: Job) -> TapPractice:
    """The practice of tap drills chosen on a job."""
    return cast(TapPractice, practice_of(job, "tap_drill").key)


def _swarf(say: Voice, job: Job, facts: Facts) -> Iterator[Finding]:
    path = facts.path
    if facts.entry != "drilled" or path is None or facts.at_m is None:
        return
    if path.kind == "exhaust":
        turbine = next(
            (part for part in line_of(path, job.paths) if part.kind == "turbine" and facts.at_m < part.at_m),
            None,
        )
        if turbine is not None:
            yield say(
                "caution",
                "swarf_into_turbine",
                "Chips would go straight into the turbine.",
                f"{1000 * (turbine.at_m - facts.at_m):.0f} mm before the turbine",
                "Grease on drill and tap, magnet and vacuum after each size, the last cuts by hand, engine off; best with the part off.",
            )
    elif path.kind == "intake":
        yield say(
            "caution",
            "swarf_into_engine",
            "Chips in the intake end in a cylinder.",
            "",
            "Grease, magnet and vacuum; best with the part off.",
        )


def straight_needed_mm(adapter_mm: float) -> float:
    """Straight hose an in-line adapter wants: half of it is in each end, and a clamp's width beyond on both sides."""
    return 2 * adapter_mm + 2 * HOSE_CLAMP_MM


def _hose(say: Voice, port: Port, facts: Facts) -> Iterator[Finding]:
    if facts.entry != "cut_hose":
        return
    fitting = next((f for f in port.stack if f.sort in ("hose adapter", "hose tee")), None)
    needed = straight_needed_mm(fitting.length_mm if fitting else 20.0)
    size = connection_called(fitting.male).major_mm if fitting and fitting.sort == "hose adapter" else None
    fit_mm = load_table("cards")["hose"]["fit_mm"]
    if size is not None and facts.bore_mm is not None and abs(facts.bore_mm - size) > fit_mm:
        yield say(
            "stop",
            "hose_bore",
            "The adapter is not of the hose's bore: it leaks, or does not go in.",
            f"adapter {size:g}, hose {facts.bore_mm:g} mm",
            "Take the adapter of the hose's bore.",
        )
    if facts.straight_mm is not None and facts.straight_mm < needed:
        yield say(
            "stop",
            "hose_not_straight",
            "On a bend an in-line adapter does not seal.",
            f"{facts.straight_mm:g} mm straight, wants {needed:.0f}",
            "Find a straight stretch for the adapter and both clamps, or take another place.",
        )
    elif not facts.straight:
        yield say(
            "caution",
            "hose_bends",
            "The hose bends here.",
            f"wants {needed:.0f} mm straight",
            "Measure the straight stretch.",
        )


def _tread(say: Voice, port: Port) -> Iterator[Finding]:
    width, distance = port.tread.target_mm, port.tread.distance_mm
    if width is None or distance is None:
        return
    seen = spot_mm(distance, CONE_DEG)
    if seen > width:
        yield say(
            "caution",
            "spot_wider_than_tread",
            "It sees more than the tread: the arch and the road cool the reading.",
            f"{seen:.0f} mm seen, {width:g} mm tread",
            f"Bring it to {distance_for_spot_mm(width, CONE_DEG):.0f} mm from the tread.",
        )


def _attitude(say: Voice, channel: MeasuringChain, port: Port) -> Iterator[Finding]:
    if port.spot.hangs_lowest:
        yield say(
            "caution",
            "hangs_lowest",
            "What hangs lowest meets the stone first, and the oil goes with it.",
            "",
            "Clock it up or sideways.",
        )
    if port.spot.moving_near:
        yield say(
            "caution",
            "moving_near",
            "Something moves close by.",
            "",
            "Try it through its whole travel by hand; bracket the lead.",
        )
    if (
        channel.measurand == "lambda"
        and port.spot.tip_angle_deg is not None
        and port.spot.tip_angle_deg < LEAST_TIP_DEG
    ):
        yield say(
            "caution",
            "lambda_lies_flat",
            "Condensate runs into the sensor and cracks it.",
            f"{port.spot.tip_angle_deg:g}° above level, at least {LEAST_TIP_DEG:g}°",
            "Turn the bung up the side of the pipe.",
        )


def _fit(
    say: Voice, job: Job, channel: MeasuringChain, port: Port, sender: Sender, facts: Facts
) -> Iterator[Finding]:
    if not sender.body.thread or not port.thread:
        return
    try:
        section = section_of(job, channel, port, sender)
    except BadInput as fault:
        yield say(
            "caution",
            "thread_unknown",
            fault.message,
            port.thread or sender.body.thread,
            "Write the thread by its name.",
        )
        return
    for finding in section.stack.findings:
        if finding.code == "plug_spare_ports":
            continue  # counted below: another channel may use a mouth
        # Without a chain yet an adapter may still join them; nothing joins a ring to the wrong plug.
        open_yet = (
            finding.code == "threads_do_not_join" and not port.stack and not port.thread.startswith("plug")
        )
        yield say(
            "caution" if open_yet else finding.grade,
            finding.code,
            finding.reason,
            finding.figure,
            finding.remedy,
        )
    yield from _spare_mouths(say, job, channel, port)
    if section.stack.found or port.stack:
        yield from _dead_end(say, channel, port)
    if (
        facts.bore_mm is not None
        and sender.body.probe_mm is not None
        and sender.body.probe_mm >= facts.bore_mm
    ):
        yield say(
            "stop",
            "bore_too_small",
            "The probe is thicker than the bore it goes into.",
            f"{sender.body.probe_mm:g} in {facts.bore_mm:g} mm",
            "Take a thinner probe or a wider place.",
        )
    if not section.stack.found:
        return
    yield from _as_it_stands(say, channel, port, sender, facts, section)


def _as_it_stands(
    say: Voice, channel: MeasuringChain, port: Port, sender: Sender, facts: Facts, section: Section
) -> Iterator[Finding]:
    """What a chain that goes together does where it stands: shakes, reads in the wall, comes near the far one, has no ground."""
    if section.sticks_out_mm > LONG_STACK_MM and facts.path is not None and not _has_hose(port):
        yield say(
            "caution",
            "stack_shakes",
            "A long stack of brass on an engine shakes itself off.",
            f"{section.sticks_out_mm:.0f} mm above the port",
            "A remote hose to a bracket, or a shorter chain.",
        )
    body_mm = sender.body.stands_mm or USUAL_BODY_MM
    wanted = section.sticks_out_mm + body_mm
    if port.spot.room_mm is not None and wanted > port.spot.room_mm:
        yield say(
            "caution",
            "no_room_above",
            "Chain, sender and its plug stand higher than there is room.",
            f"{'' if sender.body.stands_mm else 'about '}{wanted:.0f} mm, {port.spot.room_mm:g} free",
            "A shorter chain, an elbow, or a remote hose.",
        )
    place = place_of(channel.measurand, port)
    in_line = place is not None and place.entry in ("cut_line", "cut_hose")
    if (
        section.tip_mm is not None
        and section.tip_mm < LEAST_TIP_MM
        and not in_line
        and channel.unit == "degC"
    ):
        yield say(
            "caution",
            "tip_in_adapter",
            "The tip stands in the wall or the adapter: it reads low and late.",
            f"{section.tip_mm:.0f} mm in the stream ({inch_fraction(max(section.tip_mm, 0) / 1000)} in)",
            "A shorter stack or a longer sender.",
        )
    if section.tip_ratio is not None and section.tip_ratio > 0.8:
        yield say(
            "caution",
            "tip_at_far_wall",
            "The tip comes close to the far wall.",
            f"{section.tip_ratio:.0%} across the bore",
            "Pull it back, or put a spacer under it.",
        )
    if sender.wires == 1 and any(joint.seal == "sealant" for joint in section.stack.joints):
        yield say(
            "note",
            "ground_through_sealant",
            "It grounds through threads with sealant on: that may insulate.",
            "body to battery negative, ohms",
            "Measure it when it is in; under 1 ohm is good.",
        )
    if sender.wires == 1 and any(fitting.insulates for fitting in port.stack):
        yield say(
            "caution",
            "fitting_floats",
            "A fitting in rubber joins no metal: the one-wire sender has no ground.",
            "1 wire",
            "Run a ground lead to the adapter, or take a two-wire sender.",
        )


def _dead_end(say: Voice, channel: MeasuringChain, port: Port) -> Iterator[Finding]:
    """What must go on flowing, or the factory switch that must live, ends at a sender without the part that lets it pass."""
    place = place_of(channel.measurand, port)
    missing = [
        sorts
        for sorts in (place.keeps if place else ())
        if not any(fitting.sort in sorts for fitting in port.stack)
    ]
    if missing:
        wanted = " and ".join(" or ".join(f"a {sort}" for sort in sorted(sorts)) for sorts in missing)
        yield say(
            "stop",
            "dead_end",
            "Without the part that lets it pass, flow or factory switch ends at the sender.",
            f"wants {wanted}",
            f"Put {wanted} in the chain, or take another place.",
        )


def _spare_mouths(say: Voice, job: Job, channel: MeasuringChain, port: Port) -> Iterator[Finding]:
    sharing = [other.id for other in job.measured if other.port == port.id]
    spare = spare_mouths(job, port)
    if spare and (not sharing or sharing[0] == channel.id):
        yield say(
            "note",
            "plug_spare_ports",
            "Mouths nobody uses pump the fluid out.",
            f"{spare} to plug",
            "Plug them on the bench.",
        )


def _has_hose(port: Port) -> bool:
    return any(fitting.sort in ("remote hose", "hose") for fitting in port.stack)
