"""A sender's law from points measured in the bay: least squares in what is read, with residuals, outliers and confidence.

Residual is curve less point, in y. Outliers by the externally studentised residual against Student's t with Bonferroni's
correction (Cook and Weisberg, Residuals and Influence in Regression, 1982); confidence by the usual linearisation
(Seber and Wild, Nonlinear Regression, 1989). Steinhart-Hart and beta as in ``curves``.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.senders.curves import (
    BetaCurve,
    Curve,
    LinearCurve,
    Point,
    SteinhartHartCurve,
    TableCurve,
    sort_points,
)
from metrolex.senders.law import y_at

__all__ = ["FIT_KINDS", "Fit", "FitKind", "fit_curve"]

Array = NDArray[np.float64]
FitKind = Literal["steinhart_hart", "beta", "linear", "pchip"]
#: Parameters of each law; through points it has none of its own.
FIT_KINDS: dict[FitKind, int] = {"steinhart_hart": 3, "beta": 2, "linear": 2, "pchip": 2}
_KELVIN = 273.15
_BETA_AT_DEGC = 25.0
OUTLIER_LEVEL = 0.05
MARGIN = 0.2  # of the points' span (common practice, no source)


@dataclass(frozen=True, slots=True)
class Fit:
    """A fitted curve and how well it follows its points.

    ``residuals`` (curve less point, in y) stand in the order of ``points``, which rise in x. ``outliers`` are indices into
    them. ``band`` gives the half-width in y, at 95 %, over an array of x; None where no point is left to tell it.
    """

    curve: Curve
    points: tuple[Point, ...]
    residuals: tuple[float, ...]
    outliers: tuple[int, ...]
    band: Callable[[Array], Array] | None
    findings: tuple[Finding, ...] = ()

    @property
    def max_residual(self) -> float:
        return max(abs(r) for r in self.residuals)

    @property
    def rms_residual(self) -> float:
        return float(np.sqrt(np.mean(np.square(self.residuals))))


def fit_curve(
    kind: FitKind,
    points: tuple[Point, ...],
    x_unit: str = "ohm",
    y_unit: str = "degC",
    *,
    weights: tuple[float, ...] = (),
) -> Fit:
    """The law of a kind with the least root-mean-square residual in y.

    ``weights`` (one a point, 1 where empty) tell how far each point is trusted. Raises BadInput for fewer points than the
    law has parameters, for one x twice, for ohms of 0 or less in a thermistor's law, and where no such law comes near.
    """
    ordered = sort_points(points, at_least=FIT_KINDS[kind])
    _check_unit(kind, ordered, x_unit, y_unit)
    if kind == "pchip":
        curve: Curve = TableCurve(ordered, x_unit, y_unit, "pchip")
        return Fit(curve, ordered, tuple(0.0 for _ in ordered), (), None, tuple(_turns_back(ordered)))
    x, y = np.array(ordered).T
    trust = _trust(points, ordered, weights)
    findings: list[Finding] = []
    if kind == "linear":
        curve, design = _line(x, y, trust, x_unit, y_unit)
    elif kind == "beta":
        curve, design = _beta(x, y, trust)
    else:
        curve, design = _steinhart_hart(x, y, trust, findings)
    residuals = y_at(curve, x) - y
    if not np.isfinite(residuals).all():
        raise BadInput("points", None, "points of one sender", "No such law comes near all of these points.")
    count = design(x).shape[1]
    outliers, band = _judge(design, x, residuals, trust, count)
    findings += [
        Finding(
            "caution",
            "outlier",
            f"point {i + 1}",
            f"At {x[i]:g} {x_unit} the other points put it {-residuals[i]:+.3g} {y_unit} from the curve: more than chance gives.",
            figure=f"{-residuals[i]:+.3g} {y_unit}",
            remedy="Measure this point again before it counts.",
        )
        for i in outliers
    ]
    if len(ordered) <= count:
        findings.append(
            Finding(
                "note",
                "no_point_to_spare",
                "points",
                f"{len(ordered)} points settle {count} numbers: the curve goes through them whatever they are worth.",
                figure=f"{len(ordered)} points",
                remedy="One point more shows whether the law holds.",
            )
        )
    return Fit(curve, ordered, tuple(residuals.tolist()), outliers, band, tuple(findings))


def _check_unit(kind: FitKind, points: tuple[Point, ...], x_unit: str, y_unit: str) -> None:
    if kind not in ("beta", "steinhart_hart"):
        return
    if (x_unit, y_unit) != ("ohm", "degC"):
        raise BadInput(
            "x_unit" if x_unit != "ohm" else "y_unit",
            x_unit if x_unit != "ohm" else y_unit,
            "ohm and degC for a thermistor's law",
        )
    if points[0][0] <= 0:
        raise BadInput("points", points[0][0], "ohms above 0")
    coldest = min(y for _, y in points)
    if coldest <= -_KELVIN:
        raise BadInput("points", coldest, "temperatures above -273.15 degC")


def _trust(points: tuple[Point, ...], ordered: tuple[Point, ...], weights: tuple[float, ...]) -> Array:
    if not weights:
        return np.ones(len(ordered))
    if len(weights) != len(points) or any(not w > 0 for w in weights):
        raise BadInput("weights", list(weights), "one number above 0 for each point")
    of = dict(zip(points, weights, strict=True))
    return np.array([of[point] for point in ordered])


Design = Callable[[Array], Array]


def _line(x: Array, y: Array, trust: Array, x_unit: str, y_unit: str) -> tuple[Curve, Design]:
    def design(at: Array) -> Array:
        return np.column_stack([np.ones_like(at), at - x.mean()])

    (level, slope), *_ = np.linalg.lstsq(design(x) * trust[:, None] ** 0.5, y * trust**0.5, rcond=None)
    ends = tuple((float(at), float(level + slope * (at - x.mean()))) for at in (x[0], x[-1]))
    return LinearCurve(ends, x_unit, y_unit), design


def _beta(x: Array, y: Array, trust: Array) -> tuple[Curve, Design]:
    log_r, inverse = np.log(x), 1 / (y + _KELVIN)
    (a, b), *_ = np.linalg.lstsq(np.column_stack([np.ones_like(log_r), log_r]), inverse, rcond=None)
    a, b = _refined(np.array([a, b]), lambda u: np.column_stack([np.ones_like(u), u]), log_r, y, trust)
    if b <= 0:
        raise BadInput(
            "points",
            b,
            "resistance that falls as it gets hotter",
            "These points rise with temperature: not a thermistor of this kind.",
        )
    r0 = float(np.exp((1 / (_BETA_AT_DEGC + _KELVIN) - a) / b))
    curve = BetaCurve(r0, float(1 / b), _BETA_AT_DEGC, _reach(x))
    return curve, _thermal_design(lambda u: np.column_stack([np.ones_like(u), u]), a, b, 0.0)


def _steinhart_hart(x: Array, y: Array, trust: Array, findings: list[Finding]) -> tuple[Curve, Design]:
    def basis(u: Array) -> Array:
        return np.column_stack([np.ones_like(u), u, u**3])

    log_r, inverse = np.log(x), 1 / (y + _KELVIN)
    start, *_ = np.linalg.lstsq(basis(log_r), inverse, rcond=None)
    a, b, c = _refined(start, basis, log_r, y, trust)
    if c < 0:
        # Two temperatures for one resistance otherwise: the nearest law without a cubic term.
        beta, design = _beta(x, y, trust)
        assert isinstance(beta, BetaCurve)
        findings.append(
            Finding(
                "caution",
                "points_bend_wrong",
                "points",
                "These points bend the other way than a thermistor does; the curve is drawn without its third term.",
                remedy="Measure the points again, coldest and hottest first.",
            )
        )
        b = 1 / beta.beta_k
        a = 1 / (beta.t0_degc + _KELVIN) - b * float(np.log(beta.r0_ohm))
        return SteinhartHartCurve(float(a), float(b), 0.0, _reach(x)), design
    if b <= 0:
        raise BadInput(
            "points",
            float(b),
            "resistance that falls as it gets hotter",
            "These points are not those of a thermistor.",
        )
    return SteinhartHartCurve(float(a), float(b), float(c), _reach(x)), _thermal_design(basis, a, b, c)


def _reach(x: Array) -> tuple[float, float] | None:
    """A fitted law is trusted a fifth of its points' span of ln R beyond them at either side, and no further."""
    beyond = float(x[-1] / x[0]) ** MARGIN
    return float(x[0] / beyond), float(x[-1] * beyond)


