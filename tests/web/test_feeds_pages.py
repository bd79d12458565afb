"""Panels, taps as fitted, grounds, backlight, by the pages."""

from __future__ import annotations

import pytest

from metrolex.job import GroundPoint
from tests.web.forms_of import read_page


def test_a_panel_is_added_changed_and_taken_off(bay, text):
    bay.post("feeds/panel/", name="Behind the seat", lid_mm="35 mm", pitch_mm="0.5 in")
    panel = bay.job.panels[-1]
    assert (panel.name, panel.lid_mm, round(panel.pitch_mm, 1)) == ("Behind the seat", 35.0, 12.7)
    assert "No slot yet" in text(bay.get("feeds/"))
    bay.post("feeds/panel/", panel=panel.id, name="Under the seat", lid_mm="", pitch_mm="")
    assert (bay.job.panels[-1].name, bay.job.panels[-1].lid_mm) == ("Under the seat", None)
    bay.post("feeds/panel/remove/", panel=panel.id)
    assert bay.job.panel(panel.id) is None
    bay.post("feeds/panel/remove/", panel=bay.job.panels[0].id)  # it has slots
    assert bay.job.panels[0]


def test_a_panel_is_laid_out_from_lines(bay, text):
    bay.post("feeds/panel/", name="Behind the seat", lid_mm="", pitch_mm="")
    panel = bay.job.panels[-1].id
    bay.post("feeds/panel/slots/", panel=panel, lines="R1 10 Radio\nR2 7,5 Horn\n\nR3 -")
    laid = [
        (c.id, c.rating_a, c.purpose, c.slot.row, c.slot.column)
        for c in bay.job.circuits
        if c.slot.panel == panel
    ]
    assert laid == [("R1", 10.0, "Radio", 1, 1), ("R2", 7.5, "Horn", 1, 2), ("R3", None, "", 2, 1)]
    assert "Fuse panel Behind the seat, 3 slots" in bay.get("feeds/").content.decode()
    bay.post("feeds/panel/slots/", panel=panel, rows="2", in_row="3", first="S1")
    assert [c.slot.row for c in bay.job.circuits if c.id in ("S1", "S3", "S6")] == [3, 3, 4]


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"lines": "R1 10\nR1 15"}, "Line 2: R1 stands in line 1"),
        ({"lines": "F9 10", "panel": ""}, "already"),
        ({"lines": ""}, "Type the slots"),
        ({"rows": "2", "in_row": "1.5", "lines": "R1"}, "whole number"),
        ({"rows": "2"}, "1 to 40"),
        ({"rows": "2", "in_row": "3", "first": "front"}, "F1"),
    ],
)
def test_a_panel_that_cannot_be_laid_out_stays_as_typed(bay, text, typed, words):
    panel = bay.job.circuit("F9").slot.panel or ""
    bay.post("feeds/panel/", name="Behind the seat", lid_mm="", pitch_mm="")
    before, other = bay.job, bay.job.panels[-1].id
    answer = bay.post("feeds/panel/slots/", **{"panel": other, **typed})
    assert answer.status_code == 422
    assert words in text(answer)
    assert all(word in text(answer) for word in " ".join(typed.values()).split())
    assert bay.job == before
    assert bay.job.circuit("F9").slot.panel == (panel or None)


def test_two_slots_of_one_number_are_refused_at_the_field_with_what_was_typed(bay, text):
    answer = bay.post(
        "feeds/circuit/",
        id="F9",
        purpose="Second cigar socket",
        kind="fuse",
        form="mini",
        row="1",
        column="9",
    )
    assert answer.status_code == 422
    assert "on the sheet already" in text(answer)
    assert "Second cigar socket" in text(answer)


