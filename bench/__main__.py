"""``python -m bench``: every benchmark, as ratios to a floor measured in the same run, or in ms.

The soak of the live line takes ten minutes and runs apart: ``python -m bench.live_soak``.
"""

from bench import (
    decisions,
    echo_to_distance,
    edges_to_rpm,
    inertia,
    log_into_store,
    plot_windows,
    rig_page,
    row_of_sensors,
    threshold_drag,
    wiring,
)

for benchmark in (
    echo_to_distance, edges_to_rpm, row_of_sensors, inertia, decisions, log_into_store,
    plot_windows, rig_page, threshold_drag, wiring,
):  # fmt: skip
    print(benchmark.run(), flush=True)
