"""Generic parts to start a job from: what can be shown, senders, displays, boxes. Data in ``metrolex/data``."""

from __future__ import annotations

import functools
from dataclasses import dataclass, replace
from typing import cast

from metrolex.errors import BadInput
from metrolex.fuel.systems import system_of
from metrolex.intake import read
from metrolex.job import Display, Measurand, Scaling, Sender, Vehicle
from metrolex.tables import load_table

__all__ = [
    "BY",
    "DASH",
    "KitDisplay",
    "MeasurandFacts",
    "all_box_kits",
    "all_display_kits",
    "all_sender_kits",
    "body_of",
    "box_kit",
    "display_kit",
    "facts_for",
    "measurand_facts",
    "measurands",
    "sender_and_box",
    "sender_kit",
    "sender_source",
]

#: The generic display that takes several readings.
DASH = "dash, nine sensor inputs and data"


#: Between the sender and the box it speaks through, in a choice that brings both.
BY = ", by "


@dataclass(frozen=True, slots=True)
class MeasurandFacts:
    """Something that can be shown, with its usual unit, true values and warning points in that unit.

    ``senders`` are the generic choices, one that comes with a box as 'sender, by box'.
    """

    id: Measurand
    name: str
    unit: str
    display: str
    senders: tuple[str, ...]
    true_stopped: float | None = None
    true_running: float | None = None
    warn_low: float | None = None
    warn_high: float | None = None
    decimals: int = 0


@dataclass(frozen=True, slots=True)
class KitDisplay:
    """A generic display and the table one of its kind has (none for a dash: it is entered on the bench); it is assumed until somebody reads it off."""

    display: Display
    scaling: Scaling


@functools.cache
def measurands() -> tuple[MeasurandFacts, ...]:
    """Everything that can be shown, in the order it is offered."""
    return tuple(
        MeasurandFacts(
            cast(Measurand, key),
            row["name"],
            row["unit"],
            row["display"],
            tuple(row["senders"]),
            row.get("true_stopped"),
            row.get("true_running"),
            row.get("warn_low"),
            row.get("warn_high"),
            row.get("decimals", 0),
        )
        for key, row in load_table("measurands").items()
    )


def measurand_facts(key: str) -> MeasurandFacts:
    """The facts of one measurand. Raises BadInput for an unknown word."""
    for facts in measurands():
        if facts.id == key:
            return facts
    raise BadInput("measurand", key, " | ".join(facts.id for facts in measurands()))


LOW_PRESSURE_BAR = 1.0  # up to which a line asks for the low-pressure gauge and sender


def facts_for(key: str, vehicle: Vehicle) -> MeasurandFacts:
    """The facts of a measurand on one vehicle: pressures and warning of its own fuel system. Raises BadInput."""
    facts, system = measurand_facts(key), system_of(vehicle.fuel.fuel_feed)
    if facts.id != "fuel_pressure" or system is None:
        return facts
    low = system.supply_bar[1] <= LOW_PRESSURE_BAR
    return replace(
        facts,
        true_running=system.usual_bar,
        warn_low=system.warn_low_bar,
        display="round gauge, low pressure" if low else facts.display,
        decimals=2 if low else facts.decimals,
        senders=tuple(sorted(facts.senders, key=lambda name: name.endswith(" 1 bar") != low)),
    )


def sender_kit(name: str, key: str) -> Sender:
    """A generic sender by its kit name, or of a choice that brings its box, with the id ``key`` in the job. Raises BadInput."""
    name, _ = sender_and_box(name)
    for row in load_table("senders")["senders"]:
        if row["name"] == name:
            plain = {field: value for field, value in row.items() if field not in ("source", "in_body_of")}
            return replace(read(Sender, {"id": "kit", **plain}), id=key)
    raise BadInput("sender", name, " | ".join(row["name"] for row in load_table("senders")["senders"]))


@functools.cache
def body_of(name: str) -> str:
    """The generic sender in whose body another sits, by their kit names; '' for one with a body of its own."""
    return next(
        (row.get("in_body_of", "") for row in load_table("senders")["senders"] if row["name"] == name), ""
    )


def sender_and_box(choice: str) -> tuple[str, str]:
    """The kit names of a choice: the sender, and the box it speaks through or ''."""
    for name in all_box_kits():
        if choice.endswith(BY + name):
            return choice.removesuffix(BY + name), name
    return choice, ""


@functools.cache
def all_box_kits() -> dict[str, Display]:
    """Every generic box by its kit name."""
    return {row["name"]: box_kit(row["name"], "kit") for row in load_table("boxes")["boxes"]}


def box_kit(name: str, key: str) -> Display:
    """A generic box by its kit name, with its id in the job. Raises BadInput."""
    for row in load_table("boxes")["boxes"]:
        if row["name"] == name:
            plain = {field: value for field, value in row.items() if field != "title"}
            return replace(read(Display, {"id": "kit", **plain}), id=key, name=row["title"])
    raise BadInput("box", name, " | ".join(row["name"] for row in load_table("boxes")["boxes"]))


def sender_source(name: str) -> str:
    """Where the curve of a generic sender comes from; 'invented' where the table names nothing."""
    return next(
        (row.get("source", "invented") for row in load_table("senders")["senders"] if row["name"] == name), ""
    )


@functools.cache
def all_display_kits() -> dict[str, Display]:
    """Every generic display by its kit name."""
    return {
        row["name"]: display_kit(row["name"], "kit", row["name"]).display
        for row in load_table("displays")["displays"]
    }


@functools.cache
def all_sender_kits() -> dict[str, Sender]:
    """Every generic sender by its kit name."""
    return {row["name"]: sender_kit(row["name"], "kit") for row in load_table("senders")["senders"]}


def display_kit(name: str, key: str, title: str) -> KitDisplay:
    """A generic display by its kit name, with its id and name in the job. Raises BadInput."""
    for row in load_table("displays")["displays"]:
        if row["name"] == name:
            plain = {field: value for field, value in row.items() if field != "scaling"}
            display = read(Display, {"id": "kit", **plain})
            scaling = read(Scaling, row.get("scaling", {}))
            return KitDisplay(
                replace(display, id=key, name=title), replace(scaling, assumed=bool(scaling.table))
            )
    raise BadInput("display", name, " | ".join(row["name"] for row in load_table("displays")["displays"]))
