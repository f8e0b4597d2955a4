"""One file for each kind of thing; all of them are registered in `ROUTERS`."""

from tickstone.api.routers import (
    calibrations,
    examples,
    families,
    lines,
    marks,
    parts,
    ports,
    recordings,
    rigs,
    rules,
    sensors,
    take_files,
    takes,
    timing,
    watching,
    wiring,
)

ROUTERS = (
    rigs.router,
    sensors.router,
    examples.router,
    recordings.router,
    marks.router,
    calibrations.router,
    rules.router,
    families.router,
    wiring.router,
    timing.router,
    parts.router,
    ports.router,
    lines.router,
    takes.router,
    take_files.router,
    watching.router,
)
