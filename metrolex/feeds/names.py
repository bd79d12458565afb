"""What the words in a circuit's name say it feeds: names folded to plain letters, held against a vocabulary of eight languages.

The vocabulary stands in ``data/circuit_words.toml`` (common practice, no source). A longer phrase covers a shorter one inside
it; a word that is none of ours but a slip of the pen away from one (Damerau's distance: a letter wrong, missing, too many or
two swapped) is read as that one.
"""

from __future__ import annotations

import functools
import re
import unicodedata
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from metrolex.tables import load_table

__all__ = ["Hit", "folded", "hits_in", "slip_distance"]

_ONE_SLIP, _TWO_SLIPS = 5, 9  # letters from which one, two slips are forgiven
_FIRST = 3  # letters by which an entry is looked up
_CUT_OFF = 4  # letters from which a word may be one cut off
_SLIPPED_STEM = 5  # a stem of more letters may hold a slip
_LETTERS = str.maketrans({"ł": "l", "ß": "ss", "ø": "o", "æ": "ae", "œ": "oe", "đ": "d"})


@dataclass(frozen=True, slots=True)
class Hit:
    """One word or phrase found: its class (a section of the table), the system it means, where it stands in the folded name."""

    kind: str
    system: str
    start: int
    end: int

    def covers(self, other: Hit) -> bool:
        return (
            self.start <= other.start
            and other.end <= self.end
            and self.end - self.start > other.end - other.start
        )


def folded(name: str) -> str:
    """A name in small plain letters, its words and numbers parted by single spaces.

    >>> folded('ABS_PUMP2'), folded('Zündspule'), folded('FuelPump')
    ('abs pump 2', 'zundspule', 'fuel pump')
    """
    parted = re.sub(r"(?<=[a-z])(?=[A-Z][a-z])", " ", name)
    plain = unicodedata.normalize("NFKD", parted.lower().translate(_LETTERS))
    letters = "".join(c for c in plain if not unicodedata.combining(c))
    return " ".join(re.findall(r"[a-z]+|\d+", letters))


def hits_in(name: str) -> tuple[Hit, ...]:
    """Every word and phrase of the vocabulary in a name, those covered by a longer one left out; where it lies is not looked at."""
    words = _meant(list(_what_it_is(name)))
    text = " ".join(words)
    found = [
        Hit(entry.kind, entry.system, m.start(), m.end())
        for entry in _near(text)
        for m in entry.found_in(text)
    ]
    found += _terminals(words)
    return tuple(
        hit for hit in found if hit.kind != "silent" and not any(other.covers(hit) for other in found)
    )


@functools.lru_cache(maxsize=4096)
def _what_it_is(name: str) -> tuple[str, ...]:
    """The words of a name without where the thing lies; all of them where nothing else is said.

    >>> _what_it_is("Radio wire at the dash"), _what_it_is("Steering lock, at column"), _what_it_is("AT ECU")
    (('radio', 'wire'), ('steering', 'lock', 'at', 'column'), ('at', 'ecu'))
    """
    said = [folded(clause).split() for clause in _CLAUSE.split(name)]
    words = [word for clause in said for word in clause]
    table = load_table("circuit_words")["locations"]
    if set(words) & set(table["unless"]) and set(words) & set(table["steered"]):
        return tuple(words)
    kept = [word for clause in said for word in _without_place(clause)]
    return tuple(kept or words)


_CLAUSE = re.compile(r"[,;()]|(?<=[\s_])-(?=[\s_])")


def _without_place(clause: list[str]) -> list[str]:
    """A clause without the place at its end, or before a number or another place."""
    found: list[str] = []
    i = 0
    while i < len(clause):
        end = _place_at(clause, i)
        if end:
            i = end
        else:
            found.append(clause[i])
            i += 1
    return found


def _place_at(words: list[str], i: int) -> int:
    """Where the place that begins at a word ends; 0 where none does, or something is made of it ('on steering wheel lock')."""
    before, places = _location_words()
    if words[i] not in before:
        return 0
    i += 1
    while i < len(words) and words[i] in _articles():
        i += 1
    long = next((n for n in (3, 2, 1) if tuple(words[i : i + n]) in places and i + n <= len(words)), 0)
    end = i + long
    ends = end == len(words) or words[end].isdigit() or words[end] in before or words[end] in ("lh", "rh")
    return end if long and ends else 0


@functools.cache
def _location_words() -> tuple[frozenset[str], frozenset[tuple[str, ...]]]:
    table = load_table("circuit_words")["locations"]
    return frozenset(table["before"]), frozenset(tuple(words.split()) for words in table["words"])


