"""The registry of the kinds of step. A new kind is a module, its shape in `specs/steps.py`, and a line here."""

from tight_ledger.core.kinds.adjust import ADJUST_STEP
from tight_ledger.core.kinds.align import ALIGN
from tight_ledger.core.kinds.angle import ANGLE
from tight_ledger.core.kinds.check import CHECK
from tight_ledger.core.kinds.do import DO
from tight_ledger.core.kinds.each import EACH
from tight_ledger.core.kinds.loosen import LOOSEN
from tight_ledger.core.kinds.measure import MEASURE
from tight_ledger.core.kinds.repeat import REPEAT
from tight_ledger.core.kinds.rotate import ROTATE
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.kinds.stop import STOP
from tight_ledger.core.kinds.torque import TORQUE
from tight_ledger.core.kinds.turns import TURNS

KINDS: Registry = {
    kind.name: kind for kind in (TORQUE, ANGLE, TURNS, LOOSEN, ALIGN, CHECK, ROTATE, MEASURE, ADJUST_STEP, DO, STOP, EACH, REPEAT)
}  # fmt: skip
