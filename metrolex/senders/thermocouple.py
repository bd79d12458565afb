"""Thermocouples: millivolts and temperature by ITS-90, and what copper in the lead does to the reading.

NIST Monograph 175; the coefficients stand in ``data/thermocouples.toml``.
"""

from __future__ import annotations

import math
from typing import Any

from scipy.optimize import brentq

from metrolex.errors import BadInput
from metrolex.tables import load_table

__all__ = ["copper_error_degc", "degc_at", "emf_mv"]


def emf_mv(kind: str, degc: float) -> float:
    """Millivolts of a thermocouple against a reference junction at 0 degC. Raises BadInput outside its range.

    >>> round(emf_mv('K', 100.0), 3), round(emf_mv('K', 1000.0), 3)
    (4.096, 41.276)
    """
    table = _table(kind)
    if not table["low_degc"] <= degc <= table["high_degc"]:
        raise BadInput("degc", degc, f"{table['low_degc']:g} to {table['high_degc']:g} degC for type {kind}")
    terms = table["above_zero" if degc >= 0 else "below_zero"]
    found = sum(c * degc**i for i, c in enumerate(terms))
    if degc >= 0 and "hump" in table:
        a0, a1, a2 = table["hump"]
        found += a0 * math.exp(a1 * (degc - a2) ** 2)
    return float(found)


def degc_at(kind: str, millivolt: float) -> float:
    """Temperature at which a thermocouple gives ``millivolt``. Raises BadInput outside its range."""
    table = _table(kind)
    low, high = -200.0, float(table["high_degc"])  # below -200 degC the curve is too flat to be read
    ends = emf_mv(kind, low), emf_mv(kind, high)
    if not ends[0] <= millivolt <= ends[1]:
        raise BadInput("millivolt", millivolt, f"{ends[0]:.3f} to {ends[1]:.3f} mV for type {kind}")
    return float(brentq(lambda t: emf_mv(kind, t) - millivolt, low, high, xtol=1e-9))


def copper_error_degc(kind: str, hot_degc: float, joint_degc: float, gauge_degc: float) -> float:
    """What is shown less what is true where the last stretch, from a joint to the gauge, is copper.

    The couple ends at the joint; the gauge adds its own cold junction as if it ended there.
    """
    seen = emf_mv(kind, hot_degc) - emf_mv(kind, joint_degc) + emf_mv(kind, gauge_degc)
    return degc_at(kind, seen) - hot_degc


def _table(kind: str) -> dict[str, Any]:
    tables = load_table("thermocouples")
    if kind not in tables:
        raise BadInput("kind", kind, ", ".join(tables))
    return tables[kind]  # type: ignore[no-any-return]
