"""Places, pins, fittings, flow paths, cards and fluids in the running pages."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest

from metrolex.acts.ports import measure_path, move_pin, set_path
from metrolex.errors import BadInput
from metrolex.job import FlowPath
from metrolex.jobfile import EXAMPLES, example_job_data, job_from_data
from metrolex.ports.compare import PRESETS, weights_of
from metrolex.ports.practices import practice_of
from tests.jobs import shipped, with_facts
from workbench.jobs.door import change, import_job
from workbench.library.models import ShelfFitting
from workbench.library.services import library_of

ADAPTER = "Adapter M12x1.5 to 1/8-27 NPT"


def test_three_candidates_of_the_van_gearbox_are_compared_with_their_reason(bay, text):
    page = text(bay.get("ports/", channel="gearbox"))
    for words in (
        "Pressure test port",
        "Tee in the hot cooler line",
        "Bung in the pan",
        "Why first:",
        "comes before",
        "Where gearbox oil is read",
    ):
        assert words in page
    assert page.count('class="pin ') == 5


def test_the_verdict_follows_a_pin_and_stores_nothing(seater, text):
    pin = seater.job.chain("mixture").port
    bad = text(seater.get("ports/verdict/", channel="mixture", pin=pin, at="0.6"))
    good = text(seater.get("ports/verdict/", channel="mixture", pin=pin, at="0.9"))
    assert 'data-grade="caution"' in bad
    assert "runs too hot" in bad
    assert 'data-grade="good"' in good
    assert "beyond the end" in text(seater.get("ports/verdict/", channel="mixture", pin=pin, at="7"))
    assert "no such place" in text(seater.get("ports/verdict/", channel="mixture", pin="x", at="0.9"))
    assert seater.job.port(pin).spot.at_m == 0.6
    seater.post("ports/move/", channel="mixture", pin=pin, at="0.9")
    assert seater.job.port(pin).spot.at_m == 0.9
    assert "lambda_too_close" not in {f.code for f in _findings(seater)}


def _findings(bay):
    from metrolex.job import State
    from workbench.jobs.look import look_at

    return look_at(bay.job, State()).findings


def test_a_usual_place_becomes_the_jobs_own_when_it_is_moved_or_chosen(bay):
    bay.post("ports/move/", channel="coolant", pin="coolant hose adapter", at="1.5")
    port = bay.job.port("coolant hose adapter")
    assert (port.spot.at_m, port.spot.path, port.channel) == (1.5, "coolant", "coolant")
    bay.post("ports/place/", channel="coolant", pin="coolant hose adapter")
    assert bay.job.chain("coolant").port == "coolant hose adapter"
    assert bay.job.port("head, rear plug").channel == "coolant"
    bay.post("ports/pin/remove/", channel="coolant", pin="head, rear plug")
    assert bay.job.port("head, rear plug") is None


def test_a_place_of_ones_own(bay, text):
    bay.post("ports/pin/add/", channel="coolant", name="Heater pipe", path="coolant", at_m="1400 mm")
    port = bay.job.port("own place 1")
    assert (port.name, port.spot.at_m, port.kind) == ("Heater pipe", 1.4, "own")
    assert "Heater pipe" in text(bay.get("ports/", channel="coolant"))
    bay.post("brief/channels/remove/", channel="coolant")
    assert bay.job.port("own place 1") is None


def test_facts_are_kept_in_core_units_and_the_thread_by_its_name(bay):
    bay.post(
        "ports/facts/",
        channel="coolant",
        pin="head, rear plug",
        name="Head",
        entry="drilled",
        thread="1/8 npt",
        path="coolant",
        at_m="36 in",
        wall_mm="3/8 in",
        bore_mm="30",
        peak_degc="230 F",
        access="1",
        bias="4",
        material="aluminium",
        grounded="on",
    )
    port = bay.job.port("head, rear plug")
    assert (port.thread, port.spot.wall.wall_mm, port.spot.wall.bore_mm, port.spot.access, port.bias) == (
        "1/8-27 NPT",
        9.525,
        30.0,
        1,
        4.0,
    )
    assert port.spot.at_m == pytest.approx(0.9144)
    assert port.spot.wall.peak_degc == pytest.approx(110.0)


def test_the_offset_given_reaches_the_chain_board(bay, text):
    bay.post(
        "ports/facts/",
        channel="coolant",
        pin="head, rear plug",
        name="Head",
        entry="existing",
        bias="5",
        thread="M12x1.5",
    )
    assert "reads +5 °C" in text(bay.get(""))


def test_the_way_in_is_solved_changed_and_emptied(bay, text):
    bay.post("ports/stack/", channel="coolant", pin="head, rear plug", do="clear")
    assert bay.job.port("head, rear plug").stack == ()
    bay.post("ports/stack/", channel="coolant", pin="head, rear plug", do="best")
    assert [f.name for f in bay.job.port("head, rear plug").stack] == [ADAPTER]
    bay.post(
        "ports/stack/",
        channel="coolant",
        pin="head, rear plug",
        do="add",
        name="Port extender 1/8-27 NPT, 25 mm",
    )
    assert len(bay.job.port("head, rear plug").stack) == 2
    page = text(bay.get("ports/", channel="coolant"))
    assert "New washer; nothing on the thread." in page
    assert "Hand-tight, then 1 to 2 turns." in page
    bay.post("ports/stack/", channel="coolant", pin="head, rear plug", do="off")
    assert [f.name for f in bay.job.port("head, rear plug").stack] == [ADAPTER]


def test_an_emptied_library_says_so_and_can_be_filled_again(bay, text):
    bay.post("ports/stack/", channel="coolant", pin="head, rear plug", do="clear")
    bay.client.post("/library/fittings/generic/", {"do": "out"})
    assert library_of(bay.workshop).fittings == ()
    assert "The fittings library is empty" in text(bay.get("ports/", channel="coolant"))
    answer = bay.client.post(
        bay.path("ports/stack/"), {"channel": "coolant", "pin": "head, rear plug", "do": "best"}, follow=True
    )
    assert "There is no fitting in the library." in text(answer)
    bay.client.post("/library/fittings/generic/", {"do": "in"})
    assert len(library_of(bay.workshop).fittings) > 100


def test_the_librarys_own_fittings_stock_and_stay_in_their_workshop(bay, other_bay, text):
    form = {
        "name": "Odd adapter",
        "one": "M24x1.5 male",
        "two": "1/8 NPT",
        "length": "14 mm",
        "sort": "adapter",
        "spanner": "30",
    }
    bay.client.post("/library/fittings/add/", form)
    bay.client.post("/library/fittings/stock/", {"name": "Odd adapter", "stock": "3"})
    library = library_of(bay.workshop)
    mine = next(f for f in library.fittings if f.name == "Odd adapter")
    assert (mine.male, mine.female, mine.length_mm) == ("M24x1.5", "1/8-27 NPT", 14.0)
    assert "Odd adapter" in library.stock
    assert "Odd adapter" not in {f.name for f in library_of(other_bay.workshop).fittings}
    assert "Odd adapter" not in text(other_bay.client.get("/library/fittings/"))
    page = text(bay.client.get("/library/fittings/?q=odd"))
    assert "your own" in page
    assert "Weld bung" not in page
    bay.client.post("/library/fittings/remove/", {"name": "Odd adapter"})
    assert not ShelfFitting.objects.filter(name="Odd adapter").exists()


@pytest.mark.parametrize(
    ("change_", "words"),
    [
        ({"one": "1/8 NTP"}, "Did you mean '1/8-27 NPT'"),
        ({"two": ""}, "required"),
        ({"length": "long"}, "is not a length"),
        ({"name": ""}, "required"),
        ({"length": "-3 mm"}, "Expected 0 to 2"),
    ],
)
def test_a_fitting_that_cannot_be_meant_comes_back(change_, words, bay, text):
    form = {"name": "Odd", "one": "M24x1.5 male", "two": "1/8-27 NPT", "length": "14 mm", "sort": "adapter"}
    answer = bay.client.post("/library/fittings/add/", form | change_)
    assert answer.status_code == 422
    assert words in text(answer)
    assert not ShelfFitting.objects.exists()


@pytest.mark.parametrize(("name", "stock"), [(ADAPTER, "-1"), (ADAPTER, "many"), ("no such", "2")])
def test_stock_that_cannot_be_meant_is_refused(name, stock, bay, text):
    answer = bay.client.post("/library/fittings/stock/", {"name": name, "stock": stock}, follow=True)
    assert answer.status_code == 200
    assert "message error" in text(answer)
    assert not ShelfFitting.objects.exists()


def test_what_counts_and_the_practice_shift_the_order(bay):
    bay.post("ports/weights/", channel="gearbox", preset="truest reading")
    assert weights_of(bay.job) == PRESETS["truest reading"]
    bay.post("ports/weights/", channel="gearbox", **dict.fromkeys(PRESETS["balanced"], "1"))
    assert set(weights_of(bay.job).values()) == {1.0}
    bay.post("ports/practice/", channel="gearbox", topic="gearbox_point", practice="hot_line")
    assert practice_of(bay.job, "gearbox_point").key == "hot_line"


def test_paths_start_from_the_layout_and_keep_what_is_there(bay, text):
    change(
        bay.record,
        lambda job: replace(
            job, paths=(), ports=tuple(with_facts(p, path=None, at_m=None) for p in job.ports)
        ),
        by=None,
    )
    assert "Start the flow paths" in text(bay.get("ports/", channel="coolant"))
    bay.post("ports/paths/start/")
    kinds = [path.kind for path in bay.job.paths]
    assert sorted(kinds) == ["coolant", "engine_oil", "exhaust", "fuel", "gearbox_oil", "intake"]
    assert bay.job.port("gearbox test port").spot.at_m == pytest.approx(0.4)
    bay.post("ports/paths/start/")
    assert len(bay.job.paths) == 6


def test_a_measured_length_takes_parts_and_pins_along(bay):
    before = bay.job.path("gearbox oil")
    at = bay.job.port("gearbox test port").spot.at_m
    after = measure_path(bay.job, "gearbox oil", 2 * before.length_m)
    assert after.path("gearbox oil").first("cooler").at_m == pytest.approx(2 * before.first("cooler").at_m)
    assert after.port("gearbox test port").spot.at_m == pytest.approx(2 * at)
    assert after.path("gearbox oil").measured


def test_a_path_is_edited_as_lines_and_comes_back_the_same(bay, text):
    form = {
        "id": "fuel",
        "name": "Fuel, both tanks",
        "length_m": "8.2 m",
        "parts": "tank 0 400 mm\nlift_pump 400 mm 120 mm second pump\nrail 4300 mm 40 cm",
        "stretches": "520 mm 4300 mm plastic 1 mm 7.5 mm 80 C straight supply\n4.8 m 8.2 m - - 6 mm - bend return",
    }
    bay.post("ports/paths/save/", **form)
    path = bay.job.path("fuel")
    assert [(p.kind, p.at_m, p.length_m, p.name) for p in path.parts] == [
        ("tank", 0.0, 0.4, ""),
        ("lift_pump", 0.4, 0.12, "second pump"),
        ("rail", 4.3, 0.4, ""),
    ]
    assert (
        path.stretches[0].bore_mm,
        path.stretches[0].peak_degc,
        path.stretches[1].wall_mm,
        path.stretches[1].straight,
    ) == (7.5, 80.0, None, False)
    assert "lift_pump 400 mm 120 mm second pump" in text(bay.get("ports/paths/"))


def test_a_path_that_comes_back_to_itself_is_refused(bay):
    job = set_path(bay.job, FlowPath("a", "A", "exhaust", 1.0))
    job = set_path(job, FlowPath("b", "B", "exhaust", 1.0, into="a"))
    with pytest.raises(BadInput, match="would come back to itself"):
        set_path(job, FlowPath("a", "A", "exhaust", 1.0, into="b"))
    data = example_job_data()
    data["paths"][0]["into"] = data["paths"][0]["id"]
    with pytest.raises(BadInput, match="come back to itself"):
        job_from_data(data)


def test_no_pin_moves_on_a_path_without_a_scale(bay, text):
    bay.post("ports/paths/new/", name="Heater", kind="coolant")
    with pytest.raises(BadInput, match="no scale yet"):
        move_pin(bay.job, "coolant", "head, rear plug", 0.5, "heater")
    page = text(bay.get("ports/", channel="coolant"))
    assert "Heater, no scale: measure its length" in page
    bay.post("ports/paths/remove/", path="coolant")
    assert bay.job.port("head, rear plug").spot.path is None


def test_the_card_prints_with_its_figures(bay, seater, text):
    page = text(seater.get("ports/card/", channel="exhaust gas")).replace("\u00a0", " ")
    for words in (
        "drill and tap",
        "R (8.61 mm)",
        "4.1 mm (5/32 in), 4.4 turns",
        "mark the probe here",
        "Eye protection on",
        "Turns and torques are common practice",
        "Anti-seize",
    ):
        assert words in page, words
    pdf = seater.get("ports/card/pdf/", channel="exhaust gas")
    assert pdf["Content-Type"] == "application/pdf"
    assert pdf.content.startswith(b"%PDF")
    assert seater.get("ports/card/", channel="nothing").status_code == 404


def test_a_lambda_sensor_comes_greased_on_page_and_card(seater, text):
    for tail in ("ports/", "ports/card/"):
        page = text(seater.get(tail, channel="mixture"))
        assert "It comes greased" in page, tail
        assert "Anti-seize" not in page, tail


def test_a_wall_that_holds_no_thread_gets_no_steps(seater, text):
    port = seater.job.chain("exhaust gas").port
    seater.post(
        "ports/facts/",
        channel="exhaust gas",
        pin=port,
        name="Thin pipe",
        entry="drilled",
        thread="1/8-27 NPT",
        path="exhaust",
        at_m="250 mm",
        wall_mm="2 mm",
        material="steel",
    )
    page = text(seater.get("ports/card/", channel="exhaust gas"))
    assert "Not here" in page
    assert "Weld a bung" in page
    assert "Tap drill." not in page


def test_fluids_are_estimated_then_measured(bay, text):
    page = text(bay.get("ports/fluids/"))
    assert "Gearbox fluid" in page
    assert "Leak found in the survey" in page
    bay.post("ports/fluids/save/", fluid="gearbox fluid", lost="0.4 L", returned="300 ml", kind="ATF")
    assert (bay.job.fluids[0].lost_l, bay.job.fluids[0].returned_l) == (0.4, 0.3)
    assert "fluid_short" in {f.code for f in _findings(bay)}
    assert "0.10 L short" in text(bay.get("ports/fluids/"))


@pytest.mark.parametrize("name", EXAMPLES)
def test_every_demo_job_goes_out_as_it_came(name, bay):
    bay.record = import_job(bay.member, shipped(name))
    assert job_from_data(json.loads(bay.get("handover/job.json").content)) == shipped(name)


def test_each_demo_job_holds_a_choice_that_is_caught():
    from metrolex.job import State
    from workbench.jobs.look import look_at

    caught = {
        "van": "safety_critical_tap",
        "single_seater": "lambda_too_close",
        "sidecar": "threads_do_not_join",
        "fire_tender": "look_alike_thread",
    }
    for name, code in caught.items():
        assert code in {f.code for f in look_at(shipped(name), State()).findings}, name


def test_a_plate_of_ones_own_brings_its_rim_to_the_section(seater, text):
    form = {
        "name": "Shop plate",
        "one": "filter 20 mm male",
        "two": "1/8-27 NPT female",
        "length": "22 mm",
        "sort": "sandwich plate",
        "rim": "12 mm",
        "stream": "10 mm",
    }
    refused = seater.client.post("/library/fittings/add/", form | {"rim": "0"})
    assert refused.status_code == 422
    assert 'value="22 mm"' in text(refused)  # what was typed is kept
    assert seater.client.post("/library/fittings/add/", form).status_code == 302
    channel = seater.job.chain("engine oil")
    facts = {"channel": channel.id, "pin": channel.port}
    seater.post("ports/stack/", do="clear", **facts)
    seater.post("ports/stack/", do="add", name="Shop plate", **facts)
    plate = seater.job.port(channel.port).stack[0]
    assert (plate.name, plate.rim_mm, plate.stream_mm) == ("Shop plate", 12.0, 10.0)
    page = text(seater.get("ports/", channel=channel.id))
    assert "12 mm</text>" in page.replace("\u00a0", " ")
    assert "to stud" in page
