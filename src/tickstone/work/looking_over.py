"""What a person's program is held against: the rig's line, its wiring, its thresholds."""

from __future__ import annotations

from sqlalchemy.orm import Session

from tickstone.core.inputs import with_inputs
from tickstone.core.stages.two_thresholds import TwoThresholds
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.program_lines import pin_number
from tickstone.lookover.finding import RigFacts, Threshold
from tickstone.store.models import Rig
from tickstone.work.catalogue import Catalogue
from tickstone.work.sensing import kind_of, parameters_of, rule_stage, rules_of
from tickstone.work.wiring import wiring_of


def rig_facts(session: Session, rig: Rig, catalogue: Catalogue) -> RigFacts:
    """As much as the record knows."""
    wiring = wiring_of(session, rig, catalogue)
    pins: dict[str, str] = {}
    if wiring is not None:
        for thread in Circuit(wiring).threads:
            if thread.pin is not None:
                pins.setdefault(pin_number(thread.pin.name), thread.name)
    thresholds: list[Threshold] = []
    speed_m_s = margin_m = None
    rules = rules_of(session, [one.id for one in rig.sensors])
    for sensor in rig.sensors:
        kind = kind_of(sensor, catalogue)
        for row in rules.get(sensor.id, []) if kind is not None else ():
            assert kind is not None
            stage = rule_stage(kind, row.kind, row.parameters, parameters_of(sensor, kind))
            quantity = {one.name: one.quantity for one in kind.outputs}
            rule = next(one for one in kind.rules if one.name == row.kind)
            if isinstance(stage, TwoThresholds) and quantity[rule.takes].unit == "m":
                words = stage.words
                thresholds += [
                    Threshold(f"{sensor.name}, {words.alarm}", stage.alarm_at),
                    Threshold(f"{sensor.name}, {words.calm}", stage.calm_at),
                ]
                told = row.basis.get("evidence")
                evidence = None if told is None else with_inputs(rule.evidence, told)
                speed_m_s = getattr(evidence, "speed_m_per_s", speed_m_s)
                margin_m = getattr(evidence, "margin_m", margin_m)
    baud = rig.line.get("speed") if rig.line else None
    return RigFacts(baud, tuple(pins.items()), speed_m_s, margin_m, tuple(thresholds))
