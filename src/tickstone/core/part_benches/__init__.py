"""Sums about parts: a file for each bench, registered here. Screens and commands follow."""

from __future__ import annotations

from tickstone.core.part_benches.bench import PartBench
from tickstone.core.part_benches.colour_bands import ColourBandsBench
from tickstone.core.part_benches.combining import CombiningBench
from tickstone.core.part_benches.commutation import CommutationBench
from tickstone.core.part_benches.counts_volts import CountsVoltsBench
from tickstone.core.part_benches.current_budget import CurrentBudgetBench
from tickstone.core.part_benches.divider import DividerBench
from tickstone.core.part_benches.led_resistor import LedResistorBench
from tickstone.core.part_benches.line_row import LineRowBench
from tickstone.core.part_benches.photo_load import PhotoLoadBench
from tickstone.core.part_benches.pull_up import PullUpBench
from tickstone.core.part_benches.pulse_timer import PulseTimerBench
from tickstone.core.part_benches.rc_filter import RcFilterBench

PART_BENCHES: dict[str, type[PartBench]] = {
    bench.name: bench
    for bench in (
        LedResistorBench,
        DividerBench,
        PullUpBench,
        PhotoLoadBench,
        CurrentBudgetBench,
        ColourBandsBench,
        CombiningBench,
        CountsVoltsBench,
        RcFilterBench,
        CommutationBench,
        PulseTimerBench,
        LineRowBench,
    )
}
