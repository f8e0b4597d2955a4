"""Which way is up, from accelerations and turn rates, sample after sample.

force: specific force, shape (3, n), any unit. rate: rad/s, shape (3, n). dt_s: time since the
good sample before, shape (n,). is_good: whether the rate is a measurement. is_told: whether the
force is one, and says which way is up; it is 0 where not, and nothing begins before it is. out:
roll, pitch, heading, rad, shape (3, n), or a quaternion w, x, y, z, shape (4, n); NaN before it
began. state: see each; read and written.
The frame: x forward, y left, z up, turning by the right hand; at rest z reads +1 g.
"""

from __future__ import annotations

import math
from typing import Any

from tickstone.core.loops.compiled import compiled


@compiled
def made_ready(
    force: Any,
    force_status: Any,
    rate: Any,
    rate_status: Any,
    time_s: Any,
    gravity: float,
    within: float,
    felt: Any,
    turned: Any,
    dt_s: Any,
    is_good: Any,
    is_told: Any,
    flag: Any,
    since: Any,
) -> None:
    """What the loops take, from signals: three lanes each, status 0 is good.

    within: how near `gravity` the size of a force has to be to tell; 0: any does. felt, turned,
    dt_s, is_good, is_told: filled. flag: the first of each rate's. since: times of the last good
    rate, of the last force that told, and of the first; NaN before; read and written.
    """
    n = time_s.shape[0]
    # Apart from what needs the sample before, so that it is done many at a time.
    (p, q, r), (sp, sq, sr) = rate, rate_status
    for k in range(n):
        one = sp[k] if sp[k] != 0 else sq[k] if sq[k] != 0 else sr[k]
        together = p[k] + q[k] + r[k]
        flag[k] = one
        is_good[k] = (one == 0) & (together == together)
        turned[0, k], turned[1, k], turned[2, k] = p[k], q[k], r[k]
    low, high = gravity - within, gravity + within
    low, high = (low * abs(low), high * high) if within > 0.0 else (-1.0, math.inf)
    (x, y, z), (sx, sy, sz) = force, force_status
    for k in range(n):
        square = x[k] * x[k] + y[k] * y[k] + z[k] * z[k]
        tells = ((sx[k] | sy[k] | sz[k]) == 0) & (square >= low) & (square <= high)
        is_told[k] = tells
        felt[0, k] = x[k] if tells else 0.0
        felt[1, k] = y[k] if tells else 0.0
        felt[2, k] = z[k] if tells else 0.0
    last, told, began = since[0], since[1], since[2]
    for k in range(n):
        dt_s[k] = 0.0
        if is_good[k]:
            if last == last:
                dt_s[k] = time_s[k] - last
            last = time_s[k]
            if is_told[k]:
                told = last
                if began != began:
                    began = last
    since[0], since[1], since[2] = last, told, began


@compiled
def complementary(
    force: Any, rate: Any, dt_s: Any, is_good: Any, is_told: Any, share: Any, out: Any, state: Any
) -> None:
    """Turn on by the gyroscope, drawn to the accelerometer by `share` of the way, shape (n,).

    state: (roll, pitch, heading, began), began 0 before the first.
    """
    roll, pitch, heading, began = state[0], state[1], state[2], state[3]
    for k in range(dt_s.shape[0]):
        if is_good[k]:
            ax, ay, az = force[0, k], force[1, k], force[2, k]
            tilt_roll = math.atan2(ay, az)
            tilt_pitch = math.atan2(-ax, math.sqrt(ay * ay + az * az))
            if began == 0.0:
                if is_told[k]:
                    roll, pitch, heading, began = tilt_roll, tilt_pitch, 0.0, 1.0
            else:
                p, q, r, dt = rate[0, k], rate[1, k], rate[2, k], dt_s[k]
                sr, cr = math.sin(roll), math.cos(roll)
                cp = math.cos(pitch)
                if abs(cp) < 1e-6:
                    cp = 1e-6
                turn = (q * sr + r * cr) / cp
                roll += dt * (p + turn * math.sin(pitch))
                pitch += dt * (q * cr - r * sr)
                heading += dt * turn
                if is_told[k]:
                    away = tilt_roll - roll
                    away -= 2.0 * math.pi * math.floor((away + math.pi) / (2.0 * math.pi))
                    roll += share[k] * away
                    pitch += share[k] * (tilt_pitch - pitch)
                roll -= 2.0 * math.pi * math.floor((roll + math.pi) / (2.0 * math.pi))
                pitch = min(math.pi / 2.0, max(-math.pi / 2.0, pitch))
        if began == 0.0:
            out[0, k], out[1, k], out[2, k] = math.nan, math.nan, math.nan
        else:
            out[0, k], out[1, k], out[2, k] = roll, pitch, heading
    state[0], state[1], state[2], state[3] = roll, pitch, heading, began


