"""Where mechanics disagree: the shop's choices, in force for its runs."""

from typing import Literal

from pydantic import Field

from tight_ledger.core.base.models import Model, Names

PinionSchool = Literal["a new crush sleeve", "a spacer or shims in its place", "a shim under the old sleeve"]
"""What sets the preload of a pinion's bearings."""


class Policy(Model):
    """Where mechanics disagree, the shop's choice."""

    figure_in_range: Literal["low", "middle", "high"] = "middle"
    second_click: Literal["second pull", "check"] = "second pull"
    final_check: bool = True
    fastest_pull_s: float = Field(default=1.0, ge=0, le=60)
    fastest_mean_s: float = Field(default=2.0, ge=0, le=60)
    """The least mean time for a pull over a whole pass. Common practice, no source."""
    choices: dict[str, str] = {}
    extension_allowance_nm_per_m: float = Field(default=0.0, ge=0, le=20)
    """Torque added for each metre of extension. A rigid extension changes no torque, so the default is 0."""
    second_person: Names = frozenset()
    """Kinds of joint that somebody checks who did not pull, before the run can end good."""
    checklist: bool = True
    """Whether what must be true before the first pull is confirmed, item by item."""
    conformity: Literal["as written", "proven"] = "as written"
    """Whether a reading in the band passes, or only if the uncertainty of its gauge leaves no doubt (ISO 14253-1:2017)."""
    bolts_straight: bool = False
    """Whether the setting that one bolt's stretch asked for is used straight for the rest, instead of from somewhat below."""
    pinion: Literal["as the document says"] | PinionSchool = "as the document says"
    """How this shop sets a pinion; a specification that goes another way says so before the first pull."""
    longest_pause_s: float = Field(default=120.0, gt=0, le=86_400)
    """Between two swings of one angle."""
    by_eye_deg: float = Field(default=10.0, ge=0, le=45)
    """How much wider an angle's band is on either side when it goes by eye. Common practice, no source."""
    retorque_km: float = Field(default=80.0, gt=0, le=10_000)
    retorque_days: float = Field(default=14.0, gt=0, le=366)
    """After which a wheel is pulled again where its document says nothing. Common practice, no source."""
    due_months: int = Field(default=12, ge=1, le=120)
    due_pulls: int = Field(default=5_000, ge=1, le=1_000_000)
    """A wrench is due after so many months or pulls, whichever comes first (ISO 6789-1, from memory)."""
