"""The whole job as plain frozen dataclasses.

The job file, the database mapper, the command line and the twin all share this one shape. Every part has
an ``id`` by which others refer to it, in the fitter's own words ('F22', 'gauge 2', 'W4'). A reference that
is still open is None: a job half filled in is a normal job.

Units stand in the names. Measured quantities of a channel (true values, table rows, range, warning points)
are in the channel's own ``unit``.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import (
    AnyNumber,
    Key,
    Limits,
    NonNegative,
    Note,
    Percent,
    Positive,
    Text,
    Title,
)
from metrolex.senders.curves import Curve, Point, sort_points
from metrolex.tables import load_table

__all__ = [
    "KEY_STATES",
    "LAMP_STATES",
    "PARTS",
    "PROBE_STATES",
    "Behaviour",
    "Brief",
    "Channel",
    "Circuit",
    "Conductor",
    "Display",
    "End",
    "GroundPoint",
    "Input",
    "Job",
    "Observation",
    "Override",
    "Pin",
    "Port",
    "Readings",
    "Run",
    "Scaling",
    "Segment",
    "Sender",
    "Setting",
    "Splice",
    "State",
    "Supply",
    "Tap",
    "Tolerance",
    "Vehicle",
]

KeyState = Literal["off", "acc", "run", "crank"]
LampState = Literal["off", "park", "head"]
KEY_STATES: tuple[KeyState, ...] = ("off", "acc", "run", "crank")
LAMP_STATES: tuple[LampState, ...] = ("off", "park", "head")
PROBE_STATES = ("off", "acc", "run", "crank", "park", "head")

Word = Annotated[str, Text(120)]
Volts = Annotated[float, Limits(low=-60, high=60)]
Need = Literal["constant", "accessory", "ignition", "ignition_crank", "lamps"]
Measurand = Literal[
    "coolant_temperature",
    "oil_temperature",
    "gearbox_temperature",
    "oil_pressure",
    "supply_voltage",
]


@dataclass(frozen=True, slots=True)
class State:
    """What the driver's hands have done: key, lamps, and whether the engine turns by itself."""

    key: KeyState = "run"
    lamps: LampState = "off"
    engine: Literal["stopped", "running"] = "stopped"

    @property
    def running(self) -> bool:
        """An engine runs with the key in run only."""
        return self.engine == "running" and self.key == "run"

    def words(self) -> str:
        lamps = "" if self.lamps == "off" else f", lamps {self.lamps}"
        return f"key {self.key}{lamps}{', engine running' if self.running else ''}"


@dataclass(frozen=True, slots=True)
class Vehicle:
    """The vehicle as far as the job needs it."""

    name: Title
    maker: Word = ""
    model: Word = ""
    year: Annotated[int, Limits(low=1885, high=2100)] | None = None
    engine: Word = ""
    fuel: Word = ""
    cylinders: Annotated[int, Limits(low=1, high=24)] | None = None
    induction: Word = ""
    gearbox: Word = ""
    notes: Note = ""


@dataclass(frozen=True, slots=True)
class Supply:
    """Battery, charging, starter, straps and standing loads of the vehicle.

    Loads are amperes at 12 V, taken as resistive. Defaults are typical of a light 12 V vehicle (common
    practice, no source); ``rest_v`` and the drops are there to be measured.
    """

    rest_v: Annotated[float, Limits(low=6, high=15)] = 12.6
    battery_ohm: Positive = 0.012
    charge_ohm: Positive = 0.15
    alternator_v: Annotated[float, Limits(low=6, high=16)] = 14.2
    alternator_ohm: Positive = 0.01
    starter_a: Positive = 150.0
    run_load_a: Positive = 8.0
    park_load_a: Positive = 4.0
    head_load_a: Positive = 14.0
    contact_ohm: Positive = 0.015
    negative_to_engine_ohm: Positive = 0.0006
    negative_to_body_ohm: Positive = 0.003
    engine_to_body_ohm: Positive = 0.002
    rest_tolerance_v: NonNegative = 0.2


@dataclass(frozen=True, slots=True)
class Brief:
    """What the owner wants to see and why."""

    owner: Word = ""
    wants: Note = ""
    hours_left: NonNegative | None = None
    waits_for: Word = ""


