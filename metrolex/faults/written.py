"""Probes as they are written down in a job and said to a fitter: points by the names the twin prints."""

from __future__ import annotations

from collections.abc import Sequence

from metrolex.circuit import GROUND
from metrolex.circuit.elements import Name
from metrolex.errors import BadInput
from metrolex.faults.likelihood import Seen
from metrolex.faults.probes import Action, Probe
from metrolex.job import Job, State
from metrolex.job.search import Reading
from metrolex.job.words import SeenWord
from metrolex.scaling.face_words import LAMP_WORDS, sayable
from metrolex.twin.addresses import address_called, printed
from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit
from metrolex.twin.run import solve

__all__ = [
    "action_words",
    "node_names",
    "probe_meant",
    "probe_words",
    "reading_of_probe",
    "said_of",
    "seen_of",
    "unit_of",
]

RUNNING = State("run", "off", "running")


@once_per_circuit
def node_names(network: Network) -> dict[Name, str]:
    """Every point of the circuit with the name the twin prints."""
    return printed(solve(network, RUNNING).solution.potentials)


def reading_of_probe(
    network: Network, state: State, probe: Probe, value: float | SeenWord, day: str = ""
) -> Reading:
    """What was found at a probe, as it is written down in a job."""
    names, after = node_names(network), probe.after
    volts = probe.kind == "volts"
    return Reading(
        state,
        probe.kind,
        value,
        names.get(probe.red, str(probe.red)) if volts else "",
        names.get(probe.black, str(probe.black)) if volts else "",
        probe.on,
        probe.what,
        after.do if after else "",
        after.on if after else "",
        after.other if after else "",
        day,
    )


def probe_meant(network: Network, reading: Reading) -> Probe:
    """The probe a reading was taken at. Raises BadInput where the job has no such point, readout or sender any more."""
    job = network.job
    after = Action(reading.do, reading.do_on, reading.do_other) if reading.do else None
    if after and not after.faults(job):
        raise BadInput("do_on", reading.do_on, "a part of the job")
    if reading.kind == "volts":
        names = node_names(network)
        red, black = (
            address_called(words, names, side, "a point of the circuit")
            for side, words in (("red", reading.red), ("black", reading.black))
        )
        return Probe("volts", red, black, after=after)
    there = [c.id for c in job.chains] if reading.kind == "shown" else [s.id for s in job.senders]
    if reading.on not in there:
        raise BadInput("on", reading.on, ", ".join(there))
    return Probe(reading.kind, on=reading.on, what=reading.what, after=after)


def said_of(job: Job, probe: Probe) -> tuple[str, ...]:
    """The words that can be seen at a probe: of a face all it can stand at, and the letters of gears it was taught."""
    if probe.kind != "shown":
        return ("open",) if probe.kind == "ohms" else LAMP_WORDS
    return sayable(job.chain(probe.on))


def seen_of(network: Network, readings: Sequence[Reading]) -> tuple[list[Seen], list[int]]:
    """What was seen, and the places of the readings whose point is gone from the job."""
    seen, gone = list[Seen](), list[int]()
    for i, reading in enumerate(readings):
        try:
            probe = probe_meant(network, reading)
            value = reading.value
            if isinstance(value, str) and value not in said_of(network.job, probe):
                raise BadInput("value", value, ", ".join(said_of(network.job, probe)))
            seen.append(Seen(reading.state, probe, value))
        except BadInput:
            gone.append(i)
    return seen, gone


def probe_words(network: Network, probe: Probe) -> str:
    """What to do at a probe, as one says it: 'Red on gauge 2 pin 5, black on gauge 2 pin 4'."""
    names, job = node_names(network), network.job
    if probe.kind == "volts":
        black = "battery negative" if probe.black == GROUND else names.get(probe.black, str(probe.black))
        said = f"Red on {names.get(probe.red, str(probe.red))}, black on {black}"
    elif probe.kind == "shown":
        chain = job.chain(probe.on)
        said = f"Look at {chain.name if chain else probe.on}"
    elif probe.what:
        said = f"Ohms from the body of {probe.on} to battery negative"
    else:
        sender = job.sender(probe.on)
        back = sender.terminals[1] if sender and len(sender.terminals) > 1 else "its return"
        said = f"Unplug {probe.on}, ohms from signal to {back}"
    return f"{action_words(probe.after)}, then {said[0].lower()}{said[1:]}" if probe.after else said


def action_words(action: Action) -> str:
    """What is done to the vehicle before one looks."""
    return {
        "unplug_sender": f"Unplug {action.on}",
        "ground_signal": f"Bridge the signal of {action.on} to battery negative",
        "bridge_ground": f"Bridge {action.on} to battery negative",
        "feed_display": f"Feed {action.on} from the battery through a fused lead",
        "pull_fuse": f"Pull the fuse of {action.on}",
        "swap_senders": f"Swap the signal wires of {action.on} and {action.other}",
    }[action.do]


def unit_of(job: Job, probe: Probe) -> str:
    """The unit a probe is read in."""
    chain = job.chain(probe.on) if probe.kind == "shown" else None
    return chain.unit if chain else "V" if probe.kind == "volts" else "ohm"
