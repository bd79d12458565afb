"""How a job's display sits in the hole it has, or the hole it wants: the one call for page, order of work and template."""

from __future__ import annotations

from dataclasses import dataclass, replace

from metrolex.findings import Finding
from metrolex.job import Display, Mounting
from metrolex.mount.fit import Fit, Hole, Moulded, PlugSize, fit_of
from metrolex.mount.held import ways_of

__all__ = ["Fitted", "fitted", "hole_wanted"]

#: What a hole is made wider than the body (common practice, no source).
CLEARANCE_MM = 0.5


@dataclass(frozen=True, slots=True)
class Fitted:
    """How it sits: across, and up and down where it is not round; ``missing`` is what nobody has measured, in words."""

    across: Fit | None
    upright: Fit | None
    missing: tuple[str, ...]
    findings: tuple[Finding, ...]

    @property
    def fits(self) -> bool | None:
        """Whether it goes in; None while it cannot be said."""
        if any(finding.grade == "stop" for finding in self.findings):
            return False
        return None if self.missing else True


def hole_wanted(display: Display, mounting: Mounting) -> tuple[float, float] | None:
    """The hole as it is, else one to measure for the body, what is packed round it, and a little; None while neither is known."""
    body = display.housing.body
    if mounting.hole.hole_mm is not None:
        wide = mounting.hole.hole_mm
        return wide, wide if display.housing.shape == "round" else mounting.hole.hole_high_mm or wide
    if body is None:
        return None
    more = CLEARANCE_MM + 2 * mounting.hole.packed_mm
    return body[0] + more, body[1] + more


def fitted(display: Display, mounting: Mounting) -> Fitted:
    """The fit of a display where it is mounted; with what is missing for a word on it."""
    housing, hole = display.housing, mounting.hole
    body, bezel, wanted = housing.body, housing.bezel, hole_wanted(display, mounting)
    missing = tuple(
        words
        for known, words in (
            (body, "the body's width"),
            (bezel, "the bezel's width"),
            (housing.depth_mm, "the body's depth"),
            (hole.room_mm, "the room behind the panel"),
            (hole.panel_mm, "the panel's thickness"),
        )
        if known is None
    )
    if (
        body is None
        or bezel is None
        or wanted is None
        or housing.depth_mm is None
        or hole.room_mm is None
        or hole.panel_mm is None
    ):
        return Fitted(None, None, missing, ())
    ways = ways_of(mounting)
    clamped = not ways or any(way.grips for way in ways)
    grip = display.grip
    lies = Moulded(
        body[0] + 2 * hole.packed_mm,
        housing.depth_mm,
        bezel[0],
        (grip.grip_from_mm, max(grip.grip_to_mm, grip.grip_from_mm))
        if clamped and grip.grip_from_mm is not None and grip.grip_to_mm is not None
        else None,
        PlugSize(grip.plug_wide_mm, grip.plug_high_mm)
        if grip.plug_wide_mm is not None and grip.plug_high_mm is not None
        else None,
        grip.bend_mm,
    )
    # what stands before the panel takes that much less room behind it
    room = hole.room_mm + max(mounting.stands_mm - BEZEL_THICK_MM, 0.0)
    across = fit_of(lies, Hole(wanted[0], room, hole.panel_mm), display.name)
    if housing.shape == "round":
        return Fitted(across, None, (), _at_mount(across.findings))
    upright = fit_of(
        replace(lies, body_mm=body[1] + 2 * hole.packed_mm, bezel_mm=bezel[1]),
        Hole(wanted[1], room, hole.panel_mm),
        display.name,
    )
    findings = dict.fromkeys((*across.findings, *upright.findings))
    return Fitted(across, upright, (), _at_mount(tuple(findings)))


#: A bezel is about so thick: a display flush on its panel stands so far before it.
BEZEL_THICK_MM = 8.0


def _at_mount(findings: tuple[Finding, ...]) -> tuple[Finding, ...]:
    return tuple(replace(finding, place="mount") for finding in findings)