@dataclass(frozen=True, slots=True)
class Scaling:
    """What is entered in the display for one channel: table, range, digits.

    ``table`` rows are (x, shown value), x in ``x_unit``; beyond its ends the display holds the last row.
    """

    table: tuple[Point, ...] = ()
    x_unit: Literal["ohm", "volt"] = "ohm"
    decimals: Annotated[int, Limits(low=0, high=4)] = 0
    low: AnyNumber | None = None
    high: AnyNumber | None = None

    def __post_init__(self) -> None:
        if self.table:
            object.__setattr__(self, "table", sort_points(self.table, at_least=2))
            if self.x_unit == "ohm" and self.table[0][0] < 0:
                raise BadInput("table", self.table[0][0], "ohms of 0 or more")
        if self.low is not None and self.high is not None and self.low >= self.high:
            raise BadInput("high", self.high, f"above the low end, {self.low:g}")


@dataclass(frozen=True, slots=True)
class Channel:
    """One thing the driver will read."""

    id: Key
    name: Title
    measurand: Measurand
    unit: Annotated[str, Text(20, blank=False)]
    display: Key | None = None
    input: Key | None = None
    sender: Key | None = None
    port: Key | None = None
    run: Key | None = None
    true_stopped: AnyNumber | None = None
    true_running: AnyNumber | None = None
    scaling: Scaling = field(default=Scaling())
    warn_low: AnyNumber | None = None
    warn_high: AnyNumber | None = None


@dataclass(frozen=True, slots=True)
class Pin:
    """One terminal of a display. ``load_a`` is what it draws at the display's nominal volts."""

    id: Key
    name: Word
    role: Literal["memory", "ignition", "lamps", "ground", "signal", "return", "sensor_supply"]
    load_a: NonNegative = 0.0
    load_kind: Literal["resistive", "constant"] = "resistive"
    colour: Word = ""


@dataclass(frozen=True, slots=True)
class Input:
    """An input stage behind a signal pin.

    pull_up  the sender's resistance against ``pull_up_ohm`` from ``reference_v``
    volts    a voltage read across ``input_ohm``
    supply   the display's own supply, between its ignition and ground pins
    """

    id: Key
    kind: Literal["pull_up", "volts", "supply"]
    pin: Key | None = None
    pull_up_ohm: Positive | None = None
    reference_v: Positive | None = None
    adc_bits: Annotated[int, Limits(low=4, high=24)] | None = None
    input_ohm: Positive = 100_000.0
    pull_up_tolerance_pct: Percent = 1.0
    reference_tolerance_pct: Percent = 1.0

    def __post_init__(self) -> None:
        if self.kind != "supply" and self.pin is None:
            raise BadInput("pin", None, "the signal pin")
        if self.kind == "pull_up" and self.pull_up_ohm is None:
            raise BadInput("pull_up_ohm", None, "ohms above 0 for a pull-up input")
        if self.kind == "pull_up" and self.reference_v is None:
            raise BadInput("reference_v", None, "volts above 0 for a pull-up input")
        if self.adc_bits is not None and self.reference_v is None and self.kind != "supply":
            raise BadInput("reference_v", None, "volts above 0 for an input with a converter")


Reaction = Literal["dashes", "lowest", "highest", "flash"]


@dataclass(frozen=True, slots=True)
class Behaviour:
    """What the display shows when the input is not a reading.

    ``below`` and ``above`` speak of its range; 'lowest' and 'highest' hold that end of it.
    """

    open: Reaction = "dashes"
    short: Reaction = "dashes"
    below: Reaction = "lowest"
    above: Reaction = "highest"
    open_above_ratio: Annotated[float, Limits(low=0.5, high=1)] = 0.985
    short_below_ratio: Annotated[float, Limits(low=0, high=0.5)] = 0.01


@dataclass(frozen=True, slots=True)
class Display:
    """A gauge or dash: its pins, its inputs and how it behaves."""

    id: Key
    name: Title
    pins: tuple[Pin, ...] = ()
    inputs: tuple[Input, ...] = ()
    behaviour: Behaviour = field(default=Behaviour())
    nominal_v: Positive = 12.0
    min_v: Positive = 8.0
    needs_crank: bool = False
    position: Word = ""
    lead_m: NonNegative | None = None

    def pin_for(self, role: str) -> Pin | None:
        """The first pin of a role, None where the display has none."""
        return next((pin for pin in self.pins if pin.role == role), None)

    def input_called(self, key: str | None) -> Input | None:
        return next((stage for stage in self.inputs if stage.id == key), None)


