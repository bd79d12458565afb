"""The wires a job still lacks, laid by rule.

Each need goes from its tap through one splice to the pins it feeds (straight to the pin where there is only
one); each display's ground through one splice to the ground point; each sender to the input of its channel.
Wires that are there are left alone. Sizes: the smallest of 0.5 mm2 or more that carries the load in the heat of its run with 2 %
of 12 V dropped (common practice, no source).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from metrolex.characters import whole_number
from metrolex.feeds.check import NEED_OF_ROLE
from metrolex.harness.colours import function_of_wire
from metrolex.harness.conductors import choose_wire
from metrolex.harness.heat import along, may_carry
from metrolex.harness.translate import joints_to_lay
from metrolex.job import (
    Conductor,
    Display,
    End,
    Job,
    MeasuringChain,
    Pin,
    Run,
    Segment,
    Sender,
    Sheath,
    Splice,
    Switch,
    WireLook,
)
from metrolex.layout.lengths import run_length_m
from metrolex.tables import load_table
from metrolex.topology import at_pin, at_terminal, comes_from, hears_data, topology_of

__all__ = ["FEED_RUN", "Lengths", "Plan", "plan_wires", "waits_for_a_plug"]

FEED_RUN = "feed run"
SMALLEST_MM2 = 0.5
MAX_DROP_V = 0.24
SIGNAL_MM2 = 0.5


@dataclass(frozen=True, slots=True)
class RunLength:
    """How long the way of a run is, in metres."""

    run: str
    length_m: float


@dataclass(frozen=True, slots=True)
class Lengths:
    """What is measured by hand before wires are laid, in metres: from the feeds to the gauges (None: along the plan, or not known yet),
    from the ground point to them, from the joint behind them to each, from the old plug to them; ``runs`` the ways of runs nobody had measured.

    Ground and joint are what they usually are where nobody said (common practice, no source).
    """

    feed_m: float | None = None
    ground_m: float = 0.5
    tail_m: float = 0.3
    runs: tuple[RunLength, ...] = ()
    plug_m: float | None = None


@dataclass(frozen=True, slots=True)
class Plan:
    """The job with its missing wires laid, how many they are, and in words what could not be laid yet."""

    job: Job
    added: int
    missing: tuple[str, ...]


#: Senders whose lead is shielded and twisted: trains of pulses (common practice, no source).
SHIELDED = ("hertz",)
#: Where nobody measured.
USUAL = Lengths()


def plan_wires(job: Job, lengths: Lengths = USUAL) -> Plan:
    """Lay every wire the job's taps, grounds, displays and senders call for and that is not there."""
    layer = _Layer(job, lengths)
    for role, need in NEED_OF_ROLE.items():
        layer.lay_feed(role, need)
    layer.lay_grounds()
    for channel in job.measured:
        layer.lay_sender(channel)
        layer.lay_output(channel)
        layer.lay_data(channel)
    layer.lay_old_plugs()
    laid_job = mark_clashes(layer.job, {wire.id for wire in job.conductors})
    return Plan(laid_job, len(laid_job.conductors) - len(job.conductors), tuple(layer.missing))


def waits_for_a_plug(job: Job) -> bool:
    """Whether a wire from one of the vehicle's plugs to a display is still to be laid: how far that is, somebody must say."""
    return bool(joints_to_lay(job)) or any(
        (leaves := comes_from(job, chain)) is not None
        and leaves.kind == "plug"
        and not topology_of(job).wired(leaves)
        for chain in job.measured
    )


