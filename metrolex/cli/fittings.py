"""Command line: stack, drill, wideband, spot."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from metrolex.cli.calculation import Calculation, findings_out
from metrolex.fittings.connections import connection_called, source_of
from metrolex.fittings.drills import TapPractice, plan_hole
from metrolex.fittings.fitting import Fitting
from metrolex.fittings.joints import dressing, tighten
from metrolex.fittings.library import generic_fittings
from metrolex.fittings.stack import end_called, solve_stack
from metrolex.intake import Key, Limits, NonNegative, Positive
from metrolex.ports.spot import spot_mm
from metrolex.ports.wideband import Practice, judge_wideband

__all__ = ["CALCULATIONS", "DrillInput", "SpotInput", "StackInput", "WidebandInput"]


@dataclass(frozen=True, slots=True)
class StackInput:
    """An open port, a sender, and the fittings at choice (null: the built-in ones)."""

    port: str
    sender: str
    fittings: tuple[Fitting, ...] | None = None
    stock: tuple[Key, ...] = ()

    def __post_init__(self) -> None:
        end_called(self.port, "port", "female")
        end_called(self.sender, "sender", "male")


def run_stack(asked: StackInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """The fewest fittings from port to sender."""
    library = generic_fittings() if asked.fittings is None else asked.fittings
    port, sender = end_called(asked.port, "port", "female"), end_called(asked.sender, "sender", "male")
    stack = solve_stack(port, sender, library, asked.stock)
    return {
        "chain": [fitting.name for fitting in stack.chain],
        "joints": [
            {
                "male": joint.male.name,
                "female": joint.female.name,
                "seal": joint.seal,
                "put_on": dressing(joint, ""),
                "tighten": tighten(joint, ""),
            }
            for joint in stack.joints
        ],
        "length_mm": stack.length_mm if stack.found else None,
        "findings": findings_out(stack.findings),
    }


@dataclass(frozen=True, slots=True)
class DrillInput:
    """A thread to cut in a wall."""

    thread: str
    wall_mm: Positive
    material: Literal["cast_iron", "steel", "aluminium", "sheet"]
    reamed: bool = False
    practice: TapPractice = "handbook"

    def __post_init__(self) -> None:
        connection_called(self.thread, "thread")


def run_drill(asked: DrillInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Steps, tap drill, threads that hold."""
    thread = connection_called(asked.thread)
    plan = plan_hole(thread, asked.wall_mm, asked.material, asked.reamed, asked.practice)
    return {
        "steps_mm": list(plan.steps_mm),
        "tap_drill": {"name": plan.tap_drill.name, "mm": plan.tap_drill.size_mm},
        "threads_engaged": plan.threads_engaged,
        "enters_by_hand_mm": plan.enters_by_hand_mm,
        "lubricant": plan.lubricant,
        "source": source_of(thread.family),
        "findings": findings_out(plan.findings),
    }


@dataclass(frozen=True, slots=True)
class WidebandInput:
    """A place for a lambda sensor."""

    distance_mm: NonNegative
    after_turbine: bool | None
    before_catalyst: bool | None
    tip_angle_deg: Annotated[float, Limits(low=-90, high=90)] | None = None
    open_end_distance_mm: NonNegative | None = None
    practice: Practice = "12_to_36_in"


def run_wideband(asked: WidebandInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Whether the place will do."""
    place = judge_wideband(
        asked.distance_mm,
        asked.after_turbine,
        asked.before_catalyst,
        asked.tip_angle_deg,
        asked.open_end_distance_mm,
        asked.practice,
    )
    return {"ok": place.ok, "allowed_mm": list(place.allowed_mm), "findings": findings_out(place.findings)}


@dataclass(frozen=True, slots=True)
class SpotInput:
    """An infrared sensor at a distance."""

    distance_mm: NonNegative
    cone_deg: Annotated[float, Limits(above=0, high=179)]


def run_spot(asked: SpotInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """The spot it sees."""
    return {"spot_mm": spot_mm(asked.distance_mm, asked.cone_deg), "findings": []}


CALCULATIONS = {
    "stack": Calculation(StackInput, run_stack, {"port": "M12x1.5 female", "sender": "1/8-27 NPT male"}),
    "drill": Calculation(
        DrillInput,
        run_drill,
        {"thread": "1/8-27 NPT", "wall_mm": 7, "material": "cast_iron", "reamed": False},
    ),
    "wideband": Calculation(
        WidebandInput,
        run_wideband,
        {
            "distance_mm": 560,
            "after_turbine": True,
            "before_catalyst": True,
            "tip_angle_deg": 30,
            "open_end_distance_mm": 1800,
            "practice": "18_in",
        },
    ),
    "spot": Calculation(SpotInput, run_spot, {"distance_mm": 150, "cone_deg": 35}),
}
