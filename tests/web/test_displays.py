"""The page of a display: pins and inputs as they are, one more, one less, from the library and back."""

from __future__ import annotations

import pytest

from metrolex.twin import build
from metrolex.twin.check import twin_findings
from workbench.library.models import ShelfPart


def pin(number, role, **more):
    return {"display": "gauge 2", "pin": "", "number": number, "role": role, "load_kind": "resistive"} | more


def test_an_inputs_form_is_fetched_when_it_is_opened(seater, text):
    stage = seater.job.display("dash").inputs[0]
    closed = text(seater.get("displays/", display="dash")).count('name="pull_up_tolerance"')
    assert closed == 1  # the one for an input more
    form = text(
        seater.client.get(
            seater.path("displays/input/form/"),
            {"display": "dash", "input": stage.id},
            headers={"HX-Request": "true"},
        )
    )
    assert f'name="input" value="{stage.id}"' in form
    assert f"{stage.circuit.pull_up_ohm:g} ohm" in form
    opened = text(seater.get("displays/input/form/", display="dash", input=stage.id))
    assert opened.count('name="pull_up_tolerance"') == 2
    for query in ({"input": "nope"}, {"input": "A", "display": "shed"}):
        assert seater.get("displays/input/form/", **({"display": "dash"} | query)).status_code == 404
    assert seater.get("displays/pin/form/", display="dash", pin="nope").status_code == 404


def test_a_gauge_without_memory_and_lamps_is_never_asked_for_them(bay, text):
    for number in ("1", "3"):
        assert bay.post("displays/pin/remove/", display="gauge 2", pin=number).status_code == 302
    gauge = bay.job.display("gauge 2")
    assert [p.role for p in gauge.pins] == ["ignition", "ground", "signal", "return"]
    assert not any(e.id == "gauge 2" and e.terminal in "13" for w in bay.job.conductors for e in (w.a, w.b))
    page = text(bay.get("displays/", display="gauge 2"))
    assert "constant feed" not in page.split("<tbody>")[1].split("</tbody>")[0]
    said = " ".join(f"{f.reason} {f.remedy}" for f in twin_findings(build(bay.job)) if f.subject == "gauge 2")
    assert "memory" not in said
    assert "gauge 2 pin 1" not in text(bay.get("handover/book/"))
    assert "no memory" not in text(bay.get(""))


def test_a_pin_more_goes_to_the_end_and_wrong_ones_come_back_as_typed(bay, text):
    assert (
        bay.post("displays/pin/", **pin("8", "output", name="lamp out", load_a="120 mA")).status_code == 302
    )
    found = bay.job.display("gauge 2").pins[-1]
    assert (found.id, found.name, found.role, found.load_a) == ("8", "lamp out", "output", 0.12)
    twice = bay.post("displays/pin/", **pin("8", "lamps", name="again", load_a="5"))
    assert twice.status_code == 422
    assert "called 8 already" in text(twice)
    assert 'value="again"' in text(twice)
    assert bay.post("displays/pin/", **pin("9", "lamps", load_a="lots")).status_code == 422
    assert len(bay.job.display("gauge 2").pins) == 7


def test_wires_and_readings_follow_a_pin_to_its_new_number(bay):
    before = bay.job
    wires = [
        w.id for w in before.conductors if any(e.id == "gauge 2" and e.terminal == "5" for e in (w.a, w.b))
    ]
    seen = [o.id for o in before.observations if o.test.id == "gauge 2" and o.test.pin == "5"]
    assert wires
    assert seen
    old = before.display("gauge 2").pin_called("5")
    sent = pin("B4", "signal", name=old.name, colour=old.colour) | {"pin": "5"}
    assert bay.post("displays/pin/", **sent).status_code == 302
    after = bay.job
    assert after.display("gauge 2").inputs[0].pin == "B4"
    ends = {e.terminal for w in after.conductors if w.id in wires for e in (w.a, w.b) if e.id == "gauge 2"}
    assert ends == {"B4"}
    assert {o.test.pin for o in after.observations if o.id in seen} == {"B4"}
    assert bay.post("displays/pin/", **(sent | {"pin": "B4", "role": "return"})).status_code == 422


