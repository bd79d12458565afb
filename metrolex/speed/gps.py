"""Speed calibrated against GPS: from steady runs to a new setting on the side that reads over, with what it leaves.

Least squares through the origin, shown on true; whether an offset exists is tested by Student's t on the intercept of the
line with one (textbook regression). What the face can still show under the true speed is told between 25 and 250 km/h: by the
rounding of its own digits, by an offset that is beyond chance, and by the 95 % confidence of the fit. The legal band is in ``legal``.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.speed.legal import band_kmh, is_legal

__all__ = [
    "BAND_AT_KMH",
    "UNDER_KMH",
    "Band",
    "Calibration",
    "GpsRun",
    "Meaning",
    "calibrate",
    "drive_speeds",
    "next_speed_kmh",
]

Array = NDArray[np.float64]
Meaning = Literal["pulses_per_distance", "circumference"]
#: True speeds at which the legal band is told.
BAND_AT_KMH = (40.0, 80.0, 120.0)
#: Between these true speeds it is told how far the face can show under.
UNDER_KMH = (25.0, 250.0)
#: A run that would still read this far under is a caution (common practice, no source).
MOST_UNDER_KMH = 1.0
_OUTLIER_LEVEL = 0.05
LEAST_OFFSET_KMH = 0.5  # anyone reads that much off wrongly (common practice, no source)


@dataclass(frozen=True, slots=True)
class GpsRun:
    """One steady stretch: true speed by GPS and the speed shown, km/h."""

    gps_kmh: float
    shown_kmh: float


@dataclass(frozen=True, slots=True)
class Band:
    """What would be shown at a true speed with the new setting, and what may be."""

    true_kmh: float
    shown_kmh: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Calibration:
    """A new setting, rounded to the side that reads over.

    ``scale`` is new over old before rounding, ``ratio`` shown over true as it was, ``residual_kmh`` the rms of what the runs
    leave before rounding, ``offset_kmh`` the intercept with its half-width at 95 % (None with fewer than 3 runs),
    ``outliers`` the runs that do not fit the others, ``under_kmh`` the most the face can show under true with the new setting,
    ``runs_under`` the runs that would still read under.
    """

    setting: float
    scale: float
    ratio: float
    residual_kmh: float
    band: tuple[Band, ...]
    legal_before: bool
    outliers: tuple[int, ...]
    offset_kmh: tuple[float, float] | None
    under_kmh: float
    runs_under: tuple[int, ...]
    findings: tuple[Finding, ...]

    @property
    def legal(self) -> bool:
        return all(is_legal(at.true_kmh, at.shown_kmh) for at in self.band)

    @property
    def has_offset(self) -> bool:
        return _beyond_chance(self.offset_kmh)

    @property
    def holds(self) -> bool:
        """Whether nothing is left to say against the setting: legal, and none of its runs would read under."""
        return self.legal and not self.runs_under


def calibrate(
    setting: float,
    runs: tuple[GpsRun, ...],
    meaning: Meaning,
    step: float = 0.0,
    *,
    face_step_kmh: float = 0.0,
    never_under: bool = False,
    top_kmh: float = 250.0,
) -> Calibration:
    """The setting that makes shown equal true over the runs, rounded to ``step`` on the side that reads over.

    Shown speed falls with pulses per distance and rises with circumference. The face rounds to the nearest
    ``face_step_kmh`` (0: exact). ``never_under`` lifts the setting until the face cannot show under between 25 and 250 km/h.
    Raises BadInput without runs, for a setting or a speed of 0 or less, for a step coarser than the setting.
    """
    _check(setting, runs, step)
    if not 0 <= face_step_kmh <= 10:
        raise BadInput("face_step_kmh", face_step_kmh, "0 to 10 km/h")
    true = np.array([run.gps_kmh for run in runs])
    shown = np.array([run.shown_kmh for run in runs])
    ratio = float(true @ shown / (true @ true))
    falls = meaning == "pulses_per_distance"
    scale = ratio if falls else 1 / ratio
    outliers, offset = _outliers(true, shown), _offset(true, shown)
    line = _line(true, shown, ratio, offset)
    lifted = line.factor_never_under(face_step_kmh) if never_under else 1 / ratio
    findings = [*_outlier_findings(runs, outliers, ratio), *_offset_findings(offset)]
    if lifted is None:
        lifted = 1 / ratio
        findings.append(
            Finding(
                "stop",
                "cannot_promise",
                "speedometer",
                "The runs scatter too much to promise that it never reads under.",
                f"{len(runs)} runs",
                "Drive more runs, steady and on the level, at 60 km/h and above.",
            )
        )
    if never_under:  # no run may read under either, unless it does not fit the others
        sound = [run for i, run in enumerate(runs) if i not in outliers and run.shown_kmh > line.offset]
        lifted = max(
            [
                lifted,
                *((run.gps_kmh - line.offset) / (run.shown_kmh - line.offset) * (1 + 1e-12) for run in sound),
            ]
        )
    factor = max(lifted, 1 / ratio)
    fresh = _rounded(setting / factor if falls else setting * factor, step, down=falls)
    change = setting / fresh if falls else fresh / setting
    band = tuple(Band(v, line.shown(v, change), *band_kmh(v)) for v in BAND_AT_KMH)
    under = line.under_kmh(change, face_step_kmh)
    left = [line.run_shown(run.shown_kmh, change) - run.gps_kmh for run in runs]
    runs_under = tuple(i for i, short in enumerate(left) if short < -1e-6)
    findings += _under(runs, left) + _thin(true, top_kmh)
    if not all(is_legal(at.true_kmh, at.shown_kmh) for at in band):
        worst = max(band, key=lambda at: abs(at.shown_kmh - at.true_kmh))
        findings.append(
            Finding(
                "caution",
                "outside_legal_band",
                "speedometer",
                f"At {worst.true_kmh:g} km/h it would show {worst.shown_kmh:.1f}; {worst.low:g} to {worst.high:g} may be shown.",
                f"{worst.shown_kmh:.1f} km/h",
                "A finer step of the setting, or another number of pulses a turn.",
            )
        )
    return Calibration(
        fresh,
        scale,
        ratio,
        float(np.sqrt(np.mean((shown / ratio - true) ** 2))),
        band,
        all(is_legal(run.gps_kmh, run.shown_kmh) for run in runs),
        outliers,
        offset,
        under,
        runs_under,
        tuple(findings),
    )


@dataclass(frozen=True, slots=True)
class _Line:
    """Shown over true with the old setting: slope, an offset that is beyond chance (else 0), and its 95 % half-width at a speed."""

    slope: float
    offset: float
    half_width: Callable[[Array], Array]

    def shown(self, true_kmh: float, change: float) -> float:
        """What a setting that shows ``change`` times as much makes of a speed; an offset stays what it is."""
        return self.slope * true_kmh * change + self.offset

    def run_shown(self, shown_kmh: float, change: float) -> float:
        return (shown_kmh - self.offset) * change + self.offset

    def under_kmh(self, change: float, face_step_kmh: float) -> float:
        true = np.linspace(*UNDER_KMH, 451)
        lowest = (self.slope * true - self.half_width(true)) * change + self.offset - face_step_kmh / 2
        return float(max(np.max(true - lowest), 0.0)) if np.max(true - lowest) > 1e-9 else 0.0

    def factor_never_under(self, face_step_kmh: float) -> float | None:
        """The least change of what is shown that leaves nothing under; None where the fit is too loose for any."""
        true = np.linspace(*UNDER_KMH, 451)
        sure = self.slope * true - self.half_width(true)
        if not (sure > 0.5 * self.slope * true).all():
            return None
        return float(np.max((true - self.offset + face_step_kmh / 2) / sure)) * (1 + 1e-12)


def _line(true: Array, shown: Array, ratio: float, offset: tuple[float, float] | None) -> _Line:
    from scipy.special import stdtrit  # heavy to load, and seldom needed

    count = len(true)
    if offset is not None and _beyond_chance(offset):
        mean, spread = float(true.mean()), float(((true - true.mean()) ** 2).sum())
        slope = float(((true - mean) * shown).sum()) / spread
        residual = shown - offset[0] - slope * true
        noise = math.sqrt(max(float(residual @ residual) / (count - 2), 0.0)) * float(
            stdtrit(count - 2, 0.975)
        )
        return _Line(slope, offset[0], lambda v: noise * np.sqrt(1 / count + (v - mean) ** 2 / spread))
    residual = shown - ratio * true
    noise = (
        math.sqrt(float(residual @ residual) / (count - 1)) * float(stdtrit(count - 1, 0.975))
        if count > 1
        else 0.0
    )
    size = math.sqrt(float(true @ true))
    return _Line(ratio, 0.0, lambda v: noise * v / size)


def _beyond_chance(offset: tuple[float, float] | None) -> bool:
    """Whether an offset is more than the scatter of the runs makes by chance, and more than anyone reads off wrongly."""
    return offset is not None and abs(offset[0]) > max(offset[1], LEAST_OFFSET_KMH)


def drive_speeds(top_kmh: float) -> tuple[float, ...]:
    """Speeds to drive at, in tens of km/h from 30, within the vehicle's own."""
    return tuple(float(v) for v in range(30, 131, 10) if v <= max(top_kmh, 30))


