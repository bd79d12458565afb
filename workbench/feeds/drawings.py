"""The fuse panel as the fitter laid it out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from django.utils.safestring import SafeString

from metrolex.feeds.classify import Verdict
from metrolex.feeds.safety import standing_of_circuit
from metrolex.job import Circuit, Tap
from metrolex.tables import load_table
from workbench.drawing import ACT, QUIET, RULE, Drawing
from workbench.markup import id_part

__all__ = ["panel_drawing"]

SLOT_W, SLOT_H, GAP = 142, 60, 8
STOP, LIVE = "#A3211B", "#1E6338"
SAID = {"ignition": "run", "ignition_crank": "run and crank"}
_BODY = {
    "black": "#222222",
    "grey": "#8A8F94",
    "violet": "#7B4B8E",
    "pink": "#E79AAE",
    "tan": "#C8A878",
    "brown": "#7A4A21",
    "red": "#C1271B",
    "blue": "#2F6FB5",
    "yellow": "#E0B400",
    "clear": "#F4F2EA",
    "green": "#2E7D46",
    "blue_green": "#2BA39B",
    "amber": "#E0761B",
}


def panel_drawing(
    circuits: Sequence[Circuit],
    verdicts: Mapping[str, Verdict],
    taps: Sequence[Tap],
    panel: str | None = None,
    name: str = "",
    *,
    cluster_out: bool,
) -> SafeString:
    """The slots of one panel by row and column, each with its fuse colour, its class and the tap on it; a slot leads to its row."""
    slots = [circuit for circuit in circuits if circuit.kind == "fuse" and circuit.slot.panel == panel]
    columns = max((c.slot.column for c in slots), default=1)
    rows = max((c.slot.row for c in slots), default=1)
    sheet = Drawing(
        columns * (SLOT_W + GAP) + GAP,
        rows * (SLOT_H + GAP) + GAP,
        f"Fuse panel {name}, {len(slots)} slots".replace("  ", " "),
        "drawing panel",
        holds_links=True,
    )
    sheet.root.set(
        "width", f"{columns * (SLOT_W + GAP) + GAP:g}"
    )  # slots of all panels are drawn in one size
    sheet.rect(
        1,
        1,
        columns * (SLOT_W + GAP) + GAP - 2,
        rows * (SLOT_H + GAP) + GAP - 2,
        width=2,
        css="box",
        round_=4,
    )
    for circuit in slots:
        sheet.link(f"#slot-{id_part(circuit.id)}", data_row=circuit.slot.row, data_column=circuit.slot.column)
        _slot(
            sheet,
            GAP + (circuit.slot.column - 1) * (SLOT_W + GAP),
            GAP + (circuit.slot.row - 1) * (SLOT_H + GAP),
            circuit,
            verdicts[circuit.id],
            [tap.id for tap in taps if tap.circuit == circuit.id],
            standing_of_circuit(circuit, verdicts[circuit.id], cluster_out).grade == "never",
        )
        sheet.end()
    return sheet.safe()


def _slot(
    sheet: Drawing, x: float, y: float, circuit: Circuit, verdict: Verdict, taps: list[str], never: bool
) -> None:
    edge, css = (STOP, "slot-stop") if never else ((ACT, "slot-tap") if taps else (RULE, "slot-plain"))
    sheet.rect(x, y, SLOT_W, SLOT_H, stroke=edge, width=2.5 if taps or never else 1.2, css=css, round_=3)
    sheet.rect(
        x + 6, y + 8, 7, SLOT_H - 16, fill=_paint(circuit.rating_a), stroke="#1B1F22", width=0.8, css="fuse"
    )
    sheet.text(x + 19, y + 19, circuit.id, size=15, bold=True, mono=True)
    _fed_side(sheet, x, y, circuit)
    if circuit.rating_a:
        sheet.text(
            x + SLOT_W - 7,
            y + 18,
            f"{circuit.rating_a:g} A",
            size=12,
            anchor="end",
            fill=QUIET,
            css="quiet",
            mono=True,
        )
    sheet.text(x + 19, y + 36, _cut(circuit.purpose or "not said", 17), size=11.5, fill=QUIET, css="quiet")
    words = "never tap" if never else SAID.get(verdict.feed, verdict.feed)
    paint = STOP if never else (LIVE if verdict.feed not in ("unclear", "dead") else QUIET)
    sheet.text(
        x + 19,
        y + 53,
        words,
        size=12,
        bold=True,
        fill=paint,
        css="stop" if never else ("live" if paint == LIVE else "quiet"),
    )
    if taps:
        sheet.text(
            x + SLOT_W - 7,
            y + 53,
            " ".join(taps),
            size=12,
            bold=True,
            anchor="end",
            fill=ACT,
            css="act",
            mono=True,
        )


def _fed_side(sheet: Drawing, x: float, y: float, circuit: Circuit) -> None:
    """A thick edge on the side that stays live with the fuse out."""
    edges = {
        "left": (x, y + 6, x, y + SLOT_H - 6),
        "right": (x + SLOT_W, y + 6, x + SLOT_W, y + SLOT_H - 6),
        "top": (x + 6, y, x + SLOT_W - 6, y),
        "bottom": (x + 6, y + SLOT_H, x + SLOT_W - 6, y + SLOT_H),
    }
    if circuit.slot.fed:
        sheet.line(*edges[circuit.slot.fed], stroke=STOP, width=5, css="fed-side")


def _paint(rating_a: float | None) -> str:
    row = next((row for row in load_table("fuses")["fuses"] if row["rating_a"] == rating_a), None)
    return _BODY[row["colour"]] if row else "#D8D0BF"


def _cut(words: str, most: int) -> str:
    return words if len(words) <= most else words[: most - 1].rstrip(" ,") + "…"
