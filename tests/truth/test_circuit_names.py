"""What names of circuits are taken for, against a list written before the rules (see its head)."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from metrolex.feeds.safety import standing_of

NAMES = [
    line.split(" ", 2)
    for line in (Path(__file__).parent / "circuit_names.txt").read_text().splitlines()
    if not line.startswith("#")
]
LANGUAGES = ("en", "de", "fr", "es", "it", "nl", "pt", "pl")


def test_the_list_is_long_and_speaks_eight_languages():
    assert len(NAMES) > 1000
    assert {language for language, _, _ in NAMES} == set(LANGUAGES)


@pytest.mark.parametrize("language", LANGUAGES)
def test_safety_circuits_are_refused_and_harmless_ones_are_not(language, truth):
    safety = [name for tongue, grade, name in NAMES if tongue == language and grade == "never"]
    harmless = [name for tongue, grade, name in NAMES if tongue == language and grade != "never"]
    offered = [name for name in safety if standing_of(name).grade != "never"]
    refused = [name for name in harmless if standing_of(name).grade == "never"]
    truth(
        f"names of circuits, {language}",
        "list written by hand",
        f"{len(safety)} safety, {len(harmless)} harmless",
        f"{len(offered)} safety offered, {len(refused)} harmless refused",
    )
    assert len(offered) <= 0.01 * len(safety), offered
    assert len(refused) <= 0.05 * len(harmless), refused


def test_grades_are_the_wanted_ones():
    wrong = [
        (name, grade, standing_of(name).grade) for _, grade, name in NAMES if standing_of(name).grade != grade
    ]
    assert len(wrong) <= 0.02 * len(NAMES), wrong


def test_case_marks_and_numbers_do_not_count():
    for _, grade, name in NAMES:
        if grade == "never" and not name[0].isdigit() and "/" not in name:
            for written in (name.upper(), name.replace(" ", "_"), f"{name} 20A", f"{name}, 7"):
                assert standing_of(written).grade == "never", written


def test_slips_of_the_pen(truth, sample):
    rng = random.Random(10)
    names = [
        name
        for _, grade, name in NAMES
        if grade == "never" and any(len(word) >= 7 and word.isalpha() for word in name.split())
    ]
    count, missed = sample(400, 5000), []
    for _ in range(count):
        words = rng.choice(names).split()
        i = rng.choice([i for i, word in enumerate(words) if len(word) >= 7 and word.isalpha()])
        words[i] = slipped(words[i], rng)
        if standing_of(" ".join(words)).grade != "never":
            missed.append(" ".join(words))
    truth(
        "names of circuits, one slip in a word of 7 letters or more",
        "the same list",
        f"{count}",
        f"{100 * len(missed) / count:.1f} % not refused",
    )
    assert len(missed) <= 0.03 * count, missed[:20]


def slipped(word, rng):
    """A word with a letter wrong, missing, too many, or two swapped; its first letter is right, as in most slips."""
    i = rng.randrange(1, len(word) - 1)
    letter = rng.choice("abcdefghijklmnopqrstuvwxyz")
    return {
        "wrong": word[:i] + letter + word[i + 1 :],
        "missing": word[:i] + word[i + 1 :],
        "too many": word[:i] + letter + word[i:],
        "swapped": word[:i] + word[i + 1] + word[i] + word[i + 2 :],
    }[rng.choice(["wrong", "missing", "too many", "swapped"])]
