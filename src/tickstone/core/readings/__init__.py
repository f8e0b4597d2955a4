"""What is asked of a person for one reading: a file for each kind that asks in its own words."""

from __future__ import annotations

from tickstone.core.chains.kind import ChainKind
from tickstone.core.readings.echo import AskedEcho
from tickstone.core.readings.pulses import AskedPulses
from tickstone.core.readings.reading import Asked, asked_of_any
from tickstone.core.readings.tilt import AskedTilt

READINGS: dict[str, type[Asked]] = {"echo": AskedEcho, "pulses": AskedPulses}
BESIDE_KINDS: dict[str, type[AskedTilt]] = {"tilt": AskedTilt}
"""By a word of their own: what a kind tells once its first few steps are done."""


def asked_of(kind: ChainKind) -> type[Asked]:
    """What a kind asks for.

    >>> from tickstone.core.chains import CHAINS
    >>> [asked_of(CHAINS[name]).__name__ for name in ("echo", "pulses", "commutation")]
    ['AskedEcho', 'AskedPulses', 'AskedCommutation']
    """
    return READINGS.get(kind.name) or asked_of_any(kind)
