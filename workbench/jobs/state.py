"""The key switch of a job as this person last left it. Kept in the session, not in the job."""

from __future__ import annotations

from typing import Any

from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import RUNNING_POINTS, State
from workbench.jobs.look import FIRST_SEEN
from workbench.request import Request

__all__ = ["set_state", "state_of", "thrown_from", "thrown_said"]

_SLOT = "key_switch"


def state_of(request: Request, job: int) -> State:
    """The state this person looks at a job in; key run, lamps off, engine running at first."""
    kept = request.session.get(_SLOT, {}).get(str(job))
    try:
        return FIRST_SEEN if kept is None else read(State, kept)
    except BadInput:
        return State()


def set_state(request: Request, job: int, changes: dict[str, str]) -> State:
    """Turn the key, the lamp switch, the engine or a switch of the job. Raises BadInput for a position there is none of."""
    now = state_of(request, job)
    plain: dict[str, Any] = {"key": now.key, "lamps": now.lamps, "engine": now.engine}
    changes = changes if "point" not in changes else changes | {"engine": changes["point"]}
    plain |= {name: word for name, word in changes.items() if name in plain}
    plain["thrown"] = _thrown(now.thrown, changes)
    if changes.get("engine") in RUNNING_POINTS:
        plain["key"] = "run"
    elif changes.get("key") and changes["key"] != "run" and plain["engine"] in RUNNING_POINTS:
        plain["engine"] = "stopped"
    state = read(State, plain)
    kept = dict(request.session.get(_SLOT, {}))
    kept[str(job)] = dump(state)
    request.session[_SLOT] = kept
    return state


def _thrown(now: tuple[str, ...], changes: dict[str, str]) -> list[str]:
    """The switches thrown: as said for all at once ('thrown'), or one of them turned ('switch', its id, a bar, 0 or 1)."""
    if "thrown" in changes:
        return thrown_from(changes["thrown"])
    key, _, to = changes.get("switch", "").rpartition("|")
    if not key:
        return list(now)
    return [*(one for one in now if one != key), *([key] if to == "1" else [])]


def thrown_said(state: State) -> str:
    """The switches thrown as a form carries them: one a line, for an id may hold any other sign."""
    return "\n".join(state.thrown)


def thrown_from(text: str) -> list[str]:
    """What `thrown_said` said; a browser sends its lines with two signs at the end."""
    return [key for key in text.replace("\r\n", "\n").split("\n") if key]
