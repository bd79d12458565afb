"""Displays side by side through day, dusk and night: a disc each, as bright as it would be."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from django.utils.safestring import SafeString

from metrolex.twin.backlight import SCENES
from workbench.drawing import INK, Drawing

__all__ = ["faces_drawing"]

SKY = {"day": "#E9E4D6", "dusk": "#8C8577", "night": "#23272B"}
GLOW = {"bright": "#FFF3C4", "dim": "#C99B4A", "dark": "#3A3D40", "unknown": "none"}
WORDS_ON = {"day": INK, "dusk": "#FFFFFF", "night": "#FFFFFF"}
CELL_W, CELL_H, LEFT = 118, 52, 62


def faces_drawing(title: str, levels: Mapping[str, Sequence[str]]) -> SafeString:
    """One row for each scene, one disc for each display, its level in words under it."""
    width = LEFT + CELL_W * max(1, len(levels)) + 6
    height = 22 + CELL_H * len(SCENES) + 4
    words = "; ".join(
        f"{name}: " + ", ".join(f"{scene} {level}" for scene, level in zip(SCENES, found, strict=True))
        for name, found in levels.items()
    )
    sheet = Drawing(width, height, f"{title}. {words}", "drawing faces")
    for j, name in enumerate(levels):
        sheet.text(LEFT + CELL_W * (j + 0.5), 14, name, size=12.5, anchor="middle", bold=True)
    for i, (scene, (_, wanted)) in enumerate(SCENES.items()):
        y = 22 + CELL_H * i
        sheet.text(2, y + CELL_H / 2 + 4, scene, size=13)
        sheet.rect(
            LEFT,
            y,
            CELL_W * len(levels),
            CELL_H - 3,
            fill=SKY[scene],
            stroke="none",
            width=0,
            css=f"sky {scene}",
        )
        for j, found in enumerate(levels.values()):
            level = found[i]
            x = LEFT + CELL_W * j + 26
            sheet.circle(
                x, y + CELL_H / 2 - 2, 15, fill=GLOW[level], stroke=WORDS_ON[scene], width=1.6, css="lit"
            )
            right = level in (wanted, "unknown")
            sheet.text(
                x + 22, y + CELL_H / 2 - 2, level, size=13, bold=not right, fill=WORDS_ON[scene], css="on-sky"
            )
            if not right:
                sheet.text(
                    x + 22,
                    y + CELL_H / 2 + 13,
                    f"not {wanted}",
                    size=11.5,
                    fill=WORDS_ON[scene],
                    css="on-sky",
                )
    return sheet.safe()
