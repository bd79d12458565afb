"""A run against its lead, and the wiring diagram drawn by rule."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils.safestring import SafeString

from metrolex.harness.runs import plan_run
from metrolex.job import Channel, Conductor, Display, End, Job, Pin, Run, Sender
from metrolex.twin import Solved, names
from metrolex.twin.build import is_live
from workbench.drawing import ACT, INK, PAPER, QUIET, Drawing

__all__ = ["run_drawing", "wiring_diagram"]


def run_drawing(run: Run) -> SafeString:
    """The segments to scale over the supplied lead; hot and moving stretches are marked in words too."""
    plan = plan_run(run)
    width, left = 760.0, 4.0
    longest = max(plan.length_m, plan.supplied_m or 0.0, 0.1)
    scale = (width - 2 * left) / longest
    sheet = Drawing(width, 96, f"{run.name}: {plan.length_m:.2f} m needed", "drawing way")
    x = left
    for segment in run.segments:
        w = segment.length_m * (1 + run.slack_pct / 100) * scale
        hot = segment.peak_degc >= 100
        sheet.rect(
            x,
            22,
            max(w, 1),
            22,
            fill="#F8EBCF" if hot else PAPER,
            css="hot" if hot else "box",
            dash="5 3" if segment.moving else "",
        )
        label = (
            f"{segment.length_m:g} m"
            + (f" · {segment.peak_degc:g} °C" if hot else "")
            + (" · moves" if segment.moving else "")
        )
        if w > 8 * len(label) * 0.82:
            sheet.text(x + w / 2, 37, label, size=12, anchor="middle", mono=True)
        room = int(w / 7)
        words = (
            segment.name
            if len(segment.name) <= room
            else (segment.name[: room - 1] + "…" if room > 3 else "")
        )
        sheet.text(x + 1, 15, words, size=12, fill=QUIET, css="quiet")
        x += w
    rest = plan.length_m * scale + left - x
    if rest > 0:
        sheet.rect(x, 22, rest, 22, fill="none", css="rule", stroke=QUIET, width=1)
        if rest > 40:
            sheet.text(x + rest / 2, 37, "ends", size=12, anchor="middle", fill=QUIET, css="quiet")
    if plan.supplied_m is not None:
        sheet.rect(
            left, 54, max(plan.supplied_m * scale, 1), 10, fill=ACT, stroke=ACT, width=0, css="act-fill"
        )
        sheet.text(left, 80, f"supplied lead {plan.supplied_m:g} m", size=12, fill=QUIET, css="quiet")
    return sheet.safe()


@dataclass(frozen=True, slots=True)
class _Spot:
    """Where a terminal stands on the sheet, and to which side its wire leaves."""

    x: float
    y: float


LEFT_W, LEFT_H, LEFT_GAP = 132, 46, 22
DISPLAY_X, DISPLAY_W, PIN_H, HEAD_H, DISPLAY_GAP = 352, 248, 22, 42, 22
SENDER_X, SENDER_W = 720, 156
WIDTH = 900
TOP = 14


def wiring_diagram(job: Job, solved: Solved) -> Drawing:
    """Feeds left, displays centre, senders right, ground rail at the bottom; volts of the state beside each point."""
    return _Diagram(job, solved).draw()


class _Diagram:
    """Lays the sheet out once, then draws wires under boxes."""

    def __init__(self, job: Job, solved: Solved) -> None:
        self.job, self.solved = job, solved
        self.spots: dict[tuple[str, str, str], _Spot] = {}
        self.display_y: dict[str, float] = {}
        self.sender_y: dict[str, float] = {}
        self.tap_y: dict[str, float] = {}
        self._place()

    def _place(self) -> None:
        y = float(TOP)
        for display in self.job.displays:
            self.display_y[display.id] = y
            left, right = _left_pins(display), _right_pins(display)
            for i, pin in enumerate(left):
                self.spots["display", display.id, pin.id] = _Spot(DISPLAY_X, y + HEAD_H + i * PIN_H + 8)
            for i, pin in enumerate(right):
                self.spots["display", display.id, pin.id] = _Spot(
                    DISPLAY_X + DISPLAY_W, y + HEAD_H + i * PIN_H + 8
                )
            y += HEAD_H + max(len(left), len(right), 1) * PIN_H + 4 + DISPLAY_GAP
        bottom = y
        y = float(TOP)
        for channel in self.job.channels:
            sender, at = self.job.sender(channel.sender), self.display_y.get(channel.display or "", y)
            if sender is None or sender.id in self.sender_y:
                continue
            y = max(y, at)
            self.sender_y[sender.id] = y
            for i, terminal in enumerate(t for t in sender.terminals if t != "body"):
                self.spots["sender", sender.id, terminal] = _Spot(SENDER_X, y + HEAD_H + i * PIN_H + 8)
            y += HEAD_H + max(1, len([t for t in sender.terminals if t != "body"])) * PIN_H + 12
        bottom = max(bottom, y)
        taps = [tap for tap in self.job.taps if tap.circuit]
        pitch = max(LEFT_H + LEFT_GAP, (bottom - TOP - 40) / max(len(taps), 1))
        for i, tap in enumerate(taps):
            self.tap_y[tap.id] = TOP + i * min(pitch, 150)
            self.spots["tap", tap.id, ""] = _Spot(LEFT_W + 4, self.tap_y[tap.id] + LEFT_H / 2)
        bottom = max(bottom, TOP + len(taps) * (LEFT_H + LEFT_GAP))
        self.rail_y = bottom + 8
        self.height = self.rail_y + 54

    def draw(self) -> Drawing:
        title = f"Wiring of {self.job.name}, {self.solved.state.words()}"
        self.sheet = Drawing(WIDTH, self.height, title, "drawing wiring")
        for i, net in enumerate(_nets(self.job)):
            self._net(net, i)
        self._bodies()
        for tap in self.job.taps:
            if tap.id in self.tap_y:
                self._tap(tap.id)
        for display in self.job.displays:
            self._display(display)
        for channel in self.job.channels:
            sender = self.job.sender(channel.sender)
            if sender is not None:
                self._sender(channel, sender)
        self._rail()
        return self.sheet

    def _net(self, wires: list[Conductor], number: int) -> None:
        """All wires joined by splices: one upright for the net, a level line to each place it reaches."""
        ends = [(wire, end) for wire in wires for end in (wire.a, wire.b) if end.kind != "splice"]
        spots = [(wire, end, self._spot(end)) for wire, end in ends]
        known = [(wire, end, spot) for wire, end, spot in spots if spot is not None]
        ground = any(
            end.kind == "ground" or (end.kind == "battery" and end.id == "negative") for _, end in ends
        )
        on_right = any(end.kind in ("sender", "port") for _, end in ends)
        track = (SENDER_X - 12 - 9 * (number % 3)) if on_right else (LEFT_W + 134 + 13 * (number % 6))
        ys = [spot.y for _, _, spot in known] + ([self.rail_y] if ground else [])
        if len(ys) < 2:
            return
        first = wires[0]
        self.sheet.wire([(track, min(ys)), (track, max(ys))], first.colour, stripe=first.stripe)
        for wire, end, spot in known:
            self.sheet.wire([(spot.x, spot.y), (track, spot.y)], wire.colour, stripe=wire.stripe)
            if len(known) + ground > 2 and min(ys) < spot.y < max(ys):
                self.sheet.circle(track, spot.y, 4, fill=INK, css="dot")
            if end.kind == "tap" or (end.kind == "display" and on_right):
                self._wire_label(wire, spot.x + 46, spot.y)
        if ground:
            self.sheet.circle(track, self.rail_y, 4, fill=INK, css="dot")

    def _spot(self, end: End) -> _Spot | None:
        if end.kind == "port":
            fitted = next((c.sender for c in self.job.channels if c.port == end.id and c.sender), None)
            return _Spot(SENDER_X, self.sender_y[fitted] + 20) if fitted in self.sender_y else None
        return self.spots.get((end.kind, end.id, end.terminal if end.kind != "tap" else ""))

    def _wire_label(self, wire: Conductor, x: float, y: float) -> None:
        words = f"{wire.colour or '?'} {wire.size:g}"
        half = len(words) * 3.9 + 3
        self.sheet.rect(x - half, y - 8, 2 * half, 16, stroke="none", width=0, css="label")
        self.sheet.text(x, y + 4.5, words, size=12, anchor="middle", mono=True)

    def _slip(
        self, x: float, y: float, volts: float | None, *, digits: int = 1, anchor: str = "start"
    ) -> None:
        words = "--" if volts is None else f"{volts:.{digits}f}"
        width = len(words) * 8.2 + 10
        left = x if anchor == "start" else x - width
        dead = volts is None or abs(volts) < 0.5
        self.sheet.rect(left, y - 10, width, 20, fill="none" if dead else ACT, stroke=QUIET if dead else ACT, width=1.2,
                        css="slip-dead" if dead else "slip", round_=2, dash="4 3" if dead else "")  # fmt: skip
        self.sheet.text(left + width / 2, y + 5, words, size=13, bold=True, anchor="middle", mono=True,
                        fill=QUIET if dead else "#FFFFFF", css="quiet" if dead else "slip-words")  # fmt: skip

    def _tap(self, key: str) -> None:
        tap = next(t for t in self.job.taps if t.id == key)
        circuit = self.job.circuit(tap.circuit)
        y = self.tap_y[key]
        self.sheet.rect(4, y, LEFT_W, LEFT_H, css="box")
        self.sheet.text(12, y + 19, f"{tap.circuit}", size=15, bold=True, mono=True)
        fuse = f"{tap.fuse_a:g} A" if tap.fuse_a else "no fuse"
        self.sheet.text(LEFT_W - 3, y + 19, fuse, size=12, anchor="end", mono=True)
        purpose = (circuit.purpose if circuit else "") or "not said"
        words = f"{tap.id} {purpose}"
        self.sheet.text(12, y + 36, _cut(words, 18), size=11.5, fill=QUIET, css="quiet")
        live = circuit is not None and is_live(self.solved.network.verdicts[circuit.id], self.solved.state)
        volts = self.solved.volts(names.tap_node(key))
        self._slip(LEFT_W + 8, y + 2, volts if live or volts is None or volts > 0.5 else 0.0)

    def _display(self, display: Display) -> None:
        y, left, right = self.display_y[display.id], _left_pins(display), _right_pins(display)
        height = HEAD_H + max(len(left), len(right), 1) * PIN_H + 4
        self.sheet.rect(DISPLAY_X, y, DISPLAY_W, height, css="box")
        self.sheet.text(DISPLAY_X + 10, y + 18, display.id.capitalize(), size=15, bold=True)
        asleep = display.id not in self.solved.powered
        self.sheet.text(
            DISPLAY_X + DISPLAY_W - 10,
            y + 18,
            "dark" if asleep else "awake",
            size=12,
            anchor="end",
            fill=QUIET,
            css="quiet",
        )
        self.sheet.text(DISPLAY_X + 10, y + 33, display.name, size=11.5, fill=QUIET, css="quiet")
        for pin in left:
            self._pin(display, pin, DISPLAY_X, 9, "start", DISPLAY_X + 122)
        for pin in right:
            self._pin(display, pin, DISPLAY_X + DISPLAY_W, -9, "end", DISPLAY_X + DISPLAY_W - 76)

    def _pin(self, display: Display, pin: Pin, x: float, inset: float, anchor: str, volts_x: float) -> None:
        spot = self.spots["display", display.id, pin.id]
        self.sheet.circle(x, spot.y, 4, css="box")
        self.sheet.text(x + inset, spot.y + 4.5, f"{pin.id} {pin.name}", size=12.5, anchor=anchor)
        wired = any(End("display", display.id, pin.id) in (w.a, w.b) for w in self.job.conductors)
        if wired:
            volts = self.solved.volts(names.pin_node(display, pin.id))
            digits = 2 if pin.role in ("signal", "ground", "return", "sensor_supply") else 1
            words = "--" if volts is None else f"{volts:.{digits}f}"
            self.sheet.text(
                volts_x,
                spot.y + 4.5,
                words,
                size=12.5,
                bold=True,
                anchor="end",
                mono=True,
                fill=ACT,
                css="act",
            )

    def _sender(self, channel: Channel, sender: Sender) -> None:
        y = self.sender_y[sender.id]
        leads = [t for t in sender.terminals if t != "body"]
        self.sheet.rect(SENDER_X, y, SENDER_W, HEAD_H + len(leads) * PIN_H + 4, css="box")
        self.sheet.text(SENDER_X + 10, y + 18, _cut(sender.id.capitalize(), 19), size=14, bold=True)
        port = self.job.port(channel.port)
        self.sheet.text(
            SENDER_X + 10,
            y + 33,
            _cut(port.name if port else "no port chosen yet", 21),
            size=11.5,
            fill=QUIET,
            css="quiet",
        )
        for terminal in leads:
            spot = self.spots["sender", sender.id, terminal]
            self.sheet.circle(SENDER_X, spot.y, 4, css="box")
            self.sheet.text(SENDER_X + 9, spot.y + 4.5, terminal, size=12.5)
            volts = self.solved.volts(names.sender_node(sender.id, terminal))
            wired = any(End("sender", sender.id, terminal) in (w.a, w.b) for w in self.job.conductors)
            if wired and volts is not None:
                self.sheet.text(
                    SENDER_X + SENDER_W - 8,
                    spot.y + 4.5,
                    f"{volts:.2f}",
                    size=12.5,
                    bold=True,
                    anchor="end",
                    mono=True,
                    fill=ACT,
                    css="act",
                )

    def _bodies(self) -> None:
        """One-wire senders return through their thread to the rail, along the right edge."""
        for channel in self.job.channels:
            sender, port = self.job.sender(channel.sender), self.job.port(channel.port)
            if sender is None or sender.wires != 1 or port is None or not port.grounded:
                continue
            y = self.sender_y[sender.id] + 20
            self.sheet.path(
                [(SENDER_X + SENDER_W, y), (WIDTH - 9, y), (WIDTH - 9, self.rail_y)], width=4, css="ink"
            )

    def _rail(self) -> None:
        self.sheet.line(4, self.rail_y, WIDTH - 4, self.rail_y, width=6, css="ink")
        words = [
            f"{g.id} {g.name}: {1000 * (self.solved.volts(names.ground_node(g.id)) or 0.0):.0f} mV"
            for g in self.job.grounds
        ]  # fmt: skip
        self.sheet.text(6, self.rail_y + 24, "Ground rail", size=14, bold=True)
        self.sheet.text(
            100,
            self.rail_y + 24,
            "   ".join(words) or "no ground point yet",
            size=13,
            fill=QUIET,
            css="quiet",
        )
        self.sheet.text(
            6,
            self.rail_y + 44,
            f"Volts to battery negative at {self.solved.state.words()}. Dashed: dead. Dot: splice.",
            size=12.5,
            fill=QUIET,
            css="quiet",
        )


def _nets(job: Job) -> list[list[Conductor]]:
    """The wires grouped by the splices that join them."""
    nets: list[list[Conductor]] = []
    joints: list[set[str]] = []
    for wire in job.conductors:
        mine = {end.id for end in (wire.a, wire.b) if end.kind == "splice"}
        touching = [i for i, other in enumerate(joints) if other & mine]
        merged, merged_joints = [wire], set(mine)
        for i in reversed(touching):
            merged = nets.pop(i) + merged
            merged_joints |= joints.pop(i)
        nets.append(merged)
        joints.append(merged_joints)
    return nets


def _left_pins(display: Display) -> Sequence[Pin]:
    return [pin for pin in display.pins if pin.role in ("memory", "ignition", "lamps", "ground")]


def _right_pins(display: Display) -> Sequence[Pin]:
    return [pin for pin in display.pins if pin.role in ("signal", "return", "sensor_supply")]


def _cut(words: str, most: int) -> str:
    return words if len(words) <= most else words[: most - 1].rstrip(" ,") + "…"