def test_a_slot_is_changed_and_keeps_its_readings(bay, text):
    assert "Change F22" in text(bay.get("feeds/", slot="F22"))
    before = bay.job.circuit("F22")
    bay.post(
        "feeds/circuit/",
        chosen="F22",
        id="F22",
        purpose="Windows, all",
        kind="fuse",
        form="micro 2",
        rating_a="20",
        row="2",
        column="1",
        fed="right",
        panel=before.slot.panel,
    )
    after = bay.job.circuit("F22")
    assert (after.purpose, after.form, after.slot.fed, after.readings) == (
        "Windows, all",
        "micro 2",
        "right",
        before.readings,
    )


def test_a_bare_wire_joins_the_sheet(bay, text):
    bay.post(
        "feeds/circuit/",
        id="white wire",
        purpose="Key wire",
        kind="wire",
        row="1",
        column="1",
        found_at="ignition switch",
        colour="WH",
        rating_a="10",
    )
    wire = bay.job.circuit("white wire")
    assert (wire.kind, wire.where.found_at, wire.where.colour) == ("wire", "ignition switch", "WH")
    shown = text(bay.get("feeds/"))
    assert "a bare wire" in shown
    assert "ignition switch" in shown


def test_a_late_reading_makes_it_timed(bay, text):
    answer = bay.post("feeds/probe/", htmx=True, circuit="F31", state="later", reading="0.2")
    assert "timed" in text(answer)
    assert "goes to sleep" in text(answer)


def test_the_best_taps_at_one_press_and_a_reason_kept(bay, text):
    bay.post("feeds/tap/best/")
    assert {t.need: t.circuit for t in bay.job.taps if t.id != "T4"} == {
        "constant": "F31",
        "ignition_crank": "F22",
        "lamps": "F14",
    }
    bay.post("feeds/tap/", need="constant", circuit="B5", tap="T1", why="F31 lies under the lid's hinge")
    assert (bay.job.tap("T1").circuit, bay.job.tap("T1").why) == ("B5", "F31 lies under the lid's hinge")
    bay.post("feeds/tap/best/")
    assert bay.job.tap("T1").circuit == "B5"
    assert "lies under the lid" in text(bay.get("feeds/"))
    assert "lies under the lid" in text(bay.get("handover/book/"))


def test_a_tap_as_fitted(bay, text):
    bay.post(
        "feeds/tap/set/",
        tap="T2",
        **{"T2-fuse_a": "3", "T2-limit_a": "15", "T2-fuse_at_m": "12 cm", "T2-why": ""},
    )
    tap = bay.job.tap("T2")
    assert (tap.fuse_a, tap.limit_a, tap.fuse_at_m) == (3.0, 15.0, pytest.approx(0.12))
    refused = bay.post("feeds/tap/set/", tap="T2", **{"T2-fuse_a": "6", "T2-limit_a": "15"})
    assert refused.status_code == 422
    assert "standard rating" in text(refused)
    assert bay.job.tap("T2").fuse_a == 3.0


def test_a_ground_is_proved_and_loaded(bay, text):
    before = text(bay.get("feeds/grounds/"))
    assert "Star: each display" in before
    assert "returns by its thread into the engine" in before
    bay.post(
        "feeds/grounds/save/",
        ground="GP1",
        name="Dash brace",
        where="body",
        reads_v="12.55",
        drop_v="90 mV",
        drop_load_a="4.5",
    )
    point = bay.job.grounds[0]
    assert (point.drop_v, point.drop_load_a) == (0.09, 4.5)
    answer = bay.post("feeds/grounds/save/", ground="GP1", name="Dash brace", where="body", drop_v="0.1")
    assert answer.status_code == 422
    assert "amperes that flowed" in text(answer)
    bay.post("feeds/grounds/save/", name="Seat bolt", where="body", reads_v="11.2")
    assert isinstance(bay.job.grounds[1], GroundPoint)
    assert "Ground not proved" in text(bay.get("feeds/grounds/"))


