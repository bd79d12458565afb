"""Gauges, dashes and boxes: pins, input stages, outputs, behaviour, settings."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import AnyNumber, Key, Limits, NonNegative, Positive, Title
from metrolex.job.housing import Grip, Housing, Screen
from metrolex.job.sender import Tolerance
from metrolex.job.words import Measurand, Word
from metrolex.senders.curves import Curve

__all__ = [
    "WITHOUT_PIN",
    "Asks",
    "Behaviour",
    "Converter",
    "Display",
    "DisplayLamps",
    "DisplaySupply",
    "Drive",
    "Input",
    "InputCircuit",
    "MenuEntry",
    "Output",
    "Pin",
    "SetUp",
    "Setting",
    "TableLimits",
]


@dataclass(frozen=True, slots=True)
class Drive:
    """What works an output, what else works the load on it, and what the load does while the display is dark.

    ``works_on`` is what is measured for the warning or level that works it.
    """

    works_by: Literal["", "screen switch", "warning", "level"] = ""
    works_on: Measurand | None = None
    backed_by: Literal["", "nothing", "thermo switch", "engine control", "hand switch"] = ""
    when_dark: Literal["", "off", "on"] = ""


@dataclass(frozen=True, slots=True)
class Pin:
    """One terminal of a display. ``load_a`` is what it draws at the display's nominal volts.

    ``peak_a`` flows for ``peak_s`` after the supply comes up (a heater, a charging input); 0 where nothing more than the
    load does. A lamp input waits for ``active``; an output pulls to ground and carries ``limit_a``; ``drives_a`` is what hangs on it. ``function`` names
    what a lamp input or an output is for, by a key of functions.toml. ``passes`` is the pin of the same display whose feed a sensor supply
    passes on as it comes; '' where it has a reference of its own.
    """

    id: Key
    name: Word
    role: Literal[
        "memory",
        "ignition",
        "lamps",
        "ground",
        "signal",
        "return",
        "sensor_supply",
        "signal_out",
        "lamp_input",
        "output",
        "can_high",
        "can_low",
        "data_in",
        "data_out",
    ]
    load_a: NonNegative = 0.0
    load_kind: Literal["resistive", "constant"] = "resistive"
    colour: Word = ""
    peak_a: NonNegative = 0.0
    peak_s: NonNegative = 0.0
    function: Word = ""
    active: Literal["", "12 V", "ground"] = ""
    limit_a: Positive | None = None
    drives_a: NonNegative = 0.0
    passes: Word = ""
    drive: Drive = field(default=Drive())

    @property
    def highest_a(self) -> float:
        """The most it draws at any time."""
        return max(self.load_a, self.peak_a)


@dataclass(frozen=True, slots=True)
class InputCircuit:
    """What stands behind a signal pin: a pull-up to a reference, or a resistance to ground that volts are read across."""

    pull_up_ohm: Positive | None = None
    reference_v: Positive | None = None
    input_ohm: Positive = 100_000.0
    pull_up_tolerance_pct: Annotated[float, Limits(low=0, high=50)] = 1.0
    reference_tolerance_pct: Annotated[float, Limits(low=0, high=50)] = 1.0


@dataclass(frozen=True, slots=True)
class Converter:
    """What turns the volts into a number; ``adc_bits`` None where it is not known.

    ``ratiometric``: it counts against the very reference that feeds the pull-up or the display's sensor supply.
    ``adc_offset_lsb`` is how many steps it may be off at its zero (1: common practice, no source).
    """

    adc_bits: Annotated[int, Limits(low=4, high=24)] | None = None
    ratiometric: bool = False
    adc_offset_lsb: NonNegative = 1.0


@dataclass(frozen=True, slots=True)
class TableLimits:
    """What an input's table takes (None and 0: no limit known), and which column is entered ``first``."""

    rows: Annotated[int, Limits(low=2, high=256)] | None = None
    x_step: NonNegative = 0.0
    y_step: NonNegative = 0.0
    first: Literal["x", "y"] = "x"


