"""Waiting for what comes by itself. No test passes or fails by how long that takes; only what never comes is given up."""

import time
from collections.abc import Callable
from typing import TypeVar

T = TypeVar("T")
PATIENCE_S = 180
"""So long nothing takes, on whatever machine: what hangs is ended."""
LOOKS_EVERY_S = 0.05


def until(look: Callable[[], T], wanted: Callable[[T], object] = bool, pause: Callable[[float], object] = time.sleep) -> T:
    """What `look` gives, once it is what is wanted.

    Args:
        pause: lets so many seconds pass between two looks.

    Raises:
        AssertionError: it never came; with what was seen last.
    """
    given_up = time.monotonic() + PATIENCE_S
    while not wanted(seen := look()):
        assert time.monotonic() < given_up, f"it did not come; seen last: {seen}"
        pause(LOOKS_EVERY_S)
    return seen
