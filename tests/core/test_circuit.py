"""The solver by hand, and its refusals in words."""

from __future__ import annotations

import math

import pytest

from metrolex.circuit import (
    GROUND,
    Fault,
    Resistor,
    VoltageFollower,
    VoltageSource,
    apply_faults,
    solve,
    spice_deck,
)
from metrolex.circuit.elements import CurrentSource
from metrolex.errors import BadInput, CircuitError

BATTERY = VoltageSource("battery", "plus", GROUND, 12.0)


def test_a_divider_by_hand():
    # 12 V over 1 and 2 ohm: 12/3 = 4 A, 8 V between them.
    solved = solve(
        [BATTERY, Resistor("upper", "plus", "middle", 1.0), Resistor("lower", "middle", GROUND, 2.0)]
    )
    assert solved.nodes["middle"] == pytest.approx(8.0)
    assert solved.currents == pytest.approx({"battery": 4.0, "upper": 4.0, "lower": 4.0})
    assert solved.across("plus", "middle") == pytest.approx(4.0)


def test_series_and_parallel_by_hand():
    # (2 + 4) parallel to (1 + 3) ohm: 1/(1/6 + 1/4) = 2.4 ohm, 12/2.4 = 5 A.
    solved = solve(
        [
            BATTERY,
            Resistor("a", "plus", "n1", 2.0),
            Resistor("b", "n1", GROUND, 4.0),
            Resistor("c", "plus", "n2", 1.0),
            Resistor("d", "n2", GROUND, 3.0),
        ]
    )
    assert solved.currents["battery"] == pytest.approx(5.0)
    assert (solved.nodes["n1"], solved.nodes["n2"]) == pytest.approx((8.0, 9.0))


def test_a_follower_draws_nothing_and_scales():
    solved = solve(
        [
            BATTERY,
            Resistor("r", "plus", GROUND, 6.0),
            VoltageFollower("half", "out", GROUND, "plus", GROUND, 0.5),
            Resistor("load", "out", GROUND, 3.0),
        ]
    )
    assert solved.nodes["out"] == pytest.approx(6.0)
    assert solved.currents["battery"] == pytest.approx(2.0)


def test_a_constant_current_load():
    solved = solve([BATTERY, Resistor("wire", "plus", "pin", 0.5), CurrentSource("load", "pin", GROUND, 2.0)])
    assert solved.nodes["pin"] == pytest.approx(11.0)


def test_a_floating_part_is_said_not_guessed():
    solved = solve([BATTERY, Resistor("r", "plus", GROUND, 6.0), Resistor("lost", "a", "b", 10.0)])
    assert solved.nodes["a"] is None
    assert solved.floating == {"a", "b"}
    assert solve([]).nodes == {GROUND: 0.0}


REFUSED = [
    ([BATTERY, VoltageSource("other", "plus", GROUND, 6.0)], "loop of voltage sources"),
    ([BATTERY, VoltageSource("short", "plus", "plus", 1.0)], "loop of voltage sources"),
    ([BATTERY, CurrentSource("load", "plus", "nowhere", 1.0)], "the current has no way back"),
    ([BATTERY, Resistor("battery", "plus", GROUND, 1.0)], "Two elements are called 'battery'"),
    (
        [VoltageFollower("mad", "a", GROUND, "a", GROUND, 1.0), Resistor("r", "a", GROUND, 1.0)],
        "no single answer",
    ),
]


@pytest.mark.parametrize(("elements", "words"), REFUSED)
def test_a_network_without_an_answer_is_explained(elements, words):
    with pytest.raises(CircuitError, match=words):
        solve(elements)


def test_no_resistance_is_refused():
    with pytest.raises(BadInput, match="above 0 ohm"):
        Resistor("r", "a", "b", 0.0)


