"""What every test should find, before anyone reaches for a meter.

Each test point of the job, in each state, gets the value the twin gives with nominal parts and a band: what the parts'
tolerances do together (``spread``) and the meter's own error. A healthy job falls outside less than once in a hundred
readings; what a face shows is banded before it is rounded to the face's digits.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal

from metrolex.circuit import GROUND
from metrolex.circuit.elements import Name
from metrolex.circuit.solve import Solutions
from metrolex.job import (
    BATTERY_POSTS,
    Display,
    Job,
    MeasuringChain,
    State,
    TestRef,
)
from metrolex.quantities import rounded
from metrolex.scaling.face_words import face_word, face_words
from metrolex.scaling.reading import Shown
from metrolex.scaling.reference import cancels, fed_by_its_display
from metrolex.topology import Topology, at_pin, topology_of
from metrolex.twin import addresses
from metrolex.twin.backlight import lights
from metrolex.twin.build import Network, sender_output
from metrolex.twin.kept import once, once_per_circuit
from metrolex.twin.reach import not_worked_out
from metrolex.twin.run import Off, Solved, readings, solve, unrounded
from metrolex.twin.spread import SURE, Moved, half_widths, moved_parts, sender_ends
from metrolex.uniform_sum import half_width

__all__ = [
    "STATES",
    "Expectation",
    "TestPoint",
    "expect",
    "expect_at",
    "expect_in",
    "own_errors",
    "points_to_test",
    "states_of",
    "verdict",
]

METER_RATIO = 0.005  # of the reading, plus one digit: a common digital meter (common practice, no source)
FLOATS = "floats"
LIVE_V = 2.0  # from which on a test lamp is taken to be lit (common practice, no source)
METER_DIGIT_V = 0.01
METER_OHM_RATIO = 0.01
METER_OHM_DIGIT = 0.1
MAX_THREAD_OHM = (
    1.0  # from a sender's body through sealed threads to battery negative (common practice, no source)
)

#: The states in which a job is proved, in the order they are met.
STATES = (
    State("off"),
    State("off", "park"),
    State("acc"),
    State("run"),
    State("run", "head"),
    State("crank"),
    State("run", "off", "running"),
)


@dataclass(frozen=True, slots=True)
class TestPoint:
    """Where to measure: two nodes for volts, a sender for ohms, a channel for what is shown, two for how far they agree.

    ``key_off``: to be measured with the key off only, ohms through the vehicle's own metal.
    """

    __test__ = False  # keep test collectors away from the name

    test: TestRef
    name: str
    kind: Literal["volts", "ohms", "shown", "agrees"]
    unit: str
    red: Name = ""
    black: Name = ""
    channel: str = ""
    key_off: bool = False

    @property
    def id(self) -> str:
        """The test as one says it."""
        return str(self.test)


@dataclass(frozen=True, slots=True)
class Expectation:
    """What a test should find in one state. ``word`` stands where no number is shown ('dark', 'dashes'); ``also`` are all words for the face."""

    point: TestPoint
    state: State
    value: float | None
    low: float | None
    high: float | None
    word: str = ""
    also: tuple[str, ...] = ()

    @property
    def band(self) -> float:
        """Half the width of the band, in the point's unit."""
        return 0.0 if self.low is None or self.high is None else (self.high - self.low) / 2


