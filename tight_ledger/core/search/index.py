"""What a spec is found by: the entries of each dimension, the texts, the years, and what a hit shows of it."""

import hashlib

from pydantic import TypeAdapter

from tight_ledger.core.base.models import Model, canonical
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.library.revisions import Status, in_force
from tight_ledger.core.library.sheet import hand_words, main_procedure, stages_of, thread_words
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.planning.stages import Stages
from tight_ledger.core.search.matching import FIRST_YEAR, tokens, with_synonyms
from tight_ledger.core.specs.applicability import Applies
from tight_ledger.core.specs.spec import Spec, System

ANY_FROM, ANY_TO = 0, 9999
"""The years of a spec that states none."""
CURRENT, DRAFT, WAITING, SUPERSEDED, WITHDRAWN = 0, 1, 2, 3, 4
"""How a revision stands in a search: worked to and checked; worked to and unchecked; a draft behind one that is worked
to; superseded; out of use."""
NOT_WORTH_A_SEARCH = frozenset(
    {
        "an", "and", "are", "as", "at", "be", "by", "for", "from", "in", "is", "it", "its", "no", "not", "of", "on", "or", "that",
        "the", "to", "with",
    }
)  # fmt: skip


class Who(Model):
    """Whose machine it is for."""

    maker: str
    model: str
    variant: dict[str, str] = {}

    def strong(self) -> list[str]:
        """What says most of it."""
        joined = self.model.casefold().replace("-", "").replace(" ", "")
        return [*tokens(f"{self.maker} {self.model}"), joined]

    def words(self) -> list[str]:
        """What else it is found by."""
        return tokens(" ".join(self.variant.values()))

    @property
    def shown(self) -> str:
        """As a hit shows it: `Aldermoor Lapwing, bearing: press-in`."""
        return ", ".join((f"{self.maker} {self.model}", *(f"{name}: {value}" for name, value in self.variant.items())))


class What(Model):
    """Which joint it is."""

    title: str
    joint: str
    system: System
    positions: str
    seat: str

    def strong(self) -> list[str]:
        """What says most of it."""
        return tokens(self.title)

    def words(self) -> list[str]:
        """What else it is found by."""
        return with_synonyms(tokens(f"{self.title} {self.joint} {self.positions} {self.seat}"))


class Fastened(Model):
    """What holds it."""

    count: int
    threads: str
    kinds: tuple[str, ...]
    hand: str

    def strong(self) -> list[str]:
        """What says most of it."""
        return tokens(f"{self.count} {self.threads}")

    def words(self) -> list[str]:
        """What else it is found by."""
        return tokens(" ".join(self.kinds))


class StageHead(Model):
    """A stage as a hit shows it."""

    words: str
    main: bool


class KindHead(Model):
    """What is done to a kind of fastener, stage after stage; of the joint as a whole if `named` is empty."""

    named: str
    stages: tuple[StageHead, ...]


KIND_HEADS: TypeAdapter[tuple[KindHead, ...]] = TypeAdapter(tuple[KindHead, ...])


class IndexEntry(Model):
    """One spec revision for one kind of machine, as the search holds it."""

    who: Who
    what: What
    fasteners: Fastened
    notes: str
    source: str
    year_from: int
    year_to: int
    figures: tuple[KindHead, ...]
    trust: str
    """The grade of its source, and its year: `maker's manual, 2021`."""
    low_nm: float | None = None
    high_nm: float | None = None
    """The last torque of the first kind of fastener."""
    applies: Applies


def key(model: Model | str) -> int:
    """A number for a content: the first 63 bits of its SHA-256."""
    raw = model.encode() if isinstance(model, str) else canonical(model)
    return int.from_bytes(hashlib.sha256(raw).digest()[:8], "big") >> 1


def text_words(text: str) -> list[str]:
    """The words of a note or a source that are worth a search."""
    return [word[:40] for word in dict.fromkeys(tokens(text)) if word not in NOT_WORTH_A_SEARCH and len(word) > 1]


def entries(spec: Spec) -> list[IndexEntry]:
    """One for each kind of machine that the spec is for."""
    done = stages_of(spec, main_procedure(spec), Policy())
    last = done.kinds[0].last if done.kinds else None
    kinds = tuple(
        part
        for name, kind in spec.layout.kinds.items()
        for part in (name, kind.property_class, kind.coating, kind.note, kind.condition)
        if part
    )
    what = What(title=spec.title, joint=spec.joint, system=spec.system, positions=spec.positions.words, seat=spec.seat)
    held = Fastened(count=len(spec.layout.fasteners), threads=thread_words(spec), kinds=kinds, hand=hand_words(spec))
    notes = " · ".join((spec.condition, *spec.cautions, *spec.orientation, spec.proof.answer))
    return [
        IndexEntry(
            who=Who(maker=applies.maker, model=applies.model, variant=applies.variant),
            what=what,
            fasteners=held,
            notes=notes,
            source=f"{spec.source.document} {spec.source.edition} {spec.source.grade}",
            year_from=applies.year_from or (ANY_FROM if applies.year_to is None else FIRST_YEAR),
            year_to=applies.year_to or ANY_TO,
            figures=heads(done),
            trust=f"{spec.source.grade}, {spec.source.year}" if spec.source.year else spec.source.grade,
            low_nm=last.low if last is not None else None,
            high_nm=last.high if last is not None else None,
            applies=applies,
        )
        for applies in spec.applies_to
    ]


def heads(done: Stages) -> tuple[KindHead, ...]:
    """The stages as a hit shows them, kind by kind, and what is measured on the joint."""
    rows = [(row.named, row.stages) for row in done.kinds] + ([("", done.joint)] if done.joint else [])
    return tuple(
        KindHead(named=named, stages=tuple(StageHead(words=stage.words, main=stage.main) for stage in stages))
        for named, stages in rows
        if stages
    )


def standing(found: dict[int, Status], revision: int) -> int:
    """How a revision stands in a search, of the statuses of all revisions of its spec."""
    status = found[revision]
    if status == "withdrawn":
        return WITHDRAWN
    if in_force(found) == revision:
        return CURRENT if status == "current" else DRAFT
    return WAITING if status == "draft" else SUPERSEDED


def machine_names(machine: Machine) -> list[str]:
    """What a machine is called by: fleet number, serial, registration, VIN, whole and in parts."""
    said = tokens(f"{machine.fleet_number} {machine.serial} {machine.registration}")
    joined = (text.casefold().replace("-", "").replace(" ", "") for text in (machine.fleet_number, machine.registration, machine.vin))
    return [*said, *(word for word in joined if word)]


def machine_words(machine: Machine) -> list[str]:
    """What else it is found by."""
    return tokens(machine.what)
