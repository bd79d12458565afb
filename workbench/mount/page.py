"""What the front view shows of a site and of the display in hand."""

from __future__ import annotations

from typing import Any, TypedDict

from django.utils.safestring import SafeString

from metrolex.dash.lit import lit_now
from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.job import Display, Job, Mounting, Site
from metrolex.mount.check import findings_of, findings_of_site, touching
from metrolex.mount.fitted import Fitted, fitted
from metrolex.mount.pod import Placed, Pod, normal_up_deg, order_of, pods_of
from metrolex.mount.reflect import Mirrored, Pictured, clear_turn, mirrored_of, pictured_of
from metrolex.mount.seen import Seen, View, seen_of, share_words
from metrolex.mount.templates import site_template, site_templates, suggested_template
from metrolex.twin import readings
from workbench.dash.page_drawing import Showing
from workbench.jobs.look import Look
from workbench.mount.front_drawing import front_drawing, grade_of
from workbench.mount.side_drawing import side_drawing

__all__ = ["InHand", "in_hand", "show_context", "site_at"]


#: Grades of legibility as one says them.
GRADE_WORDS = {
    "good": "read well",
    "acceptable": "large enough",
    "minimum": "just readable",
    "too_small": "too small to read",
}


class InHand(TypedDict, total=False):
    """A display in its place: how it is seen, how it sits, what is wrong; ``seen`` None where it cannot be seen."""

    mounting: Mounting
    display: Display
    site: Site
    seen: Seen | None
    not_seen: str
    hidden_words: str
    hidden_pct: int
    grade_words: str
    way_words: str
    fits: Fitted
    mirrored: Mirrored
    pictured: Pictured | None
    aim: tuple[float, float] | None
    normal_up: float | None
    findings: tuple[Finding, ...]
    of_site: list[Finding]
    sound: bool
    grade: str
    side: SafeString | str


def site_at(job: Job, key: str) -> Site | None:
    """A site of the job, the first for '' or where there is none of that key."""
    return job.site(key) or next(iter(job.sites), None)


def in_hand(job: Job, mounting: Mounting, *, drawn: bool = True) -> InHand | None:
    """All that is said of one display in its place; None where its site or display is gone."""
    site, display = job.site(mounting.site), job.display(mounting.display)
    if site is None or display is None:
        return None
    findings = (*findings_of(job, mounting), *touching(job, mounting))
    of_site = [one for one in findings_of_site(job, site) if one.grade != "note"]
    fits = fitted(display, mounting)
    found: InHand = {
        "mounting": mounting,
        "display": display,
        "site": site,
        "fits": fits,
        "findings": findings,
        "of_site": of_site,
        "sound": site.measured and not findings and not of_site and fits.fits is True,
        "grade": grade_of(findings),
        "normal_up": normal_up_deg(job, display) if display.housing.shape == "round" else None,
    }
    try:
        seen = seen_of(job, mounting)
        mirror = mirrored_of(site, mounting)
    except BadInput as fault:
        return found | {"seen": None, "not_seen": fault.message}
    if seen is None:
        return found
    worst = max(seen.hidden, seen.hidden_turned)
    return found | {
        "seen": seen,
        "hidden_words": share_words(worst, "face"),
        "hidden_pct": round(100 * worst),
        "grade_words": GRADE_WORDS[seen.grade] if seen.grade else "",
        "way_words": _way_words(seen.view),
        "mirrored": mirror,
        "pictured": pictured_of(site, mounting),
        "aim": clear_turn(site, mounting) if drawn else None,
        "side": side_drawing(site, mounting, seen.view).safe() if drawn else "",
    }


def _way_words(view: View) -> str:
    """Where the eyes go for it: '22° down, 12° left'."""
    said = []
    if abs(view.down_deg) >= 0.5:
        said.append(f"{abs(view.down_deg):.0f}° {'down' if view.down_deg > 0 else 'up'}")
    if abs(view.aside_deg) >= 0.5:
        said.append(f"{abs(view.aside_deg):.0f}° to the {'right' if view.aside_deg > 0 else 'left'}")
    return ", ".join(said) or "straight ahead"


def show_context(look: Look, site_key: str, mounting_key: str) -> dict[str, Any]:
    """The front view of one site with one display in hand."""
    job = look.job
    asked = job.mounting(mounting_key)
    site = site_at(job, asked.site if asked is not None and not site_key else site_key)
    context: dict[str, Any] = {
        "tab": "front",
        "site": site,
        "templates": site_templates(),
        "suggested": suggested_template(job),
        "waiting": [
            display
            for display in job.displays
            if display.face and all(one.display != display.id for one in job.mountings)
        ],
    }
    if site is None:
        return context
    here = [one for one in job.mountings if one.site == site.id]
    chosen = next((one for one in here if one.id == mounting_key), here[0] if here else None)
    return context | {
        "drawing": front_drawing(
            job, site, Showing(readings(look.solved), lit_now(look.solved)), chosen.id if chosen else ""
        ).safe(),
        "here": [(one, job.display(one.display)) for one in here],
        "hand": in_hand(job, chosen) if chosen else None,
        "pods": [_pod(job, pod) for pod in pods_of(job) if pod.site == site.id],
        "measured_from": _measured_from(site),
    }


def _pod(job: Job, pod: Pod) -> tuple[Pod, tuple[Placed, ...], bool, str]:
    """A pod with the place that suits each of its displays, whether any moves, and why it cannot be put in order."""
    try:
        placed = order_of(job, pod)
    except BadInput as fault:
        return pod, (), False, fault.message
    return pod, placed, any(one.moves for one in placed), ""


def _measured_from(site: Site) -> str:
    """The point measured from in words, where the site was begun from a template."""
    try:
        return site_template(site.id.rstrip("0123456789 ")).measured_from
    except BadInput:
        return "the point you measure from"