@once
def points_to_test(network: Network) -> list[TestPoint]:
    """The tests of a job: supply pins, grounds and signals of each wired display, senders, faces."""
    job = network.job
    found = [
        TestPoint(BATTERY_POSTS, "Battery, post to post", "volts", "V", addresses.BATTERY_POSITIVE, GROUND)
    ]
    for display in job.displays:
        found.extend(_display_points(display, topology_of(job)))
    for channel in job.measured:
        sender = job.sender(channel.sender)
        if sender is not None and sender.wires < 3 and sender.curve.x_unit == "ohm":
            found.append(
                TestPoint(
                    TestRef("sender", sender.id, "ohms"),
                    f"{sender.id}, unplugged, signal to {sender.terminals[1]}",
                    "ohms",
                    "ohm",
                    channel=channel.channel,
                )
            )
        if grounds_by_thread(job, channel):
            found.append(
                TestPoint(
                    TestRef("sender", channel.sender or "", "thread"),
                    f"{channel.sender}, body to battery negative",
                    "ohms",
                    "ohm",
                    channel=channel.channel,
                    key_off=True,
                )
            )
    for channel in job.chains:
        if job.input_of(channel) is not None:
            found.append(
                TestPoint(
                    TestRef("readout", channel.id, "shown"),
                    f"{channel.name}, on the face",
                    "shown",
                    channel.unit,
                    channel=channel.id,
                )
            )
    found.extend(_pairs(job))
    return found


def _pairs(job: Job) -> Iterator[TestPoint]:
    """Two like readings, left and right, front and rear: they agree at rest, and rise together."""
    first: dict[tuple[str, str], MeasuringChain] = {}
    for chain in job.chains:
        if job.input_of(chain) is None or job.shown_by(chain) is not None:
            continue
        like = first.setdefault((chain.measurand, chain.unit), chain)
        if like.channel != chain.channel:
            yield TestPoint(
                TestRef("readout", like.id, "agrees", chain.id),
                f"{like.name} less {chain.name}",
                "agrees",
                chain.unit,
                channel=like.id,
            )


def grounds_by_thread(job: Job, channel: MeasuringChain) -> bool:
    """Whether a channel's sender returns through its own thread: one wire, in metal that reaches the engine."""
    sender, port = job.sender(channel.sender), job.port(channel.port)
    return sender is not None and sender.wires == 1 and port is not None and port.ground.grounded


def _display_points(display: Display, wiring: Topology) -> Iterator[TestPoint]:
    ground = display.pin_for("ground")
    if ground is None:
        return
    rail = addresses.pin_node(display, ground.id)
    for pin in display.pins:
        if not wiring.wired(at_pin(display, pin), measured=True) or pin.role == "return":
            continue
        node = addresses.pin_node(display, pin.id)
        if pin.role == "ground":
            yield TestPoint(
                TestRef("display", display.id, "ground"),
                f"{node} to battery negative",
                "volts",
                "V",
                node,
                GROUND,
            )
        else:
            yield TestPoint(
                TestRef("display", display.id, "pin", pin.id),
                f"{node} to pin {ground.id}",
                "volts",
                "V",
                node,
                rail,
            )


def expect(network: Network, state: State) -> tuple[Expectation, ...]:
    """The expectation at every test point in one state."""
    return tuple(expect_at(network, state, point) for point in points_at(network, state))


def points_at(network: Network, state: State) -> tuple[TestPoint, ...]:
    """The test points that can be gone to in a state, in the order of the sheet."""
    job = network.job
    elsewhere = {
        chain.id
        for chain in job.chains
        if (by := job.shown_by(chain)) and (by[0].id in state.thrown) != by[1]
    }
    return tuple(
        point
        for point in points_to_test(network)
        if (state.key == "off" or not point.key_off)
        and not (point.kind == "shown" and point.channel in elsewhere)
        and not (point.kind == "agrees" and state.key != "run")
    )


def states_of(job: Job) -> tuple[State, ...]:
    """The states a job is proved in: those of the key, then each switch of the job thrown."""
    hands = [one for one in job.switches if one.kind != "relay"]
    return (
        *STATES,
        *(
            State(
                "run",
                "park" if lights(job, one) else "off",
                "stopped" if lights(job, one) else "running",
                (one.id,),
            )
            for one in hands
        ),
    )


@once_per_circuit
def expect_at(network: Network, state: State, point: TestPoint) -> Expectation:
    """The expectation at one test point in one state."""
    nominal = solve(network, state)
    return _expectation(point, nominal, _moved(network, state), readings(nominal))


