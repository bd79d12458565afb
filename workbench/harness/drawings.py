"""A run against its lead."""

from __future__ import annotations

from django.utils.safestring import SafeString

from metrolex.harness.runs import plan_run
from metrolex.job import Run
from workbench.drawing import ACT, PAPER, QUIET, Drawing

__all__ = ["run_drawing"]

MONO, LETTER = 7.6, 6.6  # how wide a letter of 12 is at most, of one width and of the other kind


def run_drawing(run: Run) -> SafeString:
    """The segments to scale over the supplied lead; hot and moving stretches are marked in words too."""
    plan = plan_run(run)
    width, left = 760.0, 4.0
    longest = max(plan.length_m, plan.supplied_m or 0.0, 0.1)
    scale = (width - 2 * left) / longest
    sheet = Drawing(width, 96, f"{run.name}: {plan.length_m:.2f} m needed", "drawing way")
    x = left
    for segment in run.segments:
        w = segment.length_m * (1 + run.slack_pct / 100) * scale
        hot = segment.peak_degc >= 100
        sheet.rect(
            x,
            22,
            max(w, 1),
            22,
            fill="#F8EBCF" if hot else PAPER,
            css="hot" if hot else "box",
            dash="5 3" if segment.moving else "",
        )
        length, heat = f"{segment.length_m:g} m", f" · {segment.peak_degc:g} °C" if hot else ""
        labels = (length + heat + (" · moves" if segment.moving else ""), length + heat, length)
        label = next((words for words in labels if MONO * len(words) + 6 < w), "")
        sheet.text(x + w / 2, 37, label, size=12, anchor="middle", mono=True)
        room = int((w - 8) / LETTER)
        words = (
            segment.name
            if len(segment.name) <= room
            else (segment.name[: room - 1] + "…" if room > 3 else "")
        )
        sheet.text(x + 1, 15, words, size=12, fill=QUIET, css="quiet")
        x += w
    rest = plan.length_m * scale + left - x
    if rest > 0:
        sheet.rect(x, 22, rest, 22, fill="none", css="rule", stroke=QUIET, width=1)
        if rest > 40:
            sheet.text(x + rest / 2, 37, "ends", size=12, anchor="middle", fill=QUIET, css="quiet")
    if plan.supplied_m is not None:
        sheet.rect(
            left, 54, max(plan.supplied_m * scale, 1), 10, fill=ACT, stroke=ACT, width=0, css="act-fill"
        )
        sheet.text(left, 80, f"supplied lead {plan.supplied_m:g} m", size=12, fill=QUIET, css="quiet")
    return sheet.safe()
