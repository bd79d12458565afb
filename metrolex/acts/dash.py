"""Pages of displays: laid out first, one more or less, faces put, moved, set; what works an output."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from metrolex.acts.displays import set_pin
from metrolex.acts.edit import display_called, free_id, with_fields
from metrolex.dash.faces import first_pages, kind_for
from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import Display, Face, FaceKind, Job, Page
from metrolex.job.references import without

__all__ = [
    "add_face",
    "lay_out",
    "move_face",
    "move_page",
    "remove_face",
    "remove_page",
    "set_face",
    "set_output_use",
    "set_page",
]


def lay_out(job: Job, display_id: str) -> Job:
    """The first lay-out of a display's pages, to go on from. Raises BadInput where it has pages, or nothing is read there."""
    display = display_called(job, display_id)
    if any(page.display == display_id for page in job.pages):
        raise BadInput("display", display_id, "a display without pages", f"{display.name} has pages already.")
    pages = first_pages(job, display)
    if not pages:
        raise BadInput(
            "display", display_id, "a display something is read on", f"Nothing is read on {display.name} yet."
        )
    page_ids, face_ids = [page.id for page in job.pages], [face.id for face in job.faces]
    fresh_pages, fresh_faces = [], []
    for page, faces in pages:
        page_id = free_id("page 1", page_ids)
        page_ids.append(page_id)
        fresh_pages.append(replace(page, id=page_id))
        for face in faces:
            face_id = free_id(f"{page_id} face 1", face_ids)
            face_ids.append(face_id)
            fresh_faces.append(replace(face, id=face_id, page=page_id))
    return replace(job, pages=(*job.pages, *fresh_pages), faces=(*job.faces, *fresh_faces))


def set_page(job: Job, key: str, data: dict[str, Any]) -> Job:
    """A page; '' for its key makes a new one. Raises BadInput for one more than the display holds."""
    if not key:
        display = display_called(job, str(data.get("display", "")))
        held = sum(page.display == display.id for page in job.pages)
        if held >= display.screen.holds_pages:
            raise BadInput(
                "display",
                display.id,
                f"{display.screen.holds_pages} pages at the most",
                f"{display.name} holds {display.screen.holds_pages}.",
            )
        key = free_id("page 1", (page.id for page in job.pages))
    return replace(job, pages=with_fields(job.pages, Page, key, data))


def remove_page(job: Job, key: str) -> Job:
    """The job without a page and its faces."""
    return without(job, "pages", key)


def move_page(job: Job, key: str, by: int) -> Job:
    """A page that many places later (earlier: negative) among those of its display. Raises BadInput."""
    page = _page(job, key)
    mine = [one for one in job.pages if one.display == page.display]
    at = mine.index(page)
    to = min(max(at + by, 0), len(mine) - 1)
    mine.insert(to, mine.pop(at))
    order = iter(mine)
    return replace(job, pages=tuple(next(order) if one.display == page.display else one for one in job.pages))


def add_face(job: Job, page_id: str, channel: str = "", lamp: str = "", kind: str = "") -> Job:
    """A face more on a page, of a channel or of a lamp of the old cluster, where there is room. Raises BadInput where there is none."""
    page = _page(job, page_id)
    display = display_called(job, page.display)
    chain = job.chain(channel) if channel else None
    if channel and chain is None:
        raise BadInput("channel", channel, ", ".join(one.id for one in job.channels))
    if not channel and not lamp:
        raise BadInput("channel", channel, "a channel or a lamp", "Choose what it shows.")
    chosen: FaceKind | str = kind or (kind_for(display, chain) if chain is not None and not lamp else "lamp")
    size = (1, 1) if chosen == "lamp" else (min(2, display.screen.columns), min(2, display.screen.rows))
    place = _room(job, display, page_id, size) or _room(job, display, page_id, (1, 1))
    if place is None:
        raise BadInput(
            "page", page_id, "a page with room", f"{page.name} is full: take a face out, or make one smaller."
        )
    face = read(
        Face,
        {
            "id": free_id(f"{page_id[:50]} face 1", (one.id for one in job.faces)),
            "page": page_id,
            "kind": chosen,
            "channel": chain.channel if chain is not None else None,
            "lamp": lamp,
            "column": place[0],
            "row": place[1],
            "columns": place[2],
            "rows": place[3],
        },
    )
    return replace(job, faces=(*job.faces, face))


def set_face(job: Job, key: str, data: dict[str, Any]) -> Job:
    """The named facts of a face. Raises BadInput."""
    if job.face(key) is None:
        raise BadInput("face", key, ", ".join(face.id for face in job.faces))
    return replace(job, faces=with_fields(job.faces, Face, key, data))


def move_face(job: Job, key: str, column: int, row: int) -> Job:
    """A face moved on its grid, kept on the page. Raises BadInput."""
    face = job.face(key)
    page = _page(job, face.page) if face else None
    if face is None or page is None:
        raise BadInput("face", key, ", ".join(one.id for one in job.faces))
    screen = display_called(job, page.display).screen
    column = min(max(column, 1), max(screen.columns - face.columns + 1, 1))
    row = min(max(row, 1), max(screen.rows - face.rows + 1, 1))
    return set_face(job, key, {"column": column, "row": row})


def remove_face(job: Job, key: str) -> Job:
    """The job without a face."""
    return without(job, "faces", key)


def set_output_use(job: Job, display_id: str, pin_id: str, facts: dict[str, Any]) -> Job:
    """What an output is for, what works it, what works the load besides. Raises BadInput for a pin that is no output."""
    pin = display_called(job, display_id).pin_called(pin_id)
    if pin is None or pin.role != "output":
        raise BadInput("pin", pin_id, "an output of the display")
    return set_pin(job, display_id, pin_id, facts)


def _page(job: Job, key: str) -> Page:
    page = job.page(key)
    if page is None:
        raise BadInput(
            "page", key, ", ".join(one.id for one in job.pages) or "nothing: lay the pages out first"
        )
    return page


def _room(
    job: Job, display: Display, page_id: str, size: tuple[int, int]
) -> tuple[int, int, int, int] | None:
    """The first free cells of a size from the top left."""
    taken = {
        (column, row)
        for face in job.faces
        if face.page == page_id
        for column in range(face.column, face.column + face.columns)
        for row in range(face.row, face.row + face.rows)
    }
    wide, high = size
    for row in range(1, display.screen.rows - high + 2):
        for column in range(1, display.screen.columns - wide + 2):
            cells = {(column + i, row + j) for i in range(wide) for j in range(high)}
            if not cells & taken:
                return column, row, wide, high
    return None