@functools.cache
def _articles() -> frozenset[str]:
    return _fillers() | {"dem", "den", "der", "il", "lo", "le", "la", "l", "the"}


def slip_distance(a: str, b: str, most: int = 2) -> int:
    """Damerau's distance of two words (optimal string alignment), ``most`` + 1 where it is more.

    >>> slip_distance('brkae', 'brake'), slip_distance('injektor', 'injector'), slip_distance('radio', 'relay')
    (1, 1, 3)
    """
    if abs(len(a) - len(b)) > most:
        return most + 1
    before: list[int] = []
    row = list(range(len(b) + 1))
    for i, x in enumerate(a, 1):
        older, before, row = before, row, [i]
        for j, y in enumerate(b, 1):
            cost = min(before[j] + 1, row[j - 1] + 1, before[j - 1] + (x != y))
            if i > 1 and j > 1 and x == b[j - 2] and a[i - 2] == y:
                cost = min(cost, older[j - 2] + 1)
            row.append(cost)
        if min(row) > most:
            return most + 1
    return min(row[-1], most + 1)


@dataclass(frozen=True, slots=True)
class _Entry:
    """A phrase or part of the vocabulary; ``words`` are what any text it is found in must hold, letter for letter.

    Few of some thousand entries are ever near a name: a pattern is made when its words are there.
    """

    kind: str
    system: str
    words: tuple[str, ...]
    pattern: str

    def found_in(self, text: str) -> Iterable[re.Match[str]]:
        if not all(word in text for word in self.words):
            return ()
        return _compiled(self.pattern).finditer(text)


@functools.cache
def _compiled(pattern: str) -> re.Pattern[str]:
    return re.compile(pattern)


def _sections() -> Iterator[tuple[str, str, list[str], list[str]]]:
    """(class, system, words, parts) of every section of the table."""
    table = load_table("circuit_words")
    for kind in ("never", "alone", "avoid", "fair"):
        for system, section in table[kind].items():
            yield kind, system, section["words"], section["parts"]
    yield "ignition", "ignition", table["ignition"]["words"], table["ignition"]["parts"]
    yield "place", "instrument cluster", table["place"]["words"], []
    yield "silent", "", table["silent"]["words"], table["silent"]["parts"]


@functools.cache
def _entries() -> tuple[_Entry, ...]:
    found = []
    for kind, system, phrases, parts in _sections():
        for words in dict.fromkeys(map(_words_of, phrases)):
            found.append(_Entry(kind, system, words, _phrase(words)))
        for part in dict.fromkeys(folded(part).replace(" ", "") for part in parts):
            found.append(_Entry(kind, system, (part,), part))
    return tuple(found)


def _near(text: str) -> Iterator[_Entry]:
    """The entries whose first letters stand in a text, in their order: of thousands some dozen."""
    there = {text[i : i + _FIRST] for i in range(len(text))}
    there |= {start[:n] for start in there for n in range(1, _FIRST)}
    entries = _entries()
    return (entries[i] for i in sorted(i for start in there for i in _by_first_letters().get(start, ())))


@functools.cache
def _by_first_letters() -> dict[str, list[int]]:
    found: dict[str, list[int]] = {}
    for i, entry in enumerate(_entries()):
        found.setdefault(entry.words[0][:_FIRST], []).append(i)
    return found


@functools.cache
def _fillers() -> frozenset[str]:
    return frozenset(load_table("circuit_words")["fillers"]["words"])


def _words_of(phrase: str) -> tuple[str, ...]:
    """The words of a phrase, abbreviations written out, fillers left out where something else is left."""
    kept = [_written_out(word) for word in folded(phrase).split()]
    return tuple([word for word in kept if word not in _fillers() or len(kept) <= len(word) + 1] or kept)


def _phrase(words: tuple[str, ...]) -> str:
    """The pattern of a phrase: words with their plurals, with or without fillers and spaces between."""
    plural = [word + ("[a-z]{0,2}" if len(word) > 3 and not word.isdigit() else "") for word in words]
    return rf"(?<![a-z]){f' ?(?:(?:{_filler_pattern()}) )*'.join(plural)}(?![a-z])"


@functools.cache
def _filler_pattern() -> str:
    return "|".join(sorted(_fillers(), key=len, reverse=True))


