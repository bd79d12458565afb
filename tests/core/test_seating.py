"""Which channel is read at which input: what takes a sender, what rides on pulses, wires that go along."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.errors import BadInput
from metrolex.job import Channel, Conductor, End, Job, Vehicle
from metrolex.kit import display_kit, sender_kit
from metrolex.scaling.seating import inputs_for, read_at, seated

LOW_TIME = "fuel temperature, low time of the content sensor's pulses"
CONTENT = "content sensor, 50 to 150 Hz"
DASH = "dash, nine sensor inputs and data"


def job_with(*displays, **seats):
    """Channels by id: (measurand, display, input, sender kit)."""
    channels, senders = [], []
    for key, (measurand, unit, display, stage, kit) in seats.items():
        if kit:
            senders.append(sender_kit(kit, f"{key} sender"))
        channels.append(Channel(key, key, measurand, unit, display, stage, f"{key} sender" if kit else None))
    return Job("x", Vehicle("v"), channels=tuple(channels), displays=displays, senders=tuple(senders))


def gauge(key, name="round gauge, volts in"):
    return display_kit(name, key, key.title()).display


def dash():
    return display_kit(DASH, "dash", "Dash").display


def place(job, key):
    channel = job.channel(key)
    return channel.display, channel.input


def test_a_free_input_that_takes_the_sender_is_found_on_the_dash():
    job = job_with(dash(), content=("ethanol_content", "pct", "dash", "D", CONTENT), speed=("road_speed", "km/h", "dash", "P1", None))  # fmt: skip
    assert place(seated(job, "content"), "content") == ("dash", "P2")
    after = seated(job, "content")
    assert after.channel("content").scaling.x_unit == "hertz"  # the table to come is in what the sender gives
    assert seated(after, "content") == after


def test_a_gauge_of_its_own_becomes_one_that_takes_the_sender_unless_it_is_wired():
    job = job_with(gauge("gauge 1"), content=("ethanol_content", "pct", "gauge 1", "A", CONTENT))
    after = seated(job, "content")
    assert after.input_of(after.channel("content")).kind == "pulse"
    assert (after.display("gauge 1").id, after.display("gauge 1").name) == ("gauge 1", "Gauge 1")
    wire = Conductor("W1", End("display", "gauge 1", "4"), End("ground", "g"), 0.5, length_m=1.0)
    wired = replace(job, conductors=(wire,))
    assert seated(wired, "content").displays == wired.displays


def test_another_channels_gauge_is_never_taken():
    pulses = gauge("gauge 2", "round gauge, pulses in")
    job = job_with(gauge("gauge 1"), pulses, content=("ethanol_content", "pct", "gauge 1", "A", CONTENT))
    assert place(seated(job, "content"), "content") == ("gauge 1", "A")


@pytest.mark.parametrize("first", ["content", "warm"])
def test_what_rides_joins_its_carrier_whichever_was_chosen_first(first):
    job = job_with(
        gauge("gauge 1"), gauge("gauge 2", "round gauge, pulses in"),
        content=("ethanol_content", "pct", "gauge 1", "A", CONTENT), warm=("fuel_temperature", "degC", "gauge 2", "A", LOW_TIME),
    )  # fmt: skip
    for key in (first, "warm" if first == "content" else "content"):
        job = seated(job, key)
    assert place(job, "warm") == place(job, "content") == ("gauge 1", "A")
    assert job.input_of(job.channel("warm")).kind == "pulse"
    assert [d.id for d in job.displays] == ["gauge 1"]  # the one left over goes


def test_a_channel_without_a_sender_stays():
    job = job_with(gauge("gauge 1"), warm=("fuel_temperature", "degC", "gauge 1", "A", None))
    assert seated(job, "warm") == job == seated(job, "nobody")


def test_moving_takes_the_senders_own_wires_and_leaves_the_others():
    job = job_with(dash(), oil=("oil_temperature", "degC", "dash", "A", "NTC, two wires, 1/8-27 NPT"))
    own = Conductor(
        "W1", End("sender", "oil sender", "signal"), End("display", "dash", "5"), 0.5, length_m=1.0
    )
    other = Conductor("W2", End("splice", "S1"), End("display", "dash", "5"), 0.5, length_m=1.0)
    moved = read_at(replace(job, conductors=(own, other)), "oil", "dash", "B")
    pin = job.display("dash").input_called("B").pin
    assert [wire.b.terminal for wire in moved.conductors] == [pin, "5"]


@pytest.mark.parametrize(("channel", "display", "stage"), [("oil", "dash", "D"), ("oil", "dash", "Z"), ("oil", "shed", "A"), ("nobody", "dash", "A")])  # fmt: skip
def test_what_is_taken_or_not_there_is_refused(channel, display, stage):
    job = job_with(
        dash(),
        oil=("oil_temperature", "degC", "dash", "A", None),
        mix=("lambda", "lambda", "dash", "D", None),
    )
    with pytest.raises(BadInput):
        read_at(job, channel, display, stage)
    offered = {i.id for _, i in inputs_for(job, job.channel("oil"))}
    assert "A" in offered
    assert "D" not in offered