def test_two_inputs_on_a_round_gauge(bay, text):
    bay.post("scaling/menu/save/", display="gauge 2", name="Smoothing", value="3", done="Smoothing")
    assert bay.post("displays/pin/", **pin("9", "signal", name="second signal")).status_code == 302
    stage = {"display": "gauge 2", "input": "", "called": "B", "kind": "volts", "pin": "9"}
    stage |= {"first": "x", "reference": "5 V", "bits": "10"}
    taken = bay.post("displays/input/", **(stage | {"pin": "5"}))
    assert taken.status_code == 422
    assert "reads at pin 5 already" in text(taken)
    assert bay.post("displays/input/", **stage).status_code == 302
    assert [(i.id, i.pin) for i in bay.job.display("gauge 2").inputs] == [("A", "5"), ("B", "9")]
    assert bay.post("displays/read-at/", channel="oil pressure", at="gauge 2|B").status_code == 302
    assert bay.job.chain("oil pressure").input == "B"
    refused = bay.client.post(
        bay.path("displays/input/remove/"), {"display": "gauge 2", "input": "B"}, follow=True
    )
    assert "Oil pressure is read here" in text(refused)
    bay.post("displays/read-at/", channel="oil pressure", at="gauge 3|A")
    bay.post("displays/input/remove/", display="gauge 2", input="B")
    assert [i.id for i in bay.job.display("gauge 2").inputs] == ["A"]


def test_a_display_of_ones_own_from_an_empty_one(bay, text):
    assert bay.post("displays/add/", like="", name="Trip computer").status_code == 302
    made = bay.job.displays[-1]
    assert (made.name, made.pins, made.inputs) == ("Trip computer", (), ())
    head = {"display": made.id, "name": "Trip computer", "min_v": "6 V", "own_battery": "on"}
    assert bay.post("displays/save/", **(head | {"min_v": "six"})).status_code == 422
    assert bay.post("displays/save/", **head).status_code == 302
    assert bay.job.display(made.id).supply.own_battery
    bay.client.post(
        "/library/parts/keep/",
        {"job": bay.record.pk, "kind": "display", "part": made.id, "name": "Trip computer"},
    )
    assert ShelfPart.objects.get().body["supply"]["own_battery"] is True
    assert bay.post("displays/add/", like="Trip computer", name="").status_code == 302
    assert bay.job.displays[-1].supply.own_battery
    for key in [d.id for d in bay.job.displays if d.name == "Trip computer"]:
        bay.post("displays/remove/", display=key)
    assert "Trip computer" not in {d.name for d in bay.job.displays}
    kept = bay.client.post(bay.path("displays/remove/"), {"display": "gauge 2"}, follow=True)
    assert "Coolant is shown on" in text(kept)
    assert bay.job.display("gauge 2")


@pytest.mark.parametrize("page", ["", "handover/", "proving/", "harness/diagram/", "scaling/menu/", "feeds/"])
def test_a_display_with_nothing_on_it_breaks_no_page(bay, page):
    bay.post("displays/add/", like="", name="Bare")
    assert bay.get(page).status_code == 200
    assert bay.get("displays/", display=bay.job.displays[-1].id).status_code == 200


def test_the_book_never_calls_a_table_entered_that_nobody_entered(bay, text):
    entered = text(bay.get("handover/book/")).count("<dt>Entered</dt>")
    bay.post("brief/channels/add/", measurand="oil_temperature")
    book = text(bay.get("handover/book/"))
    assert book.count("<dt>Entered</dt>") == entered
    assert "Nobody has compared this table" in book
    bay.post("scaling/table/confirm/", channel="engine oil")
    assert "Nobody has compared this table" not in text(bay.get("handover/book/"))


def output(key, **more):
    return {
        "display": "box 1",
        "output": key,
        "called": key or "B",
        "measurand": "lambda",
        "pin": "3",
        "gives": "volt",
        "points": "0 0.68\n5 1.36",
    } | more


