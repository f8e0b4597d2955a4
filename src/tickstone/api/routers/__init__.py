"""One file for each kind of thing; all of them are registered in `ROUTERS`."""

from tickstone.api.routers import (
    calibrations,
    examples,
    families,
    imports,
    marks,
    parts,
    recordings,
    rigs,
    sensors,
    thresholds,
    timing,
    wiring,
)

ROUTERS = (
    rigs.router,
    sensors.router,
    imports.router,
    examples.router,
    recordings.router,
    marks.router,
    calibrations.router,
    thresholds.router,
    families.router,
    wiring.router,
    timing.router,
    parts.router,
)
