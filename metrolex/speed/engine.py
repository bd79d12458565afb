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
        {
            "coil_negative": sparks,
            "ecu": sparks,
            "wasted_spark_coil": 1.0,
            "plug_lead": each,
            "wasted_spark_plug_lead": 1.0,
        }[pickup]
    )


def doubt_of(
    pulses: EnginePulses, shown_rpm: float, true_rpm: float, setting: float | None = None
) -> list[Finding]:
    """What shown against true says: right, a setting for another number of pulses, or pulses counted twice or lost.

    ``setting`` is the pulses a turn the display was told; without it the ratio is held against the settings there are.
    Raises BadInput for a speed or setting of 0 or less.
    """
    for field, value in (
        ("shown_rpm", shown_rpm),
        ("true_rpm", true_rpm),
        ("setting", 1.0 if setting is None else setting),
    ):
        if not value > 0:
            raise BadInput(field, value, "above 0" if field == "setting" else "rpm above 0")
    ratio = shown_rpm / true_rpm
    if setting is not None:
        return _doubt_with_setting(pulses, shown_rpm, true_rpm, setting)
    if abs(ratio - 1) <= CLOSE_SHARE:
        return []
    # The display divides by what it was told; what arrives is ``per_rev``.
    told = min(_SETTINGS, key=lambda setting: abs(pulses.per_rev / setting / ratio - 1))
    fits = pulses.per_rev / told
    said, figure = f"{shown_rpm:g} shown at {true_rpm:g}", f"{ratio:.2f} times"
    if abs(fits / ratio - 1) <= CLOSE_SHARE and told != pulses.per_rev:
        return [
            _doubt(
                "wrong_pulse_setting",
                f"{said}: {_words(fits)} the true speed, as if the display were set to {told:g} pulses a turn. It is {pulses.per_rev:g}.",
                figure,
                f"Set it to {pulses.per_rev:g} pulses a turn; if that is set, pulses are counted twice or lost.",
            )
        ]
    nearest = f"The nearest is {told:g} pulses a turn, {fits:.2f} times."
    if ratio > 1:
        return [
            _doubt(
                "pulses_counted_twice",
                f"{said}: no setting gives {ratio:.2f} times; some pulses ring and are counted more than once. {nearest}",
                figure,
                _QUIETER,
            )
        ]
    return [
        _doubt(
            "pulses_lost",
            f"{said}: no setting gives {ratio:.2f} times; some pulses are missed. {nearest}",
            figure,
            _LOUDER,
        )
    ]


_QUIETER = "One turn less round the plug lead, screened wire away from the coils, a resistor of 10 kilo-ohm in the tap, suppressed plugs."
_LOUDER = (
    "One turn more round the plug lead, or take the signal from the ignition box or the coil's negative."
)


def _doubt_with_setting(
    pulses: EnginePulses, shown_rpm: float, true_rpm: float, setting: float
) -> list[Finding]:
    """The same where the setting is known: what it explains is its fault, what is left is the pulses'."""
    ratio, explained = shown_rpm / true_rpm, pulses.per_rev / setting
    left = ratio / explained
    said, figure = (
        f"{shown_rpm:g} shown at {true_rpm:g} with {setting:g} pulses a turn set",
        f"{ratio:.2f} times",
    )
    right = abs(explained - 1) <= CLOSE_SHARE
    if abs(ratio - 1) <= CLOSE_SHARE:
        if right:
            return []
        return [
            _doubt(
                "pulses_not_as_reckoned",
                f"{said}: it reads right, so {setting:g} pulses a turn arrive, not the {pulses.per_rev:g} reckoned.",
                figure,
                "Keep the setting; look again at cylinders, strokes and pick-up.",
            )
        ]
    if abs(left - 1) <= CLOSE_SHARE:
        return [
            _doubt(
                "wrong_pulse_setting",
                f"{said}, where {pulses.per_rev:g} come: {_words(explained)} the true speed, as that setting makes it.",
                figure,
                f"Set it to {pulses.per_rev:g} pulses a turn.",
            )
        ]
    setting_words = (
        "The setting is right"
        if right
        else f"The setting alone would show {_words(explained)} the true speed"
    )
    more = left > 1
    how = f"{setting_words}; {_counted(left)}, or {setting * ratio:.3g} pulses a turn arrive where {pulses.per_rev:g} are reckoned."
    remedy = (
        (_QUIETER if more else _LOUDER)
        if right
        else f"Set it to {pulses.per_rev:g} pulses a turn first. Then: {_QUIETER if more else _LOUDER}"
    )
    return [_doubt("pulses_counted_twice" if more else "pulses_lost", f"{said}. {how}", figure, remedy)]


def _counted(left: float) -> str:
    """What is wrong with the pulses by how many times too many are counted."""
    if abs(left / 2 - 1) <= CLOSE_SHARE:
        return "each pulse is counted twice"
    if abs(left * 2 - 1) <= CLOSE_SHARE:
        return "every other pulse is lost"
    return "some pulses are counted more than once" if left > 1 else "some pulses are lost"


def _doubt(code: str, reason: str, figure: str, remedy: str) -> Finding:
    return Finding("caution", code, "engine speed", reason, figure, remedy)


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