def test_backlights_side_by_side(bay, text):
    page = text(bay.get("feeds/backlight/"))
    assert "not dim" in page
    bay.post("feeds/backlight/save/", display="gauge 3", lighting="lights", no_dimmer="on")
    display = bay.job.display("gauge 3")
    assert (display.lamps.lighting, display.lamps.no_dimmer) == ("lights", True)
    assert "gauge 3 on the ignition feed" in text(bay.get("feeds/backlight/"))
    bay.post("feeds/backlight/save/", display="gauge 3", lighting="glows")
    assert bay.job.display("gauge 3").lamps.lighting == "lights"


def test_a_row_is_added_at_the_foot_of_the_sheet(bay):
    """Enter in the last row: the slot stands in its place, the next one is asked for, the class follows the readings."""
    answer = bay.post("feeds/row/", htmx=True, id="", purpose="Trailer, left", rating_a="10", kind="fuse")
    added = bay.job.circuits[-1]
    assert (added.purpose, added.rating_a) == ("Trailer, left", 10)
    assert added.id in answer.content.decode()
    assert 'hx-swap-oob="beforebegin:#probe-new"' in answer.content.decode()
    for data in ({"id": "", "purpose": "", "rating_a": ""}, {"id": "F31"}, {"id": "N1", "rating_a": "much"}):
        before = bay.job
        refused = bay.post("feeds/row/", htmx=True, **{"purpose": "", "rating_a": "", "kind": "fuse"} | data)
        assert 'id="new-row-wrong"' in refused.content.decode()
        assert bay.job == before
    assert bay.post("feeds/row/", id="P1", purpose="Bus bar", rating_a="", kind="post").status_code == 302
    assert bay.job.circuit("P1").straight


def test_a_column_of_the_fitters_own(bay):
    bay.post("feeds/column/", column="Turn left")
    assert "turn left" in bay.get("feeds/").content.decode()
    answer = bay.post(
        "feeds/probe/", htmx=True, circuit="F36", state="turn left", reading="much"
    ).content.decode()
    assert "wrong-F36-turn-left" in answer
    bay.post("feeds/probe/", htmx=True, circuit="F36", state="turn left", reading="11.9")
    assert bay.job.circuit("F36").readings.at("turn left") == 11.9
    before = bay.job
    bay.post("feeds/column/remove/", column="turn left")
    bay.post("feeds/column/", column="run")
    assert bay.job == before
    bay.post("feeds/probe/", htmx=True, circuit="F36", state="turn left", reading="")
    bay.post("feeds/column/remove/", column="turn left")
    assert "turn left" not in bay.job.survey.probed_also


def test_what_a_row_says_of_its_slot_is_saved_as_it_is_left(bay):
    for fact, value in (("purpose", "Mirrors, heated"), ("rating_a", "7,5"), ("fed", "right")):
        assert bay.post("feeds/fact/", htmx=True, circuit="F31", fact=fact, value=value).status_code == 200
    circuit = bay.job.circuit("F31")
    assert (circuit.purpose, circuit.rating_a, circuit.slot.fed) == ("Mirrors, heated", 7.5, "right")
    assert (
        "wrong-F31-rating_a"
        in bay.post("feeds/fact/", htmx=True, circuit="F31", fact="rating_a", value="x").content.decode()
    )


def test_an_empty_slot_is_said_in_the_form_of_its_slot(bay):
    """The form says 'an empty slot'; saved again untouched it stays one."""

    def form_of_slot():
        forms, _ = read_page(bay.get("feeds/?slot=F36").content.decode())
        return next(form.fields for form in forms if form.action.endswith("feeds/circuit/"))

    bay.client.post(bay.path("feeds/circuit/"), form_of_slot() | {"kind": "empty slot"})
    assert bay.job.circuit("F36").place == "empty slot"
    bay.client.post(bay.path("feeds/circuit/"), form_of_slot())
    assert bay.job.circuit("F36").place == "empty slot"
    assert "one contact live, the other dead" in bay.get("feeds/").content.decode()