@dataclass(frozen=True, slots=True)
class Tolerance:
    """How far a sender may be from its curve: in percent of x, or in y."""

    x_pct: Percent = 0.0
    y: NonNegative = 0.0


@dataclass(frozen=True, slots=True)
class Sender:
    """A sending unit. One wire: it returns through its thread; three: it is fed ``supply_v``."""

    id: Key
    name: Title
    curve: Curve
    tolerance: Tolerance = field(default=Tolerance())
    wires: Annotated[int, Limits(low=1, high=3)] = 2
    thread: Word = ""
    supply_v: Positive = 5.0
    load_a: NonNegative = 0.005
    output_ohm: Positive = 100.0
    lead_m: NonNegative | None = None

    def __post_init__(self) -> None:
        if self.wires == 3 and self.curve.x_unit != "volt":
            raise BadInput("curve", self.curve.x_unit, "a curve in volt for a three-wire sender")
        if self.wires < 3 and self.curve.x_unit != "ohm":
            raise BadInput("curve", self.curve.x_unit, "a curve in ohm for a sender of one or two wires")

    @property
    def terminals(self) -> tuple[str, ...]:
        return {1: ("signal", "body"), 2: ("signal", "return"), 3: ("signal", "return", "supply")}[self.wires]


@dataclass(frozen=True, slots=True)
class Port:
    """A place where a sender goes in. ``grounded``: metal all the way to the engine or body."""

    id: Key
    name: Title
    kind: Key
    thread: Word = ""
    way_in: Word = ""
    grounded: bool = True
    ground_at: Literal["engine", "body"] = "engine"
    thread_ohm: Positive = 0.05
    bias: AnyNumber = 0.0
    why: Note = ""


@dataclass(frozen=True, slots=True)
class Readings:
    """What the probe found in each state: volts, 'live' or 'dead' by lamp, None where not tried.

    park and head are read with the key off.
    """

    off: Volts | Literal["live", "dead"] | None = None
    acc: Volts | Literal["live", "dead"] | None = None
    run: Volts | Literal["live", "dead"] | None = None
    crank: Volts | Literal["live", "dead"] | None = None
    park: Volts | Literal["live", "dead"] | None = None
    head: Volts | Literal["live", "dead"] | None = None

    def at(self, state: str) -> float | str | None:
        value: float | str | None = getattr(self, state)
        return value


@dataclass(frozen=True, slots=True)
class Circuit:
    """A feed the fitter may tap: a fuse slot, a bare wire or the battery itself.

    ``load_a`` is what the vehicle itself draws through it at 12 V.
    """

    id: Key
    purpose: Word = ""
    kind: Literal["fuse", "wire", "battery"] = "fuse"
    panel: Word = ""
    rating_a: Positive | None = None
    form: Word = ""
    row: Annotated[int, Limits(low=1, high=40)] = 1
    column: Annotated[int, Limits(low=1, high=40)] = 1
    readings: Readings = field(default=Readings())
    fuse_pulled_dead: bool | None = None
    load_a: NonNegative = 1.0


@dataclass(frozen=True, slots=True)
class Tap:
    """Where power is taken: from which circuit, for which need, behind which added fuse."""

    id: Key
    need: Need
    circuit: Key | None = None
    fuse_a: Positive | None = None
    side: Literal["feed", "load"] = "feed"
    limit_a: Positive = 10.0
    contact_ohm: Positive = 0.004


@dataclass(frozen=True, slots=True)
class GroundPoint:
    """A bolt or stud used as ground."""

    id: Key
    name: Title
    where: Literal["body", "engine", "battery"] = "body"
    surface: Word = ""
    contact_ohm: Positive = 0.003
    shared_with: Word = ""


@dataclass(frozen=True, slots=True)
class End:
    """One end of a conductor: which part, which terminal of it."""

    kind: Literal["tap", "display", "sender", "ground", "splice", "battery", "port"]
    id: Key
    terminal: Annotated[str, Text(60)] = ""


