"""The ways of reading: one file each. The first that fits a device is taken."""

from __future__ import annotations

from tickstone.core.listening.reading import Way
from tickstone.core.listening.ways.converter import ConverterWay
from tickstone.core.listening.ways.echo import EchoWay
from tickstone.core.listening.ways.edges import EdgesWay
from tickstone.core.listening.ways.levels import LevelsWay
from tickstone.core.listening.ways.one_wire import OneWireWay
from tickstone.core.listening.ways.one_word import OneWordWay
from tickstone.core.listening.ways.registers import RegistersWay

WAYS: tuple[Way, ...] = (
    RegistersWay(),
    OneWireWay(),
    OneWordWay(),
    EchoWay(),
    EdgesWay(),
    ConverterWay(),
    LevelsWay(),
)
