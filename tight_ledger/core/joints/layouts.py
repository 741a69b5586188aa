"""Where the fasteners of a joint sit, in mm, as looked at from one named side."""

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model

Noun = Literal["fastener", "nut", "bolt", "screw", "cap screw", "stud", "plug", "cap", "fitting"]
"""What a mechanic calls the part that the wrench turns."""

Head = Literal["", "hexagon", "flanged", "twelve-point", "internal", "slotted", "castle", "square"]
"""What the wrench takes hold of."""


class Kind(Model):
    """A kind of fastener within a joint."""

    thread: str
    noun: Noun = "fastener"
    head: Head = ""
    slots: int = Field(default=0, ge=0, le=60)
    """Of a slotted or a castle nut: its lock positions."""
    property_class: str = ""
    coating: str = ""
    condition: str = ""
    """Of the threads, if this kind differs from the rest: oiled, paste, locking fluid."""
    single_use: bool = False
    yields: bool = False
    longest_mm: float | None = Field(default=None, gt=0, le=2_000)
    """A bolt that yields may be used again until it is longer than this."""
    note: str = ""


Millimetres = Annotated[float, AfterValidator(lambda mm: mm + 0.0)]
"""A coordinate [mm]. −0 becomes 0, because canonical JSON writes both alike."""


class Fastener(Model):
    """One fastener; x to the right and y upward [mm] as the joint is looked at."""

    label: str
    kind: str
    x_mm: Millimetres
    y_mm: Millimetres


MarkKind = Literal["valve", "dowel", "front", "filler", "gasket"]
"""A gasket is a corner of its edge: the corners in their order are the outline."""


class Mark(Model):
    """Something on the part that helps to hold the drawing right, where it is [mm]."""

    what: MarkKind
    x_mm: Millimetres
    y_mm: Millimetres


class Layout(Model):
    """The fasteners of a joint, their kinds, groups and named orders."""

    fasteners: tuple[Fastener, ...]
    kinds: dict[str, Kind]
    groups: dict[str, tuple[str, ...]] = {}
    units: tuple[str, ...] = ()
    orders: dict[str, tuple[str | tuple[str, ...], ...]]
    looked_at: str = "from outside"
    first: str = ""
    marks: tuple[Mark, ...] = Field(default=(), max_length=40)

    @model_validator(mode="after")
    def _hangs_together(self) -> "Layout":
        labels = [f.label for f in self.fasteners]
        if not labels or len(set(labels)) != len(labels):
            raise ValueError("a layout has at least one fastener, and no label twice")
        if unknown := {f.kind for f in self.fasteners} - set(self.kinds):
            raise ValueError(f"fastener kinds that are not described: {', '.join(sorted(unknown))}")
        named = {label for group in self.groups.values() for label in group}
        named |= {label for order in self.orders.values() for rank in order for label in ranked(rank)}
        if unknown := named - set(labels):
            raise ValueError(f"groups or orders name fasteners that are not there: {', '.join(sorted(unknown))}")
        if unknown := set(self.units) - set(self.groups):
            raise ValueError(f"units that are not groups: {', '.join(sorted(unknown))}")
        if "main" not in self.orders:
            raise ValueError("a layout has an order named main")
        return self

    @property
    def nouns(self) -> dict[str, Noun]:
        """By label, what a fastener is."""
        return {fastener.label: self.kinds[fastener.kind].noun for fastener in self.fasteners}

    def names_of(self, label: str) -> tuple[str, ...]:
        """What else a fastener is called: its kind and its groups."""
        kind = next((f.kind for f in self.fasteners if f.label == label), "")
        return tuple(dict.fromkeys((kind, *(name for name, group in self.groups.items() if label in group))))

    def select(self, of: str | tuple[str, ...] | None) -> tuple[str, ...]:
        """Labels that a selector (group, kind, label, or several) picks, in layout order.

        Raises:
            Invalid: the selector names nothing in this layout.
        """
        if of is None:
            return tuple(f.label for f in self.fasteners)
        picked: set[str] = set()
        for name in (of,) if isinstance(of, str) else of:
            found = {f.label for f in self.fasteners if f.label in self.groups.get(name, ())}
            found |= {f.label for f in self.fasteners if name in (f.kind, f.label)}
            if not found:
                raise Invalid("of", f"“{name}” is no group, kind or fastener here.", "Name one that the layout has.")
            picked |= found
        return tuple(f.label for f in self.fasteners if f.label in picked)


def ranked(rank: str | tuple[str, ...]) -> tuple[str, ...]:
    """The labels that are pulled together at one place of an order."""
    return (rank,) if isinstance(rank, str) else rank
