"""What a search works out is large: of the last few circuits searched it is kept, of those before them it is let go."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any

from metrolex.twin.build import Network

__all__ = ["remember"]

MOST_KEPT = 4  # circuits; one of the examples takes 100 to 200 MB

_lock = threading.Lock()
_last: OrderedDict[int, dict[Hashable, Any]] = OrderedDict()


def remember(network: Network, large: tuple[Callable[..., Any], ...]) -> None:
    """Note that a circuit is searched now; what the functions ``large`` worked out of the one searched longest ago is let go."""
    with _lock:
        _last[id(network.kept)] = network.kept
        _last.move_to_end(id(network.kept))
        while len(_last) > MOST_KEPT:
            _, kept = _last.popitem(last=False)
            for key in [key for key in kept if isinstance(key, tuple) and key[0] in large]:
                kept.pop(key, None)
