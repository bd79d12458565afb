"""What the old cluster told, ticked off against what tells it now: a face, a lamp input of a display, a lamp of its own, the old one."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from metrolex.dash.faces import pages_of
from metrolex.findings import Finding
from metrolex.job import ClusterItem, Display, Job, Pin
from metrolex.job.once import once_per_job
from metrolex.tables import load_table
from metrolex.topology import at_pin, topology_of

__all__ = ["Told", "lamp_findings", "lamps_told", "output_findings", "outputs_of"]


@dataclass(frozen=True, slots=True)
class Told:
    """One lamp or reading of the old cluster: who tells it now, in words; '' where nobody does. ``must``: the law or safety needs it in most places."""

    item: ClusterItem
    now: str
    must: bool

    @property
    def missing(self) -> bool:
        return not self.now and self.item.comes_from not in ("never", "kept")


@once_per_job
def lamps_told(job: Job) -> tuple[Told, ...]:
    """Every lamp and reading of the inventory with who tells it now."""
    facts = load_table("cluster")
    by_face, by_pin, by_reading = _faces(job), _inputs(job), _readings(job)
    found = []
    for item in job.cluster:
        fact = facts.get(item.function, {})
        now = by_face.get(item.function) or by_face.get(item.name) or by_pin.get(item.function)
        if not now and fact.get("shown_by"):
            now = by_reading.get(str(fact["shown_by"]))
        if not now:
            now = _said(item, fact)
        found.append(Told(item, now or "", bool(fact.get("keep"))))
    return tuple(found)


def _said(item: ClusterItem, fact: Mapping[str, Any]) -> str:
    """Who tells it by what was said on Brief, where no page can show it; '' where one should, and does not."""
    words = {"lamp": "a lamp of its own", "kept": "the old one stays"}.get(item.comes_from, "")
    by_itself = item.function == "other" or (fact.get("kind") == "reading" and not fact.get("shown_by"))
    if item.comes_from == "display" and item.how and by_itself:
        words = "the new display"
    return f"{words}: {item.how}" if words and item.how else words


def _faces(job: Job) -> dict[str, str]:
    pages = {page.id: page for page in job.pages}
    names = {display.id: display.name for display in job.displays}
    found: dict[str, str] = {}
    for face in job.faces:
        page = pages.get(face.page)
        if page is None or face.kind != "lamp":
            continue
        for key in (face.lamp, face.label):
            if key:
                found.setdefault(key, f"{names.get(page.display, '')}, {page.name}")
    return found


def _inputs(job: Job) -> dict[str, str]:
    """Lamp inputs of displays that are wired, by what they tell of."""
    wiring, functions = topology_of(job), load_table("functions")
    found: dict[str, str] = {}
    for display in job.displays:
        for pin in display.pins:
            key = functions.get(pin.function, {}).get("cluster", "") if pin.role == "lamp_input" else ""
            if key and wiring.wired(at_pin(display, pin)):
                found.setdefault(key, f"{display.name}, lamp input {pin.id}")
    return found


def _readings(job: Job) -> dict[str, str]:
    found: dict[str, str] = {}
    for display in job.displays:
        for page in pages_of(job, display.id):
            for face in page.faces:
                if face.chain is not None:
                    found.setdefault(face.chain.measurand, f"{display.name}, {page.page.name}")
    return found


def lamp_findings(job: Job) -> Iterator[Finding]:
    """What is to come from the new display, and nothing there tells it."""
    if not job.brief.cluster_removed:
        return
    for told in lamps_told(job):
        item = told.item
        if (
            item.comes_from == "display"
            and not told.now
            and load_table("cluster").get(item.function, {}).get("kind") == "lamp"
        ):
            yield Finding(
                "stop" if told.must else "caution",
                "lamp_on_no_page",
                item.name,
                "It is to come from the new display, and no page and no lamp input there tells it.",
                "",
                "Put a lamp for it on a page, or wire it to a lamp input.",
                "dash",
                about=f"instrument {item.id}",
            )


def output_findings(job: Job) -> Iterator[Finding]:
    """What hangs on an output and nobody said how it stands while the display is dark."""
    for display, pin in outputs_of(job):
        if pin.drives_a and pin.drive.works_by and not pin.drive.when_dark:
            yield Finding(
                "note",
                "dark_not_said",
                f"{display.id} {pin.name}",
                "Nobody said what it does while the display is dark or starts anew.",
                "",
                "Pull the display's fuse with the engine running and look.",
                "dash",
                about=f"pin {display.id} {pin.id}",
            )


def outputs_of(job: Job) -> tuple[tuple[Display, Pin], ...]:
    """Every output of every display."""
    return tuple((display, pin) for display in job.displays for pin in display.pins if pin.role == "output")
