"""Hubs, sleeves, spacers, carriers and bolts that answer to what is done to them, with friction, seating, scatter and slips.

What is assumed is in each class; it is invented, not measured. Figures are in stored units.
"""

import math
import random
from dataclasses import dataclass

SLEEVE_PITCH_MM = 1.5
"""Pitch of the simulated pinion nut."""


@dataclass(slots=True)
class ScatteredGauge:
    """An instrument in a hand: its graduation, its scatter in graduations, and how often a reading is a slip."""

    chance: random.Random
    graduation: float
    scatter: float = 0.35
    slips: float = 0.01

    def shows(self, truth: float) -> float:
        """What is read for a true figure: never below nothing, in halves of a graduation."""
        read = truth + self.chance.gauss(0, self.scatter * self.graduation)
        if self.chance.random() < self.slips:
            read += self.chance.choice((-1, 1)) * self.chance.uniform(3, 10) * self.graduation
        half = self.graduation / 2
        return max(0.0, round(read / half) * half)


@dataclass(slots=True)
class SimulatedHub:
    """A hub: the play follows the nut by most of the thread's travel; in preload the dial shows only what the parts give."""

    chance: random.Random
    travel_mm: float
    play_mm: float
    """True; below 0 it is preload."""
    follows: float
    """Of the thread's travel."""
    give_mm: float

    @staticmethod
    def made(chance: random.Random, travel_mm: float) -> "SimulatedHub":
        """As it is left by the first rough setting: about a quarter in preload, a third too loose."""
        play = chance.gauss(0.07, 0.09)
        return SimulatedHub(chance, travel_mm, play, chance.uniform(0.8, 1.0), chance.uniform(0, 0.006))

    def turn(self, positions: float) -> None:
        """Loosen by a number of positions; a cone that sticks follows a little late."""
        self.play_mm += positions * self.travel_mm * self.follows * self.chance.uniform(0.95, 1.0)

    def dial(self) -> float:
        """What a perfect dial would show."""
        return max(self.play_mm, 0.0) + self.give_mm


@dataclass(slots=True)
class SimulatedSleeve:
    """A crush sleeve: the drag is the seal's until the bearings meet, then it rises over a bend into a steep line."""

    chance: random.Random
    angle_deg: float
    """Left until the bearings meet; then how far beyond."""
    rise_nm_per_deg: float
    base_nm: float

    @staticmethod
    def made(chance: random.Random) -> "SimulatedSleeve":
        """Met by the play's share of the turn: some degrees are left."""
        return SimulatedSleeve(chance, -chance.uniform(5, 40), 0.12 * chance.lognormvariate(0, 0.3), chance.uniform(0.2, 0.5))

    def turn(self, degrees: float) -> None:
        """Creep on; a long bar lands within a degree of what was meant."""
        self.angle_deg += max(0.5, degrees + self.chance.gauss(0, 0.5))

    def play_mm(self) -> float:
        """The true play, while the bearings have not met."""
        return max(0.0, -self.angle_deg) / 360 * SLEEVE_PITCH_MM

    def drag_nm(self) -> float:
        """The true rotating drag."""
        past = max(self.angle_deg, 0.0)
        return self.base_nm + self.rise_nm_per_deg * (past - 3.0 * (1 - math.exp(-past / 3.0)))


@dataclass(slots=True)
class SimulatedThrust:
    """A crankshaft between washers: a thicker one takes as much off the end play."""

    play_mm: float
    start_mm: float

    @staticmethod
    def made(chance: random.Random, start_mm: float) -> "SimulatedThrust":
        """As it is with the washers that are in it."""
        return SimulatedThrust(chance.uniform(0.05, 0.35), start_mm)

    def reads(self, washer_mm: float) -> float:
        """The true end play."""
        return max(0.0, self.play_mm - (washer_mm - self.start_mm))


@dataclass(slots=True)
class SimulatedSpacer:
    """A pinion on a solid spacer: the drag falls with the thickness, a little bent, and seats a little otherwise each time."""

    chance: random.Random
    tight_mm: float
    """The thickness at which the drag is 2 N·m."""
    per_mm: float
    seating_mm: float = 0.003

    @staticmethod
    def made(chance: random.Random, start_mm: float = 12.0) -> "SimulatedSpacer":
        """Within a tenth of a millimetre of what the spec starts with."""
        return SimulatedSpacer(chance, start_mm + chance.uniform(-0.05, 0.05), chance.uniform(20, 45))

    def drag_nm(self, thickness_mm: float) -> float:
        """The true drag with a spacer that is fitted now."""
        off = self.tight_mm - thickness_mm + self.chance.gauss(0, self.seating_mm)
        return max(0.2, 2.0 + self.per_mm * off * (1 + 2.0 * max(off, -0.1)))


@dataclass(slots=True)
class SimulatedCarrier:
    """A ring gear between shims: the backlash falls by a ratio of what is moved towards it."""

    chance: random.Random
    backlash_mm: float
    ratio: float
    seating_mm: float = 0.006

    @staticmethod
    def made(chance: random.Random) -> "SimulatedCarrier":
        """As it comes back after new bearings."""
        return SimulatedCarrier(chance, chance.uniform(0.02, 0.60), chance.uniform(0.6, 0.8))

    def reads(self, moved_mm: float) -> float:
        """The true backlash with so much moved towards the ring gear."""
        return max(0.0, self.backlash_mm - self.ratio * moved_mm + self.chance.gauss(0, self.seating_mm))


@dataclass(slots=True)
class SimulatedBolt:
    """A rod bolt: torque stretches it by its friction, until it yields."""

    chance: random.Random
    mm_per_nm: float
    yields_mm: float

    @staticmethod
    def made(chance: random.Random, scatter: float = 0.06, usual: float = 0.165 / 60) -> "SimulatedBolt":
        """One of a set whose friction differs by a share."""
        return SimulatedBolt(chance, usual * max(0.5, chance.gauss(1, scatter)), 0.24)

    def stretch_mm(self, torque_nm: float) -> float:
        """The true stretch; each pull finds a little other friction."""
        return self.mm_per_nm * torque_nm * self.chance.gauss(1, 0.01)
