"""The whole set-up sheet of a display: its menu, then what stands where on its pages."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.dash.faces import FaceNow, pages_of
from metrolex.job import FACES, Display, Job, MenuEntry
from metrolex.quantities import unit_words
from metrolex.scaling.menu import Line, sheet_of

__all__ = ["lines_of"]


def lines_of(job: Job, display: Display) -> tuple[Line, ...]:
    """Every line of the sheet; those of the pages only where somebody laid them out."""
    return (*sheet_of(job, display), *_page_lines(job, display))


def _page_lines(job: Job, display: Display) -> Iterator[Line]:
    typed = {setting.name: setting for setting in job.settings if setting.display == display.id}
    held: set[str] = set()
    for number, page in enumerate(pages_of(job, display.id), 1):
        if not page.made:
            continue
        for face in page.faces:
            name = f"{page.page.name[:60]}, page {number}, column {face.face.column}, row {face.face.row}"
            while name in held:
                name += ", on top"
            held.add(name)
            setting = typed.get(name)
            yield Line(
                name,
                MenuEntry(name, "note", "display"),
                "",
                face.chain,
                _words(face)[:120],
                setting.value if setting else "",
                bool(setting and setting.done),
            )


def _words(face: FaceNow) -> str:
    """What is chosen there: 'Oil pressure, bar, 0 to 10 bar'."""
    said = [face.label, FACES[face.face.kind].split(",")[0]]
    if face.face.kind != "lamp" and face.low is not None and face.high is not None:
        said.append(f"{face.low:g} to {face.high:g} {unit_words(face.unit)}".strip())
    return ", ".join(said)