@compiled
def axis_kalman(
    force: Any,
    rate: Any,
    dt_s: Any,
    is_good: Any,
    is_told: Any,
    q_angle: float,
    q_bias: float,
    r: float,
    out: Any,
    state: Any,
) -> None:
    """An angle and the gyroscope's bias, for roll and for pitch apart; heading by the gyro alone.

    q_angle: rad²/s. q_bias: (rad/s)²/s. r: rad², of a tilt at rest.
    state: for each axis (angle, bias, P_aa, P_ab, P_bb), then heading, then began.
    """  # fmt: skip
    began, heading = state[11], state[10]
    for k in range(dt_s.shape[0]):
        if is_good[k]:
            ax, ay, az = force[0, k], force[1, k], force[2, k]
            tilt_roll = math.atan2(ay, az)
            tilt_pitch = math.atan2(-ax, math.sqrt(ay * ay + az * az))
            if began == 0.0:
                if is_told[k]:
                    state[0], state[5], began = tilt_roll, tilt_pitch, 1.0
                    state[2], state[7] = r, r
            else:
                p, q, w, dt = rate[0, k], rate[1, k], rate[2, k], dt_s[k]
                sr, cr = math.sin(state[0]), math.cos(state[0])
                cp = math.cos(state[5])
                if abs(cp) < 1e-6:
                    cp = 1e-6
                turn = (q * sr + w * cr) / cp
                roll_rate = p + turn * math.sin(state[5])
                pitch_rate = q * cr - w * sr
                heading += dt * turn
                for axis in range(2):
                    at = 5 * axis
                    told = roll_rate if axis == 0 else pitch_rate
                    angle = state[at] + dt * (told - state[at + 1])
                    paa, pab, pbb = state[at + 2], state[at + 3], state[at + 4]
                    paa += dt * (dt * pbb - 2.0 * pab) + q_angle * dt
                    pab -= dt * pbb
                    pbb += q_bias * dt
                    if is_told[k]:
                        away = (tilt_roll if axis == 0 else tilt_pitch) - angle
                        away -= 2.0 * math.pi * math.floor((away + math.pi) / (2.0 * math.pi))
                        s = paa + r
                        ka, kb = paa / s, pab / s
                        angle += ka * away
                        state[at + 1] += kb * away
                        pbb -= kb * pab
                        pab *= 1.0 - ka
                        paa *= 1.0 - ka
                    angle -= 2.0 * math.pi * math.floor((angle + math.pi) / (2.0 * math.pi))
                    state[at] = angle
                    state[at + 2], state[at + 3], state[at + 4] = paa, pab, pbb
        if began == 0.0:
            out[0, k], out[1, k], out[2, k] = math.nan, math.nan, math.nan
        else:
            out[0, k], out[1, k], out[2, k] = state[0], state[5], heading
    state[10], state[11] = heading, began


@compiled
def sides(quaternion: Any, out: Any) -> None:
    """What roll, pitch and heading are the angles of, shape (5, n): the side opposite of each, then
    the side beside that of roll and of heading. Of pitch it is the sine.
    """
    for k in range(quaternion.shape[1]):
        w, x, y, z = quaternion[0, k], quaternion[1, k], quaternion[2, k], quaternion[3, k]
        out[0, k] = 2.0 * (w * x + y * z)
        up = 2.0 * (w * y - z * x)
        # As it is where it is no number: not yet begun is not straight down.
        out[1, k] = min(1.0, max(-1.0, up)) if up == up else up
        out[2, k] = 2.0 * (w * z + x * y)
        out[3, k] = 1.0 - 2.0 * (x * x + y * y)
        out[4, k] = 1.0 - 2.0 * (y * y + z * z)


