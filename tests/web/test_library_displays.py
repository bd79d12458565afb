"""A display described in the library itself: made, its pins, inputs and outputs changed, renamed."""

from __future__ import annotations

import pytest

from tests.web.forms_of import read_page
from workbench.library.parts import own_displays

PIN = {
    "what": "pin",
    "key": "",
    "pin": "",
    "load_kind": "resistive",
    "load_a": "",
    "peak_a": "",
    "peak_s": "",
    "colour": "",
}


@pytest.fixture
def shelf(bay):
    """The workshop's library by the pages: a plain module made from nothing."""
    assert bay.client.post("/library/displays/new/", {"name": "Bench module", "like": ""}).status_code == 302
    for number, role in (("1", "ignition"), ("2", "ground"), ("3", "signal"), ("4", "signal_out")):
        answer = bay.client.post(
            "/library/displays/change/",
            PIN | {"name_before": "Bench module", "number": number, "name": "", "role": role},
        )
        assert answer.status_code == 302
    return bay


def module(bay, name="Bench module"):
    return own_displays(bay.member.workshop)[name]


def test_pins_inputs_and_outputs_are_added_changed_and_taken(shelf):
    assert [pin.role for pin in module(shelf).pins] == ["ignition", "ground", "signal", "signal_out"]
    stage = {
        "name_before": "Bench module",
        "what": "input",
        "key": "",
        "input": "",
        "called": "A",
        "kind": "pull_up",
        "pin": "3",
        "pull_up": "1k",
        "reference": "5 V",
        "first": "x",
    }
    assert shelf.client.post("/library/displays/change/", stage).status_code == 302
    assert module(shelf).inputs[0].circuit.pull_up_ohm == 1000
    law = {
        "name_before": "Bench module",
        "what": "output",
        "key": "",
        "output": "",
        "called": "out",
        "measurand": "coolant_temperature",
        "pin": "4",
        "gives": "volt",
        "points": "0.5 0\n4.5 150",
    }
    assert shelf.client.post("/library/displays/change/", law).status_code == 302
    assert module(shelf).outputs[0].pin == "4"
    gone = {"name_before": "Bench module", "what": "pin", "key": "3"}
    shelf.client.post("/library/displays/take/", gone)
    assert module(shelf).pin_called("3"), "an input reads there"
    for what, key in (("input", "A"), ("pin", "3"), ("output", "out")):
        shelf.client.post(
            "/library/displays/take/", {"name_before": "Bench module", "what": what, "key": key}
        )
    assert (module(shelf).pin_called("3"), module(shelf).inputs, module(shelf).outputs) == (None, (), ())


def test_bad_input_is_said_and_kept(shelf):
    before = module(shelf)
    twice = PIN | {"name_before": "Bench module", "number": "1", "name": "twice", "role": "lamps"}
    answer = shelf.client.post("/library/displays/change/", twice)
    assert answer.status_code == 422
    assert "twice" in answer.content.decode()
    assert module(shelf) == before
    for data in ({"what": "nothing"}, {"what": "pin", "name_before": "Nobody's"}):
        assert (
            shelf.client.post("/library/displays/change/", {"name_before": "Bench module"} | data).status_code
            == 404
        )
    assert shelf.client.get("/library/displays/one/", {"name": "Nobody's"}).status_code == 404


def test_every_form_saved_untouched_leaves_it(shelf):
    shelf.client.post(
        "/library/displays/new/", {"name": "Like a controller", "like": "mixture controller, 0 to 5 V"}
    )
    before = module(shelf, "Like a controller")
    assert before.outputs
    page = shelf.client.get("/library/displays/one/", {"name": "Like a controller"}).content.decode()
    sent = 0
    for form in read_page(page)[0]:
        if form.action.endswith("displays/change/") and (
            form.fields.get("key", [""])[0] or form.fields["what"] == ["head"]
        ):
            assert shelf.client.post(form.action, form.fields).status_code == 302
            sent += 1
    assert sent >= 5
    assert module(shelf, "Like a controller") == before


def test_it_is_renamed_and_no_name_stands_twice(shelf):
    shelf.client.post("/library/displays/new/", {"name": "Other", "like": ""})
    page = shelf.client.get("/library/displays/one/", {"name": "Other"}).content.decode()
    head = next(f.fields for f in read_page(page)[0] if f.fields.get("what") == ["head"])
    taken = shelf.client.post("/library/displays/change/", head | {"name": "Bench module"})
    assert taken.status_code == 422
    assert shelf.client.post("/library/displays/change/", head | {"name": "Newer"}).status_code == 302
    assert {"Bench module", "Newer"} <= own_displays(shelf.member.workshop).keys()
    assert "Other" not in own_displays(shelf.member.workshop)


def test_another_workshop_sees_none_of_it(shelf, other_bay):
    assert other_bay.client.get("/library/displays/one/", {"name": "Bench module"}).status_code == 404
