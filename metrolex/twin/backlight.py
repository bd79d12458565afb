"""Backlights together: what each display does when its lamp wire goes live, by day, at dusk and at night.

Brightness is judged in three steps: dark, dim, bright. By day a display must be bright, at night dim: bright glares, dark
cannot be read. What a lamp wire does is the display's own behaviour; the volts on it are the twin's.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from metrolex.circuit import GROUND
from metrolex.findings import Finding
from metrolex.job import Display, End, Job, State, Switch
from metrolex.topology import topology_of
from metrolex.twin import addresses
from metrolex.twin.build import Network
from metrolex.twin.kept import once
from metrolex.twin.run import solve

__all__ = ["SCENES", "Backlight", "Remedy", "backlight_findings", "backlights", "remedies"]

Level = Literal["dark", "dim", "bright", "unknown"]

#: Scene: the lamp switch then, and what a driver needs of a display.
SCENES: dict[str, tuple[Literal["off", "park", "head"], Level]] = {
    "day": ("off", "bright"),
    "dusk": ("park", "dim"),
    "night": ("head", "dim"),
}
LIVE_RATIO = 0.7  # of the full voltage on a lamp wire (as in circuits.toml)
DEAD_RATIO = 0.15


@dataclass(frozen=True, slots=True)
class Backlight:
    """One display through the scenes: how bright, by the part of the full voltage on its lamp wire (None: no wire on it)."""

    display: Display
    wired: bool
    ratios: tuple[float | None, ...]
    levels: tuple[Level, ...]

    @property
    def wrong(self) -> tuple[str, ...]:
        """The scenes in which it is not as a driver needs it."""
        return tuple(
            scene
            for (scene, (_, wanted)), level in zip(SCENES.items(), self.levels, strict=True)
            if level not in (wanted, "unknown")
        )


@dataclass(frozen=True, slots=True)
class Remedy:
    """A way out, tried on this mix: what each display then does, and how many scenes are still wrong."""

    words: str
    levels: dict[str, tuple[Level, ...]]
    wrong: int
    breaks_rule: tuple[str, ...] = ()


@once
def backlights(network: Network) -> tuple[Backlight, ...]:
    """Every display with a lamp wire or a light of its own, through day, dusk and night; a switch of one's own for it is on when it is dark."""
    own = tuple(switch.id for switch in network.job.switches if lights(network.job, switch))
    states = [
        solve(network, State("run", lamps, thrown=() if lamps == "off" else own))
        for lamps, _ in SCENES.values()
    ]
    found = []
    for display in network.job.displays:
        pin, ground = display.pin_for("lamps"), display.pin_for("ground")
        ratios: list[float | None] = []
        for solved in states:
            volts = (
                solved.across(addresses.pin_node(display, pin.id), addresses.pin_node(display, ground.id))
                if pin and ground
                else None
            )
            full = solved.across(addresses.BATTERY_POSITIVE, GROUND) or display.supply.nominal_v
            ratios.append(None if volts is None else max(0.0, volts / full))
        wired = any(ratio is not None for ratio in ratios)
        levels = tuple(
            level_of(display, ratio or 0.0, scene) for scene, ratio in zip(SCENES, ratios, strict=True)
        )
        found.append(Backlight(display, wired, tuple(ratios), levels))
    return tuple(found)


def lights(job: Job, switch: Switch) -> bool:
    """Whether a switch is there for the lamp wires of displays."""
    wiring = topology_of(job)
    ends = (End("switch", switch.id, terminal) for terminal in switch.terminals)
    return switch.kind != "relay" and any(
        pin.role == "lamps" for end in ends for pin in wiring.pins_at(wiring.reaches(end))
    )


def level_of(display: Display, ratio: float, scene: str) -> Level:
    """How bright a display is with a part of the full voltage on its lamp wire."""
    live = ratio >= LIVE_RATIO
    if display.lamps.lighting == "dims":
        return "dim" if ratio > DEAD_RATIO else "bright"
    if display.lamps.lighting == "lights":
        lit: Level = "bright" if scene == "day" else "dim"  # one light, enough by day and mild by night
        return lit if ratio > DEAD_RATIO else "dark"
    if display.lamps.lighting == "follows":
        return "bright" if live else ("dim" if ratio > DEAD_RATIO else "dark")
    if display.lamps.lighting == "sensor":
        return "bright" if scene == "day" else "dim"
    return "unknown"


