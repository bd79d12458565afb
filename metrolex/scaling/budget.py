"""Where a wrong reading comes from: the error of each part of a chain at a reading, and both ways to add them.

A term whose sign is known (self-heating, wire, ground, table, place, the converter's counting downwards) is a shift: it is always there and
can be corrected. The rest may be off either way, each part as likely anywhere in its tolerance as elsewhere; together they stay
within the 95 % half-width, worked out for parts independent of each other (`metrolex/uniform_sum.py`). Worst case is the sum
of sizes, ``rss`` the root of the sum of squares. Rounding counts half the last digit, the converter half a step through the slope.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from metrolex.errors import BadInput
from metrolex.inputs.heating import self_heating
from metrolex.inputs.loop import ohm_from_volts
from metrolex.scaling.chain import Chain
from metrolex.scaling.table import look_up
from metrolex.senders import ThermocoupleCurve, x_at, y_range
from metrolex.senders.thermocouple import COLD_DEGC, emf_mv
from metrolex.uniform_sum import half_width

__all__ = ["ON_DEMAND", "SHIFTS", "TERMS", "Budget", "Tolerances", "budget", "remedy_of"]

Array = NDArray[np.float64]

#: Terms whose sign is known.
SHIFTS = ("self_heating", "wire", "ground_offset", "table", "place")

#: The terms in the order they are told; ``place`` is the bias of the port, known only in a job.
TERMS = (
    "sender",
    "self_heating",
    "pull_up",
    "reference",
    "cold_junction",
    "wire",
    "ground_offset",
    "converter",
    "converter_offset",
    "table",
    "rounding",
    "place",
)

#: Terms told only where they are: not every sender warms itself, not every input has a cold junction or a converter.
ON_DEMAND = ("self_heating", "cold_junction", "converter_offset")


@dataclass(frozen=True, slots=True)
class Tolerances:
    """How far parts may be from nominal: sender in percent of x and in y, pull-up and reference in percent, the converter's
    zero in its steps, a couple's cold junction in kelvin; last digit."""

    sender_x_pct: float = 0.0
    sender_y: float = 0.0
    pull_up_pct: float = 0.0
    reference_pct: float = 0.0
    decimals: int = 0
    place: float = 0.0
    adc_offset_lsb: float = 0.0
    cold_junction_k: float = 0.0


@dataclass(frozen=True)
class Budget:
    """Error of each term at readings ``y``, in y; arrays of one shape. Signed where the sign is known, else a size.

    ``spreads`` are the half-widths of the parts that may be off either way.
    """

    y: Array
    terms: dict[str, Array]
    spreads: tuple[Array, ...] = ()
    converter_sign: Array = field(default_factory=lambda: np.zeros(1))

    @property
    def shift(self) -> Array:
        """What is always there, with its sign, in y: correct for it or live with it."""
        signed = sum(self.terms[name] for name in SHIFTS)
        return np.asarray(signed + self.terms["converter"] * self.converter_sign)

    @cached_property
    def half_95(self) -> Array:
        """Half the width that holds 95 % of what is left beside the shift, in y."""
        return np.array(
            [half_width([spread[i] for spread in self.spreads], 0.95) for i in range(len(self.y))]
        )

    @property
    def worst_case(self) -> Array:
        return np.asarray(sum(np.abs(term) for term in self.terms.values()))

    @property
    def rss(self) -> Array:
        return np.asarray(np.sqrt(sum(term**2 for term in self.terms.values())))

    def biggest(self, i: int) -> str:
        """The term that is largest at one reading."""
        return max(self.terms, key=lambda name: abs(float(self.terms[name][i])))


def budget(chain: Chain, parts: Tolerances, at: ArrayLike) -> Budget:
    """The error of each term at true values ``at``.

    Raises BadInput (field ``at``) for a reading outside the sender's curve, (field ``table``) without a table.
    """
    if not chain.table:
        raise BadInput("table", None, "two rows or more", "Nothing is entered in the display's table yet.")
    y = np.atleast_1d(np.asarray(at, dtype=np.float64))
    x = x_at(chain.curve, y)
    if np.isnan(x).any():
        low, high = y_range(chain.curve)
        raise BadInput("at", float(y[np.isnan(x)][0]), f"{low:g} to {high:g} {chain.curve.y_unit}")

    def reads(**off: object) -> Array:
        plain = {"wired": False, "converted": False} | off
        return look_up(chain.table, chain.seen(x, **plain))  # type: ignore[arg-type]

    nominal = reads()

    def either(low: Array, high: Array) -> Array:
        """The larger of two changes, with its sign lost: the part may be off either way."""
        return np.maximum(np.abs(low - nominal), np.abs(high - nominal))

    terms = {name: np.zeros_like(y) for name in TERMS}
    terms["sender"] = np.full_like(y, parts.sender_y)
    if parts.sender_x_pct:
        ends = [
            look_up(
                chain.table, chain.seen(x * (1 + s * parts.sender_x_pct / 100), wired=False, converted=False)
            )
            for s in (-1, 1)
        ]
        terms["sender"] = terms["sender"] + either(*ends)
    if chain.pull_up_ohm is not None:
        share = parts.pull_up_pct / 100
        terms["pull_up"] = either(reads(pull_up=1 - share), reads(pull_up=1 + share))
    if chain.reads_volts:
        share = parts.reference_pct / 100
        terms["reference"] = either(reads(reference=1 - share), reads(reference=1 + share))
    terms["wire"] = reads(wired=True, offset=False) - nominal
    terms["ground_offset"] = reads(offset=True) - nominal
    terms["self_heating"] = (
        look_up(chain.table, chain.seen(_warmed(chain, x, y), wired=False, converted=False)) - nominal
    )
    terms["converter"], terms["converter_offset"], sign = _by_volts(chain, x, parts.adc_offset_lsb)
    if parts.cold_junction_k and chain.curve.x_unit == "millivolt":
        out = [_off_by_cold_junction(chain, x, sign * parts.cold_junction_k) for sign in (-1, 1)]
        terms["cold_junction"] = either(*(look_up(chain.table, given) for given in out))
    terms["table"] = nominal - y
    terms["rounding"] = np.full_like(y, 0.5 * 10.0**-parts.decimals)
    terms["place"] = np.full_like(y, parts.place)
    spreads = (
        *_spreads(chain, parts, x, y),
        terms["cold_junction"],
        terms["converter_offset"],
        terms["converter"],
        terms["rounding"],
    )
    return Budget(y, terms, spreads, sign)


