"""What stands on a display: its pages with their faces, each with scale, zones, digits and levels; a first lay-out where nobody made one."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from metrolex.job import Display, Face, FaceKind, Job, MeasuringChain, Page
from metrolex.job.once import once_per_job
from metrolex.mount.body import screen_size
from metrolex.quantities import in_unit
from metrolex.scaling.reading import ends
from metrolex.senders import y_range
from metrolex.tables import load_table
from metrolex.warning.alarm import level_at

__all__ = ["FaceNow", "PageNow", "figure_mm", "first_pages", "kind_for", "pages_of", "shown_on", "weight_of"]

#: Without a page of its own a display shows its channels on these, by keys nobody types.
FIRST = "first "
HALF = 2  # columns and rows a face takes where there is room


@dataclass(frozen=True, slots=True)
class FaceNow:
    """A face with all that is drawn of it; ``chain`` None for a tell-tale of its own. Ends None: nobody said where its scale begins or ends."""

    face: Face
    chain: MeasuringChain | None
    label: str
    low: float | None
    high: float | None
    normal: tuple[float, float] | None
    warn_low: float | None
    warn_high: float | None
    figure_mm: float

    @property
    def decimals(self) -> int:
        return self.chain.scaling.decimals if self.chain else 0

    @property
    def unit(self) -> str:
        return self.chain.unit if self.chain else ""

    def share(self, value: float | None) -> float | None:
        """Where a value stands on the scale, 0 to 1; None without one."""
        if value is None or self.low is None or self.high is None:
            return None
        return min(max((value - self.low) / (self.high - self.low), 0.0), 1.0)


@dataclass(frozen=True, slots=True)
class PageNow:
    """A page with its faces; ``made``: somebody laid it out."""

    page: Page
    faces: tuple[FaceNow, ...]
    made: bool


@once_per_job
def pages_of(job: Job, display_id: str) -> tuple[PageNow, ...]:
    """The pages of a display in their order: its own, else a first lay-out of all it is read for."""
    display = job.display(display_id)
    if display is None:
        return ()
    own = [page for page in job.pages if page.display == display_id]
    if own:
        return tuple(
            PageNow(page, tuple(_now(job, display, face) for face in job.faces if face.page == page.id), True)
            for page in own
        )
    return tuple(
        PageNow(page, tuple(_now(job, display, face) for face in faces), False)
        for page, faces in first_pages(job, display)
    )


def weight_of(chain: MeasuringChain) -> float:
    """How often and how fast a channel must be read."""
    row = load_table("holds")["order"].get(chain.measurand)
    return float(row["weight"]) if row else 2.0


def first_pages(job: Job, display: Display) -> tuple[tuple[Page, tuple[Face, ...]], ...]:
    """Pages for all channels of a display, what must be read most and fastest first; nothing where nothing is read there."""
    chains = sorted(
        (chain for chain in job.chains if chain.display == display.id), key=lambda chain: -weight_of(chain)
    )
    if not chains:
        return ()
    screen = display.screen
    places = _places(screen.columns, screen.rows, len(chains), screen.holds_pages)
    found = []
    for number in range(math.ceil(len(chains) / len(places))):
        page = Page(f"{FIRST}{display.id[:40]} {number + 1}", display.id, f"Page {number + 1}")
        here = chains[number * len(places) : (number + 1) * len(places)]
        faces = [
            Face(
                f"{page.id} {i}"[:60],
                page.id,
                kind_for(display, chain),
                chain.channel,
                *place,
            )
            for i, (chain, place) in enumerate(zip(here, places, strict=False))
        ]
        found.append((page, tuple(faces)))
    return tuple(found)


def kind_for(display: Display, chain: MeasuringChain) -> FaceKind:
    """The kind of face a channel is first shown as; one the display can draw."""
    wanted: FaceKind = load_table("faces")["first"].get(chain.measurand, "figure")
    can = display.screen.faces or ("round",)
    return wanted if wanted in can else can[0]


Place = tuple[int, int, int, int]


def _places(columns: int, rows: int, count: int, pages: int) -> list[Place]:
    """Cells for faces, from the top left: blocks of two by two, smaller where otherwise not all would go onto the pages."""
    wide, high = min(HALF, columns), min(HALF, rows)
    found = list(_blocks(columns, rows, wide, high))
    if len(found) * pages < count and high > 1:
        found = list(_blocks(columns, rows, wide, 1))
    if len(found) * pages < count:
        found = list(_blocks(columns, rows, 1, 1))
    if 0 < count < len(found) and count <= 2 and columns >= 2:
        each = columns // count
        found = [(1 + i * each, 1, each, rows) for i in range(count)]
    return found


def _blocks(columns: int, rows: int, wide: int, high: int) -> Iterator[Place]:
    for row in range(1, rows - high + 2, high):
        for column in range(1, columns - wide + 2, wide):
            yield column, row, wide, high


def figure_mm(display: Display, face: Face, digits: int = 3) -> float:
    """How high the figures of a face are, mm: by its height, less where they would not go into its width; a display of one face as its maker says."""
    screen, rows = display.screen, load_table("faces")["figures"]
    if screen.columns == screen.rows == 1 and screen.figure_mm is not None:
        return screen.figure_mm
    wide, high = screen_size(display)
    cell_wide, cell_high = wide / screen.columns * face.columns, high / screen.rows * face.rows
    by_high = float(rows[face.kind]) * cell_high
    return min(by_high, 0.9 * cell_wide / (float(rows["wide"]) * max(digits, 1)))


def _now(job: Job, display: Display, face: Face) -> FaceNow:
    chain = _chain(job, display, face)
    if chain is None:
        return FaceNow(
            face,
            None,
            face.label or _lamp_name(face.lamp),
            None,
            None,
            None,
            None,
            None,
            figure_mm(display, face),
        )
    low, high = _range(job, chain)
    low, high = (low if face.low is None else face.low), (high if face.high is None else face.high)
    if low is not None and high is not None and low >= high:
        low, high = None, None
    warn_low = None if chain.alarm.silent else _finite(float(level_at(chain.alarm, 0.0)))
    digits = max(
        (len(f"{end:.{chain.scaling.decimals}f}") for end in (low, high) if end is not None), default=3
    )
    return FaceNow(
        face,
        chain,
        face.label or chain.name,
        low,
        high,
        _normal(chain, face, low, high),
        warn_low,
        chain.alarm.high,
        figure_mm(display, face, digits),
    )


def _chain(job: Job, display: Display, face: Face) -> MeasuringChain | None:
    """The chain a face shows: the one of its channel on this display, else its first."""
    mine = [chain for chain in job.chains if chain.channel == face.channel]
    return min(mine, key=lambda chain: chain.display != display.id, default=None)


def _range(job: Job, chain: MeasuringChain) -> tuple[float | None, float | None]:
    """The ends of the scale: as the readout is set, else as far as the sender reaches, else about its true values."""
    low, high = ends(chain.scaling)
    sender = job.heard(chain)
    if sender is not None and (low is None or high is None):
        reach = sorted(in_unit(y, sender.curve.y_unit, chain.unit) for y in y_range(sender.curve))
        low, high = (reach[0] if low is None else low), (reach[1] if high is None else high)
    if low is None or high is None:
        unit = str(load_table("measurands")[chain.measurand]["unit"])
        usual = [
            in_unit(float(end), unit, chain.unit) for end in load_table("faces")["scales"][chain.measurand]
        ]
        low, high = (usual[0] if low is None else low), (usual[1] if high is None else high)
    return low, high


def _normal(
    chain: MeasuringChain, face: Face, low: float | None, high: float | None
) -> tuple[float, float] | None:
    """The zone it stands in while all is well: as said, else about its warm reading, inside of its levels."""
    if face.normal_low is not None and face.normal_high is not None:
        return face.normal_low, face.normal_high
    if chain.true_running is None or low is None or high is None or _moves(chain):
        return None
    half = float(load_table("faces")["normal"]["within"]) * (high - low)
    levels = (
        -math.inf if chain.warn_low is None else chain.warn_low,
        math.inf if chain.warn_high is None else chain.warn_high,
    )
    zone = max(chain.true_running - half, levels[0]), min(chain.true_running + half, levels[1])
    return zone if zone[0] < zone[1] else None


def _moves(chain: MeasuringChain) -> bool:
    """Whether a reading goes all over its scale while all is well."""
    return chain.measurand in (
        "engine_speed",
        "road_speed",
        "gear",
        "boost",
        "fuel_level",
        "lambda",
        "pump_pressure",
        "ethanol_content",
    )


def _finite(level: float) -> float | None:
    return level if math.isfinite(level) else None


def _lamp_name(key: str) -> str:
    row = load_table("cluster").get(key)
    return str(row["name"]) if row else key


def shown_on(job: Job, pages: Sequence[PageNow]) -> set[str]:
    """The channels that stand on some of these pages."""
    return {one.face.channel for page in pages for one in page.faces if one.face.channel is not None}
