"""Where displays go: sites, what is in them, each display in its place, pods."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from metrolex.acts.edit import display_called, free_id, replaced, with_fields
from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import Fixture, Job, Mounting, Site
from metrolex.job.references import without
from metrolex.mount.body import bezel_size
from metrolex.mount.held import hold_called
from metrolex.mount.pod import MOST_IN_POD, normal_up_deg, order_of, pods_of
from metrolex.mount.shadow import shadows_of
from metrolex.mount.templates import site_template

__all__ = [
    "aim_mounting",
    "move_mounting",
    "order_pod",
    "place_display",
    "place_in_pod",
    "remove_fixture",
    "remove_mounting",
    "remove_site",
    "set_fixture",
    "set_hold",
    "set_mounting",
    "set_site",
    "start_site",
    "trace_outline",
    "turn_normal_up",
]

#: Between two bezels in a pod, mm (common practice, no source).
POD_GAP_MM = 6.0


def start_site(job: Job, key: str, name: str = "") -> Job:
    """The job with one more site, by a template, with the parts in it. Raises BadInput."""
    template = site_template(key)
    site_id = free_id(template.site.id, (one.id for one in job.sites))
    site = replace(template.site, id=site_id, name=name.strip() or template.site.name)
    taken = [one.id for one in job.fixtures]
    fresh = []
    for part in template.fixtures:
        part_id = free_id(part.id, taken)
        taken.append(part_id)
        fresh.append(replace(part, id=part_id, site=site_id))
    return replace(job, sites=(*job.sites, site), fixtures=(*job.fixtures, *fresh))


def set_site(job: Job, key: str, data: dict[str, Any]) -> Job:
    """The named facts of a site, each where it stands. Raises BadInput where its eye is not before it, or in the wheel."""
    _called(job.sites, "site", key)
    job = replace(job, sites=with_fields(job.sites, Site, key, data))
    site = job.site(key)
    if site is not None:
        shadows_of(site)
    return job


def trace_outline(job: Job, key: str, outline: Iterable[tuple[float, float]]) -> Job:
    """A site's outline, as measured or traced. Raises BadInput for one that crosses itself."""
    return set_site(job, key, {"outline": [list(point) for point in outline], "measured": True})


def remove_site(job: Job, key: str) -> Job:
    """The job without a site, what is in it and the places displays have there."""
    return without(job, "sites", key)


def set_fixture(job: Job, key: str, data: dict[str, Any]) -> Job:
    """A part of the dash; '' for its key makes a new one. Raises BadInput."""
    _called(job.sites, "site", str(data.get("site") or _of(job.fixtures, key, "site")))
    key = key or free_id(str(data["name"]).strip().lower()[:50] or "part", (one.id for one in job.fixtures))
    return replace(job, fixtures=with_fields(job.fixtures, Fixture, key, data))


def remove_fixture(job: Job, key: str) -> Job:
    """The job without a part of the dash."""
    return without(job, "fixtures", key)


def place_display(
    job: Job, display_id: str, site_id: str, x: float | None = None, y: float | None = None
) -> Job:
    """A display put into a site, at a point or where there is room; one that has a place already is moved there. Raises BadInput."""
    display = display_called(job, display_id)
    site = _called(job.sites, "site", site_id)
    now = next((one for one in job.mountings if one.display == display_id), None)
    if x is None or y is None:
        x, y = _free_spot(job, site, bezel_size(display), display_id)
    if now is not None:
        return replace(
            job,
            mountings=replaced(
                job.mountings,
                replace(now, site=site_id, x=x, y=y, pod="" if now.site != site_id else now.pod),
            ),
        )
    fresh = read(
        Mounting,
        {
            "id": free_id(display_id, (one.id for one in job.mountings)),
            "display": display_id,
            "site": site_id,
            "x": x,
            "y": y,
        },
    )
    return replace(job, mountings=(*job.mountings, fresh))


def move_mounting(job: Job, key: str, x: float, y: float) -> Job:
    """A display moved in its site. Raises BadInput."""
    _called(job.mountings, "mounting", key)
    return replace(job, mountings=with_fields(job.mountings, Mounting, key, {"x": x, "y": y}))


def set_mounting(job: Job, key: str, data: dict[str, Any]) -> Job:
    """The named facts of a display's place. Raises BadInput."""
    _called(job.mountings, "mounting", key)
    if data.get("site"):
        _called(job.sites, "site", str(data["site"]))
    after = replace(job, mountings=with_fields(job.mountings, Mounting, key, data))
    changed = after.mounting(key)
    if changed is not None and changed.pod:
        held = sum((one.pod, one.site) == (changed.pod, changed.site) for one in after.mountings)
        if held > MOST_IN_POD:
            raise BadInput(
                "pod",
                changed.pod,
                f"{MOST_IN_POD} gauges at the most",
                f"{changed.pod} holds {MOST_IN_POD} already.",
            )
    return after


