"""One file for each kind of thing; all of them are registered in `ROUTERS`."""

from tickstone.api.routers import (
    calibrations,
    examples,
    imports,
    marks,
    recordings,
    rigs,
    sensors,
    thresholds,
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
)
