"""Torque over angle, pull by pull, and which of a joint's fasteners is the odd one."""

import hashlib
import json
from uuid import UUID, uuid5

from tight_ledger.core.base.models import Model
from tight_ledger.core.records.entries import TIGHTENING
from tight_ledger.core.runs.outliers import Agreement, Odd
from tight_ledger.core.runs.outliers import of_run as scatter_of
from tight_ledger.core.runs.prompt import stage_words
from tight_ledger.services.context import Context
from tight_ledger.store import attachments as attachment_store


def curve_id(entry_id: UUID) -> UUID:
    """The id under which the curve of an entry is kept."""
    return uuid5(entry_id, "curve")


class Curve(Model):
    """One pull's curve, at the wrench."""

    entry: UUID
    pull: str
    pass_id: str
    stage: str
    fastener: str
    degrees: tuple[float, ...]
    torques_nm: tuple[float, ...]
    """The torque at each of `degrees` [N·m]."""


class Curves(Model):
    """The curves of a run, how the readings of each pass agree, and what stands out."""

    curves: tuple[Curve, ...]
    passes: tuple[Agreement, ...]
    odd: tuple[Odd, ...]


async def of_run(context: Context, run_id: UUID) -> Curves:
    """The curves of a run's pulls that count, by time, and the fasteners that stand out. A file that is not the curve whose digest
    the entry names is left out.

    Raises:
        NotOnFile: no run has this id.
    """
    run = await context.run(run_id)
    passes = {pull.id: pass_.id for pass_ in run.started.plan.passes for pull in pass_.pulls}
    words = stage_words(run.started.plan)
    told = [e for e in run.entries if e.kind in TIGHTENING and e.curve is not None and e.pull in passes and e.id in run.state.live]
    kept = await context.database.run(lambda connection: attachment_store.contents(connection, [curve_id(entry.id) for entry in told]))
    found = tuple(
        Curve(
            entry=entry.id, pull=entry.pull or "", pass_id=passes[entry.pull or ""], stage=words[passes[entry.pull or ""]],
            fastener=entry.fastener or "", degrees=degrees, torques_nm=torques,
        )
        for entry in told
        if curve_id(entry.id) in kept and hashlib.sha256(kept[curve_id(entry.id)]).hexdigest() == entry.curve
        for degrees, torques in (zip(*json.loads(kept[curve_id(entry.id)]), strict=True),)
    )  # fmt: skip
    counting = [entry for entry in run.entries if entry.id in set(run.state.live)]
    scatter = scatter_of(run.started.plan, counting)
    return Curves(curves=found, passes=scatter.passes, odd=scatter.odd)