def mark_clashes(job: Job, kept: set[str]) -> Job:
    """The job with new wires of one colour in one run told apart by tape of a colour not yet used there."""
    seen: dict[tuple[str, str], str] = {}
    wires: list[Conductor] = []
    for wire in job.conductors:
        key = (wire.run or "", wire.look.code)
        function = function_of_wire(job, wire)
        if (
            wire.run
            and wire.look.colour
            and wire.id not in kept
            and seen.setdefault(key, function) != function
        ):
            used = {c for w in job.conductors if w.run == wire.run for c in (w.look.colour, w.look.mark)} | {
                w.look.mark for w in wires
            }
            free = next((code for code in load_table("colours") if code not in used), "")
            wires.append(replace(wire, look=replace(wire.look, mark=free)))
        else:
            seen.setdefault(key, function)
            wires.append(wire)
    return replace(job, conductors=tuple(wires))


class _Layer:
    """Lays wires one by one; holds the job as it grows."""

    def __init__(self, job: Job, lengths: Lengths) -> None:
        self.job = job
        self.lengths = lengths
        self.missing: list[str] = []

    def lay_feed(self, role: str, need: str) -> None:
        """Tap to splice to pins for one role."""
        bare = [(d, p) for d in self.job.displays for p in d.pins if p.role == role and not self._fed(d, p)]
        if not bare:
            return
        needs = {"ignition", "ignition_crank"} if need == "ignition" else {need}
        tap = next((t for t in self.job.taps if t.need in needs and t.circuit), None)
        if tap is None:
            self.missing.append(f"no tap for {need.replace('_', ' ')} yet")
            return
        self._fan_out(End("tap", tap.id), role, bare, self._feed_run())

    def lay_grounds(self) -> None:
        """Ground point to splice to ground pins."""
        bare = [
            (d, p) for d in self.job.displays for p in d.pins if p.role == "ground" and not self._fed(d, p)
        ]
        if not bare:
            return
        if not self.job.grounds:
            self.missing.append("no ground point yet")
            return
        self._fan_out(End("ground", self.job.grounds[0].id), "ground", bare, None)

    def lay_sender(self, channel: MeasuringChain) -> None:
        """Signal, return and supply between a channel's sender and the display or box it is wired to."""
        sender = self.job.sender(channel.sender)
        display, stage = self.job.sender_wired_to(channel)
        if sender is None or display is None or stage is None or stage.pin is None:
            return
        signal = next(pin for pin in display.pins if pin.id == stage.pin)
        by = self.job.shown_by(channel)
        if by is not None:
            self._lay_by_turns(by[0], by[1], display, signal, sender, channel)
        leaves = comes_from(self.job, channel)
        if sender.readers or (leaves and leaves.kind == "plug"):  # the vehicle's loom has it: one wire joins
            self._join(channel, display, signal)
            return
        partners = {
            "signal": signal,
            "return": display.pin_for("return"),
            "supply": display.pin_for("sensor_supply"),
        }
        for terminal in sender.terminals:
            pin = partners.get(terminal)
            if terminal == "body" or self._sender_wired(sender, terminal):
                continue
            if pin is None:
                self.missing.append(f"{display.name} has no pin for the {terminal} of {sender.name}")
                continue
            self._add(
                Conductor(
                    "",
                    End("display", display.id, pin.id),
                    End("sender", sender.id, terminal),
                    SIGNAL_MM2,
                    "mm2",
                    run=channel.run,
                    look=WireLook(pin.colour),
                    sheath=Sheath(
                        shield=sender.curve.x_unit in SHIELDED and terminal in ("signal", "return"),
                        twist=channel.name[:60]
                        if sender.curve.x_unit in SHIELDED and "return" in sender.terminals
                        else "",
                    ),
                )
            )

    def _join(self, channel: MeasuringChain, display: Display, pin: Pin) -> None:
        """From where the vehicle's own wire is joined to the pin of the display."""
        leaves = comes_from(self.job, channel)
        if leaves is None or at_pin(display, pin) in topology_of(self.job).reaches(leaves):
            return
        look = WireLook(pin.colour)
        length, run = (self.lengths.plug_m, None) if leaves.kind == "plug" else (None, channel.run)
        self._add(Conductor("", at_pin(display, pin), leaves, SIGNAL_MM2, "mm2", length, run, look))

    def _lay_by_turns(
        self,
        switch: Switch,
        thrown: bool,
        display: Display,
        pin: Pin,
        sender: Sender,
        channel: MeasuringChain,
    ) -> None:
        """Sender to its terminal of the switch, and the switch to the pin: its length is measured by whoever puts it there."""
        wiring, look = topology_of(self.job), WireLook(pin.colour)
        terminal = End("switch", switch.id, "B" if thrown else "A")
        if not wiring.wired(at_terminal(sender, "signal")):
            self._add(
                Conductor(
                    "", terminal, at_terminal(sender, "signal"), SIGNAL_MM2, "mm2", run=channel.run, look=look
                )
            )
        common = End("switch", switch.id, "common")
        if not topology_of(self.job).wired(common):
            self._add(Conductor("", at_pin(display, pin), common, SIGNAL_MM2, "mm2", look=look))

    def lay_output(self, channel: MeasuringChain) -> None:
        """From the output of a channel's box to the input it is read at, by the lead the box came with."""
        leaves, stage = comes_from(self.job, channel), self.job.input_of(channel)
        box, display = self.job.display(channel.box), self.job.display(channel.display)
        if leaves is None or box is None or display is None or stage is None or stage.pin is None:
            return
        pin, wiring = display.pin_called(stage.pin), topology_of(self.job)
        if pin is None or at_pin(display, pin) in wiring.reaches(leaves):
            return
        lead = box.pin_called(leaves.terminal)
        look = WireLook(lead.colour if lead and box.lead_m else pin.colour)
        self._add(Conductor("", at_pin(display, pin), leaves, SIGNAL_MM2, "mm2", box.lead_m, look=look))

    def lay_data(self, channel: MeasuringChain) -> None:
        """From a box that sends data to the display that shows it: the pair, or the chain from the last one in it."""
        box, display = self.job.display(channel.box), self.job.display(channel.display)
        if box is None or display is None or not box.by_data(box.output_called(channel.output)):
            return
        everyone = frozenset(one.id for one in self.job.displays)
        if hears_data(self.job, box, display, everyone):
            return
        links = [(box.pin_for(role), display.pin_for(role)) for role in ("can_high", "can_low")]
        if not all(mine and theirs for mine, theirs in links):
            links = [(box.pin_for("data_out"), display.pin_for("data_in"))]
        for mine, theirs in links:
            if mine is None or theirs is None:
                self.missing.append(f"{box.name} and {display.name} have no data pins that go together")
                return
            twist = "data pair" if len(links) > 1 else ""
            self._add(
                Conductor(
                    "",
                    at_pin(display, theirs),
                    at_pin(box, mine),
                    SIGNAL_MM2,
                    "mm2",
                    box.lead_m,
                    look=WireLook(theirs.colour or mine.colour),
                    sheath=Sheath(twist=twist),
                )
            )

    def lay_old_plugs(self) -> None:
        """Lamp inputs, outputs and the data pair, from the old plugs whose pins are said."""
        for cavity, display, pin, twist in joints_to_lay(self.job):
            plug = self.job.connector(cavity.id)
            old = next((c for c in plug.cavities if c.pin == cavity.terminal), None) if plug else None
            look = (
                WireLook(pin.colour)
                if pin.colour or old is None
                else WireLook(old.colour, old.stripe, "", old.stripe_2)
            )
            self._add(
                Conductor(
                    "",
                    at_pin(display, pin),
                    cavity,
                    SIGNAL_MM2,
                    "mm2",
                    self.lengths.plug_m,
                    None,
                    look,
                    Sheath(twist=twist),
                )
            )

    def _fan_out(self, source: End, name: str, bare: list[tuple[Display, Pin]], run: str | None) -> None:
        """From a tap or ground to pins: straight to a single place, else through one splice."""
        size, length = self._size(self._load_a(name), run), None if run else self.lengths.ground_m
        look = WireLook(bare[0][1].colour)
        targets = list(dict.fromkeys(self._loose_end(display, pin) for display, pin in bare))
        trunk = next(iter(topology_of(self.job).wires_at(source)), None)
        if trunk is None and len(targets) == 1:
            self._add(Conductor("", source, targets[0], size, "mm2", length, run, look))
            return
        joints = [trunk.a, trunk.b] if trunk else targets
        joint = next((end for end in joints if end.kind == "splice"), None)
        if joint is None:
            splice = Splice(f"S{_next_number('S', [s.id for s in self.job.splices])}", name)
            self.job = replace(self.job, splices=(*self.job.splices, splice))
            joint = End("splice", splice.id)
            if trunk is not None:
                self._cut_into(trunk, source, joint)
        if trunk is None:
            self._add(Conductor("", source, joint, size, "mm2", length, run, look))
        for end in targets:
            if end != joint:
                self._add(Conductor("", joint, end, SMALLEST_MM2, "mm2", self.lengths.tail_m, None, look))

    def _load_a(self, role: str) -> float:
        pins = [pin for display in self.job.displays for pin in display.pins]
        return sum(pin.load_a for pin in pins if role in (pin.role, "ground"))

    def _loose_end(self, display: Display, pin: Pin) -> End:
        """The splice an unfed pin hangs on already, else the pin itself."""
        wiring, own = topology_of(self.job), at_pin(display, pin)
        splices = [
            far for wire in wiring.wires_at(own) if (far := wiring.far_end(wire, own)).kind == "splice"
        ]
        return splices[0] if splices else own

    def _cut_into(self, trunk: Conductor, source: End, joint: End) -> None:
        far = trunk.b if trunk.a == source else trunk.a
        kept = replace(trunk, a=source, b=joint)
        self.job = replace(
            self.job, conductors=tuple(kept if w.id == trunk.id else w for w in self.job.conductors)
        )
        self._add(
            Conductor(
                "",
                joint,
                far,
                trunk.size,
                trunk.system,
                self.lengths.tail_m,
                None,
                replace(trunk.look, mark=""),
            )
        )

    def _size(self, load_a: float, run_id: str | None) -> float:
        run = self.job.run(run_id)
        way = topology_of(self.job).ways[run.id] if run else None
        length = run_length_m(way) if way and way.segments else 1.0
        around = along(way) if may_carry(along(way)) else None  # where none may, its finding says so
        gauge = choose_wire(
            max(load_a, 0.001), length, MAX_DROP_V, 40.0, "mm2", return_by_wire=False, around=around
        ).gauge
        return max(SMALLEST_MM2, gauge.size if gauge else SMALLEST_MM2)

    def _feed_run(self) -> str:
        run = self.job.run(FEED_RUN)
        if run is None:
            run = Run(FEED_RUN, "Feeds to the gauges")
            self.job = replace(self.job, runs=(*self.job.runs, run))
        way = topology_of(self.job).ways[FEED_RUN]
        if self.lengths.feed_m is not None and not way.segments:
            measured = replace(run, segments=(Segment("from the feeds to the gauges", self.lengths.feed_m),))
            runs = tuple(measured if one.id == FEED_RUN else one for one in self.job.runs)
            self.job = replace(self.job, runs=runs)
        return FEED_RUN

    def _add(self, wire: Conductor) -> None:
        number = _next_number("W", [w.id for w in self.job.conductors])
        self.job = replace(self.job, conductors=(*self.job.conductors, replace(wire, id=f"W{number}")))

    def _fed(self, display: Display, pin: Pin) -> bool:
        return topology_of(self.job).fed(display, pin)

    def _sender_wired(self, sender: Sender, terminal: str) -> bool:
        return topology_of(self.job).wired(at_terminal(sender, terminal))


def _next_number(letter: str, ids: list[str]) -> int:
    numbers = [n for key in ids if key.startswith(letter) and (n := whole_number(key[1:])) is not None]
    return max(numbers, default=0) + 1