def _spreads(chain: Chain, parts: Tolerances, x: Array, y: Array) -> tuple[Array, ...]:
    """Half-widths of sender, pull-up and reference where the reading really stands: with wire and ground offset in the loop."""

    def half(low: Array, high: Array) -> Array:
        return np.abs(look_up(chain.table, high) - look_up(chain.table, low)) / 2

    def seen(given: Array, **off: float) -> Array:
        return chain.seen(given, converted=False, **off)  # type: ignore[arg-type]

    by_x, pull_up, reference = parts.sender_x_pct / 100, parts.pull_up_pct / 100, parts.reference_pct / 100
    low_y, high_y = y_range(chain.curve)
    ends = [x_at(chain.curve, np.clip(y + sign * parts.sender_y, low_y, high_y)) for sign in (-1, 1)]
    return (
        half(seen(x * (1 - by_x)), seen(x * (1 + by_x))),
        half(seen(ends[0]), seen(ends[1])),
        half(seen(x, pull_up=1 - pull_up), seen(x, pull_up=1 + pull_up)),
        half(seen(x, reference=1 - reference), seen(x, reference=1 + reference)),
    )


def _by_volts(chain: Chain, x: Array, offset_lsb: float) -> tuple[Array, Array, Array]:
    """What half a step of the converter does, what its offset does, and which way the reading goes.

    Through the slope of the table, the steeper side at a row. The sign is of the converter counting a step too few: -1 where
    the reading follows the volts, +1 where it goes against them.
    """
    if chain.adc_bits is None or chain.reference_v is None:
        return np.zeros_like(x), np.zeros_like(x), np.zeros_like(x)
    step = chain.reference_v / 2.0**chain.adc_bits
    steps = np.array([[0.0], [-0.5], [0.5], [-offset_lsb], [offset_lsb]])
    there, below, above, low, high = look_up(chain.table, _as_table(chain, _volts(chain, x) + steps * step))
    half = np.maximum(np.abs(above - there), np.abs(there - below))
    offset = np.maximum(np.abs(high - there), np.abs(there - low))
    return half, offset, np.sign(below - above)


def _warmed(chain: Chain, x: Array, y: Array) -> Array:
    """What the sender gives where its own current warms it."""
    if not chain.dissipation_mw_per_k or chain.pull_up_ohm is None or chain.reference_v is None:
        return x
    rise = self_heating(
        x, chain.pull_up_ohm, chain.reference_v, chain.dissipation_mw_per_k, chain.curve.y_unit
    )
    return x_at(chain.curve, np.clip(y + rise, *y_range(chain.curve)))


def _off_by_cold_junction(chain: Chain, x: Array, kelvin: float) -> Array:
    """Millivolts an input takes a couple's for when it is out by some kelvin about its own terminals."""
    if not isinstance(chain.curve, ThermocoupleCurve):
        return x
    return x + emf_mv(chain.curve.type, COLD_DEGC + kelvin) - emf_mv(chain.curve.type, COLD_DEGC)


def _volts(chain: Chain, x: Array) -> Array:
    plain = Chain(chain.curve, (), chain.pull_up_ohm, chain.reference_v)
    return plain.seen(x, wired=False, converted=False)


def _as_table(chain: Chain, volts: Array) -> Array:
    if not chain.table_in_ohm or chain.pull_up_ohm is None or chain.reference_v is None:
        return volts
    held = np.minimum(volts, chain.reference_v * (1 - 1e-9))
    return ohm_from_volts(held, chain.pull_up_ohm, chain.reference_v)


def remedy_of(term: str) -> str:
    """What to do about the term that is largest."""
    return {
        "sender": "Fit a sender of closer tolerance, or measure this one in the bay and enter its own curve.",
        "self_heating": "A higher pull-up warms the sender less; or take it off the reading.",
        "pull_up": "Measure the pull-up and enter what it is, or fit one of 0.1 %.",
        "reference": "Measure the reference at the plug and enter it; read the sender as a share of it where the display can.",
        "cold_junction": "Keep the display's terminals away from heat and draught, and check it in boiling water.",
        "wire": "Thicker or shorter wire, or a return of its own to the display.",
        "ground_offset": "Give the sender a ground wire of its own back to the display, twisted with its signal.",
        "converter": "Another pull-up puts more of the converter's steps where the reading matters.",
        "converter_offset": "See what the display reads with the input at a known voltage, and correct the table for it.",
        "table": "More rows, or the same number better placed.",
        "rounding": "One digit more after the point, if the rest deserves it.",
        "place": "Correct for the place when you read it, or choose a truer port.",
    }[term]
