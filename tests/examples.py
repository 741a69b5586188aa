"""How many examples a property is tried with: as many as it asks for, or few in `./tight test --fast`. Never against a clock.

The same examples each time; `./tight test --explore` tries new ones, and ten times as many.
"""

import os

from hypothesis import settings

FEW, MORE = 10, 10
IS_FAST, EXPLORES = "TIGHT_FAST" in os.environ, "TIGHT_EXPLORE" in os.environ
settings.register_profile("whole", deadline=None, derandomize=True)
settings.register_profile("fast", deadline=None, derandomize=True, max_examples=FEW)
settings.register_profile("explore", deadline=None, print_blob=True, max_examples=100 * MORE)
settings.load_profile("fast" if IS_FAST else "explore" if EXPLORES else "whole")


def examples(count: int) -> settings:
    return settings(max_examples=FEW if IS_FAST else count * MORE if EXPLORES else count)
