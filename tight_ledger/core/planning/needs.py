"""What a procedure asks of a wrench: each step's torque or angle, by kind of fastener. No setting yet, no plan."""

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.specs.spec import Spec, advised_settings, pick_figure, takes_final_check, torque_band, walk
from tight_ledger.core.specs.steps import Angle, Check, StepBase, Torque


class Need(Model):
    """A figure that one step asks for at some fasteners."""

    step: str
    labels: tuple[str, ...]
    words: str
    """`stage 2 of 3`, `check`, `angle`; with the kind of fastener if the step has several figures."""
    band: Band | None
    """At the fastener [N·m]; None for an angle without a watched torque."""
    angle: Band | None = None
    """[degrees]"""


def needs(spec: Spec, procedure: str, policy: Policy, of: str | tuple[str, ...] | None = None) -> tuple[Need, ...]:
    """The figures of a procedure, in the sequence of its steps.

    Args:
        of: only for the fasteners that this selects.
    Raises:
        Invalid: no such procedure, a fastener without a figure, or a selector that names nothing.
    """
    every = list(walk(spec.steps_of(procedure)))
    if policy.final_check and takes_final_check(spec, procedure):
        every.append(Check(id="+check", kind="check"))
    torques = [step.id for step in every if isinstance(step, Torque) and not step.is_found]
    chosen = set(spec.layout.select(of))
    found: list[Need] = []
    for step in every:
        stage = f"stage {torques.index(step.id) + 1} of {len(torques)}" if step.id in torques else step.kind
        labels = [label for label in spec.layout.select(step.of) if label in chosen]
        found += _of_step(spec, step, stage, labels)
    return tuple(found)


def _of_step(spec: Spec, step: StepBase, stage: str, labels: list[str]) -> list[Need]:
    """One need for each figure of a step, with the fasteners that it is for."""
    rows: dict[tuple[Band | None, Band | None], list[str]] = {}
    for label in labels:
        if isinstance(step, Torque) and step.ladder:
            for rung in step.ladder:
                rows.setdefault((rung, None), []).append(label)
        elif isinstance(step, Torque) and step.set_by is not None:
            figures = advised_settings(spec, step)
            for setting_nm in (figures.settings()[0], figures.most_nm):
                rows.setdefault((figures.band_at(setting_nm), None), []).append(label)
        elif (isinstance(step, Torque) and step.found is None) or isinstance(step, Check):
            rows.setdefault((torque_band(spec, step, label), None), []).append(label)
        elif isinstance(step, Angle):
            watch = None if step.watch is None else pick_figure(spec.layout, step.watch, label, step.id)
            rows.setdefault((watch, pick_figure(spec.layout, step.at, label, step.id)), []).append(label)
    kinds = {fastener.label: fastener.kind for fastener in spec.layout.fasteners}
    return [
        Need(
            step=step.id, labels=tuple(labels), band=band, angle=angle,
            words=stage if len(rows) == 1 else f"{stage}, {' and '.join(dict.fromkeys(kinds[label] for label in labels))}",
        )
        for (band, angle), labels in rows.items()
    ]  # fmt: skip
