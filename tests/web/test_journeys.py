"""Each thing that can be shown, from nothing to a proved chain, through the pages as a fitter would: on a round gauge and on a dash."""

from __future__ import annotations

import re

import pytest

from metrolex.check import chain_board, find_all
from metrolex.job import State
from metrolex.kit import measurands
from metrolex.ports.compare import candidates_for
from metrolex.senders import y_range
from metrolex.topology import topology_of
from metrolex.twin import build, expect, solve
from tests.attack.how_much import ALL
from tests.web.forms_of import read_page
from workbench.jobs.models import JobRecord

#: Probe readings of a panel, circuit by circuit: key off, accessory, run, crank, park lamps, headlamps.
PANEL = {
    "F1": ("Clock", (12.6, 12.6, 12.5, 10.7, 12.6, 12.5)),
    "F2": ("Windows", (0, 0, 12.4, 10.5, 0, 0)),
    "F3": ("Parking lamps", (0, 0, 0, 0, 12.4, 12.3)),
}
RIDES = {"fuel_temperature": "ethanol_content"}  # read off what another sends
PULSES = {
    "road_speed": {
        "sensed": "wheel",
        "pulses_per_rev": "4",
        "enters": "pulses_per_km",
        "final": "4.1",
        "tyre": "205/70 R15",
        "setting": "2000",
    },
    "engine_speed": {"pickup": "coil_negative", "cylinders": "4", "strokes": "4", "setting": "2"},
}
#: What no box stands before.
NO_BOX = {
    "road_speed": "a pick-up counted by the display",
    "engine_speed": "a pick-up counted by the display",
    "supply_voltage": "the display reads its own supply",
    "fuel_temperature": "it is on a box already, or rides on pulses",
}
RUNNING = State("run", "off", "running")


def started(bay, measurand: str, display: str) -> None:
    wanted = [RIDES[measurand], measurand] if measurand in RIDES else [measurand]
    made = bay.client.post(
        "/jobs/new/", {"name": "Journey", "vehicle": "Demo tractor", "channels": wanted, "display": display}
    )
    assert made.status_code == 302, made.content.decode()[:400]
    bay.record = JobRecord.objects.get(pk=int(made.url.split("/")[2]))


def places_and_senders(bay) -> None:
    for chain in bay.job.chains:
        kits = re.findall(r'name="kit" value="([^"]+)"', bay.get("ports/", channel=chain.id).content.decode())
        if kits:
            assert (
                bay.post("ports/sender/", channel=chain.id, kit=kits[0].replace("&amp;", "&")).status_code
                == 302
            )
        now = bay.job.chain(chain.id)
        sender = bay.job.sender(now.sender)
        if (sender is None and chain.measurand not in PULSES) or (sender is not None and sender.rides):
            continue
        places = [c for c in candidates_for(bay.job, now) if not any(f.grade == "stop" for f in c.findings)]
        if places:
            pin = places[0].port.id
            assert bay.post("ports/place/", channel=chain.id, pin=pin).status_code == 302
            bay.post("ports/stack/", channel=chain.id, pin=pin, do="best")


def feeds_and_grounds(bay) -> None:
    for key, (purpose, volts) in PANEL.items():
        bay.post(
            "feeds/circuit/",
            id=key,
            purpose=purpose,
            kind="fuse",
            form="mini",
            rating_a="10",
            row="1",
            column=key[1],
        )
        for state, value in zip(("off", "acc", "run", "crank", "park", "head"), volts, strict=True):
            bay.post("feeds/probe/", htmx=True, circuit=key, state=state, reading=str(value))
        bay.post("feeds/prove/", htmx=True, circuit=key, proved="yes")
    bay.post("feeds/probe/", htmx=True, circuit="F1", state="later", reading="12.5")
    for need, circuit in (("constant", "F1"), ("ignition_crank", "F2"), ("lamps", "F3")):
        assert bay.post("feeds/tap/", need=need, circuit=circuit).status_code == 302
    bay.post("feeds/grounds/save/", name="Frame lug", where="body", contact_ohm="2 mohm", reads_v="12.6")


def wires_and_lengths(bay) -> None:
    assert bay.post("harness/lay/").status_code == 302
    for run in bay.job.runs:
        segments = {
            "segments-TOTAL_FORMS": "1",
            "segments-INITIAL_FORMS": "0",
            "segments-0-name": "the way",
            "segments-0-length_m": "1.4 m",
            "segments-0-peak_degc": "60",
        }
        answer = bay.post(
            "harness/run/", run=run.id, name=run.name, slack_pct="5", ends_m="30 cm", **segments
        )
        assert answer.status_code == 302
    missing = [w.id for w in bay.job.conductors if w.id not in topology_of(bay.job).lengths_m]
    for key in missing:
        page = bay.client.get(bay.path("harness/wire/form/"), {"wire": key}).content.decode()
        form = next(f for f in read_page(page)[0] if f.action.endswith("harness/wire/"))
        data = {name: values[-1] for name, values in form.fields.items()}
        assert bay.post("harness/wire/", **(data | {"length_m": "1.2 m"})).status_code == 302


