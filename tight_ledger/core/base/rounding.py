"""Rounding of computed figures to nine significant digits.

The last digits of a cosine, a product or a sum differ between versions of Python and between platforms. What goes into
a plan or a verdict is rounded here, so that it is the same wherever it was computed. Nine digits are a thousand times
finer than any instrument of the trade.
"""

import math
from typing import Annotated

from pydantic import AfterValidator

SAME = 2e-8
"""Largest relative difference of two computed figures that are the same: both were rounded to nine digits."""


def nine_digits(figure: float) -> float:
    """A figure rounded to nine significant digits; what is not finite stays as it is."""
    return float(f"{figure:.8e}") + 0.0 if math.isfinite(figure) else figure


Computed = Annotated[float, AfterValidator(nine_digits)]
"""A figure of a model that may have been computed."""


def is_below(figure: float, limit: float) -> bool:
    """Whether a figure lies below a limit by more than rounding can explain."""
    return figure < limit - SAME * max(abs(limit), abs(figure))


def is_above(figure: float, limit: float) -> bool:
    """Whether a figure lies above a limit by more than rounding can explain."""
    return is_below(limit, figure)
