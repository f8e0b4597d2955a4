"""Known ways to tune, one file each."""

from tickstone.core.control.tuning.relay import RelayRule
from tickstone.core.control.tuning.rule import TuningRule
from tickstone.core.control.tuning.simc import Simc
from tickstone.core.control.tuning.ziegler_nichols import ZieglerNicholsEdge, ZieglerNicholsStep

TUNING_RULES: dict[str, TuningRule] = {
    one.name: one for one in (Simc(), RelayRule(), ZieglerNicholsEdge(), ZieglerNicholsStep())
}
