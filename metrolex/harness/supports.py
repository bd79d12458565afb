"""What leads may be tied to, what they must keep clear of, and what is asked before they lie on pillar or column.

Common practice, no source; the words stand in ``data/layouts.toml``. The vehicle maker's instructions on airbags come first.
"""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.findings import Finding
from metrolex.job import Job, Run, Segment, Zone
from metrolex.layout.routes import route_of
from metrolex.tables import load_table
from metrolex.topology import topology_of

__all__ = [
    "NEVER_STOP",
    "forbidden_supports",
    "passed_words",
    "support_findings",
    "support_words",
    "zones_passed",
]

NEVER_STOP = ("fuel line", "brake line", "steering column", "moving part", "release cable")
AIRBAG_KINDS = ("pillar", "column", "roof")
CLOSED_KINDS = ("console", "floor", "roof", "tank")
OUTSIDE = ("engine bay", "underside", "wheel arch", "frame")
INSIDE = ("dash", "pillar", "column", "console", "footwell", "floor", "roof")


def support_words() -> tuple[tuple[str, ...], tuple[str, ...]]:
    """What leads may be tied to, and what never carries one."""
    table = load_table("layouts")["supports"]
    return tuple(table["good"]), tuple(table["never"])


def forbidden_supports(words: tuple[str, ...]) -> dict[str, str]:
    """Those of the words that never carry a lead, with the reason."""
    never = load_table("layouts")["supports"]["never"]
    return {word: never[word] for word in words if word in never}


def support_findings(job: Job) -> Iterator[Finding]:
    """Every run along what it is tied to and the zones it passes; walls passed without a hole."""
    asked: set[str] = set()
    for run in job.runs:
        channel = next((c.id for c in job.measured if c.run == run.id), "")
        for segment in topology_of(job).ways[run.id].segments:
            for word, reason in forbidden_supports(segment.tied_to).items():
                yield Finding(
                    "stop" if word in NEVER_STOP else "caution",
                    "tied_to_forbidden",
                    run.name,
                    f"'{segment.name}' is tied to the {word}. {reason}",
                    word,
                    "Tie it to a factory loom and its clips, or to the body.",
                    "harness",
                    channel,
                    about=f"run {run.id}, {segment.name}, {word}",
                )
            yield from _passed_by(run, segment, channel)
        yield from _same_hole(job, run, channel)
        for zone in zones_passed(job, run):
            yield from _zone_findings(run, zone, channel, asked)
        plug = job.zone(run.plug)
        if plug is not None and plug.kind in CLOSED_KINDS:
            yield Finding(
                "caution",
                "plug_out_of_reach",
                run.name,
                f"The plug that parts when the sender is replaced lies in {plug.name}.",
                remedy="Bring it to where a hand reaches it without trim coming out.",
                place="harness",
                channel=channel,
                about=f"run {run.id}",
            )
    for way in job.ways:
        a, b = job.zone(way.a), job.zone(way.b)
        kinds = {a.kind if a else "", b.kind if b else ""}
        if way.opening is None and kinds & set(OUTSIDE) and kinds & set(INSIDE) and _used(job, way.id):
            yield Finding(
                "caution",
                "wall_without_opening",
                way.name or f"{a.name if a else way.a} to {b.name if b else way.b}",
                "Leads pass from outside to inside here, and no opening is named.",
                remedy="Say which grommet or hole they pass.",
                place="harness",
                about=f"way {way.id}",
            )


def _passed_by(run: Run, segment: Segment, channel: str) -> Iterator[Finding]:
    """What a stretch passes close by."""
    table = load_table("layouts")["passes"]
    for word in segment.beside.passes:
        row = table.get(word)
        if row is not None:
            yield Finding(
                row["grade"],
                "passes_by",
                run.name,
                f"'{segment.name or 'a stretch'}' passes the {word}. {row['words']}",
                f"{row['clear_mm']} mm off",
                row["remedy"],
                "harness",
                channel,
                about=f"run {run.id}, {segment.name}, {word}",
            )


def _same_hole(job: Job, run: Run, channel: str) -> Iterator[Finding]:
    """A path that goes out and back by one opening."""
    route = route_of(job, run)
    for key in route.twice if route else ():
        opening = job.opening(key)
        yield Finding(
            "caution",
            "same_hole_twice",
            run.name,
            f"It goes out and back through {opening.name if opening else key}: there is no other way on the plan.",
            remedy="Leave out the zone on the far side, or add the way it really takes.",
            place="harness",
            channel=channel,
            about=f"run {run.id}",
        )


def passed_words() -> dict[str, str]:
    """What a lead may pass close by, with what is said of it."""
    return {word: str(row["words"]) for word, row in load_table("layouts")["passes"].items()}


def zones_passed(job: Job, run: Run) -> list[Zone]:
    """The zones a run goes through, or ends in where no way is known."""
    route = route_of(job, run)
    keys = route.zones if route else tuple(key for key in (run.start, run.finish) if key)
    return [zone for zone in job.zones if zone.id in keys]


def _used(job: Job, way: str) -> bool:
    routes = [route_of(job, run) for run in job.runs]
    return any(step.id == way for route in routes if route for step in route.ways)


def _zone_findings(run: Run, zone: Zone, channel: str, asked: set[str]) -> Iterator[Finding]:
    if zone.pedals:
        yield Finding(
            "note",
            "near_pedals",
            run.name,
            f"It passes {zone.name}: nothing may reach a pedal or a foot on its way to one.",
            remedy="Tie it high, press every pedal to its stop and look.",
            place="harness",
            channel=channel,
            about=f"run {run.id}",
        )
    if zone.kind not in AIRBAG_KINDS or zone.id in asked:
        return
    asked.add(zone.id)
    if zone.airbag == "":
        yield Finding(
            "caution",
            "airbag_not_asked",
            zone.name,
            "Nobody said yet whether an airbag sits here.",
            remedy="Look for its mark on the trim and in the maker's manual, then say so on the plan.",
            place="harness",
            about=f"zone {zone.id}",
        )
    elif zone.airbag == "there":
        yield Finding(
            "caution",
            "airbag_here",
            zone.name,
            "An airbag unfolds here: no lead, pod or bracket in front of it or across its seam.",
            remedy="Follow the vehicle maker's instructions; another place is the safer choice.",
            place="harness",
            about=f"zone {zone.id}",
        )