def set_hold(job: Job, key: str, ways: Iterable[str]) -> Job:
    """How a display is held. Raises BadInput for a way nobody knows."""
    chosen = [hold_called(way).key for way in ways]
    return set_mounting(job, key, {"held_by": chosen})


def aim_mounting(job: Job, key: str, up_deg: float, right_deg: float) -> Job:
    """A face aimed that much further up and to the right. Raises BadInput."""
    now = _called(job.mountings, "mounting", key)
    return set_mounting(job, key, {"up_deg": now.up_deg + up_deg, "right_deg": now.right_deg + right_deg})


def turn_normal_up(job: Job, key: str) -> Job:
    """A round gauge turned so that its needle points up while all is well. Raises BadInput where that cannot be said."""
    mounting = _called(job.mountings, "mounting", key)
    turn = normal_up_deg(job, display_called(job, mounting.display))
    if turn is None:
        raise BadInput(
            "turn_deg",
            None,
            "a scale and a reading while all is well",
            "Its scale, or what it reads while all is well, is not known: give both on Scaling.",
        )
    return set_mounting(job, key, {"turn_deg": turn})


def remove_mounting(job: Job, key: str) -> Job:
    """The job without a display's place; the display stays."""
    return without(job, "mountings", key)


def place_in_pod(job: Job, site_id: str, name: str, displays: Iterable[str]) -> Job:
    """Displays in a row in a pod about the site's middle: one over another on a pillar, beside one another elsewhere. Raises BadInput."""
    site = _called(job.sites, "site", site_id)
    chosen = [display_called(job, key) for key in displays]
    if not chosen:
        raise BadInput("displays", None, "one display or more", "Choose the displays that go into the pod.")
    if len(chosen) > MOST_IN_POD:
        raise BadInput("displays", len(chosen), f"{MOST_IN_POD} gauges at the most")
    upright = site.kind == "pillar"
    sizes = [bezel_size(display)[1 if upright else 0] for display in chosen]
    at = (sum(sizes) + POD_GAP_MM * (len(sizes) - 1)) / 2
    for display, size in zip(chosen, sizes, strict=True):
        spot = at - size / 2
        job = place_display(job, display.id, site_id, *((0.0, spot) if upright else (-spot, 0.0)))
        at -= size + POD_GAP_MM
        mounting = next(one for one in job.mountings if one.display == display.id)
        job = set_mounting(job, mounting.id, {"pod": name.strip() or "pod"})
    return job


def order_pod(job: Job, site_id: str, name: str) -> Job:
    """The displays of a pod in the order that suits them best: each with what belongs to it, at the other's point. Raises BadInput."""
    pod = next((one for one in pods_of(job) if (one.site, one.name) == (site_id, name)), None)
    if pod is None:
        raise BadInput("pod", name, ", ".join(one.name for one in pods_of(job)) or "a pod of two or more")
    moved = {one.now.id: one.best for one in order_of(job, pod)}
    return replace(
        job,
        mountings=tuple(
            replace(one, x=moved[one.id].x, y=moved[one.id].y) if one.id in moved else one
            for one in job.mountings
        ),
    )


def _free_spot(job: Job, site: Site, size: tuple[float, float], but: str) -> tuple[float, float]:
    """Beside the last display of the site, else its outline's middle."""
    held = [one for one in job.mountings if one.site == site.id and one.display != but]
    if not held:
        xs, ys = zip(*site.outline, strict=True)
        return round((min(xs) + max(xs)) / 2, 1), round((min(ys) + max(ys)) / 2, 1)
    last = held[-1]
    beside = job.display(last.display)
    wide, high = bezel_size(beside) if beside else size
    if site.kind == "pillar":
        return last.x, last.y - (high + size[1]) / 2 - POD_GAP_MM
    return last.x + (wide + size[0]) / 2 + POD_GAP_MM, last.y


def _called(parts: tuple[Any, ...], field: str, key: str) -> Any:
    found = next((part for part in parts if part.id == key), None)
    if found is None:
        raise BadInput(field, key, ", ".join(part.id for part in parts) or "nothing: there is none yet")
    return found


def _of(parts: tuple[Any, ...], key: str, field: str) -> Any:
    return getattr(next((part for part in parts if part.id == key), None), field, "")
