"""The wiring diagram: wires in their colours with printed codes, pin numbers, and the volts of the state at every point."""

from __future__ import annotations

from urllib.parse import urlencode

from django.utils.safestring import SafeString

from metrolex.circuit import GROUND
from metrolex.circuit.elements import Name
from metrolex.harness.diagram import SENDER_W, Box, Layout, Net, Spot, lay_out, left_pins, right_pins
from metrolex.job import Conductor, Display, End, Job, MeasuringChain, Pin, Sender, State, Switch, Tap
from metrolex.topology import topology_of
from metrolex.twin import Network, Solved, addresses, solve
from metrolex.twin.addresses import printed
from metrolex.twin.build import is_live
from metrolex.twin.kept import once_per_circuit
from workbench.drawing import ACT, INK, QUIET, Drawing
from workbench.strips import strips_of

__all__ = ["TALL", "WIDE", "probed_svg", "wiring_diagram", "wiring_strips", "wiring_svg"]

#: How many times as tall as wide a drawing may be on an upright sheet, and on one laid across with words still to be read.
TALL, WIDE = 1.36, 0.85
PROBE_ROOM = (300.0, 110.0)  # about the probes that are drawn, to either side and above and below


def wiring_diagram(job: Job, solved: Solved, *, clickable: bool = False) -> Drawing:
    """Feeds left, displays centre, senders right, ground rail at the bottom; a click on a point asks for its facts."""
    return _Diagram(job, solved, clickable).draw()


@once_per_circuit
def wiring_svg(network: Network, state: State, *, clickable: bool = False) -> SafeString:
    """The diagram in one state, drawn once for a circuit."""
    return wiring_diagram(network.job, solve(network, state), clickable=clickable).safe()


@once_per_circuit
def wiring_strips(network: Network, state: State, most: float) -> list[SafeString]:
    """The diagram in one state for paper: in strips where it is taller."""
    return strips_of(wiring_diagram(network.job, solve(network, state)), most)


@once_per_circuit
def probed_svg(network: Network, state: State, red: Name, black: Name) -> SafeString | None:
    """The part of the diagram where two probes are put, with the probes on it; None where red's point is not on it."""
    diagram = _Diagram(network.job, solve(network, state), False)
    diagram.draw()
    return diagram.probed(red, black)


