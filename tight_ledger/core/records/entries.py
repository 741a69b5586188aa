"""Entries: what happened, by whom, recorded by whom, when, with what, on what evidence. Never what it means."""

from datetime import datetime, timedelta
from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field, StringConstraints

from tight_ledger.core.adjust.proposals import Proposal
from tight_ledger.core.base.bands import Reading
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.moments import DeviceTime
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.records.facts import RunFacts
from tight_ledger.core.records.plans import Plan, Tooling
from tight_ledger.core.tools.dials import SeenNeedle
from tight_ledger.core.tools.gauges import GaugeNow
from tight_ledger.core.tools.inventory import Support
from tight_ledger.core.tools.pieces import PieceNow
from tight_ledger.core.tools.wrenches import Setting

RunKind = Literal[
    "started", "retooled", "set", "confirmed", "pulled", "loosened", "checked", "turned", "measured", "adjusted", "replaced",
    "noted", "undone", "clarified", "paused", "resumed", "handed_over", "deviated", "flagged", "vouched", "finished", "signed",
    "printed",
]  # fmt: skip
Outcome = Literal["good", "released", "do not move", "abandoned"]
WELL: tuple[Outcome, ...] = ("good", "released")
"""The outcomes of a run after which its joint needs no further attention."""

PHYSICAL: frozenset[str] = frozenset(
    {"set", "confirmed", "pulled", "loosened", "checked", "turned", "measured", "adjusted", "replaced", "noted", "paused", "resumed",
     "printed"}
)  # fmt: skip
"""Kinds that say what physically happened: never refused for coming late."""

ANSWERING: frozenset[str] = frozenset({"pulled", "checked", "loosened", "turned", "measured", "adjusted", "confirmed"})
"""Kinds that answer a pull of the plan; which kind of step each answers is in the registry of kinds."""
TIGHTENING: frozenset[str] = frozenset({"pulled", "checked"})
WITH_A_TOOL: frozenset[str] = TIGHTENING | {"measured"}
"""Kinds that count as a use of the wrench or the gauge that they name."""
ENTRY_VERSION: Literal[2] = 2
"""Version of the shape of an entry. Older ones are lifted (`upcasting.py`)."""


MOST_SEQ = 10_000_000
"""Largest number of an entry in its stream."""
FlagCode = Literal["contested", "differs", "right_ended", "brought_back", "notice", "recalled", "kept_back"]
Word = Annotated[str, StringConstraints(max_length=200)]


class Started(Model):
    """Everything that a run needs to be read again, whole."""

    plan: Plan
    spec_revision: int
    tooling: tuple[Tooling, ...]
    policy: Policy
    machine: UUID
    position: Position
    meters: tuple[Meter, ...] = ()
    supports: tuple[Support, ...] = ()
    proof: str
    parent: UUID | None = None
    followup: str | None = None
    bolts: str | None = None
    """What was said of fasteners that earlier runs here turned into yield: `all new`, or `measured`; None if nothing was asked."""
    sheets_recorded: bool = False
    """Whether each printing of its sheet is an entry; False for runs from before."""
    engine: str
    core: str | None = None
    """Digest of the core that compiled the plan; see `base.source`. None for runs from before it was kept."""
    facts: RunFacts | None = None
    """None for runs from before they were sealed."""
    stock: tuple[PieceNow, ...] = ()
    """The shims and spacers that go there, as they were known at the start."""
    gauges: tuple[GaugeNow, ...] = ()
    """What can read its bands, and how it stood at the start."""


class Adjusted(Model):
    """What was done to a setting: by how much it was changed, or to what."""

    by: float | None = Field(default=None, ge=-100_000, le=100_000)
    to: float | None = Field(default=None, ge=0, le=100_000)


class Report(Model):
    """What a device says happened. The server adds who recorded it, when it came, and its place."""

    id: UUID
    kind: RunKind
    by: UUID
    at_device: DeviceTime
    claimed_seq: int | None = Field(default=None, ge=1, le=MOST_SEQ)
    pull: str | None = Field(default=None, max_length=200)
    fastener: str | None = Field(default=None, max_length=40)
    tools: tuple[UUID, ...] | None = Field(default=None, max_length=20)
    setting: Setting | None = None
    rung: str | None = Field(default=None, max_length=60)
    reading: Reading | None = None
    needle: SeenNeedle | None = None
    """Where the needle of its dial stands; the reading is worked out from it."""
    how: Literal["click", "typed", "wire", "gauge", "eye"] | None = None
    """On what evidence."""
    from_paper: bool | None = None
    """Whether it was done before, with the run printed; `at_device` says when."""
    unproven: bool | None = None
    """Whether the person picked a name at a tablet without the server, and typed no PIN."""
    counts: Literal["swing", "total"] | None = None
    end_torque: Reading | None = None
    """Of an angle, where the wrench tells."""
    turned: Reading | None = None
    """Of a torque, how far it went meanwhile [°]."""
    curve: str | None = Field(default=None, max_length=80)
    """Digest of the curve of torque over angle, which is kept beside the ledger."""
    moved: bool | None = None
    option: str | None = Field(default=None, max_length=40)
    adjusted: Adjusted | None = None
    method: str | None = Field(default=None, max_length=40)
    """Of a reading: how somebody says that it was taken."""
    undoes: UUID | None = None
    about: UUID | None = None
    """What this decides: the second of two entries for one pull, or an entry that the server flagged."""
    corrects: UUID | None = None
    told: tuple[Word, ...] | None = Field(default=None, max_length=40)
    affirmed: tuple[Word, ...] | None = Field(default=None, max_length=40)
    text: str | None = Field(default=None, max_length=2_000)
    files: tuple[Word, ...] | None = Field(default=None, max_length=20)

    @property
    def is_timed(self) -> bool:
        """Whether it was recorded as it happened, so that its moment says something about the pace of a hand."""
        return not self.from_paper


class Flag(Model):
    """What the server found when an entry arrived that it could not look at when it was made."""

    code: FlagCode
    words: str = Field(default="", max_length=1_000)
    run: UUID | None = None
    """Of a contested place, the other run."""
    notice: UUID | None = None
    """What happened elsewhere: the id of its entry in the ledger."""


class Entry(Report):
    """One line of a run's stream, as it is sealed."""

    run: UUID
    seq: int = Field(ge=1)
    v: Literal[2] = ENTRY_VERSION
    recorded_by: UUID
    device: UUID
    at_server: datetime
    skew_ms: int = 0
    waited_ms: int | None = None
    """How long it was kept on its tablet before it was sent [ms], as the tablet says; None for what waited on none."""
    instrument: UUID | None = None
    """The registered instrument that told it, by wire."""
    trial: bool | None = None
    """Whether a simulated wrench told it: practice, no evidence."""
    proposed: Proposal | None = None
    """What the adjuster proposed when a setting was changed."""
    plan: str | None = None
    started: Started | None = None
    outcome: Outcome | None = None
    reasons: tuple[str, ...] | None = None
    flags: tuple[Flag, ...] | None = None

    @property
    def done_at(self) -> datetime:
        """When it happened, by the server's clock: when it came, less what it had waited on its tablet."""
        return self.at_server - timedelta(milliseconds=self.waited_ms or 0)

    @property
    def in_conflict(self) -> bool:
        """Another entry had taken the place that the device thought was next."""
        return self.claimed_seq is not None and self.claimed_seq != self.seq
