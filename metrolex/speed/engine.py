"""Engine speed: pulses a turn from cylinders, strokes and pick-up, and what a wrong reading says of the setting.

A four-stroke fires every cylinder once in two turns, a two-stroke once a turn; a wasted-spark coil fires every turn (textbook).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from metrolex.errors import BadInput
from metrolex.findings import Finding

__all__ = [
    "CLOSE_SHARE",
    "PICKUP_TURNS",
    "EnginePulses",
    "Pickup",
    "doubt_of",
    "engine_pulses",
    "jumps_findings",
]

Pickup = Literal["coil_negative", "wasted_spark_coil", "plug_lead", "wasted_spark_plug_lead", "ecu"]
#: Turns of pick-up wire round a plug lead to start with (common practice, no source).
PICKUP_TURNS = 6
#: Shown and true within this share are taken as equal.
CLOSE_SHARE = 0.03
_SETTINGS = (0.5, 1.0, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0)


@dataclass(frozen=True, slots=True)
class EnginePulses:
    """Pulses for each turn of the crankshaft."""

    per_rev: float

    def hertz(self, rpm: float) -> float:
        return self.per_rev * rpm / 60


def engine_pulses(
    cylinders: int, strokes: Literal[2, 4], pickup: Pickup, per_rev: float | None = None
) -> EnginePulses:
    """Pulses a turn at a pick-up; an ECU's output gives as many as the coil would unless ``per_rev`` is known.

    >>> engine_pulses(4, 4, 'coil_negative').per_rev, engine_pulses(2, 4, 'plug_lead').per_rev
    (2.0, 0.5)
    """
    if not 1 <= cylinders <= 24:
        raise BadInput("cylinders", cylinders, "1 to 24")
    if strokes not in (2, 4):
        raise BadInput("strokes", strokes, "2 | 4")
    if per_rev is not None:
        if not per_rev > 0:
            raise BadInput(
                "pulses_per_rev", per_rev, "more than 0 pulses a turn: without pulses nothing is counted"
            )
        return EnginePulses(per_rev)
    sparks = cylinders * (0.5 if strokes == 4 else 1.0)
    each = 0.5 if strokes == 4 else 1.0
    return EnginePulses(
        {"coil_negative": sparks, "ecu": sparks, "wasted_spark_coil": 1.0, "plug_lead": each, "wasted_spark_plug_lead": 1.0}[pickup]
    )  # fmt: skip


def doubt_of(pulses: EnginePulses, shown_rpm: float, true_rpm: float) -> list[Finding]:
    """What shown against true says: right, a setting for another number of pulses, or pulses counted twice or lost.

    Raises BadInput for a speed of 0 or less.
    """
    for field, value in (("shown_rpm", shown_rpm), ("true_rpm", true_rpm)):
        if not value > 0:
            raise BadInput(field, value, "rpm above 0")
    ratio = shown_rpm / true_rpm
    if abs(ratio - 1) <= CLOSE_SHARE:
        return []
    # The display divides by what it was told; what arrives is ``per_rev``.
    told = min(_SETTINGS, key=lambda setting: abs(pulses.per_rev / setting / ratio - 1))
    fits = pulses.per_rev / told
    figure = f"{ratio:.2f} times"
    if abs(fits / ratio - 1) <= CLOSE_SHARE and told != pulses.per_rev:
        return [
            Finding("caution", "wrong_pulse_setting", "engine speed",
                    f"{shown_rpm:g} shown at {true_rpm:g}: {_words(fits)} the true speed, as if the display were set to {told:g} pulses a turn. It is {pulses.per_rev:g}.",
                    figure, f"Set it to {pulses.per_rev:g} pulses a turn.")
        ]  # fmt: skip
    if ratio > 1:
        return [
            Finding("caution", "pulses_counted_twice", "engine speed",
                    f"{shown_rpm:g} shown at {true_rpm:g}: no setting gives {ratio:.2f} times; some pulses ring and are counted more than once. The nearest is {told:g} pulses a turn, {fits:.2f} times.",
                    figure, "One turn less round the plug lead, screened wire away from the coils, a resistor of 10 kilo-ohm in the tap, suppressed plugs.")
        ]  # fmt: skip
    return [
        Finding("caution", "pulses_lost", "engine speed",
                f"{shown_rpm:g} shown at {true_rpm:g}: no setting gives {ratio:.2f} times; some pulses are missed. The nearest is {told:g} pulses a turn, {fits:.2f} times.",
                figure, "One turn more round the plug lead, or take the signal from the ignition box or the coil's negative.")
    ]  # fmt: skip


def jumps_findings(readings_rpm: tuple[float, ...], true_rpm: float) -> list[Finding]:
    """Readings taken at one steady speed: a needle that jumps upwards now and then counts noise, downwards loses pulses."""
    if not true_rpm > 0:
        raise BadInput("true_rpm", true_rpm, "rpm above 0")
    up = [r for r in readings_rpm if r > true_rpm * 1.08]
    down = [r for r in readings_rpm if r < true_rpm * 0.92]
    if not readings_rpm or len(up) + len(down) in (0, len(readings_rpm)):
        return []
    code, words = (
        ("noise_on_pulses", "jumps up: noise is counted")
        if len(up) >= len(down)
        else ("pulses_drop_out", "drops: pulses are lost")
    )
    remedy = (
        "Screen the wire, one ground, away from plug leads; fewer turns."
        if code == "noise_on_pulses"
        else "More turns, a better joint, look at the connector."
    )
    return [
        Finding(
            "caution",
            code,
            "engine speed",
            f"At a steady {true_rpm:g} rpm the reading {words}.",
            f"{len(up) + len(down)} of {len(readings_rpm)} readings",
            remedy,
        )
    ]


def _words(ratio: float) -> str:
    names = {
        2.0: "twice",
        0.5: "half",
        4.0: "four times",
        0.25: "a quarter of",
        3.0: "three times",
        1.5: "one and a half times",
    }
    return names.get(round(ratio, 3), f"{ratio:.2f} times")