def next_speed_kmh(runs: tuple[GpsRun, ...], top_kmh: float = 250.0) -> float:
    """The speed at which one more run tells most about scale and offset together, within what may be driven.

    The determinant of the information of a line is made largest (D-optimal design, Fedorov 1972).
    """
    speeds = drive_speeds(top_kmh)
    xs = [run.gps_kmh for run in runs]

    def information(speed: float) -> float:
        every = np.array([*xs, speed])
        return float(len(every) * (every @ every) - every.sum() ** 2)

    return float(max(speeds, key=lambda speed: (information(speed), -speed)))


def _check(setting: float, runs: tuple[GpsRun, ...], step: float) -> None:
    if not setting > 0:
        raise BadInput("setting", setting, "the display's setting, above 0")
    if not runs:
        raise BadInput("runs", [], "one run or more")
    for i, run in enumerate(runs):
        for field, value in (("gps_kmh", run.gps_kmh), ("shown_kmh", run.shown_kmh)):
            if not 0 < value <= 600:
                raise BadInput(f"runs[{i}].{field}", value, "above 0 and up to 600 km/h")
        if not 0.1 <= run.shown_kmh / run.gps_kmh <= 10:
            raise BadInput(
                f"runs[{i}].shown_kmh", run.shown_kmh, "within a tenth and ten times the true speed"
            )
    if step < 0 or step > setting:
        raise BadInput("step", step, f"0 to {setting:g}")


