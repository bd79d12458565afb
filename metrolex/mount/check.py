"""All that is wrong with where displays go: fit, what is hidden, what cannot be read, what mirrors, what does not hold."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from metrolex.errors import BadInput
from metrolex.findings import Finding, about
from metrolex.job import Display, Job, Mounting, Site
from metrolex.job.once import once_per_job
from metrolex.mount.body import laid_flat, site_outline
from metrolex.mount.fitted import fitted
from metrolex.mount.held import held_findings, materials
from metrolex.mount.reflect import USUAL_LATITUDE, clear_turn, mirrored_of, pictured_of
from metrolex.mount.seen import Covered, Seen, seen_of, share_words
from metrolex.mount.sight import GRADES
from metrolex.tables import load_table

__all__ = ["findings_of", "findings_of_site", "mount_findings", "open_mountings", "touching"]

#: Where an airbag commonly sits, so that it is asked about.
WITH_AIRBAG = ("dash", "pillar", "column")
#: A picture in the windscreen that takes this share of the light and stands within these degrees of the road is said.
PICTURE_SHARE, PICTURE_DEG = 0.15, 12.0
SUN_HOURS = 50.0
#: What hangs on the site's figures.
OF_SIGHT = frozenset(
    (
        "not_seen",
        "hidden_by_wheel",
        "hidden_from_some",
        "figures_small",
        "askew",
        "far_from_road",
        "hides",
        "in_reach",
        "must_stay_free",
        "mirrors_sun",
        "mirrors_headlamps",
        "in_the_windscreen",
        "over_the_edge",
    )
)


@once_per_job
def mount_findings(job: Job) -> tuple[Finding, ...]:
    """Every finding of the place, display by display; of what is seen only where the site has been measured: the usual figures prove nothing."""
    found: list[Finding] = []
    for mounting in job.mountings:
        site = job.site(mounting.site)
        of_it = list(about(f"mounting {mounting.id}", findings_of(job, mounting)))
        found.extend(
            of_it if site is not None and site.measured else (f for f in of_it if f.code not in OF_SIGHT)
        )
    found.extend(_between(job))
    for site in job.sites:
        if any(one.site == site.id for one in job.mountings):
            found.extend(findings_of_site(job, site))
    return tuple(dict.fromkeys(found))


def open_mountings(job: Job) -> int:
    """Displays with a face that have no place yet, and those nobody has measured for."""
    placed = {one.display: one for one in job.mountings}
    faces = [display for display in job.displays if display.face]
    return sum(
        display.id not in placed or bool(fitted(display, placed[display.id]).missing) for display in faces
    )


def findings_of(job: Job, mounting: Mounting) -> tuple[Finding, ...]:
    """What is wrong with one display in its place."""
    site, display = job.site(mounting.site), job.display(mounting.display)
    if site is None or display is None:
        return ()
    found = [*fitted(display, mounting).findings, *held_findings(job, site, display, mounting)]
    try:
        seen = seen_of(job, mounting)
    except BadInput as fault:
        found.append(Finding("stop", "not_seen", display.name, fault.message, "", "", "mount"))
        return tuple(found)
    if display.lamps.lighting == "sensor" and (mounting.pod or mounting.stands_mm > 20):
        found.append(
            _say(
                "note",
                "light_eye_shaded",
                display,
                "It looks at the light itself: its eye must not sit in the shade of pod or hood.",
                "",
                "Hold a hand over the eye and see it dim; then once more in its pod.",
            )
        )
    if seen is not None:
        found += [*_hidden(display, seen), *_read(display, seen), *_covers(display, seen)]
        found += _mirrors(site, display, mounting)
    if display.housing.bezel is not None and not site_outline(site).buffer(1.0).covers(
        laid_flat(display, mounting)
    ):
        found.append(
            _say(
                "caution",
                "over_the_edge",
                display,
                f"It stands over the edge of {site.name}.",
                "",
                "Move it in, or measure the outline again.",
            )
        )
    return tuple(found)


def _hidden(display: Display, seen: Seen) -> Iterator[Finding]:
    limits = load_table("sight")["hidden"]
    worst = max(seen.hidden, seen.hidden_turned)
    if worst > limits["note"]:
        when = "" if seen.hidden >= worst - 0.01 else " with the wheel turned"
        yield _say(
            "stop" if seen.hidden > limits["stop"] else "caution",
            "hidden_by_wheel",
            display,
            f"The wheel or bar hides {share_words(worst, 'face')}{when}.",
            f"{worst:.0%} of it",
            "Move it into the gap over the boss or beside the rim; set the wheel first, as the driver has it.",
        )
    elif seen.hidden_anyone > limits["stop"]:
        yield _say(
            "note",
            "hidden_from_some",
            display,
            f"From some seats the wheel hides {share_words(seen.hidden_anyone, 'face')}.",
            f"{seen.hidden_anyone:.0%} of it at the worst",
            "Measure the eye of whoever drives.",
        )


def _read(display: Display, seen: Seen) -> Iterator[Finding]:
    limits = load_table("sight")
    if seen.arcmin is not None and seen.grade in ("minimum", "too_small"):
        yield _say(
            "caution",
            "figures_small",
            display,
            "Its largest figures are "
            + (
                "too small to be read from the seat."
                if seen.grade == "too_small"
                else "at the least that is read."
            ),
            f"{seen.arcmin:.0f}′ of {GRADES[-1][1]:g}′ at the least",
            f"Figures of {seen.needed_mm:.1f} mm would be good, or {seen.view.distance_mm * seen.arcmin / GRADES[0][1]:.0f} mm from the eye.",
        )
    if seen.view.angle_deg > limits["angle_deg"]["acceptable"]:
        yield _say(
            "caution",
            "askew",
            display,
            "It is looked at askew: a needle reads beside its line, and a screen fades.",
            f"{seen.view.angle_deg:.0f}°",
            "Aim it at the eye: a wedge or a pod.",
        )
    if seen.view.glance_deg > limits["glance_deg"]["acceptable"]:
        far = seen.view.glance_deg > limits["glance_deg"]["far"]
        yield _say(
            "caution" if far else "note",
            "far_from_road",
            display,
            "The eyes leave the road too far for it." if far else "It takes more than a glance.",
            f"{seen.view.glance_deg:.0f}° off the road",
            "Nearer to straight ahead, or only what is read standing; a warning lamp high up for the rest.",
        )


def _covers(display: Display, seen: Seen) -> Iterator[Finding]:
    limits = load_table("sight")["covered"]
    for one in seen.covers:
        part = one.fixture
        if part.rank == "seen" and one.worst > limits["note"]:
            yield _say(
                "stop" if one.share > limits["stop"] else "caution",
                "hides",
                display,
                one.words
                if one.share > limits["note"]
                else f"From some seats it hides {share_words(one.worst, part.name)}.",
                f"{max(one.share, one.worst):.0%}",
                _room_words(part.kind),
                f"display {display.id} over {part.id}",
            )
        elif part.rank == "reached" and (one.touches or one.share > 0.5):
            yield _say(
                "caution",
                "in_reach",
                display,
                f"{part.name} is not reached with it there.",
                _touch_words(one),
                "Leave room for a finger all round, or move the switch.",
                f"display {display.id} over {part.id}",
            )
        elif part.rank == "free" and one.touches:
            airbag = part.kind in ("airbag", "seam")
            yield _say(
                "stop" if airbag else "caution",
                "on_airbag" if airbag else "must_stay_free",
                display,
                f"{part.name} must stay free." + (" What stands on an airbag is thrown." if airbag else ""),
                _touch_words(one),
                "Another place; the vehicle maker's instructions say what may be fitted where."
                if airbag
                else "Another place, or lead the air round it.",
                f"display {display.id} over {part.id}",
            )


def _room_words(kind: str) -> str:
    if kind == "tell-tale":
        return "Move it, or give the tell-tale a new place: some the law wants."
    return "Move it over something that may be covered."


def _touch_words(one: Covered) -> str:
    return f"{one.share:.0%} hidden" if one.share > 0.005 else "too near"


def _mirrors(site: Site, display: Display, mounting: Mounting) -> Iterator[Finding]:
    if display.screen.lens == "clear":
        found = mirrored_of(site, mounting)
        if found.sun_hours > SUN_HOURS:
            aim = clear_turn(site, mounting)
            yield _say(
                "note",
                "mirrors_sun",
                display,
                f"{found.words} The sun can stand there, {found.height_deg:.0f}° high.",
                f"about {found.sun_hours:.0f} h a year at that height"
                + (f", latitude {USUAL_LATITUDE:g}° taken" if site.glass.latitude_deg is None else ""),
                f"Aim it {_aim_words(*aim)}, or a matt lens." if aim else "A hood over it, or a matt lens.",
            )
        elif found.headlamps:
            yield _say(
                "note",
                "mirrors_headlamps",
                display,
                f"{found.words} At night the headlamps of who drives behind stand there.",
                "",
                "Aim it a little down, or a matt lens.",
            )
    picture = pictured_of(site, mounting)
    if picture is not None and picture.share > PICTURE_SHARE and abs(picture.below_deg) < PICTURE_DEG:
        yield _say(
            "caution",
            "in_the_windscreen",
            display,
            "At night its face stands in the windscreen.",
            f"{abs(picture.below_deg):.0f}° {'below' if picture.below_deg >= 0 else 'above'} straight ahead",
            "A hood over it, or aim it down; dim it at night.",
        )


def _aim_words(up: float, right: float) -> str:
    said = [f"{abs(up):.0f}° {'up' if up > 0 else 'down'}"] if up else []
    said += [f"{abs(right):.0f}° to the {'right' if right > 0 else 'left'}"] if right else []
    return " and ".join(said)


def touching(job: Job, mounting: Mounting) -> tuple[Finding, ...]:
    """What a display lies on or against."""
    mine = job.display(mounting.display)
    found = []
    for other, one in _sized(job):
        if mine is not None and mine.housing.bezel is not None and one.id != mounting.id:
            found.append(_pair(mine, mounting, other, one))
    return tuple(finding for finding in found if finding is not None)


def _between(job: Job) -> Iterator[Finding]:
    """Displays on or against one another, each pair once."""
    for (first, a), (second, b) in itertools.combinations(_sized(job), 2):
        found = _pair(first, a, second, b)
        if found is not None:
            yield found


def _sized(job: Job) -> list[tuple[Display, Mounting]]:
    """The displays in their places whose bezels are known."""
    known = [(job.display(one.display), one) for one in job.mountings]
    return [
        (display, one) for display, one in known if display is not None and display.housing.bezel is not None
    ]


def _pair(first: Display, a: Mounting, second: Display, b: Mounting) -> Finding | None:
    if a.site != b.site:
        return None
    mine, its = laid_flat(first, a), laid_flat(second, b)
    apart = mine.distance(its)
    lie_on = apart == 0 and mine.intersection(its).area > 1.0
    if not lie_on and apart >= float(load_table("sight")["bezels_mm"]):
        return None
    return _say(
        "stop" if lie_on else "caution",
        "on_one_another" if lie_on else "too_near",
        first,
        f"Its bezel {'lies on' if lie_on else 'touches'} that of {second.name}.",
        "" if lie_on else f"{apart:.1f} mm apart",
        "Move one of them; a pod has its own spacing.",
        f"display {first.id} on {second.id}",
    )


def findings_of_site(job: Job, site: Site) -> Iterator[Finding]:
    """What is wrong with a place whatever is mounted there."""
    made_of = next((one for one in materials() if one.key == site.made_of), None)
    if made_of is not None and made_of.shiny:
        yield Finding(
            "note",
            "shiny_panel",
            site.name,
            f"{made_of.words[0].upper()}{made_of.words[1:]} throws the sun into the driver's eyes.",
            "",
            "Paint it matt black before anything is fitted.",
            "mount",
            about=f"site {site.id}",
        )
    if made_of is not None and made_of.brittle:
        yield Finding(
            "note",
            "old_and_brittle",
            site.name,
            f"Old {made_of.words} tears when it is cold or pulled.",
            "",
            "Warm it first, pull at its ends, look for hidden screws; a torn one is hardly to be had.",
            "mount",
            about=f"site {site.id}",
        )
    yield from _airbag(job, site)


def _airbag(job: Job, site: Site) -> Iterator[Finding]:
    if site.kind not in WITH_AIRBAG or any(
        one.kind in ("airbag", "seam") and one.site == site.id for one in job.fixtures
    ):
        return
    said = {zone.airbag for zone in job.zones if zone.kind == site.kind} | {site.airbag}
    if said <= {""}:
        yield Finding(
            "caution",
            "airbag_not_asked",
            site.name,
            "Nobody has said yet whether an airbag sits here.",
            "",
            "Look for the mark on the trim and ask the vehicle's papers; then say it here.",
            "mount",
            about=f"site {site.id}",
        )
    elif "there" in said:
        yield Finding(
            "stop",
            "airbag_not_drawn",
            site.name,
            "An airbag sits here, and its flap and seam are not drawn.",
            "",
            "Draw them among the parts of the dash, or choose another place; the vehicle maker's instructions come first.",
            "mount",
            about=f"site {site.id}",
        )


def _say(
    grade: str, code: str, display: Display, reason: str, figure: str, remedy: str, part: str = ""
) -> Finding:
    return Finding(grade, code, display.name, reason, figure, remedy, "mount", about=part)  # type: ignore[arg-type]
