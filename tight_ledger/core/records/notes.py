"""One line of a stream that is not a run's."""

from datetime import datetime
from typing import Literal
from uuid import UUID

from pydantic import Field

from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import Role
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.tools.calibrations import Calibration

NoteKind = Literal[
    "added", "meter_read", "entered", "checked", "withdrawn", "described",
    "calibrated", "quarantined", "cleared", "put_away", "reviewed", "chosen", "restored", "registered", "retired", "named",
    "pin_changed", "pin_reset", "left", "unlocked", "roles_set", "introduced", "lost", "erased", "happened", "formed",
    "used_up", "returned", "sized", "held", "lifted", "filed",
]  # fmt: skip


class Note(Model):
    """One line of a stream that is not a run's: a machine's, a spec's, a person's."""

    id: UUID
    stream: UUID
    subject: Literal["machine", "spec", "person", "tool", "shop", "instrument", "tablet", "hold", "file"]
    kind: NoteKind
    seq: int = Field(ge=1)
    v: Literal[1] = 1
    by: UUID | None = None
    device: UUID | None = None
    at_server: datetime
    meter: Meter | None = None
    revision: int | None = None
    digest: str | None = None
    library: str | None = None
    """Of a spec that came by a signed library: the public key that signed it."""
    text: str | None = None
    attribute: str | None = None
    value: str | None = None
    """Of what was found out about a machine: `bearing` is `press-in`."""
    roles: tuple[Role, ...] | None = None
    """The roles that a person has from now on."""
    followup: str | None = None
    """Of an event, the follow-up that waited for it."""
    calibration: Calibration | None = None
    figure: float | None = None
    """Of a shim that was measured: its thickness [mm]. Of a restore: the epoch that begins."""
    run: UUID | None = None
    """The run that was looked at again; of an event, the run whose follow-up waited for it."""
    machine: UUID | None = None
    since: datetime | None = None
    until: datetime | None = None
    """Of a hold: what it keeps, the machine, the period, or both."""
