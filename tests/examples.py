"""How many examples a property is tried with: as many as it asks for, or few in `./tight test --fast`. Never against a clock."""

import os

from hypothesis import settings

FEW = 10
IS_FAST = "TIGHT_FAST" in os.environ
settings.register_profile("whole", deadline=None)
settings.register_profile("fast", deadline=None, max_examples=FEW)
settings.load_profile("fast" if IS_FAST else "whole")


def examples(count: int) -> settings:
    return settings(max_examples=FEW if IS_FAST else count)
