"""What independent errors add up to, each as likely anywhere within its size as elsewhere.

The sum's distribution is the Fourier series of the product of its terms' characteristic functions, sin(at)/(at) for a term
of size a (JCGM 101:2008 gives the model, 6.4.2; the inversion is textbook mathematics).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

__all__ = ["half_width"]

_FAR = 5.5  # standard deviations beyond which nothing worth counting lies
_NOTHING = 1e-3  # of the largest term: alters the sum by less than a millionth
_HARMONICS = np.arange(1, 129)
_GRID = np.linspace(0.0, 1.0, 513)
_SERIES = 2 / (np.pi * _HARMONICS[:, None]) * np.sin(np.pi * np.outer(_HARMONICS, _GRID))


def half_width(sizes: ArrayLike, share: float) -> float:
    """Half the width that holds ``share`` (0 to 1) of the sum, in the unit of the sizes; signs of sizes do not matter."""
    terms = np.abs(np.asarray(sizes, dtype=np.float64))
    terms = terms[terms > _NOTHING * terms.max(initial=0.0)]
    if len(terms) < 2:
        return share * float(terms.sum())
    reach = min(float(terms.sum()), _FAR * float(np.sqrt(np.sum(terms**2) / 3)))
    factors = np.prod(np.sinc(np.outer(terms / reach, _HARMONICS)), axis=0)
    held = np.maximum.accumulate(_GRID + factors @ _SERIES)
    return reach * float(np.interp(share, held, _GRID))
