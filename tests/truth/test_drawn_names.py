"""What names drawn from a grammar are taken for (``circuit_grammar``): both rates, language by language."""

from __future__ import annotations

import random

import pytest

from metrolex.feeds.safety import standing_of
from tests.truth.circuit_grammar import LANGUAGES, drawn


@pytest.mark.parametrize("language", LANGUAGES)
def test_what_must_not_be_tapped_is_refused_and_what_may_is_not(language, truth, sample):
    count, rng = sample(150, 4000), random.Random(f"names of circuits, {language}")
    wrong: dict[str, list[str]] = {"not refused": [], "offered": [], "refused": []}
    for i in range(count):
        name = drawn(rng, language, safety=True, held_out=bool(i % 2))
        grade = standing_of(name).grade
        if grade != "never":
            wrong["not refused"].append(name)
        if grade == "fair":
            wrong["offered"].append(name)
        harmless = drawn(rng, language, safety=False, held_out=bool(i % 2))
        if standing_of(harmless).grade == "never":
            wrong["refused"].append(harmless)
    rates = {word: 100 * len(names) / count for word, names in wrong.items()}
    truth(
        f"names of circuits drawn from a grammar, {language}",
        "the grammar",
        f"{count} safety, {count} harmless",
        f"{rates['not refused']:.1f} % of safety not refused, {rates['offered']:.1f} % offered; {rates['refused']:.1f} % of harmless refused",
    )
    assert not wrong["offered"]
    assert rates["not refused"] <= 1.0, wrong["not refused"][:10]
    assert rates["refused"] <= 1.0, wrong["refused"][:10]
