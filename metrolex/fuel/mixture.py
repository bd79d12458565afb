"""Mixture: lambda, the ratio of air to fuel it stands for in each fuel, and what a gauge of one fixed fuel calls it.

A blend burns with its parts' ratios mixed by mass (mass balance). Ratios and densities in ``data/fuels.toml``; atomic masses
IUPAC 2021, air as 23.14 % oxygen by mass (textbook), for the balance by formula.
"""

from __future__ import annotations

from dataclasses import dataclass
from difflib import get_close_matches

from metrolex.errors import BadInput
from metrolex.tables import load_table

__all__ = [
    "PETROL_RATIO",
    "Mixture",
    "blend_ratio",
    "fuel_names",
    "mixture_of",
    "ratio_by_formula",
    "ratio_of",
]

#: The ratio most gauges multiply lambda by, whatever is in the tank.
PETROL_RATIO = 14.7
_MASS = (12.011, 1.008, 15.999)
_OXYGEN_IN_AIR = 0.2314


@dataclass(frozen=True, slots=True)
class Mixture:
    """Lambda, the ratio a gauge of ``display_stoich`` shows for it, the ratio that is really burnt."""

    lambda_: float
    shown_ratio: float
    true_ratio: float
    stoich_ratio: float


def fuel_names() -> tuple[str, ...]:
    """Fuels and blends by name."""
    table = load_table("fuels")
    return (*table["pure"], *table["blend"])


def ratio_of(fuel: str) -> float:
    """Stoichiometric ratio of a fuel or blend by name. Raises BadInput for one not known.

    >>> ratio_of('petrol'), round(ratio_of('E85'), 2)
    (14.7, 9.81)
    """
    table = load_table("fuels")
    if fuel in table["pure"]:
        return float(table["pure"][fuel]["ratio"])
    if fuel in table["blend"]:
        return blend_ratio(table["blend"][fuel]["ethanol_pct"])
    near = get_close_matches(fuel, fuel_names(), 1)
    hint = f" Did you mean '{near[0]}'?" if near else ""
    raise BadInput("fuel", fuel[:40], " | ".join(fuel_names()), f"There is no fuel '{fuel:.40}' here.{hint}")


def blend_ratio(ethanol_pct: float) -> float:
    """Stoichiometric ratio of petrol with ethanol, percent by volume. Raises BadInput outside 0 to 100.

    >>> round(blend_ratio(10), 2), blend_ratio(0)
    (14.1, 14.7)
    """
    if not 0 <= ethanol_pct <= 100:
        raise BadInput("ethanol_pct", ethanol_pct, "0 to 100 %")
    pure = load_table("fuels")["pure"]
    share = ethanol_pct / 100
    ethanol, petrol = share * pure["ethanol"]["kg_per_l"], (1 - share) * pure["petrol"]["kg_per_l"]
    return float((ethanol * pure["ethanol"]["ratio"] + petrol * pure["petrol"]["ratio"]) / (ethanol + petrol))


def ratio_by_formula(carbon: float, hydrogen: float, oxygen: float) -> float:
    """Air by mass that burns a molecule CxHyOz whole: x + y/4 - z/2 molecules of oxygen (mass balance).

    >>> round(ratio_by_formula(3, 8, 0), 2), round(ratio_by_formula(1, 4, 1), 2)
    (15.68, 6.47)
    """
    fuel = sum(count * mass for count, mass in zip((carbon, hydrogen, oxygen), _MASS, strict=True))
    return (carbon + hydrogen / 4 - oxygen / 2) * 2 * _MASS[2] / _OXYGEN_IN_AIR / fuel


def mixture_of(
    *,
    lambda_: float | None = None,
    shown_ratio: float | None = None,
    display_stoich: float = PETROL_RATIO,
    stoich_ratio: float,
) -> Mixture:
    """Lambda, shown and true ratio from either of the first two. Raises BadInput for both, neither, or 0 and less.

    >>> round(mixture_of(lambda_=1.0, stoich_ratio=ratio_of('E85')).true_ratio, 2)
    9.81
    """
    if (lambda_ is None) == (shown_ratio is None):
        raise BadInput(
            "shown_ratio" if lambda_ is not None else "lambda",
            None,
            "exactly one of lambda and shown_ratio",
            "Give exactly one of lambda and shown_ratio.",
        )
    if not display_stoich > 0:
        raise BadInput("display_stoich", display_stoich, "a ratio above 0")
    if lambda_ is None:
        assert shown_ratio is not None
        lambda_ = shown_ratio / display_stoich
    if not 0.3 <= lambda_ <= 20:
        raise BadInput(
            "lambda" if shown_ratio is None else "shown_ratio",
            lambda_ if shown_ratio is None else shown_ratio,
            "a mixture between 0.3 and 20 lambda",
        )
    return Mixture(lambda_, lambda_ * display_stoich, lambda_ * stoich_ratio, stoich_ratio)