def expect_in(solved: Solved, point: TestPoint) -> Expectation:
    """The expectation at a test point of a state solved with something else than usual in it: another true value, a fault."""
    return _expectation(point, solved, moved_parts(solved), readings(solved))


@once_per_circuit
def _moved(network: Network, state: State) -> Moved:
    return moved_parts(solve(network, state))


def _expectation(point: TestPoint, nominal: Solved, moved: Moved, shown: dict[str, Shown]) -> Expectation:
    if point.kind == "ohms":
        return _ohms(point, nominal)
    if point.kind == "volts":
        if unknown := _unknown(nominal.network.job, point.test):
            return Expectation(point, nominal.state, None, None, None, unknown)
        value = nominal.across(point.red, point.black)
        if value is None:
            return Expectation(point, nominal.state, None, None, None, FLOATS)
        below, above = half_widths(
            value,
            moved,
            lambda s: s.across(point.red, point.black),
            (METER_RATIO * abs(value) + METER_DIGIT_V,),
        )
        return Expectation(point, nominal.state, value, value - below, value + above)
    if point.kind == "agrees":
        return _agreeing(point, nominal, moved, shown)
    face = shown[point.channel]
    chain = nominal.network.job.chain(point.channel)
    also = face_words(face, chain) if chain else ()
    if face.value is None:
        word = face.reason if face.state == "unfinished" else face_word(face)
        return Expectation(point, nominal.state, None, None, None, word, also)
    return replace(_on_the_face(point, nominal, moved, face.value), also=also)


def _agreeing(point: TestPoint, nominal: Solved, moved: Moved, shown: dict[str, Shown]) -> Expectation:
    """How far apart two like faces may stand: each within its own band."""
    both = []
    for key in (point.channel, point.test.pin):
        face = shown.get(key)
        if face is None or face.value is None:
            return Expectation(
                point, nominal.state, None, None, None, face.text or face.reason if face else ""
            )
        one = TestPoint(TestRef("readout", key, "shown"), "", "shown", point.unit, channel=key)
        both.append(_on_the_face(one, nominal, moved, face.value))
    a, b = both
    assert a.value is not None
    assert b.value is not None
    low = None if a.low is None or b.high is None else a.low - b.high
    high = None if a.high is None or b.low is None else a.high - b.low
    return Expectation(point, nominal.state, a.value - b.value, low, high)


def _unknown(job: Job, test: TestRef) -> str:
    """The length that is missing on the way to a pin, or from its display's ground, in words; '' where none is."""
    display = job.display(test.id) if test.kind == "display" else None
    if display is None:
        return ""
    pins = (display.pin_called(test.pin), display.pin_for("ground"))
    return next((words for pin in pins if pin and (words := not_worked_out(job, display, pin))), "")


def _on_the_face(point: TestPoint, nominal: Solved, moved: Moved, face: float) -> Expectation:
    """The band of a reading: of the value before its digits, then rounded to them."""
    channel = nominal.network.job.chain(point.channel)
    read = unrounded(nominal, channel) if channel is not None else None
    if channel is None or read is None:
        return Expectation(point, nominal.state, face, face, face)
    still = _still(nominal)
    exact = read(still, Off()).item()
    if math.isnan(exact):
        return Expectation(point, nominal.state, face, face, face)
    converter = read(still, Off(steps=-1.0)).item()  # it counts whole steps downwards
    own = [
        max(abs(end - exact) for off in ends if not math.isnan(end := read(still, off).item()))
        for ends in own_errors(nominal.network.job, channel)
    ]
    below, above = half_widths(exact, moved, lambda s: read(s, Off()), own)
    step = 0.0 if math.isnan(converter) else converter - exact
    low, high = exact - below + min(step, 0.0), exact + above + max(step, 0.0)
    digits = channel.scaling.decimals
    return Expectation(
        point, nominal.state, face, min(rounded(low, digits), face), max(rounded(high, digits), face)
    )


@once
def _still(nominal: Solved) -> Solutions:
    return nominal.solution.alone()


