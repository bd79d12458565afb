"""What stands on a display's pages: faces on its grid, each of one channel or one lamp."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import AnyNumber, Key, Limits, Title
from metrolex.job.housing import FaceKind
from metrolex.job.words import Word

__all__ = ["Face", "Page", "PageUse"]

PageUse = Literal["", "driving", "hard driving", "working", "setting up"]
Cell = Annotated[int, Limits(low=1, high=12)]


@dataclass(frozen=True, slots=True)
class Page:
    """A page of a display, in the order of the list; ``use`` is when the driver has it on."""

    id: Key
    display: Key
    name: Title
    use: PageUse = ""


@dataclass(frozen=True, slots=True)
class Face:
    """One face on a page's grid, from column and row 1 at the top left.

    ``low`` and ``high`` are the ends of its scale, ``normal_low`` and ``normal_high`` those of the zone it stands in while all is well; None: as the readout is set.
    ``lamp`` is a key of cluster.toml where it is a tell-tale; '' for the warning of its channel.
    """

    id: Key
    page: Key
    kind: FaceKind
    channel: Key | None = None
    column: Cell = 1
    row: Cell = 1
    columns: Cell = 1
    rows: Cell = 1
    low: AnyNumber | None = None
    high: AnyNumber | None = None
    normal_low: AnyNumber | None = None
    normal_high: AnyNumber | None = None
    label: Word = ""
    lamp: Word = ""

    def __post_init__(self) -> None:
        for low, high, name in (
            (self.low, self.high, "high"),
            (self.normal_low, self.normal_high, "normal_high"),
        ):
            if low is not None and high is not None and low >= high:
                raise BadInput(name, high, f"above the low end, {low:g}")
