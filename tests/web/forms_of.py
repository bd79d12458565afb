"""Forms as a browser would send them: read from a page, submitted untouched."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from lxml import etree

__all__ = ["PageForm", "read_page"]

_TYPED = {"text", "number", "search", "checkbox", "radio", "range", "email", "url", "tel", "date"}


@dataclass(frozen=True, slots=True)
class PageForm:
    """One form: where it goes, by which method, what it sends untouched; ``typed`` are the names a person can change, ``written`` those of text."""

    action: str
    method: str
    data: tuple[tuple[str, str], ...]
    typed: frozenset[str]
    written: frozenset[str] = frozenset()

    @property
    def fields(self) -> dict[str, list[str]]:
        found: dict[str, list[str]] = {}
        for name, value in self.data:
            if name != "csrfmiddlewaretoken":
                found.setdefault(name, []).append(value)
        return found


class _Reader:
    """What lxml tells of a page as it goes through it."""

    def __init__(self) -> None:
        self.forms: list[PageForm] = []
        self.links: list[str] = []
        self.ids: dict[str, bool] = {}  # and whether it can be seen
        self.spoken_for: list[str] = []
        self._open: dict | None = None
        self._select: dict | None = None
        self._text: tuple[str, list[str]] | None = None
        self._option: list[str] | None = None

    def start(self, tag: str, a: Mapping[str, str]) -> None:
        if key := a.get("id"):
            assert key not in self.ids, f"the id {key} stands twice on the page"
            self.ids[key] = a.get("type") != "hidden"
        if tag == "label" and "for" in a:
            self.spoken_for.append(a["for"])
        for name in ("href", "hx-get"):
            if name in a and not (name == "hx-get" and tag == "form"):
                self.links.append(a[name])
        if tag == "form":
            self._open = {
                "action": a.get("action", ""),
                "method": a.get("method", "get").lower(),
                "data": [],
                "typed": set(),
                "written": set(),
            }
        if self._open is not None and "disabled" not in a:
            self._control(tag, a, a.get("name", ""))

    def _control(self, tag: str, a: Mapping[str, str], name: str) -> None:
        assert self._open is not None
        assert "maxlength" not in a, f"the browser would cut what is pasted into {name}, and say nothing"
        if tag == "input" and name:
            kind = a.get("type", "text")
            if kind in ("checkbox", "radio"):
                self._open["typed"].add(name)
                if "checked" in a:
                    self._open["data"].append((name, a.get("value", "on")))
            elif kind not in ("submit", "button", "file", "image"):
                if kind in _TYPED:
                    self._open["typed"].add(name)
                    self._open["written"].add(name)
                self._open["data"].append((name, a.get("value", "")))
        elif tag == "select" and name:
            self._open["typed"].add(name)
            self._select = {"name": name, "many": "multiple" in a, "options": []}
        elif tag == "option" and self._select is not None:
            self._select["options"].append([a.get("value"), "selected" in a, ""])
            self._option = self._select["options"][-1]
        elif tag == "textarea" and name:
            self._open["typed"].add(name)
            self._open["written"].add(name)
            self._text = (name, [])
        elif (
            tag == "button" and name and a.get("type", "submit") == "submit" and not self._open.get("pressed")
        ):
            self._open["pressed"] = True
            self._open["data"].append((name, a.get("value", "")))

    def data(self, data: str) -> None:
        if self._text is not None:
            self._text[1].append(data)
        elif self._option is not None:
            self._option[2] += data

    def end(self, tag: str) -> None:
        if tag == "option":
            self._option = None
        elif tag == "select" and self._select is not None and self._open is not None:
            options = [(o[2].strip() if o[0] is None else o[0], o[1]) for o in self._select["options"]]
            chosen = [value for value, on in options if on]
            if not chosen and options and not self._select["many"]:
                chosen = [options[0][0]]
            self._open["data"] += [
                (self._select["name"], value) for value in (chosen if self._select["many"] else chosen[-1:])
            ]
            self._select = None
        elif tag == "textarea" and self._text is not None and self._open is not None:
            words = "".join(self._text[1])
            self._open["data"].append((self._text[0], words.removeprefix("\n").replace("\n", "\r\n")))
            self._text = None
        elif tag == "form" and self._open is not None:
            form = self._open
            self.forms.append(
                PageForm(
                    form["action"],
                    form["method"],
                    tuple(form["data"]),
                    frozenset(form["typed"]),
                    frozenset(form["written"]),
                )
            )
            self._open = None

    def close(self) -> None:
        """There is nothing left to do."""


def read_page(page: str) -> tuple[list[PageForm], list[str]]:
    """Every form of a page in its order, and where it leads: its links and what it fetches by itself.

    No id stands twice on it, and every label speaks for a field that can be seen.
    """
    reader = _Reader()
    etree.HTML(page, etree.HTMLParser(target=reader))
    for key in reader.spoken_for:
        assert reader.ids.get(key), f"a label speaks for {key}, which is not there to be seen"
    return reader.forms, reader.links
