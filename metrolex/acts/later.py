"""What is changed on a vehicle after the handing over: new tyres, another tank or sender, new software in a display.

Each changes just that, writes down which settings and readings go with it, and has the tests it touches asked for again.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from metrolex.acts.counting import rounded_over
from metrolex.acts.displays import set_display
from metrolex.acts.edit import channel_called, display_called, free_id, replaced
from metrolex.acts.ports import choose_sender
from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import Job, Later, MeasuringChain, OldSetting, RoadCount, Sender
from metrolex.job.later import LaterKind
from metrolex.job.within import replaced_within
from metrolex.quantities import unit_words
from metrolex.scaling.counting import meaning_of, roll_out
from metrolex.speed.tyres import circumference_m, read_tyre

__all__ = ["Told", "forget_later", "new_sender", "new_software", "new_tank", "new_tyres"]

_ENTERED = {
    "pulses_per_km": "pulses per km",
    "pulses_per_mile": "pulses per mile",
    "circumference_mm": "mm around",
}


@dataclass(frozen=True, slots=True)
class Told:
    """On which day it was done, at how many km, and what else there is to say."""

    day: str
    km: float | None = None
    note: str = ""


def new_tyres(job: Job, tyre: str, told: Told) -> Job:
    """Other tyres: every speed setting turned by the sizes, the runs driven with the old ones no longer counted. Raises BadInput (``tyre``)."""
    fresh = circumference_m(read_tyre(tyre))
    was, follows = job.vehicle.driveline.tyre, list[str]()
    after = replace(job, vehicle=replaced_within(job.vehicle, {"tyre": tyre.strip(), "tyre_wear_mm": 0.0}))
    for chain in job.chains:
        if chain.road is None or chain.display is None or chain.road.sensed == "cable":
            continue
        before = roll_out(job, chain.road)
        road, words = _turned(chain.road, before, fresh, was)
        after = after.with_chain(replace(chain, road=road))
        follows.append(f"{chain.name}: {words}")
        after = _asked_again(after, [chain])
    if any(chain.gears and chain.sender is None for chain in job.chains):
        follows.append("Gear: worked out of speed and revs, so each gear is to be looked at again.")
    return _written(after, "tyres", "tyres", was, tyre.strip(), follows, told)


def _turned(road: RoadCount, before: float | None, fresh: float, was: str) -> tuple[RoadCount, str]:
    """A speed setting for other tyres, and what became of it in words."""
    kept = replace(road, circumference_m=None, runs=(), driven_with=None)
    if road.setting is None:
        return kept, "nothing is set yet."
    if before is None:
        return (
            kept,
            f"the old size is not known, {road.setting:g} stands: drive it against GPS before anybody trusts it.",
        )
    ratio = before / fresh if meaning_of(road) == "pulses_per_distance" else fresh / before
    setting = rounded_over(road.setting * ratio, road)
    old = OldSetting(road.setting, f"until the tyres were changed{f' from {was}' if was else ''}")
    earlier = (*road.before, old) if setting != road.setting else road.before
    words = f"{road.setting:g} becomes {setting:g} {_ENTERED[road.enters]}, by {100 * (fresh / before - 1):+.1f} % around; the odometer goes with it. Drive it against GPS again."
    return replace(kept, setting=setting, before=earlier), words


def new_software(job: Job, display_id: str, version: str, told: Told) -> Job:
    """New software in a display: its entries are to be looked through again, its readings to be seen again. Raises BadInput."""
    display = display_called(job, display_id)
    if not version.strip():
        raise BadInput("version", version, "the version that is in it now")
    was = display.set_up.firmware
    after = set_display(job, display_id, {"firmware": version.strip(), "set_up_on": told.day})
    ticked = [one for one in job.settings if one.display == display_id and one.done]
    after = replace(
        after,
        settings=tuple(replace(one, done=False) if one in ticked else one for one in after.settings),
    )
    chains = [chain for chain in job.chains if chain.display == display_id]
    follows = [f"{len(ticked)} entries of its set-up are to be ticked off again."] if ticked else []
    if chains:
        follows.append(f"To be seen again: {', '.join(chain.name for chain in chains)}.")
    follows += [
        f"{chain.name}: compare its table with the display." for chain in chains if chain.scaling.table
    ]
    return _written(
        _asked_again(after, chains), "software", display.name, was, version.strip(), follows, told
    )


def new_sender(job: Job, channel_id: str, kit: str, own: Mapping[str, Sender], told: Told) -> Job:
    """Another sender: its law, its points and its tests are new; the display's table stands until somebody looks. Raises BadInput."""
    chain = channel_called(job, channel_id)
    old = job.sender(chain.sender)
    after = choose_sender(job, channel_id, kit, own)
    fresh = after.sender(channel_called(after, channel_id).sender)
    if fresh is None:
        raise BadInput("sender", kit, "a sender of its own")
    mine = [one for one in job.chains if one.channel == chain.channel]
    same = old is not None and old.curve == fresh.curve
    follows = [
        f"{one.name}: {'the same law, its table still suits' if same else 'another law: its table in the display is to be made again'}."
        for one in mine
        if one.scaling.table
    ]
    if old is not None and old.measured:
        follows.append("The points measured of the old one are gone: measure the new one.")
    follows.append("Ohms or volts of the sender, and what is shown, are to be proved again.")
    was = old.called if old else ""
    return _written(_asked_again(after, mine), "sender", chain.name, was, fresh.called, follows, told)


