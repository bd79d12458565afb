"""Words and states the parts of a job share."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import Key, Limits, Text

__all__ = [
    "KEY_STATES",
    "LAMP_STATES",
    "PROBE_STATES",
    "KeyState",
    "LampState",
    "Measurand",
    "Need",
    "State",
    "Volts",
    "Word",
]

KeyState = Literal["off", "acc", "run", "crank"]
LampState = Literal["off", "park", "head"]
KEY_STATES: tuple[KeyState, ...] = ("off", "acc", "run", "crank")
LAMP_STATES: tuple[LampState, ...] = ("off", "park", "head")
PROBE_STATES = ("off", "acc", "run", "crank", "park", "head")

Word = Annotated[str, Text(120)]
Volts = Annotated[float, Limits(low=-60, high=60)]
Need = Literal["constant", "accessory", "ignition", "ignition_crank", "lamps"]
Measurand = Literal[
    "coolant_temperature",
    "oil_temperature",
    "gearbox_temperature",
    "oil_pressure",
    "exhaust_temperature",
    "lambda",
    "boost",
    "fuel_pressure",
    "fuel_level",
    "ethanol_content",
    "fuel_temperature",
    "air_temperature",
    "head_temperature",
    "tyre_temperature",
    "pump_pressure",
    "road_speed",
    "engine_speed",
    "gear",
    "supply_voltage",
]


@dataclass(frozen=True, slots=True)
class State:
    """What the driver's hands have done: key, lamps, whether the engine turns by itself, which switches of the job are thrown."""

    key: KeyState = "run"
    lamps: LampState = "off"
    engine: Literal["stopped", "running"] = "stopped"
    thrown: tuple[Key, ...] = ()

    @property
    def running(self) -> bool:
        """An engine runs with the key in run only."""
        return self.engine == "running" and self.key == "run"

    def words(self) -> str:
        lamps = "" if self.lamps == "off" else f", lamps {self.lamps}"
        thrown = "".join(f", {key} thrown" for key in self.thrown)
        return f"key {self.key}{lamps}{', engine running' if self.running else ''}{thrown}"