def own_errors(job: Job, channel: MeasuringChain) -> Iterator[tuple[Off, ...]]:
    """What the input itself may be off either way, beside the parts of the circuit; in its place too, so that none is empty."""
    stage = job.input_of(channel)
    if stage is None:
        return
    yield tuple(Off(steps=sign * stage.converter.adc_offset_lsb) for sign in (-1, 0, 1))
    if stage.kind == "thermocouple":
        yield tuple(Off(cold_k=sign * stage.cold_junction_k) for sign in (-1, 0, 1))
    in_the_circuit = not stage.converter.ratiometric and fed_by_its_display(job, channel)
    if stage.kind == "volts" and not cancels(job, channel) and not in_the_circuit:
        yield tuple(Off(gain=1 + sign * stage.circuit.reference_tolerance_pct / 100) for sign in (-1, 0, 1))


def _ohms(point: TestPoint, nominal: Solved) -> Expectation:
    job = nominal.network.job
    channel = job.chain(point.channel)
    sender = job.sender(channel.sender) if channel else None
    if channel is None or sender is None:
        return Expectation(point, nominal.state, None, None, None, "no sender")
    if point.test.what == "thread":
        port = job.port(channel.port)
        return Expectation(point, nominal.state, port.ground.thread_ohm if port else 0.0, 0.0, MAX_THREAD_OHM)
    true = nominal.true.get(channel.channel)
    if true is None:
        return Expectation(point, nominal.state, None, None, None, "no true value given")
    value = sender_output(channel, sender, true)
    low, high = sender_ends(channel, sender, true)
    error = METER_OHM_RATIO * value + METER_OHM_DIGIT
    return Expectation(
        point,
        nominal.state,
        value,
        value - half_width((value - low, error), SURE),
        value + half_width((high - value, error), SURE),
    )


Found = Literal["as expected", "off", "no figure"]


def verdict(expectation: Expectation, value: float | str) -> tuple[Found, str]:
    """Hold what was seen, a figure or a word, against what was expected; the second part says it in words."""
    if expectation.word == FLOATS:
        return _floating_verdict(value)
    if isinstance(value, str):
        return _word_verdict(expectation, value)
    if expectation.value is None or expectation.low is None or expectation.high is None:
        return "off", f"expected {expectation.word}"
    slack = 1e-9 + 1e-9 * abs(expectation.value)
    if expectation.low - slack <= value <= expectation.high + slack:
        return "as expected", "within the band"
    over = value - expectation.high if value > expectation.high else expectation.low - value
    side = "above" if value > expectation.high else "below"
    return "off", f"{over:.3g} {expectation.point.unit} {side} the band"


def passing(expectation: Expectation) -> float | str | None:
    """A reading that is as expected; None for a test whose expectation cannot be said yet."""
    if expectation.value is not None:
        return expectation.value
    told = ("dead",) if expectation.word == FLOATS else (expectation.word, *expectation.also)
    return next((word for word in told if word and verdict(expectation, word)[0] == "as expected"), None)


def _floating_verdict(value: float | str) -> tuple[Found, str]:
    """Of a point that nothing holds: a meter pulls it near to nothing, a lamp stays dark."""
    dead = value == "dead" if isinstance(value, str) else abs(value) < LIVE_V
    return ("as expected", "nothing feeds it") if dead else ("off", "expected nothing there")


def _word_verdict(expectation: Expectation, word: str) -> tuple[Found, str]:
    if word in ("live", "dead") and expectation.point.kind == "volts":
        if expectation.value is None:
            return "no figure", "nothing holds this point"
        expected = "live" if expectation.value >= LIVE_V else "dead"
        return ("as expected", expected) if word == expected else ("off", f"expected {expected}")
    if word in expectation.also:
        return "as expected", word
    if expectation.value is not None:
        return "off", f"expected {expectation.value:g} {expectation.point.unit}"
    return ("as expected", word) if word == expectation.word else ("off", f"expected {expectation.word}")
