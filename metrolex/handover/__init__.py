"""Closing a job: what the owner will see and does, what is looked at again, what bars the handing over, what changed since."""

from metrolex.handover.bars import Bar, bars_of
from metrolex.handover.frozen import check_sum, since
from metrolex.handover.rechecks import Recheck, rechecks_of
from metrolex.handover.warned import Warned, what_to_do
from metrolex.handover.will_see import WillSee, will_see

__all__ = [
    "Bar",
    "Recheck",
    "Warned",
    "WillSee",
    "bars_of",
    "check_sum",
    "rechecks_of",
    "since",
    "what_to_do",
    "will_see",
]