def described(bay, chain) -> None:
    """A box from nothing: pins, an input that takes the channel's sender, an output in volts; then the channel is read by it."""
    sender = bay.job.sender(chain.sender)
    bay.post("displays/add/", like="", name=f"{chain.name} module")
    key = bay.job.displays[-1].id
    bay.post("displays/save/", display=key, name=f"{chain.name} module", min_v="8 V", lead_m="0.6 m")
    roles = ["ignition", "ground", "signal", "return", "signal_out"] + ["sensor_supply"] * (sender.wires == 3)
    for number, role in enumerate(roles, 1):
        pin = {"display": key, "pin": "", "number": number, "role": role, "load_kind": "resistive"}
        assert (
            bay.post("displays/pin/", **pin, load_a="50 mA" if role == "ignition" else "").status_code == 302
        )
    stage = {
        "display": key,
        "called": "A",
        "kind": {"ohm": "pull_up", "volt": "volts", "hertz": "pulse"}[sender.curve.x_unit],
        "pin": "3",
        "pull_up": "" if sender.curve.x_unit == "volt" else "1 kohm",
        "reference": "5",
        "input_ohm": "100 kohm",
        "first": "x",
        "thermocouple_type": "",
        "ratiometric": "on" if sender.curve.x_unit == "volt" else "",
    }
    assert bay.post("displays/input/", **stage).status_code == 302
    low, high = y_range(sender.curve)
    law = {
        "display": key,
        "output": "",
        "called": "out",
        "measurand": chain.measurand,
        "pin": "5",
        "gives": "volt",
        "points": f"0.5 {low:g}\n4.5 {high:g}",
    }
    assert bay.post("displays/output/", **law).status_code == 302
    routed = bay.post("displays/read-by/", display=key, channel=chain.id, box_input="A", output="out")
    assert routed.status_code == 302
    assert bay.job.chain(chain.id).box == key


def by_boxes(bay) -> None:
    for chain in bay.job.chains:
        sender = bay.job.sender(chain.sender)
        if chain.box is None and sender is not None and not sender.rides:
            described(bay, chain)


def scaled(bay) -> None:
    for chain in bay.job.chains:
        if chain.measurand in PULSES:
            page = bay.get("scaling/", channel=chain.id).content.decode()
            form = next(f for f in read_page(page)[0] if f.action.endswith("scaling/bench/"))
            data = {name: values[-1] for name, values in form.fields.items()} | PULSES[chain.measurand]
            answer = bay.post("scaling/bench/", **data)
            assert answer.status_code == 302, re.findall(
                r'class="field-error[^>]*>([^<]*)', answer.content.decode()
            )
            continue
        if bay.job.heard(chain) is not None and chain.measurand != "gear":
            bay.post("scaling/rows/", channel=chain.id, count="8")
        if chain.measurand == "gear":
            taught = "\n".join(f"{gear} {0.5 + 4 * gear / 6:.3f}" for gear in range(7))
            assert bay.post("scaling/bench/", channel=chain.id, taught=taught).status_code == 302


def proved(bay) -> None:
    """Every test once: with the key off, and at the warm idle."""
    network = build(bay.job)
    for state in (State("off"), RUNNING):
        for test in expect(network, state):
            if test.value is None and test.word not in ("dark", "--", "- -"):
                continue
            seen = (
                f"{test.value:.6g}"
                if test.value is not None
                else {"--": "dashes", "- -": "flash"}.get(test.word, "dark")
            )
            answer = bay.post(
                "proving/seen/",
                test=test.point.test.key,
                key=state.key,
                lamps=state.lamps,
                engine=state.engine,
                found=seen,
            )
            assert answer.status_code == 302


def journeys() -> list[tuple[str, str]]:
    """Each thing in one of its ways, by turns, in every run; each in all its ways when the whole attack was asked for."""
    of_each = [
        [(facts.id, way) for way in ("gauges", "dash", "box") if way != "box" or facts.id not in NO_BOX]
        for facts in measurands()
    ]
    return (
        [journey for ways in of_each for journey in ways]
        if ALL
        else [ways[turn % len(ways)] for turn, ways in enumerate(of_each)]
    )


@pytest.mark.parametrize(("measurand", "way"), journeys())
def test_from_nothing_to_a_proved_chain(bay, measurand, way):
    started(bay, measurand, "dash" if way == "dash" else "gauges")
    places_and_senders(bay)
    if way == "box":
        by_boxes(bay)
    scaled(bay)
    feeds_and_grounds(bay)
    wires_and_lengths(bay)
    proved(bay)
    job = bay.job
    solved = solve(build(job), RUNNING)
    found = find_all(build(job), solved)
    assert not [(f.code, f.subject, f.reason) for f in found if f.grade == "stop"]
    for row in chain_board(build(job), solved, found):
        open_cells = {cell.link: (cell.fact, cell.detail) for cell in row.cells if cell.state == "open"}
        assert not open_cells, row.channel.name
        assert row.shown.state == "reading", (row.shown.text, row.shown.reason)
        assert row.cell("proof").state == "proved"
    for page in (
        "",
        "ports/",
        "feeds/",
        "harness/",
        "harness/diagram/",
        "scaling/",
        "proving/",
        "handover/book/",
    ):
        assert bay.get(page).status_code == 200