def _rounded(value: float, step: float, *, down: bool) -> float:
    if not step:
        return value
    steps = value / step
    near = round(steps)
    count = (
        near
        if abs(steps - near) < 1e-9 * max(abs(steps), 1)
        else (math.floor(steps) if down else math.ceil(steps))
    )
    return float(f"{max(count, 1) * step:.12g}")


def _outliers(true: Array, shown: Array) -> tuple[int, ...]:
    """Runs whose externally studentised residual is beyond chance, in a fit through the origin."""
    from scipy.special import stdtrit  # heavy to load, and seldom needed

    count = len(true)
    if count < 4:
        return ()

    residual = shown - true * (true @ shown) / (true @ true)
    square = float(residual @ residual)
    if square <= 1e-18 * float(shown @ shown):
        return ()
    lever = true**2 / (true @ true)
    left = np.maximum((square - residual**2 / (1 - lever)) / (count - 2), 1e-12 * square)
    size = np.abs(residual) / np.sqrt(left * (1 - lever))
    # Half a km/h is read off wrongly by anyone.
    return tuple(
        int(i)
        for i in np.flatnonzero(
            (size > stdtrit(count - 2, 1 - _OUTLIER_LEVEL / (2 * count))) & (np.abs(residual) > 0.5)
        )
    )


def _offset(true: Array, shown: Array) -> tuple[float, float] | None:
    from scipy.special import stdtrit  # heavy to load, and seldom needed

    count = len(true)
    spread = float(((true - true.mean()) ** 2).sum())
    if count < 3 or spread < 1e-9:
        return None

    slope = float(((true - true.mean()) * shown).sum()) / spread
    intercept = float(shown.mean() - slope * true.mean())
    residual = shown - intercept - slope * true
    noise = float(residual @ residual) / (count - 2)
    error = math.sqrt(max(noise, 0.0) * (1 / count + true.mean() ** 2 / spread))
    return intercept, float(stdtrit(count - 2, 0.975)) * error + 1e-9


def _outlier_findings(runs: tuple[GpsRun, ...], outliers: tuple[int, ...], ratio: float) -> list[Finding]:
    return [
        Finding(
            "caution",
            "outlier",
            f"run {i + 1}",
            f"{runs[i].shown_kmh:g} shown at {runs[i].gps_kmh:g} true does not fit the other runs.",
            f"{runs[i].shown_kmh - ratio * runs[i].gps_kmh:+.1f} km/h",
            "Drive this one again, steady and on the level, or leave it out.",
        )
        for i in outliers
    ]


def _offset_findings(offset: tuple[float, float] | None) -> list[Finding]:
    if offset is None or not _beyond_chance(offset):
        return []
    return [
        Finding(
            "caution",
            "speed_offset",
            "speedometer",
            f"Shown and true differ by {offset[0]:+.1f} km/h at any speed besides the scale: no pulse setting takes that away.",
            f"{offset[0]:+.1f} ± {offset[1]:.1f} km/h",
            "Look for an offset in the menu, a delay between the two readings, or a needle on the wrong tooth.",
        )
    ]


def _under(runs: tuple[GpsRun, ...], left: list[float]) -> list[Finding]:
    return [
        Finding(
            "caution",
            "still_under",
            f"run {i + 1}",
            f"At {run.gps_kmh:g} km/h the new setting would show {run.gps_kmh + short:.1f}: under the true speed.",
            f"{short:+.1f} km/h",
            "Repeat the run; if it stands, ask for a setting that never reads under.",
        )
        for i, (run, short) in enumerate(zip(runs, left, strict=True))
        if short < -MOST_UNDER_KMH
    ]


def _thin(true: Array, top_kmh: float) -> list[Finding]:
    if len(true) >= 3 and true.max() - true.min() >= 20:
        return []
    return [
        Finding(
            "note",
            "few_runs",
            "speedometer",
            "Three runs at speeds at least 20 km/h apart tell scale from offset.",
            f"{len(true)} run{'s' * (len(true) != 1)}",
            f"Drive one at about {next_speed_kmh(tuple(GpsRun(float(v), float(v)) for v in true), top_kmh):g} km/h.",
        )
    ]
