"""Bolts of one joint act on one another: tightening a bolt presses the part down, and its neighbours lose load.

    w = G F,   G_ij = g · e^(−r_ij / l),   u = (δ I + G) F

u is how far each nut is run down, w how far the part is pressed in at each bolt, δ the compliance of a bolt. A pull on a
bolt changes its own u only; so the loads of all bolts that are tight change by a column of (δ I + G)⁻¹. The reach l and
the give g of a plate on a soft gasket are l = (D / k)^¼ and g = l² / (8 D), with D = E t³ / (12 (1 − ν²)) (Timoshenko,
Theory of Plates and Shells, 57, infinite plate under one load; quoted from memory). That the give fades as e^(−r / l) is a
simplification. As the gasket's stiffness k grows, l and g go to nothing, and each bolt is by itself.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
POISSON = 0.3


def reach_and_give(*, modulus_mpa: float, thick_mm: float, gasket_n_per_mm3: float) -> tuple[float, float]:
    """How far a plate passes a load on [mm], and how far it gives under it [mm/N].

    Args:
        modulus_mpa: of the plate [MPa], above 0.
        thick_mm: thickness of the plate [mm], above 0.
        gasket_n_per_mm3: stiffness of what it lies on, per area [N/mm³], above 0.
    """
    stiff = modulus_mpa * thick_mm**3 / (12 * (1 - POISSON**2))
    reach_mm = (stiff / gasket_n_per_mm3) ** 0.25
    return float(reach_mm), float(reach_mm**2 / (8 * stiff))


@dataclass(frozen=True)
class Interaction:
    """The bolts of a joint, as they act on one another."""

    points: Array
    """(n, 2) [mm]."""
    bolt_mm_per_n: float
    reach_mm: float
    give_mm_per_n: float

    @property
    def give(self) -> Array:
        """G: how far the part is pressed in at each bolt by a newton at another [mm/N], (n, n)."""
        apart = np.linalg.norm(self.points[:, None, :] - self.points[None, :, :], axis=2)
        found: Array = self.give_mm_per_n * np.exp(-apart / self.reach_mm)
        return found

    @property
    def matrix(self) -> Array:
        """δ I + G [mm/N], (n, n): positive definite."""
        return self.bolt_mm_per_n * np.eye(len(self.points)) + self.give

    def taken(self, tight: Sequence[int], pulled: int) -> tuple[Array, float]:
        """What a pull that adds one newton to a bolt does to all.

        Args:
            tight: the bolts that have been pulled so far, this one too.
            pulled: which bolt.
        Returns:
            By bolt the change of its load [N/N], 1 for the bolt itself; and the load for a millimetre run down [N/mm].
        """
        found = np.zeros(len(self.points))
        held = list(tight)
        column = np.linalg.inv(self.matrix[np.ix_(held, held)])[:, held.index(pulled)]
        per_mm = float(column[held.index(pulled)])
        found[held] = column / per_mm
        return found, per_mm

    def lean(self, loads: Array) -> float:
        """How far one side stands deeper than the other [mm]: a plane through how far the part is pressed in.

        Args:
            loads: by bolt [N].
        """
        middle = self.points - self.points.mean(axis=0)
        across = float(2 * np.linalg.norm(middle, axis=1).max()) or 1.0
        plane = np.linalg.lstsq(np.column_stack([middle, np.ones(len(middle))]), self.give @ loads, rcond=None)[0]
        return float(np.hypot(plane[0], plane[1]) * across)


@dataclass(frozen=True)
class Tightening:
    """A pull of a sequence: to a load, or on by a turn."""

    bolt: int
    stage: int
    to_n: float | None = None
    by_mm: float = 0.0
    """How far the nut is run down, where it is turned by an angle."""


Column = Callable[[Sequence[int], int], tuple[Array, float]]


@dataclass(frozen=True)
class PullSequence:
    """Pulls in their order, each with what it does to all bolts."""

    pulls: tuple[Tightening, ...]
    columns: tuple[Array, ...]
    per_mm: tuple[float, ...]
    count: int

    @staticmethod
    def of(pulls: Sequence[Tightening], count: int, column: Column) -> "PullSequence":
        """Prepare a sequence.

        Args:
            count: number of bolts.
            column: `Interaction.taken`, or a simpler model.
        """
        tight: list[int] = []
        columns, per_mm, known = [], [], dict[tuple[int, int], tuple[Array, float]]()
        for pull in pulls:
            if pull.bolt not in tight:
                tight.append(pull.bolt)
            key = (len(tight), pull.bolt)
            if key not in known:
                known[key] = column(tight, pull.bolt)
            columns.append(known[key][0])
            per_mm.append(known[key][1])
        return PullSequence(tuple(pulls), tuple(columns), tuple(per_mm), count)

    def play(self, draws: Array, creep: float = 0.0) -> Array:
        """The loads after each pull of one joint.

        Args:
            draws: by pull, what it comes to over what was meant, (pulls,); ones if nothing scatters.
            creep: share of a load that is new in a pass which the gasket loses after it, 0 to below 1.
        Returns:
            Loads after each pull [N], (pulls, n); the last row is after the last creep.
        """
        loads, history = np.zeros((1, self.count)), []
        settled = np.zeros_like(loads)
        for at in range(len(self.pulls)):
            self._pull(loads, at, draws[None, at])
            if self._ends_stage(at):
                settled = _creep(loads, settled, creep)
            history.append(loads[0].copy())
        return np.array(history)

    def trials(self, draws: Array, creep: float = 0.0) -> Array:
        """The loads at the end, for many joints at once.

        Args:
            draws: what each pull comes to over what was meant, (trials, pulls).
            creep: as of `play`.
        Returns:
            Loads [N], (trials, n).
        """
        loads = np.zeros((len(draws), self.count))
        settled = np.zeros_like(loads)
        for at in range(len(self.pulls)):
            self._pull(loads, at, draws[:, at])
            if creep and self._ends_stage(at):
                settled = _creep(loads, settled, creep)
        return loads

    def _pull(self, loads: Array, at: int, draws: Array) -> None:
        pull = self.pulls[at]
        wanted = None if pull.to_n is None else pull.to_n * draws - loads[:, pull.bolt]
        # A wrench that clicks at once turns nothing; a turn turns whatever is there.
        more = pull.by_mm * self.per_mm[at] * draws if wanted is None else np.maximum(wanted, 0.0)
        loads += more[:, None] * self.columns[at][None, :]
        np.maximum(loads, 0.0, out=loads)

    def _ends_stage(self, at: int) -> bool:
        return at + 1 == len(self.pulls) or self.pulls[at + 1].stage != self.pulls[at].stage


def _creep(loads: Array, settled: Array, share: float) -> Array:
    if share:
        reached = loads.copy()
        loads -= share * np.maximum(loads - settled, 0.0)
        return np.maximum(settled, reached)
    return settled


def scatter_of(loads: Array) -> float:
    """(most − least) / mean; 0 where nothing is tight.

    Args:
        loads: by bolt [N].
    """
    mean = float(loads.mean())
    return float((loads.max() - loads.min()) / mean) if mean > 0 else 0.0
