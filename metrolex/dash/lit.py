"""Which warnings and tell-tales are lit: with the key on and the engine standing, running, or with something lost.

A warning at one moment is judged by its levels alone; delays are for the drive. What a tell-tale does when is common practice without a source: charge, oil
and engine lamp glow with the key until the engine runs.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from metrolex.dash.faces import FaceNow
from metrolex.job import RUNNING_POINTS, Job, MeasuringChain, State
from metrolex.quantities import in_unit
from metrolex.scaling.reading import Shown
from metrolex.twin import Solved, readings
from metrolex.warning.alarm import level_at

__all__ = ["DARK", "Lit", "lamps_at", "lit_now", "warned_at"]

USUAL_IDLE, USUAL_REDLINE = 850.0, 6000.0
AT_KEY_ON = ("charge", "oil", "engine_fault")
OIL_SWITCH_BAR = 0.4


@dataclass(frozen=True, slots=True)
class Lit:
    """The chains whose warning is lit, and the tell-tales by their keys of cluster.toml."""

    warnings: frozenset[str] = frozenset()
    lamps: frozenset[str] = frozenset()

    def on(self, face: FaceNow) -> bool:
        """Whether a face shows something lit."""
        return face.chain.id in self.warnings if face.chain else face.face.lamp in self.lamps


DARK = Lit()


def lit_now(solved: Solved) -> Lit:
    """What is lit in a state as solved."""
    job, state = solved.network.job, solved.state
    return Lit(warned_at(job, state, readings(solved)), lamps_at(job, state, solved.true))


def warned_at(job: Job, state: State, shown: Mapping[str, Shown]) -> frozenset[str]:
    """The chains whose reading has passed a level, where its warning is not silent at this engine speed and load."""
    rpm = _rpm(job, state)
    return frozenset(
        chain.id for chain in job.chains if chain.id in shown and _passed(chain, state, rpm, shown[chain.id])
    )


def lamps_at(job: Job, state: State, true: Mapping[str, float], *, charging: bool = True) -> frozenset[str]:
    """The tell-tales lit by key, engine, charging and oil pressure."""
    if state.key not in ("run", "crank"):
        return frozenset()
    if state.point not in RUNNING_POINTS:
        return frozenset(AT_KEY_ON)
    lit = set() if charging else {"charge"}
    for channel in job.channels:
        value = true.get(channel.id)
        low = channel.measurand == "oil_pressure" and value is not None
        if low and value is not None and in_unit(value, channel.unit, "bar") < OIL_SWITCH_BAR:
            lit.add("oil")
    return frozenset(lit)


def _passed(chain: MeasuringChain, state: State, rpm: float, shown: Shown) -> bool:
    alarm = chain.alarm
    if alarm.silent or shown.value is None or rpm < alarm.inhibit_rpm:
        return False
    if alarm.above_load_pct and state.point != "full load":
        return False
    return shown.value < float(level_at(alarm, rpm)) or (alarm.high is not None and shown.value > alarm.high)


def _rpm(job: Job, state: State) -> float:
    """Engine speed at an operating point: as a channel says it, else by idle and redline."""
    if state.point not in RUNNING_POINTS:
        return 0.0
    for channel in job.channels:
        if channel.measurand == "engine_speed" and (value := channel.true(state.point)) is not None:
            return in_unit(value, channel.unit, "rpm")
    engine = job.vehicle.engine
    idle, top = engine.idle_rpm or USUAL_IDLE, engine.redline_rpm or USUAL_REDLINE
    return {
        "full load": 0.8 * top,
        "cruise": idle + 0.3 * (top - idle),
        "overrun": idle + 0.4 * (top - idle),
    }.get(state.point, idle)
