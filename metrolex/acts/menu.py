"""The set-up sheet of a display: what was typed in and ticked off, and what its menu asks."""

from __future__ import annotations

from dataclasses import dataclass, replace

from metrolex.acts.edit import display_called, replaced
from metrolex.dash.sheet import lines_of
from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import Job, MenuEntry, Setting, SetUp
from metrolex.scaling.menu import menu_of

__all__ = ["Sheet", "remove_entry", "save_sheet", "set_entry"]


@dataclass(frozen=True, slots=True)
class Sheet:
    """A set-up sheet as it was filled in: (entry, what was typed), entries ticked, one entry more, firmware and date."""

    typed: tuple[tuple[str, str], ...]
    done: frozenset[str] = frozenset()
    more: tuple[str, str] = ("", "")
    firmware: str = ""
    set_up_on: str = ""


def save_sheet(job: Job, display_id: str, sheet: Sheet) -> Job:
    """What was typed and ticked; ticked with nothing typed means: as the job wants it. Raises BadInput (``more_name``, or the name of the entry)."""
    display = display_called(job, display_id)
    wanted = {line.name: line.wanted or "" for line in lines_of(job, display)}
    fresh = [
        Setting(
            display.id,
            name,
            value or (wanted.get(name, "") if name in sheet.done else ""),
            name in sheet.done,
        )
        for name, value in sheet.typed
        if value or name in sheet.done
    ]
    name, value = sheet.more
    if name:
        fresh = [*(setting for setting in fresh if setting.name != name), Setting(display.id, name, value)]
    elif value:
        raise BadInput("more_name", "", "the menu's own word", "Which entry of the menu is it?")
    for setting in fresh:
        _admitted(setting)
    others = tuple(setting for setting in job.settings if setting.display != display.id)
    noted = replace(display, set_up=SetUp(sheet.firmware, sheet.set_up_on))
    return replace(job, settings=(*others, *fresh), displays=replaced(job.displays, noted))


def _admitted(setting: Setting) -> None:
    """Raises BadInput (field the entry's name) for what an entry cannot take."""
    try:
        read(Setting, dump(setting))
    except BadInput as fault:
        what = "its name" if fault.field == "name" else "what was typed"
        raise BadInput(
            setting.name[:120],
            setting.value[:80],
            fault.allowed,
            f"{setting.name:.60}: {what} is not {fault.allowed}.",
        ) from None


def set_entry(job: Job, display_id: str, entry: MenuEntry) -> Job:
    """An entry of a display's menu, in place of its namesake or more; a menu touched is the workshop's own."""
    display = display_called(job, display_id)
    rest = tuple(other for other in menu_of(display) if other.name != entry.name)
    return replace(job, displays=replaced(job.displays, replace(display, menu=(*rest, entry))))


def remove_entry(job: Job, display_id: str, name: str) -> Job:
    """An entry less; '' brings the generic menu back."""
    display = display_called(job, display_id)
    rest = tuple(entry for entry in menu_of(display) if entry.name != name) if name else ()
    return replace(job, displays=replaced(job.displays, replace(display, menu=rest)))
