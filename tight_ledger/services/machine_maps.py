"""A machine from above, with how every joint on it stands."""

from collections.abc import Sequence
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.runs.machine_map import DueAt, JointKnown, MachineMap, machine_map
from tight_ledger.services.context import Context, Remembered
from tight_ledger.services.specs.search import find
from tight_ledger.services.standing import OpenFollowup, place_now
from tight_ledger.store import specs as spec_store

MOST_SPECS = 200
"""Of one machine, on its page."""


async def specs_for(context: Context, machine_id: UUID) -> list[tuple[UUID, int]]:
    """The specs that fit a machine and are in force, by id and revision.

    Raises:
        NotOnFile: no machine has this id.
    """
    return [(hit.spec, hit.revision) for hit in (await find(context, "", machine_id, most=MOST_SPECS)).hits]


async def map_of(
    connection: AsyncConnection,
    machine: Machine,
    fitting: Sequence[tuple[UUID, int]],
    governing: Sequence[Remembered],
    followups: Sequence[OpenFollowup],
) -> MachineMap:
    """A machine as it is drawn.

    Args:
        fitting: the specs that fit it, by id and revision.
        governing: of each joint and place, the run that says how it stands.
        followups: its open ones, the most urgent first.
    """
    worked = {run.row.spec_id for run in governing}
    specs = sorted(await spec_store.read_many(connection, set(fitting)), key=lambda spec: (spec.id not in worked, spec.system, spec.title))
    due: dict[tuple[str, str], DueAt] = {}
    for each in followups:
        words = each.due.words if each.due.status == "waiting" else f"{each.due.status}: {each.due.words or each.due.procedure}"
        at = DueAt(position_key=each.position_key, joint=each.joint, status=each.due.status, words=words, procedure=each.due.procedure)
        due.setdefault((each.position_key, each.joint), at)
    return machine_map(machine.form, specs, [_known(run, machine) for run in governing], list(due.values()))


def _known(run: Remembered, machine: Machine) -> JointKnown:
    now = place_now(run, machine, "")
    return JointKnown(
        position=run.started.position, joint=run.row.joint, standing=now.standing, run=now.run, at=now.at, touched=not now.untouched,
    )  # fmt: skip