@compiled
def madgwick(
    force: Any, rate: Any, dt_s: Any, is_good: Any, beta: float, out: Any, state: Any
) -> None:
    """One step of gradient descent a sample. state: quaternion (w, x, y, z), then began."""
    w, x, y, z, began = state[0], state[1], state[2], state[3], state[4]
    for k in range(dt_s.shape[0]):
        if is_good[k]:
            ax, ay, az = force[0, k], force[1, k], force[2, k]
            size = math.sqrt(ax * ax + ay * ay + az * az)
            if began == 0.0:
                if size > 0.0:
                    roll = math.atan2(ay, az)
                    pitch = math.atan2(-ax, math.sqrt(ay * ay + az * az))
                    cr, sr = math.cos(roll / 2.0), math.sin(roll / 2.0)
                    cp, sp = math.cos(pitch / 2.0), math.sin(pitch / 2.0)
                    w, x, y, z, began = cr * cp, sr * cp, cr * sp, -sr * sp, 1.0
            else:
                p, q, r, dt = rate[0, k], rate[1, k], rate[2, k], dt_s[k]
                dw = 0.5 * (-x * p - y * q - z * r)
                dx = 0.5 * (w * p + y * r - z * q)
                dy = 0.5 * (w * q - x * r + z * p)
                dz = 0.5 * (w * r + x * q - y * p)
                if size > 0.0:
                    # One division in the place of many: they are what takes the time here.
                    by = 1.0 / size
                    f1 = 2.0 * (x * z - w * y) - ax * by
                    f2 = 2.0 * (w * x + y * z) - ay * by
                    f3 = 2.0 * (0.5 - x * x - y * y) - az * by
                    gw = -2.0 * y * f1 + 2.0 * x * f2
                    gx = 2.0 * z * f1 + 2.0 * w * f2 - 4.0 * x * f3
                    gy = -2.0 * w * f1 + 2.0 * z * f2 - 4.0 * y * f3
                    gz = 2.0 * x * f1 + 2.0 * y * f2
                    steep = gw * gw + gx * gx + gy * gy + gz * gz
                    if steep > 0.0:
                        # Root and division side by side, not the one after the other.
                        by = math.sqrt(steep) * (beta / steep)
                        dw -= by * gw
                        dx -= by * gx
                        dy -= by * gy
                        dz -= by * gz
                w, x, y, z = w + dw * dt, x + dx * dt, y + dy * dt, z + dz * dt
                square = w * w + x * x + y * y + z * z
                # So near 1 a first step of Newton’s is as good, and far from what takes the time.
                by = 1.5 - 0.5 * square if abs(square - 1.0) < 1e-5 else 1.0 / math.sqrt(square)
                w, x, y, z = w * by, x * by, y * by, z * by
        out[0, k] = w if began != 0.0 else math.nan
        out[1, k], out[2, k], out[3, k] = x, y, z
    state[0], state[1], state[2], state[3], state[4] = w, x, y, z, began


@compiled
def mahony(
    force: Any, rate: Any, dt_s: Any, is_good: Any, kp: float, ki: float, out: Any, state: Any
) -> None:
    """The rate, corrected by how far up is off. state: quaternion, began, bias (x, y, z)."""
    w, x, y, z, began = state[0], state[1], state[2], state[3], state[4]
    bx, by, bz = state[5], state[6], state[7]
    for k in range(dt_s.shape[0]):
        if is_good[k]:
            ax, ay, az = force[0, k], force[1, k], force[2, k]
            size = math.sqrt(ax * ax + ay * ay + az * az)
            if began == 0.0:
                if size > 0.0:
                    roll = math.atan2(ay, az)
                    pitch = math.atan2(-ax, math.sqrt(ay * ay + az * az))
                    cr, sr = math.cos(roll / 2.0), math.sin(roll / 2.0)
                    cp, sp = math.cos(pitch / 2.0), math.sin(pitch / 2.0)
                    w, x, y, z, began = cr * cp, sr * cp, cr * sp, -sr * sp, 1.0
            else:
                p, q, r, dt = rate[0, k], rate[1, k], rate[2, k], dt_s[k]
                if size > 0.0:
                    inv = 1.0 / size
                    ax, ay, az = ax * inv, ay * inv, az * inv
                    vx = 2.0 * (x * z - w * y)
                    vy = 2.0 * (w * x + y * z)
                    vz = w * w - x * x - y * y + z * z
                    ex, ey, ez = ay * vz - az * vy, az * vx - ax * vz, ax * vy - ay * vx
                    bx -= ki * ex * dt
                    by -= ki * ey * dt
                    bz -= ki * ez * dt
                    p, q, r = p - bx + kp * ex, q - by + kp * ey, r - bz + kp * ez
                else:
                    p, q, r = p - bx, q - by, r - bz
                dw = 0.5 * (-x * p - y * q - z * r)
                dx = 0.5 * (w * p + y * r - z * q)
                dy = 0.5 * (w * q - x * r + z * p)
                dz = 0.5 * (w * r + x * q - y * p)
                w, x, y, z = w + dw * dt, x + dx * dt, y + dy * dt, z + dz * dt
                square = w * w + x * x + y * y + z * z
                inv = 1.5 - 0.5 * square if abs(square - 1.0) < 1e-5 else 1.0 / math.sqrt(square)
                w, x, y, z = w * inv, x * inv, y * inv, z * inv
        out[0, k] = w if began != 0.0 else math.nan
        out[1, k], out[2, k], out[3, k] = x, y, z
    state[0], state[1], state[2], state[3], state[4] = w, x, y, z, began
    state[5], state[6], state[7] = bx, by, bz
