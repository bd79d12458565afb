"""First-order effects of parts on node volts, against the network solved again with the part a little off."""

from __future__ import annotations

import numpy as np
import pytest

from metrolex.circuit import GROUND, Fault, Replaced, Resistor, VoltageSource, solve
from metrolex.circuit.first_order import FirstOrder
from metrolex.job import State
from metrolex.twin import addresses, build
from metrolex.twin import solve as solve_twin
from metrolex.twin.each import change_each
from metrolex.twin.spread import tolerances
from tests.jobs import van

NETWORK, RUNNING = build(van()), State("run", "off", "running")


def test_a_divider_by_hand():
    # 12 V over 1 and 2 ohm: dV/dR of the lower is 12 * 1 / 9 = 4/3 V per ohm; of the source 2/3.
    elements = [
        VoltageSource("battery", "plus", GROUND, 12.0),
        Resistor("up", "plus", "mid", 1.0),
        Resistor("low", "mid", GROUND, 2.0),
    ]
    solved = solve(elements)
    first = FirstOrder.of(
        solved.written, elements, ["mid", GROUND], [Replaced("low", 2.1), Replaced("battery", 13.0)]
    )
    unknowns = np.array([solved.potentials["plus"], solved.potentials["mid"], solved.currents["battery"]])
    effects = first.effects((), unknowns)
    assert effects[0] == pytest.approx([0.1 * 4 / 3, 2 / 3], rel=2e-3)
    assert effects[1] == pytest.approx([0.0, 0.0])


@pytest.mark.parametrize(
    "fault",
    [
        (),
        (Fault(addresses.wire("W19"), "open"),),
        (Fault(addresses.wire("W19"), "short", to=addresses.BODY),),
        (Fault(addresses.wire("W9"), "swap", with_=addresses.wire("W10")),),
        (Fault(addresses.ground_node("GP1"), "resistance", 1.0),),
    ],
    ids=["sound", "broken", "chafed", "swapped", "corroded"],
)
def test_each_part_of_the_van_a_little_off(fault):
    (one,) = change_each(NETWORK, RUNNING, [fault])
    solved, unknowns = one.solved(0), one.unknowns[:, 0]
    moved = [Replaced(part, ends[1]) for part, ends in tolerances(one.base)]
    nodes = [addresses.pin_node(d, p.id) for d in NETWORK.job.displays for p in d.pins]
    nodes = [node for node in nodes if node in one.base.solution.potentials]
    first = FirstOrder.of(one.base.solution.written, one.base.elements, nodes, moved)
    effects = first.effects(one.changes[0], unknowns)
    if len(one.changes[0]) == 1:  # as one of many it is the same
        (together,) = first.effects_of_each(one.changes[0], one.unknowns, range(len(nodes)))
        assert together == pytest.approx(effects, abs=1e-6, rel=1e-4)
    by_name = {element.name: element for element in one.base.elements}
    for part in range(0, len(moved), 7):
        name, high = moved[part].name, moved[part].value
        if any(name in (broken.element, broken.with_) for broken in fault):
            continue  # its own value is the fault's
        (field,) = (f for f in ("ohm", "volt", "ampere", "ratio") if hasattr(by_name[name], f))
        now = getattr(by_name[name], field)
        nudged = solve_twin(NETWORK, RUNNING, [*fault, Replaced(name, now + (high - now) / 1000)])
        for row, node in enumerate(nodes):
            off = 1000 * (nudged.solution.potentials[node] - solved.solution.potentials[node])
            assert effects[row, part] == pytest.approx(off, abs=2e-4 + 0.01 * abs(off)), (name, node)