@dataclass(frozen=True, slots=True)
class Input:
    """An input stage behind a signal pin.

    pull_up  the sender's resistance against ``pull_up_ohm`` from ``reference_v``
    volts    a voltage read across ``input_ohm``
    supply   the display's own supply, between its ignition and ground pins
    pulse    pulses counted against ``pull_up_ohm`` from ``reference_v``, ``limit_hz`` at most
    data     a number that arrives ready-made: a frame on a data bus, GPS, or worked out from other readings
    thermocouple  millivolts of one of type ``thermocouple_type``, its cold junction added by the input itself
    loop     the milliamperes of a current loop, through ``input_ohm``
    own_lead a sensor on its maker's own lead, plugged in: no wire of the job, and the maker's affair what goes over it

    ``cold_junction_k`` is how far a thermocouple input may be out about the temperature of its terminals (1: common practice, no source).
    """

    id: Key
    kind: Literal["pull_up", "volts", "supply", "pulse", "data", "thermocouple", "loop", "own_lead"]
    pin: Key | None = None
    circuit: InputCircuit = field(default=InputCircuit())
    converter: Converter = field(default=Converter())
    table: TableLimits = field(default=TableLimits())
    limit_hz: Positive | None = None
    thermocouple_type: Literal["K", "J", "N", "T"] | None = None
    cold_junction_k: NonNegative = 1.0

    def __post_init__(self) -> None:
        circuit = self.circuit
        if self.kind not in WITHOUT_PIN and self.pin is None:
            raise BadInput("pin", None, "the signal pin")
        if self.kind == "pull_up" and circuit.pull_up_ohm is None:
            raise BadInput("circuit.pull_up_ohm", None, "ohms above 0 for a pull-up input")
        if self.kind == "pull_up" and circuit.reference_v is None:
            raise BadInput("circuit.reference_v", None, "volts above 0 for a pull-up input")
        if self.kind == "thermocouple" and self.thermocouple_type is None:
            raise BadInput("thermocouple_type", None, "K | J | N | T for a thermocouple input")
        counts = self.converter.adc_bits is not None and self.kind not in WITHOUT_PIN
        if counts and circuit.reference_v is None:
            raise BadInput("circuit.reference_v", None, "volts above 0 for an input with a converter")


#: Kinds of input that no wire of the job ends at.
WITHOUT_PIN = frozenset({"supply", "data", "own_lead"})


@dataclass(frozen=True, slots=True)
class Output:
    """What a box gives to others, or a display that has one inside: volts, ohms or pulses at ``pin``, by ``curve``.

    ``measurand`` is what it tells; ``unready_x`` stands there until it reads: its sensor not warm yet, not plugged in, or broken; None where its maker does not say.
    ``tolerance`` is that of sensor and box together, as makers state it for a pair that belongs together.
    """

    id: Key
    pin: Key
    curve: Curve
    name: Word = ""
    measurand: Measurand | None = None
    tolerance: Tolerance = field(default=Tolerance())
    output_ohm: Positive = 100.0
    unready_x: AnyNumber | None = None

    def __post_init__(self) -> None:
        if self.curve.x_unit not in ("volt", "ohm", "hertz"):
            raise BadInput("curve", self.curve.x_unit, "a curve in volt, ohm or hertz for an output")


#: Roles of pins at which an output gives: volts, ohms or pulses; or a number over data.
DATA_OUT = ("data_out", "can_high")
OUTPUT_ROLES = ("signal_out", *DATA_OUT)

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


#: What a menu asks for; the job knows the answer to most.
Asks = Literal[
    "enabled",
    "function",
    "sender",
    "decimals",
    "low",
    "high",
    "bar_low",
    "bar_high",
    "unit",
    "warn_low",
    "warn_high",
    "delay",
    "table",
    "pulses",
    "fuel",
    "backlight",
    "note",
]


