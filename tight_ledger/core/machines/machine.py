"""A particular vehicle or piece of equipment."""

from collections.abc import Iterable
from uuid import UUID

from pydantic import Field

from tight_ledger.core.base.models import Model
from tight_ledger.core.machines.form import Form
from tight_ledger.core.machines.meters import MeterKind


class Machine(Model):
    """One particular vehicle or piece of equipment."""

    id: UUID
    fleet_number: str = Field(min_length=1, max_length=40)
    maker: str = Field(min_length=1, max_length=80)
    model: str = Field(min_length=1, max_length=80)
    what: str = Field(default="", max_length=80)
    serial: str = Field(default="", max_length=40)
    vin: str = Field(default="", pattern=r"^([A-HJ-NPR-Z0-9]{17})?$")
    registration: str = Field(default="", max_length=16)
    meters: tuple[MeterKind, ...] = ()
    year: int | None = Field(default=None, ge=1900, le=2100)
    axle_loads_kg: dict[str, float] = {}
    """By axle: `rear`: 9600."""
    form: Form | None = None
    """What it looks like from above; None as long as nobody has said it."""
    variant: dict[str, str] = {}
    """What is known about this machine beyond its model: `bearing`: `press-in`. Found out once, kept."""


def maker_and_model(said: str, makers: Iterable[str]) -> tuple[str, str]:
    """Maker and model from one line: by the longest known maker that it begins with, else the maker is its first word.

    Args:
        said: `Tarn & Oake Capstan 9`.
        makers: that are known.

    Returns:
        As the maker is written where it is known; the model is empty if nothing comes after the maker.
    """
    line = " ".join(said.split())
    known = sorted((maker for maker in makers if line.casefold().startswith(f"{maker.casefold()} ")), key=len)
    maker = known[-1] if known else line.partition(" ")[0]
    return maker, line[len(maker) :].strip()
