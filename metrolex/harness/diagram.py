"""Where everything stands on the wiring diagram: feeds and plugs left, displays in the middle, senders right, ground rail below.

Wires joined by splices are one net with one upright in the channel it runs in. Uprights that overlap get tracks of their own
(the left-edge rule of channel routing), so that no wire lies on another and none crosses a symbol.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from metrolex.job import Conductor, Display, End, Job, Pin, Switch
from metrolex.topology import BATTERY_POSITIVE, topology_of

__all__ = ["Box", "Layout", "Net", "Spot", "lay_out", "left_pins", "right_pins"]

TOP = 16.0
PIN_H, HEAD_H, GAP = 22.0, 44.0, 24.0
BOX_W, DISPLAY_W, SENDER_W = 150.0, 252.0, 160.0
STUB = 104.0  # from a box to the first upright: room for the wire's label
TRACK = 10.0
NUDGE = 4.0
SENDER_SIDE = ("signal", "return", "sensor_supply", "signal_out")
NEAR = 7.0  # terminals of one channel keep this much between them, so that level wires do not meet


@dataclass(frozen=True, slots=True)
class Spot:
    """Where a terminal stands, and the channel its wire leaves into."""

    x: float
    y: float
    side: str


@dataclass(frozen=True, slots=True)
class Box:
    """A symbol: its corner and size."""

    x: float
    y: float
    w: float
    h: float


@dataclass(slots=True)
class Net:
    """Wires joined by splices. ``left_x`` and ``right_x`` are its uprights, ``lane_y`` the level line that joins them."""

    wires: list[Conductor]
    ends: list[tuple[Conductor, End]] = field(default_factory=list)
    splices: list[str] = field(default_factory=list)
    grounded: bool = False
    left_x: float | None = None
    right_x: float | None = None
    lane_y: float | None = None
    left_span: tuple[float, float] = (0.0, 0.0)
    right_span: tuple[float, float] = (0.0, 0.0)


@dataclass(slots=True)
class Layout:
    """The sheet: its size, the boxes by (kind, id), the terminals by end, the nets."""

    width: float = 0.0
    height: float = 0.0
    rail_y: float = 0.0
    display_x: float = 0.0
    sender_x: float = 0.0
    boxes: dict[tuple[str, str], Box] = field(default_factory=dict)
    spots: dict[End, Spot] = field(default_factory=dict)
    nets: list[Net] = field(default_factory=list)


def left_pins(display: Display) -> list[Pin]:
    """Pins that face the feeds."""
    return [pin for pin in display.pins if pin.role not in SENDER_SIDE]


def right_pins(display: Display) -> list[Pin]:
    """Pins that face the senders."""
    return [pin for pin in display.pins if pin.role in SENDER_SIDE]


def lay_out(job: Job) -> Layout:
    """Place everything, then give every net its tracks."""
    sheet = Layout()
    bottom = _place(job, sheet, 0.0, 0.0)
    nets = [_net(job, sheet, wires) for wires in [list(net.wires) for net in topology_of(job).nets]]
    nets = [net for net in nets if len(net.ends) + net.grounded >= 2]
    lanes = [net for net in nets if _crosses(sheet, net)]
    sheet.rail_y = bottom + 12 + TRACK * (len(lanes) + 1)
    for i, net in enumerate(lanes):
        net.lane_y = bottom + 10 + TRACK * i
    left_tracks = _tracks(sheet, nets, "left")
    right_tracks = _tracks(sheet, nets, "right")
    left_w = STUB + TRACK * (left_tracks + 1) + 8
    right_w = STUB + TRACK * (right_tracks + 1) + 8
    _place(job, sheet, left_w, right_w)  # now that the channels know how wide they are
    for net in nets:
        if net.left_x is not None:
            net.left_x = BOX_W + 8 + STUB + TRACK * net.left_x
        if net.right_x is not None:
            net.right_x = sheet.display_x + DISPLAY_W + 14 + TRACK * net.right_x
    sheet.nets = nets
    sheet.width = sheet.sender_x + SENDER_W + 22
    sheet.height = sheet.rail_y + 58
    return sheet


def _place(job: Job, sheet: Layout, left_w: float, right_w: float) -> float:
    sheet.boxes.clear()
    sheet.spots.clear()
    sheet.display_x = BOX_W + 8 + left_w
    sheet.sender_x = sheet.display_x + DISPLAY_W + right_w
    y = TOP
    for display in job.displays:
        rows = max(len(left_pins(display)), len(right_pins(display)), 1)
        sheet.boxes["display", display.id] = Box(sheet.display_x, y, DISPLAY_W, HEAD_H + rows * PIN_H + 4)
        for pins, x, side in (
            (left_pins(display), sheet.display_x, "left"),
            (right_pins(display), sheet.display_x + DISPLAY_W, "right"),
        ):
            for i, pin in enumerate(pins):
                sheet.spots[End("display", display.id, pin.id)] = Spot(x, y + HEAD_H + i * PIN_H + 8, side)
        y += HEAD_H + rows * PIN_H + 4 + GAP
    bottom = y
    return max(bottom, _place_left(job, sheet), _place_senders(job, sheet))


def _taken(sheet: Layout, side: str) -> list[float]:
    return [spot.y for spot in sheet.spots.values() if spot.side == side]


def _free(ys: Iterable[float], offsets: list[float], start: float) -> float:
    """The first place at or below ``start`` where none of the offsets comes near one of ``ys``."""
    taken = sorted(ys)
    y = start
    for _ in range(400):
        if all(abs(y + offset - other) >= NEAR for offset in offsets for other in taken):
            return y
        y += NUDGE
    return y


def _place_left(job: Job, sheet: Layout) -> float:
    y = TOP
    for tap in job.taps:
        if tap.circuit:
            y = _free(_taken(sheet, "left"), [24.0], y)
            sheet.boxes["tap", tap.id] = Box(4, y, BOX_W, 48)
            sheet.spots[End("tap", tap.id)] = Spot(BOX_W + 4, y + 24, "left")
            y += 48 + 20
    for plug in job.connectors:
        used = [c for c in plug.cavities if topology_of(job).wired(End("plug", plug.id, c.pin))]
        if not used:
            continue
        y = _free(_taken(sheet, "left"), [HEAD_H + i * PIN_H + 8 for i in range(len(used))], y)
        sheet.boxes["plug", plug.id] = Box(4, y, BOX_W, HEAD_H + len(used) * PIN_H + 4)
        for i, cavity in enumerate(used):
            sheet.spots[End("plug", plug.id, cavity.pin)] = Spot(
                BOX_W + 4, y + HEAD_H + i * PIN_H + 8, "left"
            )
        y += HEAD_H + len(used) * PIN_H + 4 + 18
    for switch in job.switches:
        if not switch.channels:
            y = _place_switch(sheet, switch, y, BOX_W + 4, 4, BOX_W, "left")
    if topology_of(job).wired(BATTERY_POSITIVE):
        y = _free(_taken(sheet, "left"), [24.0], y)
        sheet.boxes["battery", "positive"] = Box(4, y, BOX_W, 48)
        sheet.spots[End("battery", "positive")] = Spot(BOX_W + 4, y + 24, "left")
        y += 48 + 20
    return y


def _place_senders(job: Job, sheet: Layout) -> float:
    y = TOP
    order = {display.id: i for i, display in enumerate(job.displays)}
    done: set[str] = set()
    for channel in sorted(job.measured, key=lambda c: order.get(c.display or "", 99)):
        sender = job.sender(channel.sender)
        if sender is None or sender.id in done:
            continue
        done.add(sender.id)
        reader, stage = job.sender_wired_to(channel)
        leads = [] if stage and stage.kind == "own_lead" else list(sender.terminals)
        display = sheet.boxes.get(("display", reader.id if reader else ""))
        start = max(y, display.y if display else y)
        y = _free(_taken(sheet, "right"), [HEAD_H + i * PIN_H + 8 for i in range(len(leads))], start)
        height = HEAD_H + len(leads) * PIN_H + 4
        sheet.boxes["sender", sender.id] = Box(sheet.sender_x, y, SENDER_W, height)
        for i, terminal in enumerate(leads):
            sheet.spots[End("sender", sender.id, terminal)] = Spot(
                sheet.sender_x, y + HEAD_H + i * PIN_H + 8, "right"
            )
        if channel.port and sender.wires == 1:
            sheet.spots[End("port", channel.port)] = sheet.spots[End("sender", sender.id, "body")]
        y += height + 14
    for switch in job.switches:
        if switch.channels:
            y = _place_switch(sheet, switch, y, sheet.sender_x, sheet.sender_x, SENDER_W, "right")
    return y


def _place_switch(
    sheet: Layout, switch: Switch, y: float, spot_x: float, x: float, width: float, side: str
) -> float:
    """A switch with its terminals one below the other; returns where the next symbol may begin."""
    offsets = [HEAD_H + i * PIN_H + 8 for i in range(len(switch.terminals))]
    y = _free(_taken(sheet, side), offsets, y)
    sheet.boxes["switch", switch.id] = Box(x, y, width, HEAD_H + len(offsets) * PIN_H + 4)
    for terminal, offset in zip(switch.terminals, offsets, strict=True):
        sheet.spots[End("switch", switch.id, terminal)] = Spot(spot_x, y + offset, side)
    return y + HEAD_H + len(offsets) * PIN_H + 4 + 18


def _net(job: Job, sheet: Layout, wires: list[Conductor]) -> Net:
    net = Net(wires)
    for wire in wires:
        for end in (wire.a, wire.b):
            plain = End(end.kind, end.id, "" if end.kind in ("tap", "port") else end.terminal)
            if end.kind == "splice":
                if end.id not in net.splices:
                    net.splices.append(end.id)
            elif end.kind == "ground" or end == End("battery", "negative"):
                net.grounded = True
            elif plain in sheet.spots:
                net.ends.append((wire, plain))
    return net


def _crosses(sheet: Layout, net: Net) -> bool:
    return len({sheet.spots[end].side for _, end in net.ends}) > 1


def _tracks(sheet: Layout, nets: list[Net], side: str) -> int:
    """Give every net its upright in one channel, as a track number; returns how many tracks there are."""
    spans = []
    for net in nets:
        ys = [sheet.spots[end].y for _, end in net.ends if sheet.spots[end].side == side]
        if not ys:
            continue
        if net.lane_y is not None:
            ys.append(net.lane_y)
        if net.grounded and (side == "left" or net.lane_y is None):
            ys.append(sheet.rail_y)
        spans.append((min(ys), max(ys), net))
    free_from: list[float] = []
    for low, high, net in sorted(spans, key=lambda span: (span[0], -span[1])):
        track = next((i for i, end in enumerate(free_from) if end + NEAR < low), None)
        if track is None:
            track = len(free_from)
            free_from.append(high)
        else:
            free_from[track] = high
        if side == "left":
            net.left_x, net.left_span = float(track), (low, high)
        else:
            net.right_x, net.right_span = float(track), (low, high)
    return len(free_from)
