"""Where a wrong reading comes from: the error of each part of a chain at a reading, and both ways to add them.

A term whose sign is known (wire, ground, table, place, the converter's counting downwards) is a shift: it is always there and
can be corrected. The rest may be off either way, each part as likely anywhere in its tolerance as elsewhere; together they stay
within the 95 % half-width, worked out by convolution (JCGM 101:2008 for parts independent of each other). Worst case is the sum
of sizes, ``rss`` the root of the sum of squares. Rounding counts half the last digit, the converter half a step through the slope.
"""

from __future__ import annotations

import functools
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import ArrayLike, NDArray

from metrolex.errors import BadInput
from metrolex.scaling.chain import Chain
from metrolex.scaling.table import look_up
from metrolex.senders import x_at, y_range

__all__ = ["TERMS", "Budget", "Tolerances", "budget", "remedy_of"]

Array = NDArray[np.float64]
_CELLS = 200  # half a uniform distribution's width on the grid it is convolved on

#: Terms whose sign is known.
SHIFTS = ("wire", "ground_offset", "table", "place")

#: The terms in the order they are told; ``place`` is the bias of the port, known only in a job.
TERMS = ("sender", "pull_up", "reference", "wire", "ground_offset", "converter", "table", "rounding", "place")


@dataclass(frozen=True, slots=True)
class Tolerances:
    """How far parts may be from nominal: sender in percent of x and in y, pull-up and reference in percent; last digit."""

    sender_x_pct: float = 0.0
    sender_y: float = 0.0
    pull_up_pct: float = 0.0
    reference_pct: float = 0.0
    decimals: int = 0
    place: float = 0.0


@dataclass(frozen=True, slots=True)
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

    @property
    def half_95(self) -> Array:
        """Half the width that holds 95 % of what is left beside the shift, in y."""
        return np.array(
            [_half_width([float(spread[i]) for spread in self.spreads]) for i in range(len(self.y))]
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
            look_up(chain.table, chain.seen(x * (1 + s * parts.sender_x_pct / 100), wired=False, converted=False))
            for s in (-1, 1)
        ]  # fmt: skip
        terms["sender"] = terms["sender"] + either(*ends)
    if chain.pull_up_ohm is not None:
        share = parts.pull_up_pct / 100
        terms["pull_up"] = either(reads(pull_up=1 - share), reads(pull_up=1 + share))
    if chain.reads_volts:
        share = parts.reference_pct / 100
        terms["reference"] = either(reads(reference=1 - share), reads(reference=1 + share))
    terms["wire"] = reads(wired=True, offset=False) - nominal
    terms["ground_offset"] = reads(offset=True) - nominal
    terms["converter"] = _converter(chain, x)
    terms["table"] = nominal - y
    terms["rounding"] = np.full_like(y, 0.5 * 10.0**-parts.decimals)
    terms["place"] = np.full_like(y, parts.place)
    spreads = (*_spreads(chain, parts, x, y), terms["converter"], terms["rounding"])
    return Budget(y, terms, spreads, _falls(chain, x))


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
        half(seen(x * (1 - by_x)), seen(x * (1 + by_x))), half(seen(ends[0]), seen(ends[1])),
        half(seen(x, pull_up=1 - pull_up), seen(x, pull_up=1 + pull_up)), half(seen(x, reference=1 - reference), seen(x, reference=1 + reference)),
    )  # fmt: skip


def _falls(chain: Chain, x: Array) -> Array:
    """Which way the reading goes when the converter counts a step too few: -1 where it follows the volts, +1 where it goes against them."""
    if chain.adc_bits is None or chain.reference_v is None:
        return np.zeros_like(x)
    step = chain.reference_v / 2.0**chain.adc_bits
    volts = _volts(chain, x)
    below, above = (look_up(chain.table, _as_table(chain, volts + k * step / 2)) for k in (-1, 1))
    return np.sign(below - above)


@functools.lru_cache(maxsize=4096)
def _quantile(sizes: tuple[float, ...]) -> float:
    """Half-width that holds 95 % of the sum of independent terms, each uniform within its size; the largest size is 1."""
    density = np.ones(1)
    for size in sizes:
        cells = max(round(size * _CELLS), 0)
        density = np.convolve(density, np.ones(2 * cells + 1) / (2 * cells + 1))
    middle = len(density) // 2
    held = np.cumsum(np.concatenate([[density[middle]], 2 * density[middle + 1 :]]))
    return float((np.searchsorted(held, 0.95) + 0.5) / _CELLS)


def _half_width(sizes: list[float]) -> float:
    largest = max(sizes, default=0.0)
    if largest <= 0:
        return 0.0
    return largest * _quantile(
        tuple(sorted(round(size / largest, 2) for size in sizes if size > 0.005 * largest))
    )


def _converter(chain: Chain, x: Array) -> Array:
    """Half a step of the converter through the slope of the table, the steeper side at a row."""
    if chain.adc_bits is None or chain.reference_v is None:
        return np.zeros_like(x)
    step = chain.reference_v / 2.0**chain.adc_bits
    volts = _volts(chain, x)
    there, below, above = (look_up(chain.table, _as_table(chain, volts + k * step / 2)) for k in (0, -1, 1))
    return np.maximum(np.abs(above - there), np.abs(there - below))


def _volts(chain: Chain, x: Array) -> Array:
    plain = Chain(chain.curve, (), chain.pull_up_ohm, chain.reference_v)
    return plain.seen(x, wired=False, converted=False)


def _as_table(chain: Chain, volts: Array) -> Array:
    if not chain.table_in_ohm or chain.pull_up_ohm is None or chain.reference_v is None:
        return volts
    held = np.minimum(volts, chain.reference_v * (1 - 1e-9))
    return chain.pull_up_ohm * held / (chain.reference_v - held)


def remedy_of(term: str) -> str:
    """What to do about the term that is largest."""
    return {
        "sender": "Fit a sender of closer tolerance, or measure this one in the bay and enter its own curve.",
        "pull_up": "Measure the pull-up and enter what it is, or fit one of 0.1 %.",
        "reference": "Measure the reference at the plug and enter it; read the sender as a share of it where the display can.",
        "wire": "Thicker or shorter wire, or a return of its own to the display.",
        "ground_offset": "Give the sender a ground wire of its own back to the display, twisted with its signal.",
        "converter": "Another pull-up puts more of the converter's steps where the reading matters.",
        "table": "More rows, or the same number better placed.",
        "rounding": "One digit more after the point, if the rest deserves it.",
        "place": "Correct for the place when you read it, or choose a truer port.",
    }[term]
