"""The demo's physical model and the chain are two views of one geometry."""

from __future__ import annotations

import numpy as np

from tickstone.core.air.conditions import AirConditions
from tickstone.core.chains.echo_ranger import RangerParameters, ranger_chain
from tickstone.core.models.ranger import RangerModel
from tickstone.core.signal import Signal

AIR = AirConditions(9.5, 0.7)


def test_the_chain_undoes_the_slant_air_and_mount_of_a_faultless_ranger() -> None:
    """To half a microsecond of rounding, which near the sensor the triangle makes larger."""
    truth = np.linspace(0.03, 3.5, 400)
    time_s = np.arange(len(truth)) * 0.06
    model = RangerModel(AIR, 0.008, 0.0, 1.0, 0.0, 0.0, 0.0)
    echo = model.echoes_us(time_s, truth, [], np.random.default_rng(1))
    parameters = RangerParameters(mount_m=0.008, median_n=1)
    read = ranger_chain(parameters, AIR).apply(Signal.of(time_s, echo))
    np.testing.assert_allclose(read.value, truth, atol=0.00012)
    flat = RangerParameters(mount_m=0.008, median_n=1, baseline_m=0.0)
    without = ranger_chain(flat, AIR).apply(Signal.of(time_s, echo))
    assert without.value[0] - truth[0] > 0.002
