"""A torque multiplier: what to set, what comes out, and what its arm pushes with.

setting = target / (ratio · efficiency); the arm carries target − input and swings the other way (derived).
"""

from pydantic import Field

from tight_ledger.core.base import Invalid, Model

HAND_CAUTION = "The arm swings the other way with nearly all of the torque: it crushes a hand. Set it against something solid, keep clear."


class Multiplier(Model):
    """A geared multiplier. `ratio` is by its teeth; `efficiency` by its maker's sheet."""

    name: str
    ratio: float = Field(gt=1, le=200)
    efficiency: float = Field(default=0.9, gt=0.3, le=1)
    most_out_nm: float = Field(gt=0)
    anti_windback: bool = False


class Multiplied(Model):
    """A target through a multiplier."""

    input_nm: float
    reaction_nm: float
    arm_swings: str
    cautions: tuple[str, ...]


def multiply(multiplier: Multiplier, target_nm: float, *, clockwise: bool) -> Multiplied:
    """What the wrench in front of a multiplier has to give, and what its arm has to bear.

    Args:
        target_nm: at the fastener [N·m], above 0.
        clockwise: the way in which the fastener is tightened.
    Raises:
        Invalid: the target is more than the multiplier's anvil bears.
    """
    if not 0 < target_nm <= multiplier.most_out_nm:
        raise Invalid(
            "multiplier", f"{multiplier.name} bears {multiplier.most_out_nm:g} N·m; {target_nm:g} N·m is asked for.", "Take a larger one."
        )
    given_nm = target_nm / (multiplier.ratio * multiplier.efficiency)
    more = ("It winds up: without a catch it runs back when the wrench is let go.",) if not multiplier.anti_windback else ()
    return Multiplied(
        input_nm=given_nm, reaction_nm=target_nm - given_nm, arm_swings="anticlockwise" if clockwise else "clockwise",
        cautions=(HAND_CAUTION, *more),
    )  # fmt: skip
