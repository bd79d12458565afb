"""What the owner will see and need not worry about, from the displays and senders of the job."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from metrolex.job import Display, EnginePoint, MeasuringChain, State
from metrolex.quantities import unit_words
from metrolex.scaling.reading import Shown, ends
from metrolex.twin.build import Network
from metrolex.twin.faces import faces_at_points
from metrolex.twin.kept import once_per_circuit
from metrolex.twin.run import readings, solve, true_values
from metrolex.warning.alarm import level_at

__all__ = ["WillSee", "will_see"]


@dataclass(frozen=True, slots=True)
class WillSee:
    """Something to be seen, and on what."""

    on: str
    words: str


@once_per_circuit
def will_see(network: Network) -> tuple[WillSee, ...]:
    """All of it, display by display, then reading by reading."""
    job = network.job
    shown = [
        display
        for display in job.displays
        if display.face and any(c.display == display.id for c in job.chains)
    ]
    alike: dict[str, list[str]] = {}
    for display in shown:
        for words in _of_display(network, display):
            alike.setdefault(words, []).append(display.name)
    return (
        *(WillSee(", ".join(dict.fromkeys(names)), words) for words, names in alike.items()),
        *(one for chain in job.chains if chain.display for one in _of_reading(network, chain)),
    )


def _faces(network: Network, state: State) -> Mapping[str, Shown]:
    return readings(solve(network, state))


def _of_display(network: Network, display: Display) -> Iterator[str]:
    chains = [chain for chain in network.job.chains if chain.display == display.id]

    def dark(state: State) -> bool:
        faces = _faces(network, state)
        return all(faces[chain.id].state == "dark" for chain in chains)

    lit = [word for word, state in _KEYS if not dark(state)]
    if lit == ["run"]:
        yield "Lit with the key in run only."
    elif "off" in lit:
        yield "Lit with the key out too: it never goes dark."
    elif "accessory" in lit:
        yield "Lit from accessory on."
    if "run" in lit and dark(State("crank")):
        yield "Goes dark while the starter turns and starts anew after it."
    if display.lamps.lighting:
        yield _LIGHTING[display.lamps.lighting]
    if display.supply.forgets:
        yield f"Battery disconnected: it forgets {display.supply.forgets}."


_KEYS = (("off", State("off")), ("accessory", State("acc")), ("run", State("run")))
_LIGHTING = {
    "dims": "Bright by day, dimmer once the lamps are on.",
    "lights": "Its light comes on with the lamps.",
    "follows": "Its light follows the dimmer of the dash.",
    "sensor": "It looks at the light itself: a hand over its sensor dims it.",
}


def _of_reading(network: Network, chain: MeasuringChain) -> Iterator[WillSee]:
    faces = {point: shown[chain.id] for point, shown in faces_at_points(network).items()}
    yield from _warming(network, chain)
    yield from _at_its_end(network, chain, faces)
    yield from _dashes(chain, faces)
    yield from _warns_at_rest(network, chain, faces["stopped"])


def _warming(network: Network, chain: MeasuringChain) -> Iterator[WillSee]:
    """A heated sensor: its box draws more for a while, and gives what it gives when it is not ready."""
    box = network.job.display(chain.box)
    if box is None:
        return
    seconds = max((pin.peak_s for pin in box.pins if pin.peak_a > pin.load_a), default=0.0)
    if seconds >= 1:
        yield WillSee(
            chain.name,
            f"Its sensor heats for about {seconds:g} s after the key: what stands there until then is no reading.",
        )


def _at_its_end(
    network: Network, chain: MeasuringChain, faces: Mapping[EnginePoint, Shown]
) -> Iterator[WillSee]:
    """A face that stands at an end of its scale because what is there lies beyond it."""
    low, high = ends(chain.scaling)
    unit = unit_words(chain.unit)
    under, over = list[EnginePoint](), list[EnginePoint]()
    for point, face in faces.items():
        true = true_values(network.job, State("run", "off", point)).get(chain.channel)
        if true is None or face.value is None:
            continue
        if low is not None and true < low and face.value == low:
            under.append(point)
        if high is not None and true > high and face.value == high:
            over.append(point)
    if under:
        yield WillSee(
            chain.name, f"Stands at its lower end, {low:g} {unit}, {_listed(under)}: it reads from there up."
        )
    if over:
        yield WillSee(
            chain.name, f"Stands at its upper end, {high:g} {unit}, {_listed(over)}: it reads up to there."
        )


def _dashes(chain: MeasuringChain, faces: Mapping[EnginePoint, Shown]) -> Iterator[WillSee]:
    blank = [point for point, face in faces.items() if face.state in ("open", "short") and face.value is None]
    if blank and len(blank) < len(faces):
        why = " Without fuel there is only air to measure." if chain.measurand == "lambda" else ""
        yield WillSee(chain.name, f"Shows dashes {_listed(blank)}.{why}")


def _warns_at_rest(network: Network, chain: MeasuringChain, face: Shown) -> Iterator[WillSee]:
    """A warning whose level is passed with the key in run and the engine not running yet."""
    if chain.alarm.silent or face.value is None:
        return
    low = float(level_at(chain.alarm, 0.0))
    under = face.value < low
    over = chain.alarm.high is not None and face.value > chain.alarm.high
    if not (under or over):
        return
    if chain.alarm.inhibit_rpm > 0:
        yield WillSee(chain.name, "Its warning keeps quiet until the engine turns.")
    else:
        yield WillSee(
            chain.name, "Its warning is on with the key until the engine runs; so one sees that it works."
        )


#: The operating points as an owner meets them.
_WHEN: dict[EnginePoint, str] = {
    "stopped": "before a cold start",
    "cold start": "just started cold",
    "warming": "while it warms up",
    "running": "at warm idle",
    "cruise": "at cruise",
    "full load": "under full load",
    "overrun": "on overrun",
    "hot stop": "stopped hot",
}


def _listed(points: list[EnginePoint]) -> str:
    said = [_WHEN[point] for point in points]
    return said[0] if len(said) == 1 else f"{', '.join(said[:-1])} and {said[-1]}"
