"""How the added fuse is sized: up from the load, down from the wire, within the tap.

Ratings and colours: ISO 8820-3. Load at three quarters of the rating: common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.tables import load_table

__all__ = [
    "FuseChoice",
    "choose_fuse",
    "fuse_ohm",
    "largest_rating",
    "nearest_rating",
    "rating_for",
    "tap_limit_a",
]


@dataclass(frozen=True, slots=True)
class FuseChoice:
    """The fuse to fit; None where the wire or the tap allows none."""

    fuse_a: float | None
    colour: str | None
    findings: tuple[Finding, ...]


def tap_limit_a() -> float:
    """What a fuse tap carries where its maker does not say, in ampere."""
    return float(load_table("fuses")["tap_limit_a"])


def rating_for(load_a: float) -> float | None:
    """The smallest standard rating that carries a load for good; None where no blade fuse does."""
    table = load_table("fuses")
    wanted = load_a / table["continuous_load_ratio"] * (1 - 1e-9)
    return next((float(row["rating_a"]) for row in table["fuses"] if row["rating_a"] >= wanted), None)


def largest_rating(most_a: float) -> float:
    """The largest standard rating not above ``most_a``; 0 where every one is. Above the blade fuses, ``most_a`` itself."""
    ratings = [float(row["rating_a"]) for row in load_table("fuses")["fuses"]]
    return (
        most_a
        if most_a > ratings[-1]
        else max((rating for rating in ratings if rating <= most_a * (1 + 1e-9)), default=0.0)
    )


def choose_fuse(
    load_a: float,
    wire_max_a: float,
    tap_limit: float | None = None,
    subject: str = "fuse",
    peak_a: float = 0.0,
    peak_s: float = 0.0,
) -> FuseChoice:
    """The smallest standard rating at or above load / 0.75, not above what the smallest wire carries.

    A start-up peak must not melt it either: a blade fuse holds 110 % for good, 135 % for three quarters of a second.
    """
    table = load_table("fuses")
    held = table["peak_short_ratio"] if peak_s <= table["peak_short_s"] else table["peak_long_ratio"]
    wanted = max(load_a / table["continuous_load_ratio"], peak_a / held)
    rows = [row for row in table["fuses"] if row["rating_a"] >= wanted * (1 - 1e-9)]
    if tap_limit is not None and load_a > tap_limit:
        return _none(
            subject,
            "load_over_tap",
            f"The load is more than the tap carries, {tap_limit:g} A.",
            f"{load_a:g} A",
            "Split the load over two taps, or feed it through a relay from the battery.",
        )
    if not rows:
        top = table["fuses"][-1]["rating_a"]
        return _none(
            subject,
            "load_over_fuses",
            f"No blade fuse carries this load for good; the largest is {top:g} A.",
            f"{load_a:g} A",
            "Feed it from the battery through a bolted fuse, as its maker says.",
        )
    row = rows[0]
    if row["rating_a"] > wire_max_a:
        return _none(
            subject,
            "fuse_over_wire",
            f"The load asks for {row['rating_a']:g} A, the wire allows {wire_max_a:g} A.",
            f"{row['rating_a']:g} A on a {wire_max_a:g} A wire",
            "Take a thicker wire.",
        )
    findings: tuple[Finding, ...] = ()
    if tap_limit is not None and row["rating_a"] > tap_limit:
        findings = (
            Finding(
                "caution",
                "fuse_over_tap",
                subject,
                f"The fuse is larger than the tap's limit of {tap_limit:g} A.",
                f"{row['rating_a']:g} A",
                "Take a tap rated for it.",
            ),
        )
    return FuseChoice(float(row["rating_a"]), str(row["colour"]), findings)


def nearest_rating(rating_a: float) -> dict[str, object]:
    """The table row of a standard rating. Raises BadInput listing the ratings for any other number."""
    for row in load_table("fuses")["fuses"]:
        if row["rating_a"] == rating_a:
            return dict(row)
    ratings = ", ".join(f"{row['rating_a']:g}" for row in load_table("fuses")["fuses"])
    raise BadInput("fuse_a", rating_a, f"a standard rating: {ratings} A")


def fuse_ohm(rating_a: float) -> float:
    """Cold resistance of a blade fuse, from the nearest rating at or above (typical, from memory), in ohm."""
    rows = load_table("fuses")["fuses"]
    row = next((row for row in rows if row["rating_a"] >= rating_a), rows[-1])
    return float(row["mohm"]) / 1000


def _none(subject: str, code: str, reason: str, figure: str, remedy: str) -> FuseChoice:
    return FuseChoice(None, None, (Finding("stop", code, subject, reason, figure, remedy),))
