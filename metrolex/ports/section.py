"""The section through a wall or pipe with the chosen stack in it: every length the drawing and the card show.

Lengths in millimetres, measured outward from the face of the port unless said. Taper threads: worked from the
standard's hand-tight length and the turns past it (fittings/engagement.py).
"""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.fittings.engagement import engage
from metrolex.fittings.fitting import Fitting
from metrolex.fittings.joints import Joint, join
from metrolex.fittings.stack import Stack
from metrolex.job import Job, MeasuringChain, Port, Sender
from metrolex.ports.facts import facts_of, stack_of
from metrolex.tables import load_table

__all__ = ["Section", "section_of"]

#: How far a tip should stand into the stream, as a share of the bore (common practice, no source).
_WANTED_DEPTH = {"exhaust_temperature": 0.5, "lambda": 0.25}
_USUAL_DEPTH = 0.3
PLATE_MATERIAL = "aluminium"  # what sandwich plates are made of (common practice, no source)


@dataclass(frozen=True, slots=True)
class Section:
    """What is drawn. ``tip_mm`` is how far the tip stands inside the wall's inner face (negative: short of it).

    ``probe_mark_mm`` is where a sliding probe is marked: from its tip to the top of its compression fitting; None for a
    sender with a fixed reach. ``sticks_out_mm`` is the height of the stack above the face, without the sender's body.
    ``reach_mm`` is the sender's own, below its shoulder. ``in_line``: the stream runs through the first fitting, whose
    length counts from the middle of the line. ``through`` is a plate the stream runs through: then wall and bore are its
    rim and the free width behind it.
    """

    wall_mm: float | None
    bore_mm: float | None
    stack: Stack
    thread: str
    enters_by_hand_mm: float | None
    enters_pulled_up_mm: float | None
    threads_engaged: float | None
    tip_mm: float | None
    wanted_tip_mm: float | None
    probe_mark_mm: float | None
    probe_mm: float | None
    sticks_out_mm: float
    in_line: bool = False
    through: Fitting | None = None
    reach_mm: float | None = None

    @property
    def chain(self) -> tuple[Fitting, ...]:
        """The fittings that stand on the wall."""
        return self.stack.chain[1:] if self.through else self.stack.chain

    @property
    def first_joint(self) -> Joint | None:
        """The joint in the wall."""
        joints = self.stack.joints[1:] if self.through else self.stack.joints
        return joints[0] if joints else None

    @property
    def tip_ratio(self) -> float | None:
        """How far across the bore the tip stands, 0 the wall, 0.5 the middle."""
        return None if self.tip_mm is None or not self.bore_mm else self.tip_mm / self.bore_mm


def section_of(job: Job, channel: MeasuringChain, port: Port, sender: Sender) -> Section:
    """The section of a place with its stack and sender. Raises BadInput where a thread is not known."""
    facts, stack = facts_of(job, channel, port), stack_of(port, sender)
    through = stack.chain[0] if stack.chain and stack.chain[0].stream_inside else None
    first = next(iter(stack.joints[1:] if through else stack.joints), None)
    wall, bore, material = facts.wall_mm, facts.bore_mm, str(facts.material)
    if through:
        wall, bore, material = through.rim_mm, through.stream_mm, PLATE_MATERIAL
    by_hand, pulled, engaged = _engagement(first, wall, material)
    wanted = bore * _WANTED_DEPTH.get(channel.measurand, _USUAL_DEPTH) if bore else None
    in_line = facts.entry in ("cut_line", "cut_hose")
    slides = bool(stack.joints) and stack.joints[-1].male.family == "probe"
    height = stack.length_mm - (through.length_mm if through else 0.0)
    mark = tip = None
    if slides and wall is not None and wanted is not None:
        tip, mark = wanted, wanted + wall + height
    elif sender.body.reach_mm is not None and in_line and bore is not None:
        tip = sender.body.reach_mm - height + bore / 2
    elif sender.body.reach_mm is not None and wall is not None and not in_line:
        tip = sender.body.reach_mm - height - wall
    return Section(
        wall,
        bore,
        stack,
        port.thread,
        by_hand,
        pulled,
        engaged,
        tip,
        wanted,
        mark,
        sender.body.probe_mm,
        height,
        in_line,
        through,
        sender.body.reach_mm,
    )


def _engagement(
    first: Joint | None, wall_mm: float | None, material: str
) -> tuple[float | None, float | None, float | None]:
    if first is None or not first.female.threaded or wall_mm is None:
        return None, None, None
    if first.male.tapered and join(first.female, first.female):
        turns = load_table("tightening")["turns"]["sealant"]
        low, high = turns.get(material, turns["other"])
        found = engage(first.male, wall_mm, (low + high) / 2)
        return (
            found.hand_tight_mm,
            found.pulled_up_mm,
            min(wall_mm, first.male.effective_mm) / first.male.pitch_mm,
        )
    return None, wall_mm, wall_mm / first.female.pitch_mm