@once
def remedies(network: Network) -> tuple[Remedy, ...]:
    """Each common way out held against this mix of displays, the one that leaves least wrong first."""
    displays = [display for display in network.job.displays if display.pin_for("lamps")]
    cases: list[tuple[str, dict[str, float], bool]] = [
        ("Plain park-lamp feed to all", {"day": 0.0, "dusk": 1.0, "night": 1.0}, False),
        (
            "The dimmed instrument feed to all, turned half down",
            {"day": 0.0, "dusk": 0.5, "night": 0.5},
            True,
        ),
        ("A small switch of one's own, on at dusk", {"day": 0.0, "dusk": 1.0, "night": 1.0}, False),
        ("Lamp wires fed with the ignition, live by day too", {"day": 1.0, "dusk": 1.0, "night": 1.0}, False),
        ("Lamp wires left off, capped one by one", {"day": 0.0, "dusk": 0.0, "night": 0.0}, False),
    ]
    found = []
    for words, ratios, dimmed in cases:
        levels = {d.id: tuple(level_of(d, ratios[scene], scene) for scene in SCENES) for d in displays}
        found.append(
            Remedy(
                words, levels, _wrong(levels), tuple(d.id for d in displays if dimmed and d.lamps.no_dimmer)
            )
        )
    mixed = {d.id: tuple(level_of(d, _own_best(d)[scene], scene) for scene in SCENES) for d in displays}
    if len({d.lamps.lighting for d in displays}) > 1:
        found.append(
            Remedy(
                "Each by its own need: " + "; ".join(f"{d.id} {_own_words(d)}" for d in displays),
                mixed,
                _wrong(mixed),
            )
        )
    return tuple(sorted(found, key=lambda r: (len(r.breaks_rule) > 0, r.wrong)))


def _own_best(display: Display) -> dict[str, float]:
    if display.lamps.lighting == "lights":
        return {"day": 1.0, "dusk": 1.0, "night": 1.0}
    if display.lamps.lighting == "follows":
        return {"day": 1.0, "dusk": 0.5, "night": 0.5}
    return {"day": 0.0, "dusk": 1.0, "night": 1.0}


def _own_words(display: Display) -> str:
    return {
        "lights": "on the ignition feed",
        "follows": "on a dimmer of its own",
        "dims": "on the park lamps",
        "sensor": "as it is",
    }.get(display.lamps.lighting, "not looked up yet")


def _wrong(levels: dict[str, tuple[Level, ...]]) -> int:
    return sum(
        level not in (wanted, "unknown")
        for found in levels.values()
        for level, (_, wanted) in zip(found, SCENES.values(), strict=True)
    )


def backlight_findings(network: Network) -> Iterator[Finding]:
    """Displays that end up unlike one another, that cannot be read, that see a dimmer they must not see."""
    lights = [light for light in backlights(network) if light.display.pin_for("lamps")]
    for light in lights:
        if not light.display.lamps.lighting:
            yield Finding(
                "note",
                "lighting_unknown",
                light.display.id,
                "Nobody looked up what its lamp wire does.",
                remedy="Say it on Feeds, Backlight: it is cheaper known before buying.",
                place="feeds",
            )
        if light.display.lamps.no_dimmer and any(
            r is not None and DEAD_RATIO < r < LIVE_RATIO for r in light.ratios
        ):
            worst = min(r for r in light.ratios if r is not None and DEAD_RATIO < r < LIVE_RATIO)
            yield Finding(
                "stop",
                "dimmer_forbidden",
                light.display.id,
                f"{light.display.name} must not see a dimmer, and its lamp wire hangs on one.",
                f"{worst:.0%} of full",
                "Take a plain parking-lamp circuit, or leave the wire off.",
                "feeds",
            )
    known = [light for light in lights if light.display.lamps.lighting and light.wired]
    for i, scene in enumerate(SCENES):
        levels = {light.levels[i] for light in known}
        if len(levels) > 1:
            words = ", ".join(f"{light.display.id} {light.levels[i]}" for light in known)
            best = next(iter(remedies(network)), None)
            yield Finding(
                "caution",
                "backlights_differ",
                scene,
                f"With the lamps as at {scene} the displays differ: {words}."
                if scene != "day"
                else f"By day the displays differ: {words}.",
                remedy=f"{best.words}." if best else "",
                place="feeds",
            )
        elif levels and levels != {SCENES[scene][1]} and levels != {"unknown"}:
            (level,) = levels
            yield Finding(
                "caution",
                "backlight_wrong",
                scene,
                f"All displays are {level} {'by day' if scene == 'day' else f'at {scene}'}.",
                remedy=f"{remedies(network)[0].words}.",
                place="feeds",
            )
