"""The network as a SPICE deck, for any simulator that reads plain R, V, I and E elements."""

from __future__ import annotations

from collections.abc import Sequence

from metrolex.circuit.elements import CurrentSource, Element, Resistor, VoltageSource
from metrolex.circuit.equations import TIE_OHM, Joints

__all__ = ["spice_deck"]


def spice_deck(elements: Sequence[Element], title: str) -> str:
    """A deck of the solved network: title, a comment for each node, elements, operating point.

    Node 0 is battery negative. Floating nodes are tied by 1 Gohm as in ``solve``.
    """
    joints = Joints(elements)
    names = joints.row
    number = {name: i for i, name in enumerate(names)}
    lines = [_one_line(title) or "Metrolex network"]
    lines += [f"* node {number[name]} = {_one_line(str(name))}" for name in names]
    for i, element in enumerate(elements, 1):
        remark = f" ({element.remark})" if isinstance(element, Resistor) and element.remark else ""
        lines.append(f"* {_one_line(str(element.name))}{remark}")
        if isinstance(element, Resistor):
            lines.append(f"R{i} {number[element.a]} {number[element.b]} {element.ohm!r}")
        elif isinstance(element, CurrentSource):
            lines.append(f"I{i} {number[element.a]} {number[element.b]} DC {element.ampere!r}")
        elif isinstance(element, VoltageSource):
            lines.append(f"V{i} {number[element.plus]} {number[element.minus]} DC {element.volt!r}")
        else:
            ends = " ".join(
                str(number[n]) for n in (element.plus, element.minus, element.sense_plus, element.sense_minus)
            )
            lines.append(f"E{i} {ends} {element.ratio!r}")
    lines += [
        f"Rtie{number[name]} {number[name]} 0 {TIE_OHM!r}"
        for name in sorted(joints.floating, key=number.get)  # type: ignore[arg-type]
    ]
    printed = " ".join(f"v({number[name]})" for name in names if number[name])
    lines += [".op", f".print op {printed}", ".end"]
    return "\n".join(lines) + "\n"


def _one_line(text: str) -> str:
    return " ".join(text.split())
