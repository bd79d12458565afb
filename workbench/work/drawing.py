"""The work on one time line: a band for each state the vehicle is in, the steps below it."""

from __future__ import annotations

from django.utils.safestring import SafeString

from metrolex.workorder.planned import states_at_work
from metrolex.workorder.sheet import Sheet
from workbench.axes import round_step
from workbench.drawing import QUIET, Drawing

__all__ = ["time_line"]

WIDTH, NAMES, ROW, STEPS = 1000.0, 170.0, 22.0, 30.0
HOUR_MIN = 60.0
_CSS = {
    "done": "work-done",
    "rests": "work-done",
    "open": "work-open",
    "waits": "work-open",
    "begun": "work-open",
    "paused": "work-open",
}


def time_line(sheet: Sheet) -> SafeString:
    """From left to right by minutes; a step that is done is filled."""
    states = list(dict.fromkeys(band.state for band in sheet.bands))
    total = max(max((row.end_min for row in sheet.rows), default=0.0), 1.0)
    scale = (WIDTH - NAMES - 10) / total
    height = ROW * len(states) + STEPS + 44
    drawing = Drawing(WIDTH, height, "The work on one time line", "drawing work-line")
    foot = ROW * len(states) + STEPS + 12
    every = max(1, round(round_step(total / HOUR_MIN, 14)))
    for hour in range(0, int(total / HOUR_MIN) + 1, every):
        x = NAMES + hour * HOUR_MIN * scale
        drawing.line(x, 4, x, foot, width=0.8, css="hour")
        drawing.text(x, foot + 18, f"{hour} h", size=12.5, anchor="middle", fill=QUIET, css="quiet")
    known = states_at_work()
    for i, state in enumerate(states):
        y = 6 + ROW * i
        drawing.text(4, y + 14, known[state].words, size=13)
        for band in sheet.bands:
            if band.state == state:
                x, w = NAMES + band.start_min * scale, max((band.end_min - band.start_min) * scale, 3.0)
                drawing.rect(x, y, w, ROW - 7, css="band", round_=2)
    y = 8 + ROW * len(states)
    drawing.text(4, y + 19, "steps", size=13)
    for row in sheet.rows:
        x, w = NAMES + row.start_min * scale, max((row.end_min - row.start_min) * scale - 1.0, 1.5)
        css = _CSS.get(row.stands, "work-stuck")
        drawing.rect(x, y, w, STEPS - 4, css="work-now" if row is sheet.now else css, round_=1)
    return drawing.safe()
