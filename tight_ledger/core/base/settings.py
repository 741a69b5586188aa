"""How a shop reads figures and dates, and when its shifts begin. Nothing that is judged hangs on these."""

from datetime import datetime, time, timedelta
from typing import Annotated, Any, Literal
from zoneinfo import ZoneInfo

from pydantic import BeforeValidator, Field, PlainSerializer

from tight_ledger.core.base.models import Model
from tight_ledger.core.base.units import TorqueUnit

Dates = Literal["en-GB", "en-US", "de-DE", "es-ES", "fr-FR", "nl-NL", "pt-PT", "sv-SE"]
"""The language and country whose way of writing dates is used."""
MOST_SHIFTS = 6


class Shift(Model):
    """A shift, until the next begins."""

    name: str = Field(min_length=1, max_length=20)
    begins: time


def _typed(value: Any) -> Any:
    """`early 06:00, late 14:00` as shifts."""
    if not isinstance(value, str):
        return value
    parts = [part.strip().rpartition(" ") for part in value.split(",") if part.strip()]
    return tuple({"name": name.strip(), "begins": begins} for name, _, begins in parts)


def _told(shifts: tuple[Shift, ...]) -> str:
    return ", ".join(f"{shift.name} {shift.begins:%H:%M}" for shift in shifts)


Shifts = Annotated[tuple[Shift, ...], BeforeValidator(_typed), PlainSerializer(_told), Field(max_length=MOST_SHIFTS)]


class ShopSettings(Model):
    """What a shop sets for its screens and papers."""

    torque_unit: TorqueUnit = "N·m"
    """The unit that comes first where a sheet shows a torque in several, and in which the scale of a new wrench is asked."""
    dates: Dates = "en-GB"
    shifts: Shifts = ()
    photos_months: int = Field(default=120, ge=1, le=1_200)
    curves_months: int = Field(default=120, ge=1, le=1_200)
    attempts_months: int = Field(default=12, ge=1, le=120)
    """After how many months photos and papers, curves of pulls, and attempts to sign in are erased. Common practice, no source."""


def shift_at(settings: ShopSettings, time_zone: str, at: datetime) -> str:
    """The name of the shift in which a moment lies, by the shop's clock; empty where no shifts are set."""
    order = sorted(settings.shifts, key=lambda shift: shift.begins)
    now = at.astimezone(ZoneInfo(time_zone)).time()
    return next((shift.name for shift in reversed(order) if shift.begins <= now), order[-1].name if order else "")


def shift_ends(settings: ShopSettings, time_zone: str, at: datetime) -> datetime | None:
    """When the shift of a moment ends, because the next one begins; None with fewer than two shifts."""
    if len(settings.shifts) < 2:
        return None
    here = at.astimezone(ZoneInfo(time_zone))
    begins = sorted(shift.begins for shift in settings.shifts)
    later = next((begin for begin in begins if begin > here.time()), None)
    day = here.date() if later is not None else here.date() + timedelta(days=1)
    return datetime.combine(day, later or begins[0], ZoneInfo(time_zone))
