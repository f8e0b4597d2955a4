"""One file for each kind of thing; all of them are registered in `ROUTERS`."""

from tickstone.api.routers import (
    calibrations,
    examples,
    families,
    imports,
    lines,
    marks,
    parts,
    ports,
    recordings,
    rigs,
    sensors,
    takes,
    thresholds,
    timing,
    watching,
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
    ports.router,
    lines.router,
    takes.router,
    watching.router,
)
