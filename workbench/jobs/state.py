"""The key switch of a job as this person last left it. Kept in the session, not in the job."""

from __future__ import annotations

from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import State
from workbench.jobs.look import FIRST_SEEN
from workbench.request import Request

__all__ = ["set_state", "state_of"]

_SLOT = "key_switch"


def state_of(request: Request, job: int) -> State:
    """The state this person looks at a job in; key run, lamps off, engine running at first."""
    kept = request.session.get(_SLOT, {}).get(str(job))
    try:
        return read(State, kept) if kept else FIRST_SEEN
    except BadInput:
        return State()


def set_state(request: Request, job: int, changes: dict[str, str]) -> State:
    """Turn the key, the lamp switch or the engine. Raises BadInput for a position there is none of."""
    now = state_of(request, job)
    plain = {"key": now.key, "lamps": now.lamps, "engine": now.engine} | changes
    if changes.get("engine") == "running":
        plain["key"] = "run"
    elif changes.get("key") and changes["key"] != "run":
        plain["engine"] = "stopped"
    state = read(State, plain)
    kept = dict(request.session.get(_SLOT, {}))
    kept[str(job)] = {"key": state.key, "lamps": state.lamps, "engine": state.engine}
    request.session[_SLOT] = kept
    return state