CHAIN = [
    BATTERY,
    Resistor("wire", "plus", "pin", 1.0),
    Resistor("load", "pin", GROUND, 5.0),
    Resistor("spare", "x", GROUND, 5.0),
]
FAULTS = [
    (Fault("wire", "open"), "pin", 12 * 5 / 1e9),
    (Fault("load", "short"), "pin", 12 * (0.005 / 5.001) / (1 + 0.005 / 5.001)),
    (Fault("wire", "short", to=GROUND), "plus", 12.0),
    (Fault("wire", "resistance", ohm=4.0), "pin", 6.0),
    (Fault("battery", "resistance", ohm=6.0), "plus", 6.0),
    (Fault("wire", "swap", with_="spare"), "pin", 0.0),
]


@pytest.mark.parametrize(("fault", "node", "volts"), FAULTS)
def test_faults_by_hand(fault, node, volts):
    assert solve(apply_faults(CHAIN, [fault])).nodes[node] == pytest.approx(volts, abs=1e-6)


BAD_FAULTS = [
    (lambda: apply_faults(CHAIN, [Fault("wier", "open")]), "faults[0].element", "Did you mean 'wire'?"),
    (
        lambda: apply_faults(CHAIN, [Fault("wire", "short", to="nowhere")]),
        "faults[0].to",
        "no node 'nowhere'",
    ),
    (
        lambda: apply_faults(CHAIN, [Fault("wire", "swap", with_="lode")]),
        "faults[0].with",
        "Did you mean 'load'?",
    ),
    (lambda: Fault("wire", "resistance"), "ohm", "ohms above 0"),
    (lambda: Fault("wire", "open", ohm=3.0), "ohm", "for no other kind"),
    (lambda: Fault("wire", "open", to="x"), "to", "for a short only"),
    (lambda: Fault("wire", "swap"), "with", "the other element"),
]


@pytest.mark.parametrize(("make", "field", "words"), BAD_FAULTS)
def test_faults_that_cannot_be_meant(make, field, words):
    with pytest.raises(BadInput) as refusal:
        make()
    assert refusal.value.field == field
    assert words in refusal.value.message + refusal.value.allowed


def test_the_deck_names_every_node_and_holds_only_plain_elements():
    deck = spice_deck([*CHAIN, Resistor("lost", "a", "b", 10.0)], "A\ntitle")
    lines = deck.splitlines()
    assert lines[0] == "A title"
    assert "* node 0 = battery negative" in lines
    assert {line[0] for line in lines[1:]} <= set("*RVIEG.")
    assert lines[-3:] == [".op", ".print op v(1) v(2) v(3) v(4) v(5)", ".end"]
    assert sum("Rtie" in line for line in lines) == 2


def test_a_large_network_is_solved_as_a_small_one_is(monkeypatch):
    """A ladder of 400 rungs, taken apart as a sparse and as a dense matrix, and against its own recursion."""
    from metrolex.circuit import equations as written
    from metrolex.circuit.changes import Change, solve_changes

    count = 400
    rungs = [VoltageSource("battery", "n0", GROUND, 12.0)]
    rungs += [Resistor(f"along {i}", f"n{i}", f"n{i + 1}", 1.0) for i in range(count)]
    rungs += [Resistor(f"across {i}", f"n{i + 1}", GROUND, 50.0 + i) for i in range(count)]
    changes = [Change("n7", GROUND, 0.5), Change("n300", "n20", 2.0)]
    sparse, sparse_changes = solve(rungs), solve_changes(rungs, changes)
    monkeypatch.setattr(written, "_SPARSE_FROM", 10**9)
    dense, dense_changes = solve(rungs), solve_changes(rungs, changes)
    beyond = math.inf
    for i in reversed(range(count)):
        across = 50.0 + i
        beyond = 1.0 + (across if math.isinf(beyond) else across * beyond / (across + beyond))
    assert sparse.currents["battery"] == pytest.approx(12.0 / beyond, rel=1e-12)
    for i in range(0, count, 37):
        assert sparse.potentials[f"n{i}"] == pytest.approx(dense.potentials[f"n{i}"], rel=1e-12)
        for one, other in zip(sparse_changes, dense_changes, strict=True):
            assert one.potentials[f"n{i}"] == pytest.approx(other.potentials[f"n{i}"], rel=1e-10)
