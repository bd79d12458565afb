"""Prices on the shopping list, the estimate and its paper; the sender a vehicle has already."""

from __future__ import annotations

from metrolex.brief.shopping import shopping_list


def test_prices_rate_and_ways_make_an_estimate(bay, text):
    wanted = next(item for item in shopping_list(bay.job) if item.buy)
    assert bay.post("brief/shopping/kit/", item=wanted.key, have="0", price="12,50").status_code == 302
    assert bay.post("brief/estimate/rate/", currency="kr", rate_per_h="700", loom="ready").status_code == 302
    assert bay.post("brief/estimate/way/", name="One dash", parts="9000", hours="8").status_code == 302
    page = text(bay.get("brief/estimate/"))
    assert "As planned, loom with its terminals on" in page
    assert "14600" in page  # 9000 and eight hours at 700
    assert "kr" in page
    assert bay.get("brief/shopping/csv/").content.decode().splitlines()[0].count("price") == 1
    pdf = bay.get("brief/estimate/pdf/")
    assert pdf.content.startswith(b"%PDF")
    key = bay.job.brief.alternatives[0].id
    assert bay.post("brief/estimate/way/remove/", way=key).status_code == 302
    assert bay.job.brief.alternatives == ()


def test_what_is_wrong_comes_back_as_typed(bay, text):
    for tail, data, words in (
        ("rate/", {"rate_per_h": "much", "currency": "kr"}, "much"),
        ("way/", {"name": "", "parts": "5"}, 'value="5"'),
        ("way/", {"name": "Dash", "hours": "-3"}, 'value="-3"'),
    ):
        answer = bay.post(f"brief/estimate/{tail}", **data)
        assert answer.status_code == 422, tail
        assert words in text(answer)
    wanted = next(item for item in shopping_list(bay.job) if item.buy)
    refused = bay.post("brief/shopping/kit/", item=wanted.key, have="1", price="cheap")
    assert refused.status_code == 422
    assert 'value="cheap"' in text(refused)
    assert bay.job.brief.rate_per_h is None


READER = {
    "channel": "gearbox",
    "name": "Gearbox control",
    "control": "yes",
    "pull_up": "2.2 kohm",
    "reference": "5",
}


def test_who_reads_a_sender_already_is_said_on_ports_and_stopped_on_scaling(bay, text):
    assert bay.post("ports/reader/", **READER).status_code == 302
    assert bay.job.sender("gearbox sender").readers[0].name == "Gearbox control"
    assert bay.job.chain("gearbox").source == "shared"
    assert "Gearbox control reads this sender already" in text(bay.get("scaling/", channel="gearbox"))
    assert bay.post("ports/reader/", **(READER | {"pull_up": "some"})).status_code == 302
    assert "some" in text(bay.get("ports/", channel="gearbox"))
    assert bay.post("ports/join/", channel="gearbox", at="no plug|3").status_code == 302
    assert bay.job.chain("gearbox").plug is None
    assert bay.post("ports/reader/remove/", channel="gearbox", reader="R1").status_code == 302
    assert bay.job.sender("gearbox sender").readers == ()