@dataclass(frozen=True, slots=True)
class Conductor:
    """A wire. Its length is the run's unless one was measured."""

    id: Key
    a: End
    b: End
    size: Positive = 0.75
    system: Literal["mm2", "awg"] = "mm2"
    length_m: Positive | None = None
    run: Key | None = None
    colour: Word = ""
    stripe: Word = ""
    temperature_degc: Annotated[float, Limits(low=-60, high=250)] = 20.0
    joint_ohm: NonNegative = 0.002

    def __post_init__(self) -> None:
        sizes = [float(row["size"]) for row in load_table("conductors")[self.system]]
        if self.size not in sizes:
            listed = ", ".join(f"{size:g}" for size in sizes)
            raise BadInput("size", self.size, f"one of {listed} ({self.system})")


@dataclass(frozen=True, slots=True)
class Splice:
    """A joint of several wires; ``ohm`` is what each of them sees in it."""

    id: Key
    name: Word = ""
    method: Literal["crimp", "solder"] = "crimp"
    ohm: Positive = 0.001


@dataclass(frozen=True, slots=True)
class Segment:
    """A stretch of a run: its length, its hottest neighbour, whether it moves."""

    name: Word
    length_m: NonNegative
    peak_degc: Annotated[float, Limits(low=-60, high=1200)] = 60.0
    moving: bool = False


@dataclass(frozen=True, slots=True)
class Run:
    """The way of a lead through the vehicle, and the lead supplied for it."""

    id: Key
    name: Title
    segments: tuple[Segment, ...] = ()
    slack_pct: Percent = 5.0
    ends_m: NonNegative = 0.3
    supplied_m: NonNegative | None = None


@dataclass(frozen=True, slots=True)
class Setting:
    """One entry in a display's set-up menu."""

    display: Key
    name: Word
    value: Word


@dataclass(frozen=True, slots=True)
class Observation:
    """What was really seen at a test, in the test's own unit or in words."""

    id: Key
    test: Key
    state: State
    value: AnyNumber | Literal["live", "dead", "dashes", "dark", "flash"]
    note: Note = ""
    seen: Word = ""


@dataclass(frozen=True, slots=True)
class Override:
    """A stop the fitter decided to go past, with the reason in writing."""

    code: Key
    subject: Title
    reason: Annotated[str, Text(2000, blank=False)]
    by: Word = ""


@dataclass(frozen=True, slots=True)
class Job:
    """Everything known about one job."""

    name: Title
    vehicle: Vehicle
    brief: Brief = field(default=Brief())
    supply: Supply = field(default=Supply())
    channels: tuple[Channel, ...] = ()
    displays: tuple[Display, ...] = ()
    senders: tuple[Sender, ...] = ()
    ports: tuple[Port, ...] = ()
    circuits: tuple[Circuit, ...] = ()
    taps: tuple[Tap, ...] = ()
    grounds: tuple[GroundPoint, ...] = ()
    conductors: tuple[Conductor, ...] = ()
    splices: tuple[Splice, ...] = ()
    runs: tuple[Run, ...] = ()
    settings: tuple[Setting, ...] = ()
    observations: tuple[Observation, ...] = ()
    overrides: tuple[Override, ...] = ()

    def channel(self, key: str) -> Channel | None:
        return next((part for part in self.channels if part.id == key), None)

    def display(self, key: str | None) -> Display | None:
        return next((part for part in self.displays if part.id == key), None)

    def sender(self, key: str | None) -> Sender | None:
        return next((part for part in self.senders if part.id == key), None)

    def port(self, key: str | None) -> Port | None:
        return next((part for part in self.ports if part.id == key), None)

    def circuit(self, key: str | None) -> Circuit | None:
        return next((part for part in self.circuits if part.id == key), None)

    def run(self, key: str | None) -> Run | None:
        return next((part for part in self.runs if part.id == key), None)

    def input_of(self, channel: Channel) -> Input | None:
        """The input stage a channel is read by, None while it is open."""
        display = self.display(channel.display)
        return display.input_called(channel.input) if display else None

    def with_channel(self, channel: Channel) -> Job:
        """The same job with one channel in place of its namesake."""
        return replace(self, channels=tuple(channel if c.id == channel.id else c for c in self.channels))


#: The lists of a job that hold parts with an id, by field name, with their class.
PARTS: dict[str, type] = {
    "channels": Channel, "displays": Display, "senders": Sender, "ports": Port, "circuits": Circuit, "taps": Tap,
    "grounds": GroundPoint, "conductors": Conductor, "splices": Splice, "runs": Run, "observations": Observation,
}  # fmt: skip