def _refined(start: NDArray[Any], basis: Design, log_r: Array, y: Array, trust: Array) -> Array:
    """Gauss-Newton from a start: least squares in temperature rather than in its inverse."""
    rows = basis(log_r)
    scale = np.abs(rows).max(axis=0)
    guess: Array = np.asarray(start * scale, dtype=np.float64)
    root = trust**0.5

    def cost(p: Array) -> float:
        inverse = rows / scale @ p
        if (inverse <= 0).any():
            return float("inf")
        return float(np.sum(trust * (1 / inverse - _KELVIN - y) ** 2))

    best = cost(guess)
    for _ in range(60):
        inverse = rows / scale @ guess
        residual = 1 / inverse - _KELVIN - y
        slope = -(rows / scale) / inverse[:, None] ** 2
        step, *_ = np.linalg.lstsq(slope * root[:, None], -residual * root, rcond=None)
        size = 1.0
        while size > 1e-6 and not cost(guess + size * step) <= best:
            size /= 2
        now = cost(guess + size * step)
        if not now < best:
            break
        guess, best = guess + size * step, now
    return np.asarray(guess / scale, dtype=np.float64)


def _thermal_design(basis: Design, a: float, b: float, c: float) -> Design:
    def design(x: Array) -> Array:
        log_r = np.log(x)
        rows = basis(log_r)
        inverse = a + b * log_r + c * log_r**3
        return -rows / inverse[:, None] ** 2

    return design


