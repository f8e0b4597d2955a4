"""Machines over events: where an input crosses a cut, and what that makes of the state."""

from __future__ import annotations

from typing import Any

from tickstone.core.loops.compiled import compiled

MINUS_CAUSE_TIMER, MINUS_CAUSE_BLIND = -2, -3
"""In place of a transition's number."""


@compiled
def crossings(
    time_s: Any, values: Any, status: Any, cuts: Any, longest_s: float, outdated: int,
    missing: int, until_s: float, begin: int, state: Any, out_time: Any, out_code: Any,
) -> int:  # fmt: skip
    """Where the code of an input changes: status·(cuts + 1) + how many cuts lie at or below it.

    cuts: rising. longest_s: a reading older than that is outdated, from that very instant on.
    begin: the sample to begin with. state: (code of the last sample, or -1; its time, s; the sample
    to go on with when there was no more room). Returns how many there are.
    """
    n = time_s.shape[0]
    many = cuts.shape[0]
    width = many + 1
    room = out_time.shape[0] - 2
    code, last_s = int(state[0]), state[1]
    found = 0
    low, high = 1.0, 0.0
    flag = -1
    k = begin
    while k < n:
        t = time_s[k]
        if t - last_s > longest_s and code >= 0 and code != outdated * width:
            # Too old once, and then again a reading.
            out_time[found] = last_s + longest_s
            out_code[found] = outdated * width
            found += 1
            code = outdated * width
            low, high = 1.0, 0.0
        last_s = t
        v = values[k]
        if not (v >= low and v < high and status[k] == flag):
            bucket = 0
            if v == v:
                flag = status[k]
                while bucket < many and cuts[bucket] <= v:
                    bucket += 1
                low = cuts[bucket - 1] if bucket > 0 else -1e308
                high = cuts[bucket] if bucket < many else 1e308
                told = flag
            else:
                low, high, flag = 1.0, 0.0, -1
                told = status[k] if status[k] != 0 else missing
            fresh = told * width + bucket
            if fresh != code:
                code = fresh
                out_time[found] = t
                out_code[found] = code
                found += 1
                if found >= room:
                    k += 1
                    break
        k += 1
    if k >= n and code >= 0 and code != outdated * width and until_s - last_s >= longest_s:
        out_time[found] = last_s + longest_s
        out_code[found] = outdated * width
        found += 1
        code = outdated * width
    state[0], state[1], state[2] = code, last_s, k
    return found


