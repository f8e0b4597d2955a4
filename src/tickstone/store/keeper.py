"""Looks after the private database while a server runs: when it was killed, it is started again."""

from __future__ import annotations

import logging
from dataclasses import dataclass, field
from threading import Event, Thread

from tickstone.store.cluster import Cluster, ClusterError

LOOK_EVERY_S = 1.0


@dataclass(slots=True)
class Keeper:
    """Starts a cluster that ended on the port it had, so that waiting writers find it again."""

    cluster: Cluster
    port: int
    _stop: Event = field(default_factory=Event)
    _thread: Thread | None = None

    def start(self) -> None:
        """Begin to look after it."""
        self._thread = Thread(target=self._run, name="keeper", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        """Leave it alone; the cluster itself is not stopped."""
        self._stop.set()
        if self._thread is not None:
            self._thread.join(timeout=90.0)

    def _run(self) -> None:
        while not self._stop.wait(LOOK_EVERY_S):
            if self.cluster.is_running:
                continue
            logging.getLogger(__name__).warning("PostgreSQL has ended; starting it again")
            try:
                self.cluster.start(self.port)
            except (ClusterError, OSError, ValueError, IndexError) as error:
                logging.getLogger(__name__).warning("it did not start: %s", error)
