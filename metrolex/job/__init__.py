"""The whole job as plain frozen dataclasses.

The job file, the database mapper, the command line and the twin all share this one shape. Every part has
an ``id`` by which others refer to it, in the fitter's own words ('F22', 'gauge 2', 'W4'). A reference that
is still open is None: a job half filled in is a normal job.

Units stand in the names. Measured quantities of a channel (true values, table rows, range, warning points)
are in the channel's own ``unit``.
"""

from metrolex.job.brief import Alternative, Brief, Choice, Weight
from metrolex.job.bus import Antenna, Bus, BusSignal
from metrolex.job.chain import EngineCount, MeasuringChain, RoadCount
from metrolex.job.channel import Channel
from metrolex.job.closing import Closing
from metrolex.job.connector import Cavity, Connector
from metrolex.job.counting import OldSetting, ShiftPlan, SpeedRun, TaughtGear
from metrolex.job.display import (
    Behaviour,
    Converter,
    Display,
    DisplayLamps,
    DisplaySupply,
    Drive,
    Input,
    InputCircuit,
    MenuEntry,
    Output,
    Pin,
    Setting,
    SetUp,
    TableLimits,
)
from metrolex.job.electrics import Electrics, Straps, VehicleState
from metrolex.job.feed import Circuit, Feeds, GroundPoint, Panel, Readings, Slot, Tap, Whereabouts
from metrolex.job.housing import FACES, FaceKind, Grip, Housing, Screen
from metrolex.job.kit import FluidRecord, KitItem
from metrolex.job.later import Later
from metrolex.job.mounting import (
    RANKS,
    Eye,
    Fixture,
    Glass,
    Mounting,
    PanelHole,
    Rank,
    Site,
    SiteKind,
    Steering,
)
from metrolex.job.page import Face, Page, PageUse
from metrolex.job.place import FlowPath, PathPart, Port, PortGround, Spot, Stretch, Tread, Wall
from metrolex.job.plan import Way, Zone
from metrolex.job.points import TruePoint
from metrolex.job.readout import AlarmBehaviour, AlarmLevels, Readout, Scaling
from metrolex.job.record import BATTERY_POSTS, Checked, CheckRef, LeftOut, Observation, TestRef, Waiver
from metrolex.job.sender import Measured, Reader, Sender, SenderBody, SenderOutput, Tolerance
from metrolex.job.source import Source, SourceKind
from metrolex.job.survey import ClusterItem, FactoryReading, Survey
from metrolex.job.switch import Switch
from metrolex.job.tank import Filling, Tank
from metrolex.job.vehicle import Identity, Vehicle
from metrolex.job.whole import LISTS, PARTS, Job
from metrolex.job.wiring import Beside, Conductor, End, Opening, Plug, Run, Segment, Sheath, Splice, WireLook
from metrolex.job.words import (
    ENGINE_WORDS,
    KEY_STATES,
    LAMP_STATES,
    POINT_HEADS,
    PROBE_STATES,
    RUNNING_POINTS,
    EnginePoint,
    KeyState,
    LampState,
    Measurand,
    Need,
    State,
)
from metrolex.job.work import PLACES_OF_WORK, AlteredStep, OwnStep, Worked, WorkHours

__all__ = [
    "BATTERY_POSTS",
    "ENGINE_WORDS",
    "FACES",
    "KEY_STATES",
    "LAMP_STATES",
    "LISTS",
    "PARTS",
    "PLACES_OF_WORK",
    "POINT_HEADS",
    "PROBE_STATES",
    "RANKS",
    "RUNNING_POINTS",
    "AlarmBehaviour",
    "AlarmLevels",
    "AlteredStep",
    "Alternative",
    "Antenna",
    "Behaviour",
    "Beside",
    "Brief",
    "Bus",
    "BusSignal",
    "Cavity",
    "Channel",
    "CheckRef",
    "Checked",
    "Choice",
    "Circuit",
    "Closing",
    "ClusterItem",
    "Conductor",
    "Connector",
    "Converter",
    "Display",
    "DisplayLamps",
    "DisplaySupply",
    "Drive",
    "Electrics",
    "End",
    "EngineCount",
    "EnginePoint",
    "Eye",
    "Face",
    "FaceKind",
    "FactoryReading",
    "Feeds",
    "Filling",
    "Fixture",
    "FlowPath",
    "FluidRecord",
    "Glass",
    "Grip",
    "GroundPoint",
    "Housing",
    "Identity",
    "Input",
    "InputCircuit",
    "Job",
    "KeyState",
    "KitItem",
    "LampState",
    "Later",
    "LeftOut",
    "Measurand",
    "Measured",
    "MeasuringChain",
    "MenuEntry",
    "Mounting",
    "Need",
    "Observation",
    "OldSetting",
    "Opening",
    "Output",
    "OwnStep",
    "Page",
    "PageUse",
    "Panel",
    "PanelHole",
    "PathPart",
    "Pin",
    "Plug",
    "Port",
    "PortGround",
    "Rank",
    "Reader",
    "Readings",
    "Readout",
    "RoadCount",
    "Run",
    "Scaling",
    "Screen",
    "Segment",
    "Sender",
    "SenderBody",
    "SenderOutput",
    "SetUp",
    "Setting",
    "Sheath",
    "ShiftPlan",
    "Site",
    "SiteKind",
    "Slot",
    "Source",
    "SourceKind",
    "SpeedRun",
    "Splice",
    "Spot",
    "State",
    "Steering",
    "Straps",
    "Stretch",
    "Survey",
    "Switch",
    "TableLimits",
    "Tank",
    "Tap",
    "TaughtGear",
    "TestRef",
    "Tolerance",
    "Tread",
    "TruePoint",
    "Vehicle",
    "VehicleState",
    "Waiver",
    "Wall",
    "Way",
    "Weight",
    "Whereabouts",
    "WireLook",
    "WorkHours",
    "Worked",
    "Zone",
]
