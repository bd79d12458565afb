"""What the page and the paper of tools and parts are made of."""

from __future__ import annotations

from typing import Any

from metrolex.job import PLACES_OF_WORK, Job
from metrolex.workorder.goods import needed_before, spanners, tools_of
from metrolex.workorder.sheet import Sheet

__all__ = ["goods_of"]


def goods_of(job: Job, sheet: Sheet) -> dict[str, Any]:
    """Tools and goods of what is still open: by place, spanners by size, what is not at hand, what the steps want next."""
    left = [(row.number, row.planned) for row in sheet.rows if row.still_open]
    tools = tools_of(job, left)
    places = [
        (words, [one for one in tools if words in one.places and len(one.places) == 1])
        for words in PLACES_OF_WORK.values()
    ]
    return {
        "tools": tools,
        "by_place": [
            *((words, listed) for words, listed in places if listed),
            ("in more than one place", [one for one in tools if len(one.places) > 1]),
        ],
        "spanners": spanners(tools),
        "to_borrow": sum(not one.at_hand for one in tools),
        "needed": needed_before(job, left),
    }
