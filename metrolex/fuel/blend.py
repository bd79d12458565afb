"""Blends in the tank: how much of what the pump has makes the target, and between what bounds the pump's word leaves it.

Volumes are taken as adding up (petrol and ethanol shrink by well under 1 % when mixed; common practice).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.fuel.mixture import blend_ratio

__all__ = ["Blend", "content_after", "plan_blend"]

_CLOSE_PCT = 1e-9


@dataclass(frozen=True, slots=True)
class Blend:
    """What to add (l), the ethanol content that makes (percent by volume), its stoichiometric ratio, and findings.

    ``result_range`` is the content by what the pump may really give; None where no range was told.
    """

    add_l: float
    result_pct: float
    stoich_ratio: float
    result_range: tuple[float, float] | None = None
    findings: tuple[Finding, ...] = ()


def content_after(in_tank_l: float, in_tank_pct: float, added_l: float, added_pct: float) -> float:
    """Ethanol content after adding. The content of what is there where both are nothing.

    >>> content_after(20, 10, 10, 85)
    35.0
    """
    total = in_tank_l + added_l
    return (in_tank_l * in_tank_pct + added_l * added_pct) / total if total else in_tank_pct


def plan_blend(
    tank_l: float,
    in_tank_l: float,
    in_tank_pct: float,
    added_pct: float,
    target_pct: float,
    *,
    pump_range: tuple[float, float] | None = None,
    ceiling_pct: float | None = None,
) -> Blend:
    """How much to add for a target; the nearest that can be had, with a finding ``stop``, where it cannot.

    ``ceiling_pct`` is what the engine's tune allows. Raises BadInput for more in the tank than it holds or percents
    outside 0 to 100.
    """
    if not tank_l > 0:
        raise BadInput("tank_l", tank_l, "litres above 0")
    if in_tank_l < 0 or in_tank_l > tank_l:
        raise BadInput("in_tank_l", in_tank_l, f"0 to {tank_l:g} l, what the tank holds")
    for field, value in (
        ("in_tank_ethanol_pct", in_tank_pct),
        ("added_ethanol_pct", added_pct),
        ("target_pct", target_pct),
    ):
        if not 0 <= value <= 100:
            raise BadInput(field, value, "0 to 100 %")
    room = tank_l - in_tank_l
    findings: list[Finding] = []
    if in_tank_l == 0:
        in_tank_pct = added_pct  # an empty tank takes on whatever the pump gives
    add = _wanted(in_tank_l, in_tank_pct, added_pct, target_pct, room)
    if add is None or add > room * (1 + 1e-12):
        nearest = _nearest(in_tank_l, in_tank_pct, room, added_pct, target_pct)
        result = content_after(in_tank_l, in_tank_pct, nearest, added_pct)
        findings.append(_cannot(target_pct, in_tank_pct, added_pct, add, in_tank_l, room, result))
        add = nearest
    result = content_after(in_tank_l, in_tank_pct, add, added_pct)
    bounds = None
    if pump_range is not None:
        bounds = tuple(content_after(in_tank_l, in_tank_pct, add, pct) for pct in sorted(pump_range))
    highest = max(result, bounds[1]) if bounds else result
    if ceiling_pct is not None and highest > ceiling_pct + _CLOSE_PCT:
        findings.append(
            Finding(
                "stop" if result > ceiling_pct + _CLOSE_PCT else "caution",
                "above_ceiling",
                "blend",
                f"It may come to E{highest:.0f}; the engine's tune goes up to E{ceiling_pct:g}.",
                f"{highest:.1f} %",
                "Add less, or have the tune, pump and injectors made for it.",
            )
        )
    return Blend(add, result, blend_ratio(result), bounds, tuple(findings))  # type: ignore[arg-type]


def _wanted(
    in_tank_l: float, in_tank_pct: float, added_pct: float, target_pct: float, room: float
) -> float | None:
    """Litres that make the target, None where no amount does; an empty tank is filled."""
    if abs(target_pct - in_tank_pct) < _CLOSE_PCT:
        return 0.0 if in_tank_l else room
    if abs(added_pct - target_pct) < _CLOSE_PCT:
        return None
    add = in_tank_l * (target_pct - in_tank_pct) / (added_pct - target_pct)
    return add if add > 0 else None


def _nearest(in_tank_l: float, in_tank_pct: float, room: float, added_pct: float, target_pct: float) -> float:
    full = content_after(in_tank_l, in_tank_pct, room, added_pct)
    return room if not in_tank_l or abs(full - target_pct) < abs(in_tank_pct - target_pct) else 0.0


def _up(litres: float) -> float:
    """Rounded up to a tenth, so that what is said is enough."""
    return math.ceil(litres * 10 - 1e-9) / 10


def _cannot(
    target: float,
    in_tank: float,
    added: float,
    add: float | None,
    in_tank_l: float,
    room: float,
    result: float,
) -> Finding:
    if add is not None:
        # What is used up makes room, and takes with it what would have had to be balanced.
        used = (add - room) / (1 + add / in_tank_l)
        reason = f"E{target:g} takes {add:.1f} l, but there is room for {room:.1f} l: a full tank makes E{result:.1f}."
        return Finding(
            "stop",
            "over_the_brim",
            "blend",
            reason,
            f"{add:.1f} l",
            f"Use up {_up(used):.1f} l or more first, or add fuel further from the tank's own content.",
        )
    low, high = sorted((in_tank, added))
    reason = f"From E{in_tank:g} in the tank and E{added:g} at the pump only blends from E{low:g} to E{high:g} can be made; the nearest is E{result:.1f}."
    return Finding(
        "stop",
        "target_out_of_reach",
        "blend",
        reason,
        f"E{target:g}",
        "Choose a target between the two, or another fuel at the pump.",
    )
