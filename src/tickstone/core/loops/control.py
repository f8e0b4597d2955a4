"""A control loop in time: a plant in small steps, a controller at every reading."""

from __future__ import annotations

from typing import Any

from tickstone.core.loops.compiled import compiled


@compiled
def closed_loop(
    steps: int, dt: float, every: int, plant: Any, settings: Any, modes: Any, rig: Any,
    wanted: Any, load: Any, noise: Any, is_zero: Any, start: float, out: Any, thin: int,
) -> int:  # fmt: skip
    """Run a loop for `steps` of `dt` s; the controller acts at every `every`th.

    plant: (gain, lag_s, integrators, sticks_below, low, high). settings: (kp, ki, kd, low, high,
    slew_per_s, derivative_lag_s, dead_band, hold_s, rest). modes: (windup: 0 stop, 1 back, 2 none;
    derivative of the error; zeros count; whole numbers; 0 a controller, 1 a relay, 2 by hand).
    rig: (delay in steps, lag of the filter s, resolution of a reading, of the actuator, dead band
    of a relay, its height, offset and slope of the map to the
    actuator). wanted, load: by reading: the set point, and what is added to u.
    noise, is_zero: by reading. start: of y. out: (6, n): time, wanted, true, measured, output, at
    an end, one of every `thin` readings. Returns how many rows there are.
    """
    gain, lag, many, sticks, y_low, y_high = plant
    kp, ki, kd, low, high, slew, d_lag, dead, hold_s, rest = settings
    delay = int(rig[0])
    filter_lag, grain, notch, relay_band, relay_height = rig[1], rig[2], rig[3], rig[4], rig[5]
    line = [rig[6] + rig[7] * rest] * (delay + 1)
    head = 0
    ts = dt * every
    y, v, f = start, 0.0, start if many == 0 else 0.0
    u, integral, d_term = rest, 0.0, 0.0
    seen, before = start, start
    has_seen = False
    silent_s = 0.0
    side = 1.0
    row = 0
    k = 0
    share = 1.0 - 2.718281828459045 ** (-dt / lag) if lag > 0.0 else 1.0
    smooth = 1.0 - 2.718281828459045 ** (-ts / filter_lag) if filter_lag > 0.0 else 1.0
    for n in range(steps):
        if n % every == 0:
            r = wanted[k]
            raw = y + noise[k]
            if grain > 0.0:
                raw = grain * round(raw / grain)
            is_good = not is_zero[k] or modes[2] == 1
            if is_zero[k]:
                raw = 0.0
            if is_good:
                silent_s = 0.0
                if not has_seen:
                    seen, before, has_seen = raw, raw, True
                seen += smooth * (raw - seen)
                e = r - seen
                if abs(e) < dead:
                    e = 0.0
                if modes[4] == 1:
                    # A relay: all one way, then all the other.
                    if e > relay_band:
                        side = 1.0
                    elif e < -relay_band:
                        side = -1.0
                    u = rest + side * relay_height
                elif modes[4] == 0:
                    change = -(seen - before) / ts
                    if modes[1] == 1 and k > 0:
                        change += (r - wanted[k - 1]) / ts
                    d_term = (d_lag * d_term + kd * ts * change) / (d_lag + ts)
                    step = ki * e * ts
                    asked = rest + kp * e + integral + step + d_term
                    if modes[3] == 1:
                        asked = float(int(asked))
                    given = min(high, max(low, asked))
                    if slew > 0.0:
                        given = min(u + slew * ts, max(u - slew * ts, given))
                    if modes[0] == 2 or given == asked:
                        integral += step
                    elif modes[0] == 1 and ki != 0.0:
                        # Drawn back by what did not fit, within one reading; where there is an I.
                        integral += step + (given - asked)
                    elif (asked - given) * step < 0.0:
                        integral += step
                    u = min(high, max(low, given))
                before = seen
            else:
                silent_s += ts
                if silent_s > hold_s:
                    u = rest
                    integral = 0.0
                    d_term = 0.0
            if k % thin == 0 and row < out.shape[1]:
                out[0, row] = n * dt
                out[1, row] = r
                out[2, row] = y
                out[3, row] = raw
                out[4, row] = u
                out[5, row] = 1.0 if (u >= high or u <= low) and modes[4] == 0 else 0.0
                row += 1
            k += 1
        acted = rig[6] + rig[7] * u
        if modes[3] == 1:
            acted = float(int(acted))
        if notch > 0.0:
            acted = notch * round(acted / notch)
        line[head] = acted
        head = (head + 1) % (delay + 1)
        push = line[head] + load[k - 1]
        still = v == 0.0 if many == 2 else f == 0.0
        if sticks > 0.0 and still and abs(push) < sticks:
            push = 0.0
        f += share * (gain * push - f)
        if sticks > 0.0 and push == 0.0 and abs(f) < 1e-3 * abs(gain) * sticks:
            f = 0.0
        if many == 0:
            y = f
        elif many == 1:
            y += dt * f
        else:
            v += dt * f
            y += dt * v
        if y < y_low:
            y, v = y_low, 0.0
        elif y > y_high:
            y, v = y_high, 0.0
    return row
