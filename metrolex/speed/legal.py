"""What a speedometer may show: UNECE Regulation No. 39, paragraph 5.4: 0 <= V1 - V2 <= V2/10 + 4 km/h, V1 shown, V2 true."""

from __future__ import annotations

__all__ = ["TYPE_APPROVAL_KMH", "band_kmh", "is_legal"]

TYPE_APPROVAL_KMH = 4.0
_DUST = 1e-6


def band_kmh(true_kmh: float, extra_kmh: float = TYPE_APPROVAL_KMH) -> tuple[float, float]:
    """Lowest and highest speed that may be shown at a true speed, km/h.

    >>> band_kmh(80)
    (80, 92.0)
    """
    return true_kmh, true_kmh + true_kmh / 10 + extra_kmh


def is_legal(true_kmh: float, shown_kmh: float, extra_kmh: float = TYPE_APPROVAL_KMH) -> bool:
    """Whether a shown speed lies within the band."""
    low, high = band_kmh(true_kmh, extra_kmh)
    return low - _DUST <= shown_kmh <= high + _DUST
