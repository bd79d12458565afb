"""What is wrong with the pages of a job: what stands twice or nowhere, what is too small, what cannot be told apart, what a display cannot do."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from metrolex.dash.colours import alike_for
from metrolex.dash.faces import FaceNow, PageNow, pages_of, shown_on
from metrolex.dash.lamps import lamp_findings, output_findings
from metrolex.dash.own_lamps import own_lamp_findings
from metrolex.errors import BadInput
from metrolex.findings import Finding, about
from metrolex.job import FACES, Display, Job
from metrolex.job.once import once_per_job
from metrolex.mount.seen import seen_of
from metrolex.mount.sight import GRADES, arcmin_of, character_for, grade_of
from metrolex.quantities import unit_words
from metrolex.tables import load_table

__all__ = ["dash_findings", "lamp_colour", "open_pages", "seen_from_mm"]


@once_per_job
def dash_findings(job: Job) -> tuple[Finding, ...]:
    """Every finding of the place. Pages nobody laid out are not judged."""
    found: list[Finding] = []
    for display in job.displays:
        pages = pages_of(job, display.id)
        if any(page.made for page in pages):
            found.extend(about(f"display {display.id}", _of_display(job, display, pages)))
    found.extend(lamp_findings(job))
    found.extend(output_findings(job))
    found.extend(own_lamp_findings(job))
    return tuple(dict.fromkeys(found))


def open_pages(job: Job) -> int:
    """Displays with more than one face, whose pages nobody has laid out."""
    return sum(
        display.face
        and display.screen.columns * display.screen.rows > 1
        and not any(page.made for page in pages_of(job, display.id))
        for display in job.displays
    )


def seen_from_mm(job: Job, display: Display) -> float | None:
    """How far the eye is from a display; None while its place has not been measured."""
    mounting = next((one for one in job.mountings if one.display == display.id), None)
    site = job.site(mounting.site) if mounting else None
    if mounting is None or site is None or not site.measured:
        return None
    try:
        seen = seen_of(job, mounting)
    except BadInput:
        return None
    return seen.view.distance_mm if seen else None


def lamp_colour(face: FaceNow) -> str:
    """The colour a lamp face lights in: by its meaning; a warning of its channel is red."""
    return str(load_table("faces")["lamps"].get(face.face.lamp, "red"))


def _of_display(job: Job, display: Display, pages: tuple[PageNow, ...]) -> Iterator[Finding]:
    screen = display.screen
    if len(pages) > screen.holds_pages:
        yield _say(
            "stop",
            "too_many_pages",
            display.name,
            f"It holds {screen.holds_pages} page{'s' if screen.holds_pages > 1 else ''}.",
            f"{len(pages)} laid out",
            "Take pages out, or put more on one.",
        )
    shown = shown_on(job, pages)
    for chain in job.chains:
        if chain.display == display.id and chain.channel not in shown:
            warns = not chain.alarm.silent
            yield _say(
                "caution",
                "warning_on_no_page" if warns else "on_no_page",
                chain.name,
                f"It is read by {display.name}, and no page shows it{'; its warning would come without its figure' if warns else ''}.",
                "",
                "Put it on a page.",
                chain.id,
            )
    distance = seen_from_mm(job, display)
    for page in pages:
        yield from about(f"page {display.id} {page.page.id}", _of_page(display, page, distance))


def _of_page(display: Display, page: PageNow, distance: float | None) -> Iterator[Finding]:
    where = f"{display.name}, {page.page.name}"
    if not page.faces:
        yield _say(
            "caution", "empty_page", where, "Nothing stands on it.", "", "Put faces on it, or take it out."
        )
    held: dict[str, int] = {}
    for face in page.faces:
        if face.face.channel:
            held[face.label] = held.get(face.label, 0) + 1
        yield from about(f"face {face.face.id}", _of_face(display, where, face, distance))
    for label, count in held.items():
        if count > 1:
            yield _say(
                "note",
                "twice_on_a_page",
                where,
                f"{label} stands on it {count} times.",
                "",
                "Once is read faster.",
            )
    for one, two in itertools.combinations(page.faces, 2):
        if _cells(one) & _cells(two):
            yield _say(
                "stop",
                "faces_overlap",
                where,
                f"{one.label} and {two.label} lie on one another.",
                "",
                "Move one of them.",
                part=f"face {one.face.id} on {two.face.id}",
            )
    yield from _colours(where, page)


def _cells(face: FaceNow) -> set[tuple[int, int]]:
    one = face.face
    return {
        (column, row)
        for column in range(one.column, one.column + one.columns)
        for row in range(one.row, one.row + one.rows)
    }


def _of_face(display: Display, where: str, face: FaceNow, distance: float | None) -> Iterator[Finding]:
    one, screen = face.face, display.screen
    if one.column + one.columns - 1 > screen.columns or one.row + one.rows - 1 > screen.rows:
        yield _say(
            "stop",
            "off_the_page",
            where,
            f"{face.label} stands over the edge of the page.",
            f"{screen.columns} by {screen.rows} cells",
            "Move it in, or make it smaller.",
        )
    if screen.faces and one.kind not in screen.faces:
        yield _say(
            "stop",
            "face_not_drawn",
            where,
            f"{display.name} cannot draw {FACES[one.kind]}.",
            "",
            f"It draws: {', '.join(FACES[kind] for kind in screen.faces)}.",
        )
    yield from _of_scale(where, face)
    yield from _of_figures(where, face, distance)


def _of_scale(where: str, face: FaceNow) -> Iterator[Finding]:
    """A scale of the page's own that ends where it must not."""
    one = face.face
    if face.chain is None:
        return
    key, unit = face.chain.id, unit_words(face.unit)
    if face.low is not None and face.high is not None:
        margin = float(load_table("faces")["range"]["margin"]) * (face.high - face.low)
        said = one.low is not None or one.high is not None
        if (
            said
            and face.normal is not None
            and (face.normal[0] < face.low + margin or face.normal[1] > face.high - margin)
        ):
            yield _say(
                "caution",
                "ends_in_normal",
                where,
                f"The scale of {face.label} ends in the zone it stands in while all is well.",
                f"{face.low:g} to {face.high:g} {unit}",
                "Widen the scale: a needle at its end tells nothing.",
                key,
            )
        for word, level in (("low", face.warn_low), ("high", face.warn_high)):
            if said and level is not None and not face.low < level < face.high:
                yield _say(
                    "caution",
                    "warning_off_the_scale",
                    where,
                    f"The {word} warning of {face.label} does not lie on its scale.",
                    f"{level:g} {unit}",
                    "Widen the scale, so that one sees the warning coming.",
                    key,
                )


