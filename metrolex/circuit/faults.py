"""Faults as changes of elements: what breaks, chafes, corrodes or gets plugged the wrong way round."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from difflib import get_close_matches
from typing import Literal

from metrolex.circuit.elements import (
    CurrentSource,
    Element,
    Name,
    Resistor,
    VoltageFollower,
    VoltageSource,
)
from metrolex.circuit.equations import Joints
from metrolex.errors import BadInput

__all__ = ["OPEN_OHM", "SHORT_OHM", "Fault", "Replaced", "apply_faults"]

OPEN_OHM = 1e9
SHORT_OHM = 1e-3


@dataclass(frozen=True, slots=True)
class Fault:
    """One fault.

    open        1 Gohm in place of the element (in series with a source)
    short       1 mohm, or ``ohm``, across the element, or from its first node to node ``to``
    resistance  ``ohm`` more in series
    swap        the element and ``with`` change places at one end of each: ``ends`` says which, first the element's; the far ones unless said
    """

    element: Name
    kind: Literal["open", "short", "resistance", "swap"]
    ohm: float | None = None
    to: Name | None = None
    with_: Name | None = None
    ends: Literal["bb", "ba", "ab", "aa"] = "bb"

    def __post_init__(self) -> None:
        if (self.kind == "resistance" and self.ohm is None) or (
            self.ohm is not None and (self.kind not in ("resistance", "short") or not 0 < self.ohm < math.inf)
        ):
            raise BadInput("ohm", self.ohm, "ohms above 0 for a resistance or a short, and for no other kind")
        if (self.kind == "swap") != (self.with_ is not None):
            raise BadInput("with", self.with_, "the other element for a swap, and for no other kind")
        if self.to is not None and self.kind != "short":
            raise BadInput("to", self.to, "a node, for a short only")


@dataclass(frozen=True, slots=True)
class Replaced:
    """An element of the network, by name, with another value: its ohms, its volts, its amperes or its ratio."""

    name: Name
    value: float


def apply_faults(elements: Sequence[Element], faults: Sequence[Fault | Replaced]) -> list[Element]:
    """The network with the faults in it. Raises BadInput naming ``faults[i]`` for an unknown part."""
    changed = list(elements)
    for i, fault in enumerate(faults):
        try:
            if isinstance(fault, Replaced):
                at = _find(changed, fault.name, "name")
                changed[at] = _of_value(changed[at], fault.value)
            else:
                changed = _with_fault(changed, fault, f"fault {i + 1}")
        except BadInput as complaint:
            raise complaint.within(f"faults[{i}]") from None
    return changed


def _of_value(element: Element, value: float) -> Element:
    if isinstance(element, Resistor):
        return replace(element, ohm=value)
    if isinstance(element, VoltageSource):
        return replace(element, volt=value)
    if isinstance(element, CurrentSource):
        return replace(element, ampere=value)
    assert isinstance(element, VoltageFollower)
    return replace(element, ratio=value)


def _with_fault(elements: list[Element], fault: Fault, name: Name) -> list[Element]:
    at = _find(elements, fault.element, "element")
    element = elements[at]
    first, second = _far_ends(element)
    if fault.kind == "short":
        other = fault.to if fault.to is not None else second
        _require_node(elements, other)
        return [*elements, Resistor(name, first, other, fault.ohm or SHORT_OHM, f"short at {fault.element}")]
    if fault.kind == "swap":
        other_at = _find(elements, fault.with_ or "", "with")
        other, (own_end, other_end) = elements[other_at], fault.ends
        swapped = list(elements)
        swapped[at] = _ending_at(element, own_end, _end_of(other, other_end))
        swapped[other_at] = _ending_at(other, other_end, _end_of(element, own_end))
        return swapped
    ohm = OPEN_OHM if fault.kind == "open" else float(fault.ohm or 0)
    if isinstance(element, Resistor):
        value = ohm if fault.kind == "open" else element.ohm + ohm
        return [*elements[:at], replace(element, ohm=value), *elements[at + 1 :]]
    if isinstance(element, CurrentSource):
        if fault.kind == "open":
            return [*elements[:at], replace(element, ampere=0.0), *elements[at + 1 :]]
        raise BadInput(
            "kind",
            fault.kind,
            "open or short",
            f"'{element.name}' keeps its current whatever stands in series.",
        )
    inner = f"{element.name} inner side"
    moved = replace(element, plus=inner)
    return [
        *elements[:at],
        moved,
        Resistor(name, inner, first, ohm, f"in series with {element.name}"),
        *elements[at + 1 :],
    ]


def _find(elements: Sequence[Element], name: Name, field: str) -> int:
    for at, element in enumerate(elements):
        if element.name == name:
            return at
    names = [element.name for element in elements]
    raise BadInput(
        field,
        str(name),
        "an element of the network",
        f"There is no element '{name}'.{_nearest(name, names)}",
    )


def _require_node(elements: Sequence[Element], node: Name) -> None:
    if not any(node in _nodes(element) for element in elements):
        names = Joints(elements).row
        if node in names:  # ground, whether anything stands at it or not
            return
        words = f"There is no node '{node}'.{_nearest(node, names)}"
        raise BadInput("to", str(node), "a node of the network", words)


def _nearest(name: Name, names: Iterable[Name]) -> str:
    near = get_close_matches(str(name), map(str, names), 1)
    return f" Did you mean '{near[0]}'?" if near else ""


def _nodes(element: Element) -> tuple[Name, ...]:
    """All nodes an element stands at."""
    if isinstance(element, VoltageFollower):
        return (element.plus, element.minus, element.sense_plus, element.sense_minus)
    return _far_ends(element)


def _far_ends(element: Element) -> tuple[Name, Name]:
    if isinstance(element, (Resistor, CurrentSource)):
        return element.a, element.b
    return element.plus, element.minus


def _end_of(element: Element, end: str) -> Name:
    first, second = _far_ends(element)
    return first if end == "a" else second


def _ending_at(element: Element, end: str, node: Name) -> Element:
    if isinstance(element, (Resistor, CurrentSource)):
        return replace(element, a=node) if end == "a" else replace(element, b=node)
    return replace(element, plus=node) if end == "a" else replace(element, minus=node)
