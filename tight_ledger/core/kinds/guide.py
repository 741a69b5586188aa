"""Which page of the guide helps at a joint: by what its steps ask for."""

from collections.abc import Collection
from typing import Literal

GuidePage = Literal["first-wheel", "head", "hub"]
_OF_A_HUB = frozenset({"measure", "adjust", "rotate", "align"})


def guide_page(kinds: Collection[str]) -> GuidePage:
    """The page of the guide for steps of these kinds.

    Args:
        kinds: names of kinds of step.
    """
    if "angle" in kinds:
        return "head"
    return "hub" if _OF_A_HUB & set(kinds) else "first-wheel"
