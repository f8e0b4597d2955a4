"""SIMC: few numbers, one knob."""

from __future__ import annotations

from typing import ClassVar

from tickstone.core.control.controller import Gains
from tickstone.core.control.plant import Plant
from tickstone.core.control.tuning.rule import PI, PID, Told, TuningRule


class Simc(TuningRule):
    """Skogestad's rules for a first-order, an integrating and a double-integrating plant.

    >>> Simc().tune(Plant(2.0, 1.5, 0.2), PI).gains
    Gains(kp=1.875, ki=1.25, kd=0.0)
    """

    name: ClassVar[str] = "simc"
    label: ClassVar[str] = "SIMC"
    for_what: ClassVar[str] = (
        "Smooth and hard to upset. One knob: how fast it is to be; as the dead time it is as fast "
        "as is still robust."
    )
    source: ClassVar[str] = (
        "S. Skogestad, Simple analytic rules for model reduction and PID controller tuning, "
        "J. Process Control 13 (2003) 291–309, table 1"
    )
    terms: ClassVar[tuple[str, ...]] = (PI, PID)

    def tune(self, plant: Plant, terms: str, tau_c_s: float | None = None) -> Told:
        """PI; with D where the plant has a lag beside its integrators. τc: the dead time."""
        self.check_terms(terms)
        tau_c_s = plant.delay_s if tau_c_s is None else tau_c_s
        # The half rule: half of a lag that the rule knows nothing of counts as dead time.
        unknown = plant.integrators == 2 or (plant.integrators == 1 and terms == PI)
        late_s = tau_c_s + plant.delay_s + (plant.lag_s / 2.0 if unknown else 0.0)
        if not late_s > 0.0:
            raise ValueError("tau_c: without dead time it has to be told how fast it is to be")
        if tau_c_s < 0.0:
            raise ValueError(f"tau_c: {tau_c_s:g} s lies below 0")
        if plant.integrators == 2:
            if terms != PID:
                raise ValueError("terms: what rolls on and on wants D; take pid")
            kc = 1.0 / (plant.gain * 4.0 * late_s**2)
            ti_s = td_s = 4.0 * late_s
            working = (
                ("τc + θ, s", late_s),
                ("Kc = 1/(4k″(τc+θ)²)", kc),
                ("τI = τD = 4(τc+θ)", ti_s),
            )
            return Told(Gains.of_series(kc, ti_s, td_s), working)
        if plant.integrators == 1:
            kc = 1.0 / (plant.gain * late_s)
            ti_s = 4.0 * late_s
            td_s = plant.lag_s if terms == PID else 0.0
            working = (("τc + θ, s", late_s), ("Kc = 1/(k′(τc+θ))", kc), ("τI = 4(τc+θ)", ti_s))
            return Told(Gains.of_series(kc, ti_s, td_s), (*working, ("τD = lag", td_s)))
        if terms == PID:
            raise ValueError("terms: of one lag SIMC makes P and I; D is for a second lag; take pi")
        if not plant.lag_s > 0.0:
            ki = 1.0 / (plant.gain * late_s)
            return Told(Gains(0.0, ki, 0.0), (("τc + θ, s", late_s), ("KI = 1/(k(τc+θ))", ki)))
        kc = plant.lag_s / (plant.gain * late_s)
        ti_s = min(plant.lag_s, 4.0 * late_s)
        return Told(
            Gains.of_times(kc, ti_s),
            (("τc + θ, s", late_s), ("Kc = τ/(k(τc+θ))", kc), ("τI = min(τ, 4(τc+θ)), s", ti_s)),
        )
