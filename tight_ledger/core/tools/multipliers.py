"""A torque multiplier: what to set, what comes out, and what its arm pushes with.

setting = target / (ratio · efficiency); the arm carries target − input and swings the other way (derived).
"""

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.tools.adapters import Multiplier

HAND_CAUTION = "The arm swings the other way with nearly all of the torque: it crushes a hand. Set it against something solid, keep clear."
WINDBACK_CAUTION = "It winds up: without a catch it runs back when the wrench is let go."


class Multiplied(Model):
    """A target through a multiplier."""

    input_nm: float
    reaction_nm: float
    arm_swings: str


def multiply(multiplier: Multiplier, target_nm: float, *, clockwise: bool) -> Multiplied:
    """What the wrench in front of a multiplier has to give, and what its arm has to bear.

    Args:
        target_nm: at the fastener [N·m], above 0.
        clockwise: the way in which the fastener is tightened.
    Raises:
        Invalid: the target is more than the multiplier's anvil bears.
    """
    most_nm = multiplier.limit_nm if multiplier.limit_nm is not None else float("inf")
    if not 0 < target_nm <= most_nm:
        raise Invalid("multiplier", f"{multiplier.name} bears {most_nm:g} N·m; {target_nm:g} N·m is asked for.", "Take a larger one.")
    given_nm = target_nm / (multiplier.ratio * multiplier.efficiency)
    return Multiplied(input_nm=given_nm, reaction_nm=target_nm - given_nm, arm_swings="anticlockwise" if clockwise else "clockwise")
