"""Words and states the parts of a job share."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import Key, Limits, Text

__all__ = [
    "ENGINE_WORDS",
    "KEY_STATES",
    "LAMP_STATES",
    "POINT_HEADS",
    "PROBE_STATES",
    "RUNNING_POINTS",
    "EnginePoint",
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
EnginePoint = Literal[
    "stopped", "cold start", "warming", "running", "cruise", "full load", "overrun", "hot stop"
]
#: The operating points as one says them, in the order a day has them; 'running' is the warm idle.
ENGINE_WORDS: dict[EnginePoint, str] = {
    "stopped": "engine stopped, cold",
    "cold start": "engine started cold",
    "warming": "engine warming up",
    "running": "engine running",
    "cruise": "engine at cruise",
    "full load": "engine at full load",
    "overrun": "engine on overrun",
    "hot stop": "engine stopped, hot",
}
#: The same as heads of columns.
POINT_HEADS: dict[EnginePoint, str] = {
    "stopped": "stopped, cold",
    "cold start": "started cold",
    "warming": "warming up",
    "running": "warm idle",
    "cruise": "cruise",
    "full load": "full load",
    "overrun": "overrun",
    "hot stop": "stopped, hot",
}
RUNNING_POINTS = frozenset({"cold start", "warming", "running", "cruise", "full load", "overrun"})
KEY_STATES: tuple[KeyState, ...] = ("off", "acc", "run", "crank")
LAMP_STATES: tuple[LampState, ...] = ("off", "park", "head")
PROBE_STATES = ("off", "acc", "run", "crank", "park", "head")

Word = Annotated[str, Text(120)]
#: A word that stands for what was seen; of a face any text it can show too, a gear's letter.
SeenWord = Annotated[str, Text(20)]
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
    "outside_temperature",
    "cabin_temperature",
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
    engine: EnginePoint = "stopped"
    thrown: tuple[Key, ...] = ()

    @property
    def running(self) -> bool:
        """An engine runs with the key in run only."""
        return self.engine in RUNNING_POINTS and self.key == "run"

    @property
    def point(self) -> EnginePoint:
        """The operating point it is really at: no engine runs with the key off."""
        return self.engine if self.running or self.engine not in RUNNING_POINTS else "stopped"

    def words(self) -> str:
        lamps = "" if self.lamps == "off" else f", lamps {self.lamps}"
        thrown = "".join(f", {key} thrown" for key in self.thrown)
        engine = "" if self.point == "stopped" else f", {ENGINE_WORDS[self.point]}"
        return f"key {self.key}{lamps}{engine}{thrown}"