def _of_figures(where: str, face: FaceNow, distance: float | None) -> Iterator[Finding]:
    """Figures too small for the eye's distance."""
    one = face.face
    if face.chain is None:
        return
    if distance is not None and one.kind != "lamp":
        arcmin = arcmin_of(face.figure_mm, distance)
        if grade_of(arcmin) in ("minimum", "too_small"):
            yield _say(
                "caution",
                "figures_small",
                where,
                f"The figures of {face.label} are {'too small' if grade_of(arcmin) == 'too_small' else 'at the least that is read'} from the seat.",
                f"{face.figure_mm:.1f} mm, {arcmin:.0f}′",
                f"{character_for(GRADES[1][1], distance):.1f} mm are large enough: give it more cells.",
                face.chain.id,
            )


def _colours(where: str, page: PageNow) -> Iterator[Finding]:
    lamps = [face for face in page.faces if face.face.kind == "lamp"]
    for one, two in itertools.combinations(lamps, 2):
        lacking = alike_for(lamp_colour(one), lamp_colour(two))
        beside = abs(one.face.column - two.face.column) + abs(one.face.row - two.face.row) <= 1
        if lacking and beside:
            yield _say(
                "note",
                "colours_alike",
                where,
                f"{one.label} and {two.label}, {lamp_colour(one)} and {lamp_colour(two)}, look alike to a driver who sees no {lacking[0]}.",
                "",
                "Not beside one another, and with their names in them.",
            )


def _say(
    grade: str,
    code: str,
    subject: str,
    reason: str,
    figure: str = "",
    remedy: str = "",
    channel: str = "",
    part: str = "",
) -> Finding:
    return Finding(grade, code, subject, reason, figure, remedy, "dash", channel, part)  # type: ignore[arg-type]
