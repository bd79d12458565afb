"""What goes wrong with senders, their threads, their law and their pulses."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from metrolex.circuit import Fault
from metrolex.faults.kinds import Face, LikelyFault, OtherLaw, Shifted, named, row_of, sender_parts
from metrolex.faults.of_feeds import simple
from metrolex.faults.sizes import sized
from metrolex.job import Job, MeasuringChain, Sender
from metrolex.kit import all_sender_kits
from metrolex.scaling.counting import COUNTED
from metrolex.senders import ThermocoupleCurve, is_monotonic, y_range
from metrolex.senders.thermocouple import COLD_DEGC, emf_mv
from metrolex.topology import at_pin, topology_of
from metrolex.twin import addresses
from metrolex.twin.addresses import Address
from metrolex.twin.build import Network, sender_output

__all__ = ["sender_faults"]

SAME_LAW = 0.05  # laws closer than this share of the output at work are one law to a fitter


def sender_faults(network: Network) -> Iterator[LikelyFault]:
    """Each sender that is wired to something, once; what counts pulses."""
    job, told = network.job, set[str]()
    for chain in job.measured:
        yield from _counted(job, chain)
        sender = job.sender(chain.sender)
        _, stage = job.sender_wired_to(chain)
        if sender is None or sender.id in told or sender.rides or (stage and stage.kind == "own_lead"):
            continue
        told.add(sender.id)
        if isinstance(sender.curve, ThermocoupleCurve):
            yield from _couple(sender)
        elif sender.wires < 3:
            element = sender_parts(sender)["element"]
            for kind in ("sender.open", "sender.shorted", "sender.off"):
                yield simple(element, kind, sender.id)
            yield from _other_laws(job, chain, sender)
        elif sender.curve.x_unit != "hertz":
            yield simple(sender_parts(sender)["element"], "sender.off", sender.id)
            yield from _other_laws(job, chain, sender)
        port = job.port(chain.port)
        if sender.wires == 1 and port is not None and port.ground.grounded:
            for kind in ("thread.open", "thread.taped"):
                yield simple(sender_parts(sender)["thread"], kind, sender.id)


def _couple(sender: Sender) -> Iterator[LikelyFault]:
    assert isinstance(sender.curve, ThermocoupleCurve)
    parts = sender_parts(sender)
    # Where its leads touch, there it measures: at the display, its cold junction.
    touching = Fault(parts["leads"], "short", to=addresses.sender_node(sender.id, "return"))
    yield simple(parts["element"], "sender.open", sender.id)
    yield replace(simple(parts["leads"], "sender.shorted", sender.id), does=(touching,))
    yield simple(parts["element"], "couple.reversed", sender.id)
    kind, row = sender.curve.type, row_of("couple.copper")

    def at(joint_degc: float) -> dict[str, Any]:
        lost = emf_mv(kind, joint_degc) - emf_mv(kind, COLD_DEGC)
        return {"does": (Shifted(parts["element"], -lost / 1000),)}

    copper = named(parts["element"], "couple.copper", sender.id, **at(float(row["joint_degc"])))
    yield sized(copper, row, at)


def _other_laws(job: Job, chain: MeasuringChain, sender: Sender) -> Iterator[LikelyFault]:
    """Library senders of the same output that give something else at what is really there."""
    element = sender_parts(sender)["element"]
    true = chain.true_running if chain.true_running is not None else chain.true_stopped
    own, given = sender_output(chain, sender, true), list[float]()
    if not is_monotonic(sender.curve):
        return
    for name, other in all_sender_kits().items():
        alike = (other.curve.x_unit, other.curve.y_unit, other.wires >= 3) == (
            sender.curve.x_unit,
            sender.curve.y_unit,
            sender.wires >= 3,
        )
        if not alike or not is_monotonic(other.curve) or y_range(other.curve) == (0.0, 0.0):
            continue
        there = sender_output(chain, replace(sender, curve=other.curve), true)
        if any(abs(there - one) <= SAME_LAW * max(abs(one), 1e-9) for one in (own, *given)):
            continue
        given.append(there)
        yield named(
            Address("sender", sender.id, "law", name),
            "sender.other_law",
            sender.id,
            name,
            does=(OtherLaw(element, chain.id, other.curve),),
        )


def _counted(job: Job, chain: MeasuringChain) -> Iterator[LikelyFault]:
    display, stage = job.display(chain.display), job.input_of(chain)
    if display is None or stage is None or stage.kind != "pulse" or chain.measurand not in COUNTED:
        return
    if not topology_of(job).wired(at_pin(display, stage.pin or ""), measured=True) and chain.run is None:
        return
    for ratio in row_of("pulse.ratio")["ratios"]:
        words = "twice" if ratio > 1 else "half"
        yield named(
            Address("channel", chain.id, "pulses", words),
            "pulse.ratio",
            chain.name,
            words,
            faces=(Face(chain.id, ratio=float(ratio)),),
        )
    yield named(
        Address("channel", chain.id, "pick-up"),
        "pulse.silent",
        chain.name,
        faces=(Face(chain.id, ratio=0.0),),
    )