def _terminals(words: list[str]) -> list[Hit]:
    """Terminal numbers of European diagrams: after their word ('Kl. 54'), or the whole name."""
    table = load_table("circuit_words")["terminals"]
    found = []
    at = 0
    for i, word in enumerate(words):
        number = word + (
            words[i + 1] if i + 1 < len(words) and words[i + 1] in ("a", "b", "d", "g", "l", "r") else ""
        )
        number = number if number in table else word
        named = i > 0 and words[i - 1] in table["before"]
        alone = number == "".join(words) and word.isdigit() and len(word) > 1
        system = table.get(number) if named or alone else None
        if isinstance(system, str) and system:
            found.append(Hit(_kind_of(system), system, at, at + len(word)))
        at += len(word) + 1
    return found


def _kind_of(system: str) -> str:
    table = load_table("circuit_words")
    return next((kind for kind in ("never", "avoid", "fair") if system in table[kind]), "ignition")


def _meant(words: list[str]) -> list[str]:
    """The words with abbreviations written out and slips of the pen put right."""
    written = [_written_out(word) for word in words]
    found: list[str] = []
    i = 0
    while i < len(written):
        pair = written[i] + written[i + 1] if i + 1 < len(written) and written[i + 1].isalpha() else ""
        # 'air bga' is two words and one slip, 'pre tensores' one word.
        if pair and not _known(written[i + 1]):
            glued = pair if _known(pair) else (_closest(pair) if len(written[i + 1]) < _ONE_SLIP else "")
            if glued:
                found.append(glued)
                i += 2
                continue
        found.append(_put_right(written[i]))
        i += 1
    return found


def _written_out(word: str) -> str:
    return str(load_table("circuit_words")["abbreviations"].get(word, word))


def _put_right(word: str) -> str:
    if _known(word):
        return word
    plain = word.replace("ae", "a").replace("oe", "o").replace("ue", "u")  # umlauts written out
    return plain if _known(plain) else _closest(word) or _closest(plain) or _shortened(word) or word


@functools.lru_cache(maxsize=4096)
def _known(word: str) -> bool:
    """Whether a word says something by itself, or is one that never does."""
    return (
        word.isdigit()
        or len(word) < 3
        or word in _dictionary()
        or any(True for entry in _entries() for _ in entry.found_in(word))
    )


@functools.lru_cache(maxsize=4096)
def _closest(word: str) -> str:
    """The word of the vocabulary a slip or two away; '' where there is none. Of two as near the graver is meant."""
    if len(word) < _ONE_SLIP:
        # Of four letters two may have changed places; of fewer, or with one wrong, it may be any word.
        return next(
            (
                other
                for other in _dictionary()
                if len(other) == len(word) == 4
                and sorted(other) == sorted(word)
                and slip_distance(word, other) == 1
            ),
            "",
        )
    most = 2 if len(word) >= _TWO_SLIPS else 1
    best, found = most + 1, ""
    for other in _dictionary():
        if len(other) >= _ONE_SLIP and other[0] in word[:2]:
            distance = slip_distance(word, other, most)
            if distance < best:
                best, found = distance, other
    return found or _slipped_stem(word)


@functools.lru_cache(maxsize=4096)
def _shortened(word: str) -> str:
    """The word a name was cut off from ('einspr.', 'pretens'), or that a longer one begins or ends with; '' where there is none."""
    if len(word) < _CUT_OFF:
        return ""
    whole = next((other for other in _dictionary() if other.startswith(word)), "")
    return whole or next(
        (
            other
            for other in _dictionary()
            if len(other) > _ONE_SLIP and (word.startswith(other) or word.endswith(other))
        ),
        "",
    )


def _slipped_stem(word: str) -> str:
    """The stem a longer word begins with, one slip away."""
    for part in _parts():
        if len(part) > _SLIPPED_STEM and any(
            slip_distance(word[: len(part) + more], part, 1) <= 1 for more in (-1, 0, 1)
        ):
            return part
    return ""


@functools.cache
def _parts() -> tuple[str, ...]:
    return tuple(folded(part).replace(" ", "") for _, _, _, parts in _sections() for part in parts)


@functools.cache
def _dictionary() -> dict[str, None]:
    """Every single word we know, the gravest first."""
    listed: Iterable[str] = (
        word
        for _, _, words, parts in _sections()
        for phrase in (*words, *parts)
        for word in (*folded(phrase).split(), folded(phrase).replace(" ", ""))
    )
    neutral = (folded(word) for word in load_table("circuit_words")["neutral"]["words"])
    return dict.fromkeys((*listed, *neutral))
