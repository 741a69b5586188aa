"""A simulated gauge on a simulated joint: what it shows answers to what was done in the run. Invented, not measured."""

import random
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from tight_ledger.core.simulation.adjustables import (
    ScatteredGauge,
    SimulatedBolt,
    SimulatedCarrier,
    SimulatedHub,
    SimulatedSleeve,
    SimulatedSpacer,
    SimulatedThrust,
)


@dataclass(frozen=True, slots=True)
class ToRead:
    """What is to be read, in stored units."""

    by: str = ""
    """The adjuster that uses the reading; empty if none does."""
    at: float = 0.0
    """The present setting: positions or degrees from the start, a thickness, a torque."""
    travel: float = 0.05
    """Of a hub, what one position moves [mm]."""
    low: float | None = None
    high: float | None = None


Made = Any
"""A simulated joint of `adjustables`."""


@dataclass
class SimulatedJoint:
    """One joint: a hub, a pinion, a ring gear, a shaft or a bolt, made at its first reading."""

    seed: int = 1
    graduation: float = 0.01
    _made: dict[str, Made] = field(default_factory=dict)
    _stands: dict[str, float] = field(default_factory=dict)
    """By what is read and where, the setting at its last reading."""
    _truths: dict[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._chance = random.Random(self.seed)

    def truth(self, wanted: ToRead, fastener: str) -> float:
        """What a perfect gauge would show; the same until something is changed."""
        place = f"{wanted.by} {fastener}"
        before = self._stands.get(place)
        if before is None or before != wanted.at or not wanted.by:
            self._stands[place] = wanted.at
            answers = _ANSWERS.get(wanted.by, _no_adjuster)
            self._truths[place] = answers(self, wanted, fastener, wanted.at - (before or 0.0))
        return self._truths[place]

    def joint(self, name: str, make: Callable[[random.Random], Made]) -> Made:
        """The joint of a name, made once."""
        if name not in self._made:
            self._made[name] = make(self._chance)
        return self._made[name]

    def shows(self, wanted: ToRead, fastener: str) -> float:
        """What is read, with the scatter and the slips of a hand."""
        return ScatteredGauge(self._chance, self.graduation).shows(self.truth(wanted, fastener))


def _hub(joint: SimulatedJoint, wanted: ToRead, _fastener: str, moved: float) -> float:
    hub = joint.joint("hub", lambda chance: SimulatedHub.made(chance, wanted.travel))
    hub.turn(moved)
    return float(hub.dial())


def _pinion(joint: SimulatedJoint, wanted: ToRead, _fastener: str, moved: float) -> float:
    pinion = joint.joint("pinion", SimulatedSleeve.made)
    if moved > 0:
        pinion.turn(moved)
    return float(pinion.play_mm() if wanted.by == "take-up" else pinion.drag_nm())


def _no_adjuster(_joint: SimulatedJoint, wanted: ToRead, _fastener: str, _moved: float) -> float:
    return (wanted.low + wanted.high) / 2 if wanted.low is not None and wanted.high is not None else 0.0


_ANSWERS: dict[str, Callable[[SimulatedJoint, ToRead, str, float], float]] = {
    "hub": _hub,
    "take-up": _pinion,
    "sleeve": _pinion,
    "spacer": lambda joint, wanted, _fastener, _moved: joint.joint("spacer", lambda c: SimulatedSpacer.made(c, wanted.at)).drag_nm(
        wanted.at
    ),
    "carrier": lambda joint, wanted, _fastener, _moved: joint.joint("carrier", SimulatedCarrier.made).reads(wanted.at),
    "thrust": lambda joint, wanted, _fastener, _moved: joint.joint("thrust", lambda c: SimulatedThrust.made(c, wanted.at)).reads(wanted.at),
    "stretch": lambda joint, wanted, fastener, _moved: joint.joint(f"bolt {fastener}", SimulatedBolt.made).stretch_mm(wanted.at),
}
