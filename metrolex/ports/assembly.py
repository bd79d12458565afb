"""The joints of a place as they are made, port first: how each seals, what is put on it, how tight.

Common practice, no source; the maker of the part comes first.
"""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.fittings.fitting import Fitting
from metrolex.fittings.joints import Joint, Service, dressing, tighten
from metrolex.job import Job, MeasuringChain, Port
from metrolex.ports.facts import facts_of, service_of
from metrolex.ports.practices import practice_of
from metrolex.ports.section import Section

__all__ = ["MadeJoint", "joints_made"]


@dataclass(frozen=True, slots=True)
class MadeJoint:
    """A joint with the fitting it brings, None for the sender's own."""

    joint: Joint
    fitting: Fitting | None
    sealed_by: str
    put_on: str
    tighten: str


def _put_on(joint: Joint, service: Service, fitting: Fitting | None) -> str:
    if fitting is not None and fitting.sort == "banjo":
        return "Two new washers, one on each side of the eye; a longer bolt than the old one where a second eye goes on it."
    return dressing(joint, service)


def joints_made(job: Job, channel: MeasuringChain, port: Port, section: Section) -> tuple[MadeJoint, ...]:
    """Every joint of the section, in the order it goes together."""
    service, facts = service_of(job, channel, port), facts_of(job, channel, port)
    practice = practice_of(job, "compression_turns").key
    chain, joints = section.stack.chain, section.stack.joints
    found = []
    for i, joint in enumerate(joints):
        greased = channel.measurand == "lambda" and i == len(joints) - 1
        found.append(
            MadeJoint(
                joint,
                chain[i] if i < len(chain) else None,
                "its taper" if service == "exhaust" and joint.seal == "sealant" else joint.seal,
                "It comes greased: nothing more on the thread."
                if greased
                else _put_on(joint, service, chain[i] if i < len(chain) else None),
                tighten(joint, facts.material if i == 0 else "brass", practice),
            )
        )
    return tuple(found)