@compiled
def run_machine(
    ev_time: Any, ev_input: Any, ev_code: Any, until_s: float,
    atom_input: Any, atom_status: Any, truths: Any, counts: Any, fallback: Any,
    steps: Any, step_first: Any, tr_to: Any, tr_for: Any, tr_once: Any, leaving: Any,
    stay_s: Any, after_s: Any, after_to: Any, watched: Any, blind_s: float, blind_to: int,
    keeps_last: bool, place: Any, codes: Any, held: Any, invalid_s: Any, since_s: Any,
    out_time: Any, out_state: Any, out_cause: Any,
) -> int:  # fmt: skip
    """Run over events in the order of time; stops at `until_s`, or when there is no more room.

    truths: (atoms, codes): 0 false, 1 true, 2 neither. counts: (inputs, codes): whether a reading
    is worth anything. fallback: (inputs): the code that counts where it is not, or -1. steps: rows
    of (what, number); step_first: where those of each condition begin, and the end. leaving:
    (states, n): numbers of transitions, first come first, -1 after the last. place: (state, since
    when, event to go on with, time reached, how often it was left at one instant, and at which);
    codes, held: (inputs): the code of each, and the one that counts; invalid_s: since when it is
    not valid, inf while it is; since_s: (2, transitions): since when its condition is true, inf
    while it is not; and since when that cannot be told. Returns how many states were entered.
    """
    inf = float("inf")
    n = ev_time.shape[0]
    n_tr = tr_to.shape[0]
    room = out_time.shape[0]
    state, entered, e = int(place[0]), place[1], int(place[2])
    reached = place[3]
    atom_truth = [0] * (atom_input.shape[0] + 1)
    stack = [0] * 64
    found = 0
    hops, hop_s = int(place[4]), place[5]
    # What is true before the readings of this very instant were taken in was never true.
    is_fresh = e >= n or ev_time[e] > reached
    while True:
        if is_fresh:
            for a in range(atom_input.shape[0]):
                i = atom_input[a]
                code = codes[i] if atom_status[a] else held[i]
                atom_truth[a] = truths[a, code]
            for r in range(n_tr):
                top = 0
                for s in range(step_first[r], step_first[r + 1]):
                    what, number = steps[s, 0], steps[s, 1]
                    if what == 0:
                        stack[top] = atom_truth[number]
                        top += 1
                    elif what == 1:
                        if stack[top - 1] != 2:
                            stack[top - 1] = 1 - stack[top - 1]
                    else:
                        if what == 2:
                            k, m = 2, 2
                        elif what == 3:
                            k, m = 1, 2
                        else:
                            k, m = number >> 8, number & 255
                        yes, perhaps = 0, 0
                        for j in range(top - m, top):
                            if stack[j] == 1:
                                yes += 1
                            elif stack[j] == 2:
                                perhaps += 1
                        top -= m - 1
                        if yes >= k:
                            stack[top - 1] = 1
                        elif yes + perhaps >= k:
                            stack[top - 1] = 2
                        else:
                            stack[top - 1] = 0
                if stack[0] == 1:
                    if since_s[0, r] == inf or reached - since_s[1, r] > blind_s:
                        since_s[0, r] = reached
                    since_s[1, r] = inf
                elif stack[0] == 0:
                    since_s[0, r] = since_s[1, r] = inf
                elif since_s[0, r] < inf and since_s[1, r] == inf:
                    since_s[1, r] = reached
            is_fresh = False
        # The next instant at which the state can be left without anything new.
        due, to, cause = inf, -1, 0
        for j in range(leaving.shape[1]):
            r = leaving[state, j]
            if r < 0:
                break
            if since_s[0, r] < inf and since_s[1, r] == inf:
                at = since_s[0, r] + tr_for[r]
                if not tr_once[r]:
                    at = max(at, entered + stay_s[state])
                at = max(at, reached)
                if at < due:
                    due, to, cause = at, tr_to[r], r
        at = max(entered + after_s[state], reached)
        if at < due:
            due, to, cause = at, after_to[state], -2
        if blind_to >= 0 and blind_to != state:
            first = inf
            for i in range(watched.shape[1]):
                if watched[state, i] and invalid_s[i] < first:
                    first = invalid_s[i]
            at = max(first + blind_s, reached, entered)
            if at < due:
                due, to, cause = at, blind_to, -3
        next_s = ev_time[e] if e < n else inf
        horizon = min(next_s, until_s)
        if keeps_last:
            # A last good reading counts for so long, and then no more.
            expires = inf
            for i in range(codes.shape[0]):
                if invalid_s[i] < inf and held[i] != codes[i]:
                    expires = min(expires, max(invalid_s[i] + blind_s, reached))
            if expires <= due and (expires < horizon or (expires == reached < next_s)):
                reached = expires
                for i in range(codes.shape[0]):
                    if invalid_s[i] < inf and invalid_s[i] + blind_s <= expires:
                        held[i] = codes[i]
                is_fresh = True
                continue
        is_racing = hops > stay_s.shape[0]
        if due < horizon and is_racing:
            # Round and round at one instant: it rests until something new is said.
            due = inf
        is_now = due == reached and reached < next_s and reached <= until_s
        if due < horizon or (is_now and not is_racing):
            if found >= room:
                break
            hops = hops + 1 if due == hop_s else 1
            hop_s = due
            reached = due
            out_time[found] = due
            out_state[found] = to
            out_cause[found] = cause
            found += 1
            state, entered = to, due
            continue
        if next_s > until_s or e >= n:
            reached = max(reached, until_s)
            break
        # All that is said at this instant.
        reached = next_s
        while e < n and ev_time[e] == next_s:
            i, code = ev_input[e], ev_code[e]
            codes[i] = code
            if counts[i, code]:
                held[i] = code
                invalid_s[i] = inf
            else:
                if invalid_s[i] == inf:
                    invalid_s[i] = next_s
                if fallback[i] >= 0:
                    held[i] = fallback[i]
                elif not keeps_last:
                    held[i] = code
            e += 1
        if keeps_last:
            # A last reading that expires at this instant does not count beside what is said at it.
            for i in range(codes.shape[0]):
                if invalid_s[i] < inf and invalid_s[i] + blind_s <= reached:
                    held[i] = codes[i]
        hops = 0
        is_fresh = True
    place[0], place[1], place[2], place[3] = state, entered, e, reached
    place[4], place[5] = hops, hop_s
    return found