def _judge(
    design: Design, x: Array, residuals: Array, trust: Array, count: int
) -> tuple[tuple[int, ...], Callable[[Array], Array] | None]:
    """Outliers and the confidence band of a least-squares fit."""
    from scipy.special import stdtrit  # heavy to load, and seldom needed

    spare = len(x) - count
    if spare < 1:
        return (), None

    rows = design(x) * trust[:, None] ** 0.5
    scale = np.abs(rows).max(axis=0)
    inverse = np.linalg.pinv((rows / scale).T @ (rows / scale))
    square = float(np.sum(trust * residuals**2))
    noise = square / spare
    outliers: tuple[int, ...] = ()
    if spare >= 2 and square > 0:
        lever = np.clip(np.einsum("ij,jk,ik->i", rows / scale, inverse, rows / scale), 0, 1 - 1e-9)
        left = np.maximum((square - trust * residuals**2 / (1 - lever)) / (spare - 1), 1e-30 * square)
        studentised = np.abs(residuals) * trust**0.5 / np.sqrt(left * (1 - lever))
        limit = stdtrit(spare - 1, 1 - OUTLIER_LEVEL / (2 * len(x)))
        outliers = tuple(int(i) for i in np.flatnonzero(studentised > limit))
    wide = float(stdtrit(spare, 0.975)) * noise**0.5

    def band(at: Array) -> Array:
        here = design(np.asarray(at, dtype=np.float64)) / scale
        return np.asarray(wide * np.sqrt(np.einsum("ij,jk,ik->i", here, inverse, here)), dtype=np.float64)

    return outliers, band


def _turns_back(points: tuple[Point, ...]) -> list[Finding]:
    steps = np.diff([y for _, y in points])
    if (steps > 0).all() or (steps < 0).all():
        return []
    return [
        Finding(
            "caution",
            "curve_turns_back",
            "points",
            "The points turn back, so one sender value stands for several readings.",
            remedy="Take the usable part of it, or measure the odd point again.",
        )
    ]