def new_tank(job: Job, channel_id: str, capacity_l: float, told: Told) -> Job:
    """Another tank: what it holds; what was dipped in the old one is gone. Raises BadInput (``capacity_l``)."""
    chain = channel_called(job, channel_id)
    tank = chain.tank
    if tank is None:
        raise BadInput("channel", channel_id, "a channel with a tank", "Enter its tank on Scaling first.")
    if tank.reserve_l >= capacity_l:
        raise BadInput("capacity_l", capacity_l, f"more than the reserve of {tank.reserve_l:g} l")
    fresh = replace(
        tank, capacity_l=capacity_l, fillings=(), empty_ohm=None, full_ohm=None, length_m=None, height_m=None
    )
    vehicle = replaced_within(job.vehicle, {"tank_l": capacity_l})
    after = replace(job, vehicle=vehicle).with_chain(replace(chain, tank=fresh))
    follows = [
        f"{chain.name}: dip it again with three known fillings or more, and take the curve from them.",
        "Ohms of the sender empty and full are to be read again.",
    ]
    if tank.reserve_l:
        follows.append(f"Its lamp stays at {tank.reserve_l:g} l; is that still the reserve?")
    return _written(
        _asked_again(after, [chain]),
        "tank",
        chain.name,
        f"{tank.capacity_l:g} {unit_words('L')}",
        f"{capacity_l:g} {unit_words('L')}",
        follows,
        told,
    )


def forget_later(job: Job, key: str) -> Job:
    """Take the page of a change out of the book; what was changed stays. Raises BadInput."""
    if all(one.id != key for one in job.later):
        raise BadInput("later", key, ", ".join(one.id for one in job.later) or "none yet")
    return replace(job, later=tuple(one for one in job.later if one.id != key))


def _asked_again(job: Job, chains: Iterable[MeasuringChain]) -> Job:
    """The job without what was seen at these readings and their senders: their tests are asked for again."""
    shown = {chain.id for chain in chains}
    senders = {chain.sender for chain in chains if chain.sender}

    def touched(kind: str, key: str, other: str) -> bool:
        return (kind == "readout" and (key in shown or other in shown)) or (
            kind == "sender" and key in senders
        )

    kept = tuple(o for o in job.observations if not touched(o.test.kind, o.test.id, o.test.pin))
    on = shown | senders
    return replace(
        job,
        observations=kept,
        left_out=tuple(o for o in job.left_out if not touched(o.test.kind, o.test.id, o.test.pin)),
        checks=tuple(one for one in job.checks if one.check.on not in on),
    )


def _written(job: Job, kind: LaterKind, on: str, was: str, now: str, follows: list[str], told: Told) -> Job:
    key = free_id("L1", (one.id for one in job.later))
    page = Later(key, kind, on, told.day, told.km, was, now, tuple(follows), told.note)
    return replace(job, later=replaced(job.later, read(Later, dump(page))))