def test_a_box_has_a_page_that_says_what_it_does_and_when(seater, text):
    page = text(seater.get("displays/", display="box 1"))
    assert "what it does, and when" in page
    assert "never cut, never spliced" in page
    assert 'name="unready"' in page  # of an output more
    assert "what it does, and when" not in text(seater.get("displays/", display="box 2"))
    assert "Outputs" not in text(seater.get("displays/", display="dash"))


def test_the_law_of_an_output_is_typed_and_its_reading_follows(seater, text):
    before = seater.job.chain("mixture")
    assert (
        seater.post("displays/output/", **output("A", called="mix", points="0 0,5\n5 1,5")).status_code == 302
    )
    chain = seater.job.chain("mixture")
    assert chain.output == "mix"
    assert seater.job.heard(chain).curve.points == ((0.0, 0.5), (5.0, 1.5))
    assert before.scaling == chain.scaling  # what was entered in the display stays
    for wrong, words in (
        ({"points": "0 0.68"}, "points"),
        ({"pin": "1"}, "Select a valid choice"),
        ({"called": ""}, "required"),
    ):
        answer = seater.post("displays/output/", **output("mix", **wrong))
        assert answer.status_code == 422, wrong
        assert words in text(answer)
    form = text(seater.get("displays/output/form/", display="box 1", output="mix"))
    assert 'value="mix"' in form
    assert seater.get("displays/output/form/", display="box 1", output="nope").status_code == 404


def test_outputs_and_pins_in_use_are_not_taken_off(seater, text):
    seater.post("displays/output/remove/", display="box 1", output="A")
    assert "read from it" in text(seater.get("displays/", display="box 1"))
    seater.post("displays/pin/remove/", display="box 1", pin="3")
    assert "Output A gives at this pin" in text(seater.get("displays/", display="box 1"))
    seater.post("displays/remove/", display="box 1")
    assert "take it out from between first" in text(seater.get("displays/", display="box 1"))
    assert seater.job.display("box 1").output_called("A") is not None


def test_a_box_described_from_nothing_reads_a_sender(seater, text):
    """Pins, an input, an output: then the gearbox's oil sender sits at it and the dash hears it."""
    assert seater.post("displays/add/", like="", name="Oil module").status_code == 302
    key = seater.job.displays[-1].id
    head = {"display": key, "name": "Oil module", "min_v": "8 V"}
    assert seater.post("displays/save/", **head).status_code == 302
    for number, role in (
        ("1", "ignition"),
        ("2", "ground"),
        ("3", "signal"),
        ("4", "return"),
        ("5", "signal_out"),
    ):
        assert seater.post("displays/pin/", **pin(number, role, display=key)).status_code == 302
    stage = {
        "display": key,
        "called": "A",
        "kind": "pull_up",
        "pin": "3",
        "pull_up": "1 kohm",
        "reference": "5",
        "input_ohm": "100 kohm",
        "first": "x",
        "thermocouple_type": "",
    }
    assert seater.post("displays/input/", **stage).status_code == 302
    law = output("", display=key, measurand="oil_temperature", pin="5", points="0 0\n5 150")
    assert seater.post("displays/output/", **law).status_code == 302
    box = seater.job.display(key)
    assert (box.face, len(box.pins), len(box.inputs), len(box.outputs)) == (False, 5, 1, 1)
    routed = {"display": key, "channel": "engine oil", "box_input": "A", "output": "B"}
    assert seater.post("displays/read-by/", **routed).status_code == 302
    chain = seater.job.chain("engine oil")
    assert (chain.box, chain.box_input, chain.output) == (key, "A", "B")
    # Every input for volts of the dash is taken: it stays where it was, and that is said.
    assert "made for a resistance" in text(seater.get("scaling/", channel="engine oil"))
    assert seater.post("displays/read-without/", channel="engine oil").status_code == 302
    chain = seater.job.chain("engine oil")
    assert (chain.box, seater.job.display(key), seater.job.input_of(chain).kind) == (None, None, "pull_up")