class _Diagram:
    """Draws wires first and symbols over them."""

    def __init__(self, job: Job, solved: Solved, clickable: bool) -> None:
        self.job, self.solved, self.clickable = job, solved, clickable
        self.at: Layout = lay_out(job)
        title = f"Wiring of {job.vehicle.name}, {solved.state.words()}"
        self.sheet = Drawing(self.at.width, self.at.height, title, "drawing wiring", holds_links=clickable)
        self.names = printed(solved.solution.potentials)
        self.wired = topology_of(job).ends

    def draw(self) -> Drawing:
        for net in self.at.nets:
            self._net(net)
        self._bodies()
        for tap in self.job.taps:
            if ("tap", tap.id) in self.at.boxes:
                self._tap(tap, self.at.boxes["tap", tap.id])
        for plug in self.job.connectors:
            if ("plug", plug.id) in self.at.boxes:
                self._plug(plug.id, plug.name, self.at.boxes["plug", plug.id])
        if ("battery", "positive") in self.at.boxes:
            self._battery(self.at.boxes["battery", "positive"])
        for display in self.job.displays:
            self._display(display, self.at.boxes["display", display.id])
        for sender in self.job.senders:
            if ("sender", sender.id) in self.at.boxes:
                self._sender(sender, self.at.boxes["sender", sender.id])
        for switch in self.job.switches:
            if ("switch", switch.id) in self.at.boxes:
                self._switch(switch, self.at.boxes["switch", switch.id])
        self._rail()
        return self.sheet

    # Wires

    def _net(self, net: Net) -> None:
        first = net.wires[0]
        uprights = [(net.left_x, net.left_span), (net.right_x, net.right_span)]
        for x, (low, high) in uprights:
            if x is not None:
                self.sheet.wire([(x, low), (x, high)], first.look.colour, stripe=first.look.stripe)
        if net.lane_y is not None and net.left_x is not None and net.right_x is not None:
            self.sheet.wire(
                [(net.left_x, net.lane_y), (net.right_x, net.lane_y)],
                first.look.colour,
                stripe=first.look.stripe,
            )
        for wire, end in net.ends:
            spot = self.at.spots[end]
            x = net.left_x if spot.side == "left" else net.right_x
            if x is None:
                continue
            self.sheet.wire([(spot.x, spot.y), (x, spot.y)], wire.look.colour, stripe=wire.look.stripe)
            span = net.left_span if spot.side == "left" else net.right_span
            if span[0] < spot.y < span[1]:
                self.sheet.circle(x, spot.y, 4, fill=INK, css="dot")
            if end.kind in ("tap", "plug", "battery"):
                self._wire_label(wire, spot.x + 52, spot.y)
            elif end.kind == "switch":
                self._wire_label(wire, spot.x + (52 if spot.side == "left" else -50), spot.y)
            elif end.kind in ("sender", "port"):
                self._wire_label(wire, spot.x - 50, spot.y)
        if net.grounded:
            x = net.left_x if net.left_x is not None else net.right_x
            if x is not None:
                self.sheet.circle(x, self.at.rail_y, 4, fill=INK, css="dot")
        x = net.left_x if net.left_x is not None else net.right_x
        low = (net.left_span if net.left_x is not None else net.right_span)[0]
        if net.splices and x is not None:
            self._point(addresses.splice_node(net.splices[0]))
            self.sheet.text(
                x + 5, low - 4, " ".join(net.splices), size=11, mono=True, fill=QUIET, css="quiet"
            )
            self._done()

    def _wire_label(self, wire: Conductor, x: float, y: float) -> None:
        code = wire.look.code or "?"
        words = f"{wire.id} {code} {wire.size:g}"
        half = len(words) * 3.6 + 2
        self.sheet.rect(x - half, y - 8, 2 * half, 16, stroke="none", width=0, css="label")
        self.sheet.text(x, y + 4.5, words, size=11.5, anchor="middle", mono=True)

    # Points that can be asked

    def _point(self, node: Name) -> None:
        if self.clickable:
            words = self.names.get(node, str(node))
            self.sheet.link(f"?{urlencode({'node': words})}#node", aria_label=words)

    def _done(self) -> None:
        if self.clickable:
            self.sheet.end()

    def _slip(self, x: float, y: float, volts: float | None) -> None:
        words = "--" if volts is None else f"{volts:.1f}"
        width = len(words) * 8.2 + 10
        dead = volts is None or abs(volts) < 0.5
        self.sheet.rect(
            x,
            y - 10,
            width,
            20,
            fill="none" if dead else ACT,
            stroke=QUIET if dead else ACT,
            width=1.2,
            css="slip-dead" if dead else "slip",
            round_=2,
            dash="4 3" if dead else "",
        )
        self.sheet.text(
            x + width / 2,
            y + 5,
            words,
            size=13,
            bold=True,
            anchor="middle",
            mono=True,
            fill=QUIET if dead else "#FFFFFF",
            css="quiet" if dead else "slip-words",
        )

    def _tap(self, tap: Tap, box: Box) -> None:
        circuit = self.job.circuit(tap.circuit)
        self._point(addresses.tap_node(tap.id))
        self.sheet.rect(box.x, box.y, box.w, box.h, css="box")
        self.sheet.text(12, box.y + 20, _cut(str(tap.circuit), 9), size=15, bold=True, mono=True)
        fuse = f"{tap.fuse_a:g} A" if tap.fuse_a else "no fuse"
        self.sheet.text(box.x + box.w - 7, box.y + 20, fuse, size=12, anchor="end", mono=True)
        purpose = (circuit.purpose if circuit else "") or "not said"
        self.sheet.text(12, box.y + 38, _cut(f"{tap.id} {purpose}", 21), size=11.5, fill=QUIET, css="quiet")
        live = circuit is not None and is_live(self.solved.network.verdicts[circuit.id], self.solved.state)
        volts = self.solved.volts(addresses.tap_node(tap.id))
        self._slip(box.x + box.w + 6, box.y + 2, volts if live or volts is None or volts > 0.5 else 0.0)
        self._done()

    def _plug(self, key: str, name: str, box: Box) -> None:
        self.sheet.rect(box.x, box.y, box.w, box.h, css="box")
        self.sheet.text(12, box.y + 19, _cut(name, 18), size=14, bold=True)
        self.sheet.text(12, box.y + 34, "plug of the vehicle", size=11.5, fill=QUIET, css="quiet")
        connector = self.job.connector(key)
        for cavity in connector.cavities if connector else ():
            spot = self.at.spots.get(End("plug", key, cavity.pin))
            if spot is not None:
                self.sheet.circle(spot.x, spot.y, 4, css="box")
                self.sheet.text(
                    spot.x - 9,
                    spot.y + 4.5,
                    _cut(f"{cavity.function} {cavity.pin}", 20),
                    size=12.5,
                    anchor="end",
                )

    def _switch(self, switch: Switch, box: Box) -> None:
        """Its terminals, and how its contacts stand now."""
        thrown = switch.id in (self.solved.pulled if switch.kind == "relay" else self.solved.state.thrown)
        self.sheet.rect(box.x, box.y, box.w, box.h, css="box")
        self.sheet.text(box.x + 10, box.y + 18, _cut(switch.name, 20), size=14, bold=True)
        words = f"{'relay' if switch.kind == 'relay' else 'switch'}, {switch.position(thrown=thrown)}"
        self.sheet.text(box.x + 10, box.y + 33, _cut(words, 24), size=11.5, fill=QUIET, css="quiet")
        left = box.x < self.at.display_x
        anchor, step = ("end", -9) if left else ("start", 9)
        for terminal in switch.terminals:
            spot = self.at.spots[End("switch", switch.id, terminal)]
            self._point(addresses.switch_node(switch.id, terminal))
            self.sheet.circle(spot.x, spot.y, 4, css="box")
            self.sheet.text(spot.x + step, spot.y + 4.5, terminal, size=12.5, anchor=anchor)
            self._done()
        inner = box.x + 22 if left else box.x + box.w - 22
        for contact in switch.contacts:
            if contact.thrown != thrown:
                continue
            one, other = (self.at.spots[End("switch", switch.id, end)].y for end in (contact.a, contact.b))
            self.sheet.line(inner, one, inner, other, width=2.5, css="ink")
            for y in (one, other):
                self.sheet.circle(inner, y, 3, fill=INK, css="dot")

    def _battery(self, box: Box) -> None:
        self._point(addresses.BATTERY_POSITIVE)
        self.sheet.rect(box.x, box.y, box.w, box.h, width=2.5, css="box")
        self.sheet.text(12, box.y + 20, "Battery +", size=15, bold=True)
        self._slip(box.x + box.w + 6, box.y + 2, self.solved.volts(addresses.BATTERY_POSITIVE))
        self._done()

    def _display(self, display: Display, box: Box) -> None:
        self.sheet.rect(box.x, box.y, box.w, box.h, css="box")
        self.sheet.text(box.x + 10, box.y + 18, _cut(display.id.capitalize(), 22), size=15, bold=True)
        asleep = display.id not in self.solved.powered
        self.sheet.text(
            box.x + box.w - 10,
            box.y + 18,
            "dark" if asleep else "awake",
            size=12,
            anchor="end",
            fill=QUIET,
            css="quiet",
        )
        self.sheet.text(box.x + 10, box.y + 33, _cut(display.name, 36), size=11.5, fill=QUIET, css="quiet")
        for pin in left_pins(display):
            self._pin(display, pin, box.x, 9, "start", box.x + 128)
        for pin in right_pins(display):
            self._pin(display, pin, box.x + box.w, -9, "end", box.x + box.w - 84)

    def _pin(self, display: Display, pin: Pin, x: float, inset: float, anchor: str, volts_x: float) -> None:
        end = End("display", display.id, pin.id)
        spot: Spot = self.at.spots[end]
        node = addresses.pin_node(display, pin.id)
        self._point(node)
        self.sheet.circle(x, spot.y, 4, css="box")
        self.sheet.text(x + inset, spot.y + 4.5, _cut(f"{pin.id} {pin.name}", 14), size=12.5, anchor=anchor)
        if end in self.wired:
            volts = self.solved.volts(node)
            digits = 2 if pin.role in ("signal", "signal_out", "ground", "return", "sensor_supply") else 1
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
        self._done()

    def _place_words(self, channel: MeasuringChain) -> str:
        reader, stage = self.job.sender_wired_to(channel)
        if reader is not None and stage is not None and stage.kind == "own_lead":
            return f"plugs into {reader.name}"
        port = self.job.port(channel.port)
        return port.name if port else "no port chosen yet"

    def _sender(self, sender: Sender, box: Box) -> None:
        channel = next(c for c in self.job.chains if c.sender == sender.id)
        self.sheet.rect(box.x, box.y, box.w, box.h, css="box")
        self.sheet.text(box.x + 10, box.y + 18, _cut(sender.id.capitalize(), 20), size=14, bold=True)
        self.sheet.text(
            box.x + 10,
            box.y + 33,
            _cut(self._place_words(channel), 22),
            size=11.5,
            fill=QUIET,
            css="quiet",
        )
        for terminal in sender.terminals:
            spot = self.at.spots.get(End("sender", sender.id, terminal))
            if spot is None:  # it plugs into its box by its maker's lead
                continue
            node = addresses.sender_node(sender.id, terminal)
            self._point(node)
            self.sheet.circle(box.x, spot.y, 4, css="box")
            self.sheet.text(box.x + 9, spot.y + 4.5, terminal, size=12.5)
            volts = self.solved.volts(node)
            if volts is not None and (End("sender", sender.id, terminal) in self.wired or terminal == "body"):
                self.sheet.text(
                    box.x + box.w - 8,
                    spot.y + 4.5,
                    f"{volts:.2f}",
                    size=12.5,
                    bold=True,
                    anchor="end",
                    mono=True,
                    fill=ACT,
                    css="act",
                )
            self._done()

    def _bodies(self) -> None:
        """One-wire senders return through their thread to the rail, along the right edge."""
        edge = self.at.width - 9
        for channel in self.job.chains:
            sender, port = self.job.sender(channel.sender), self.job.port(channel.port)
            if sender is None or sender.wires != 1 or port is None or not port.ground.grounded:
                continue
            y = self.at.spots[End("sender", sender.id, "body")].y
            self.sheet.path(
                [(self.at.sender_x + SENDER_W, y), (edge, y), (edge, self.at.rail_y)], width=4, css="ink"
            )

    def _rail(self) -> None:
        y = self.at.rail_y
        self.sheet.line(4, y, self.at.width - 4, y, width=6, css="ink")
        self.sheet.text(6, y + 24, "Ground rail", size=14, bold=True)
        x = 100.0
        for point in self.job.grounds:
            words = f"{point.id} {point.name}: {1000 * (self.solved.volts(addresses.ground_node(point.id)) or 0.0):.0f} mV"
            self._point(addresses.ground_node(point.id))
            self.sheet.text(x, y + 24, words, size=13, fill=QUIET, css="quiet")
            self._done()
            x += len(words) * 6.6 + 22
        if not self.job.grounds:
            self.sheet.text(x, y + 24, "no ground point yet", size=13, fill=QUIET, css="quiet")
        note = f"Volts to battery negative at {self.solved.state.words()}. Dashed: dead. Dot: wires joined."
        self.sheet.text(6, y + 44, note, size=12.5, fill=QUIET, css="quiet")

    # Probes

    def probed(self, red: Name, black: Name) -> SafeString | None:
        """Both probes put on, and the sheet cut to the part about them."""
        put = [(self._place(red), "R", "probe-red"), (self._place(black), "B", "probe-black")]
        if put[0][0] is None:
            return None
        places = [place for place, _, _ in put if place is not None]
        for place, letter, css in put:
            if place is not None:
                self.sheet.circle(place[0], place[1], 12, css=css)
                self.sheet.text(
                    place[0], place[1] + 5, letter, size=14, bold=True, anchor="middle", css="probe-letter"
                )
        (x0, x1), (y0, y1) = ((min(axis), max(axis)) for axis in zip(*places, strict=True))
        wide, high = PROBE_ROOM
        left, top = max(x0 - wide, 0.0), max(y0 - high, 0.0)
        self.sheet.cut(left, top, min(x1 + wide, self.at.width) - left, min(y1 + high, self.at.height) - top)
        return self.sheet.safe()

    def _place(self, node: Name) -> tuple[float, float] | None:
        """Where a point of the circuit stands on the sheet."""
        at, job = self.at, self.job
        if node == GROUND:
            return 60.0, at.rail_y
        if node == addresses.BATTERY_POSITIVE and ("battery", "positive") in at.boxes:
            box = at.boxes["battery", "positive"]
            return box.x + box.w, box.y + box.h / 2
        for tap in job.taps:
            if node == addresses.tap_node(tap.id) and ("tap", tap.id) in at.boxes:
                box = at.boxes["tap", tap.id]
                return box.x + box.w, box.y + box.h / 2
        for end, spot in at.spots.items():
            if self._node_at(end) == node:
                return spot.x, spot.y
        if any(node == addresses.ground_node(point.id) for point in job.grounds):
            return 150.0, at.rail_y
        return None

    def _node_at(self, end: End) -> Name | None:
        if end.kind == "display" and (display := self.job.display(end.id)) is not None:
            return addresses.pin_node(display, end.terminal)
        if end.kind == "sender":
            return addresses.sender_node(end.id, end.terminal)
        if end.kind == "switch":
            return addresses.switch_node(end.id, end.terminal)
        return None


def _cut(words: str, most: int) -> str:
    return words if len(words) <= most else words[: most - 1].rstrip(" ,") + "…"