@dataclass(frozen=True, slots=True)
class MenuEntry:
    """One entry of a set-up menu, in its order: its own word for it, what it asks, once or for each input.

    ``choices`` are the words it takes (any where empty), ``digits`` how many after the point a number may have.
    """

    name: Title
    asks: Asks
    each: Literal["input", "display"] = "input"
    choices: tuple[Word, ...] = ()
    digits: Annotated[int, Limits(low=0, high=4)] | None = None
    kinds: tuple[Word, ...] = ()


@dataclass(frozen=True, slots=True)
class DisplaySupply:
    """What a display needs to live; ``rides_through_ms`` is how long it lives without volts.

    ``own_battery``: it runs on a battery inside it. ``forgets`` is what is lost without its memory volts, in words.
    """

    nominal_v: Positive = 12.0
    min_v: Positive = 8.0
    needs_crank: bool = False
    rides_through_ms: NonNegative = 0.0
    own_battery: bool = False
    forgets: Word = ""


@dataclass(frozen=True, slots=True)
class DisplayLamps:
    """``lighting`` is what its lamp wire does: 'dims' (bright until it is live), 'lights' (dark until it is live), 'follows'
    (as bright as the volts on it), 'sensor' (it looks at the light itself); '' while nobody looked it up.

    ``no_dimmer``: its maker forbids a rheostat or pulsed dimmer on that wire.
    """

    lighting: Literal["", "dims", "lights", "follows", "sensor"] = ""
    no_dimmer: bool = False


@dataclass(frozen=True, slots=True)
class SetUp:
    """When a display was set, and on which version of its program."""

    firmware: Word = ""
    set_up_on: Word = ""


@dataclass(frozen=True, slots=True)
class Display:
    """A gauge, a dash or a box: its pins, its inputs, what it gives and how it behaves. ``menu`` is its set-up menu as the workshop described it.

    ``face``: a driver reads something on it. A box has none: a controller, a converter, an amplifier, that stands between a sender and a display.
    ``buttons`` are what is pressed on it, by their names. Data comes in and is handed on by its data pins: by a pair that all share, or in a chain from
    one to the next.
    """

    id: Key
    name: Title
    pins: tuple[Pin, ...] = ()
    inputs: tuple[Input, ...] = ()
    outputs: tuple[Output, ...] = ()
    face: bool = True
    behaviour: Behaviour = field(default=Behaviour())
    supply: DisplaySupply = field(default=DisplaySupply())
    lamps: DisplayLamps = field(default=DisplayLamps())
    position: Word = ""
    lead_m: NonNegative | None = None
    can_termination: bool = False
    buttons: tuple[Word, ...] = ()
    set_up: SetUp = field(default=SetUp())
    housing: Housing = field(default=Housing())
    grip: Grip = field(default=Grip())
    screen: Screen = field(default=Screen())
    menu: tuple[MenuEntry, ...] = ()

    def pin_for(self, role: str) -> Pin | None:
        """The first pin of a role, None where the display has none."""
        return next((pin for pin in self.pins if pin.role == role), None)

    def by_data(self, output: Output | None) -> bool:
        """Whether an output gives its number ready-made over the data pins."""
        pin = self.pin_called(output.pin) if output else None
        return pin is not None and pin.role in DATA_OUT

    def input_called(self, key: str | None) -> Input | None:
        return next((stage for stage in self.inputs if stage.id == key), None)

    def output_called(self, key: str | None) -> Output | None:
        return next((output for output in self.outputs if output.id == key), None)

    def pin_called(self, key: str | None) -> Pin | None:
        return next((pin for pin in self.pins if pin.id == key), None)


@dataclass(frozen=True, slots=True)
class Setting:
    """One entry in a display's set-up menu, as it was typed in; ``done`` once it was ticked off."""

    display: Key
    name: Word
    value: Word
    done: bool = False
