"""Any number of generated specs of invented makers, as rows that a search reads. The same seed gives the same specs."""

import json
import random
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from tight_ledger.core.base.models import canonical
from tight_ledger.core.search.index import ANY_FROM, ANY_TO, KIND_HEADS, Fastened, KindHead, StageHead, What, Who, key
from tight_ledger.core.search.matching import DIMENSIONS, Dimension
from tight_ledger.core.specs.applicability import Applies
from tight_ledger.core.specs.spec import System

SPECS_A_MODEL = 120
_STARTS = (
    "Ald", "Brack", "Corm", "Dunn", "Eller", "Farr", "Gorse", "Hax", "Ing", "Jarl", "Kest", "Lorn", "Marr", "Nesk", "Orm", "Pell",
    "Quar", "Rusk", "Stour", "Tarn", "Ulv", "Varr", "Wend", "Yar", "Zell",
)  # fmt: skip
_ENDS = (
    "moor", "by", "holm", "oake", "wick", "den", "ford", "ley", "mere", "stead", "thorp", "ton", "well", "worth", "bury", "dale",
)  # fmt: skip
_MODELS = (
    "Heron", "Curlew", "Lapwing", "Plover", "Pintle", "Drover", "Bollard", "Capstan", "Causeway", "Standfast", "Gannet", "Dunlin",
    "Teal", "Widgeon", "Fulmar", "Skua",
)  # fmt: skip
_PLACES = ("", "front", "rear", "left", "right", "front left", "rear right", "inner", "outer", "upper", "lower")
_JOINTS: tuple[tuple[str, str, System], ...] = (
    ("Wheel nuts", "wheel", "wheels and hubs"), ("Wheel bolts", "wheel", "wheels and hubs"), ("Hub nut", "hub nut", "wheels and hubs"),
    ("Hub bearing", "wheel bearing", "wheels and hubs"), ("Axle nut", "axle nut", "wheels and hubs"),
    ("Cylinder head", "cylinder head", "engine"), ("Main bearing caps", "main cap", "engine"), ("Rod caps", "rod cap", "engine"),
    ("Rocker shaft", "rocker shaft", "engine"), ("Exhaust manifold", "manifold", "engine"), ("Intake manifold", "manifold", "engine"),
    ("Sump", "sump", "engine"), ("Cam cover", "cover", "engine"), ("Flywheel", "flywheel", "engine"),
    ("Crankshaft pulley", "pulley", "engine"), ("Spark plugs", "spark plug", "engine"), ("Glow plugs", "glow plug", "engine"),
    ("Injector clamp", "injector", "engine"), ("Pinion nut", "final drive", "driveline"), ("Ring gear", "final drive", "driveline"),
    ("Carrier caps", "final drive", "driveline"), ("Propshaft flange", "shaft flange", "driveline"),
    ("Half-shaft flange", "axle shaft", "driveline"), ("Gearbox to engine", "gearbox", "driveline"),
    ("Suspension arm", "suspension arm", "suspension and steering"), ("Ball joint", "ball joint", "suspension and steering"),
    ("Track rod end", "steering joint", "suspension and steering"), ("Spring U-bolts", "spring mounting", "suspension and steering"),
    ("Shock absorber", "suspension arm", "suspension and steering"), ("Brake carrier", "brake carrier", "brakes"),
    ("Brake disc", "brake disc", "brakes"), ("Brake hose", "hose fitting", "brakes"), ("Drain plug", "drain plug", "fluids and filters"),
    ("Oil filter", "filter", "fluids and filters"), ("Hydraulic hose", "hose fitting", "fluids and filters"),
    ("Counterweight", "counterweight", "other"),
)  # fmt: skip
_THREADS = tuple(f"M{d}×{p}" for d in (6, 7, 8, 10, 12, 14, 16, 18, 20, 22, 24, 27, 30, 33, 36) for p in (1, 1.25, 1.5, 2))
_KINDS = ("stud", "nut", "bolt", "plug", "cap bolt", "union")
_VARIANTS: tuple[dict[str, str], ...] = ({}, {"bearing": "press-in"}, {"bearing": "hub unit"}, {"driven": "yes"}, {"engine": "AL4"})
_NOTES = (
    "sealant", "gasket", "washer", "dowel", "sleeve", "grease", "copper", "staked", "groove", "marked", "recall", "drilled", "hollow",
    "tapered", "locked", "painted",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Stock:
    """The distinct things that the specs are made of, each with its number."""

    who: list[tuple[int, Who]]
    what: list[tuple[int, What]]
    fasteners: list[tuple[int, Fastened]]
    notes: list[tuple[int, str]]
    sources: list[tuple[int, str]]

    def entries(self) -> Iterator[tuple[Dimension, int, str]]:
        """Every entry of every dimension."""
        for name in DIMENSIONS:
            for number, model in getattr(self, name):
                yield name, number, canonical(model).decode()


def stock(count: int, seed: int = 7) -> Stock:
    """What `count` specs are made of."""
    dice = random.Random(seed)
    makers = sorted({a + b for a in _STARTS for b in _ENDS})
    dice.shuffle(makers)
    models = max(count // SPECS_A_MODEL, 1)
    who = [
        Who(maker=makers[n % len(makers)], model=f"{_MODELS[n // len(makers) % len(_MODELS)]} {1 + n // len(makers) * 3 % 97}", variant=v)
        for n in range(models)
        for v in (_VARIANTS if n % 3 == 0 else _VARIANTS[:1])
    ]
    what = [
        What(title=f"{title}, {place}" if place else title, joint=joint, system=system, positions=place, seat="")
        for title, joint, system in _JOINTS
        for place in _PLACES
    ]
    held = [
        Fastened(count=n, threads=f"{n} × {thread}", kinds=(kind,), hand="right-hand thread")
        for n in (1, 2, 4, 5, 6, 8, 10, 12, 14, 18, 20)
        for thread in _THREADS
        for kind in _KINDS
        if dice.random() < 0.4
    ]
    notes = [" ".join(dice.sample(_NOTES, 5)) + f" {n}" for n in range(2_000)]
    sources = [f"{model.maker} {model.model} workshop manual, edition {dice.randrange(1, 6)}" for model in who]

    def numbered(models: Any) -> list[Any]:
        return [(key(model), model) for model in models]

    return Stock(numbered(who), numbered(what), numbered(held), numbered(notes), numbered(sources))


COLUMNS = (
    "spec_id", "revision", "ordinal", "standing", "who", "what", "fasteners", "notes", "source", "year_from", "year_to", "figures",
    "trust", "low_nm", "high_nm", "applies",
)  # fmt: skip


def _figures(low: int) -> str:
    head = KindHead(named="", stages=(StageHead(words=f"{low}–{low + low // 10} N·m", main=True),))
    return KIND_HEADS.dump_json((head,)).decode()


def rows(count: int, seed: int = 7) -> Iterator[tuple[Any, ...]]:
    """The rows of `count` specs, in the order of COLUMNS."""
    dice = random.Random(seed + 1)
    made = stock(count, seed)
    applies = [canonical(Applies(maker=w.maker, model=w.model, variant=w.variant)).decode() for _, w in made.who]
    for number in range(count):
        at = number * len(made.who) // count
        dated = dice.random() < 0.7
        first = dice.randrange(1990, 2025)
        low = dice.randrange(10, 700)
        yield (
            str(UUID(int=number + 1)), 1, 0, 0 if dice.random() < 0.95 else 1, made.who[at][0], dice.choice(made.what)[0],
            dice.choice(made.fasteners)[0], dice.choice(made.notes)[0], made.sources[at][0], first if dated else ANY_FROM,
            first + dice.randrange(3, 9) if dated else ANY_TO, _figures(low),
            "maker's manual, 2021", low, low + low // 10, applies[at],
        )  # fmt: skip


def described(count: int, seed: int = 7) -> str:
    """What the specs are made of, in figures."""
    made = stock(count, seed)
    return json.dumps({name: len(getattr(made, name)) for name in ("who", "what", "fasteners", "notes", "sources")})
