"""Waits, delays, and clocks."""

from __future__ import annotations

from collections.abc import Iterator

from tree_sitter import Node

from tickstone.lookover.checks.echo import ECHO_CALLS
from tickstone.lookover.finding import ProgramFinding, RigFacts
from tickstone.lookover.reading import ReadProgram

_LOOKS = ("digitalRead", "value", "input", "available", "get_value", "is_pressed")
_CLOCKS = ("millis", "micros", "ticks_us", "ticks_ms", "ticks_diff", "time", "monotonic",
           "perf_counter", "time_ns")  # fmt: skip
_SHORT = ("int", "unsigned int", "short", "uint16_t", "int16_t", "unsigned", "word")
USUAL_SPEED_M_S = 0.5
LEAST_DELAY_S = 0.05


def endless_wait(program: ReadProgram, facts: RigFacts) -> Iterator[ProgramFinding]:
    """While something outside stays as it is, with nothing that ends it."""
    for node in program.every("while_statement", "do_statement"):
        condition = node.child_by_field_name("condition")
        body = node.child_by_field_name("body")
        if condition is None:
            continue
        waits = any(True for _ in program.calls(*_LOOKS, within=condition))
        waits = waits or program.of(condition).replace(" ", "") in ("(!Serial)", "notSerial")
        clock = any(True for _ in program.calls(*_CLOCKS, within=node))
        leaves = body is not None and any(
            True for _ in program.every("break_statement", "return_statement", within=body)
        )
        if waits and not clock and not leaves:
            yield ProgramFinding(
                "endless-wait",
                program.line(node),
                program.code(node),
                "This waits until something outside changes, however long that takes.",
                "A wire that came off stops the whole program, with the motors as they were.",
                "Note the time before, and go on when too much of it has passed.",
            )
    for node, arguments in program.calls(*ECHO_CALLS):
        if len(arguments) == 2:
            yield ProgramFinding(
                "endless-wait",
                program.line(node),
                program.code(node),
                "Without a third argument it waits up to a second for an echo that may not come.",
                "For that second the rig sees nothing.",
                f"Give it as long as the farthest echo takes: {program.of(node)[:-1]}, 30000)",
            )


def long_delay(program: ReadProgram, facts: RigFacts) -> Iterator[ProgramFinding]:
    """A delay in what runs over and over."""
    is_echo = any(True for _ in program.calls(*ECHO_CALLS))
    speed = facts.speed_m_s or USUAL_SPEED_M_S
    allowed_s = (facts.margin_m / speed) if facts.margin_m else LEAST_DELAY_S
    for node, arguments in program.calls("delay", "sleep", "sleep_ms"):
        if len(arguments) != 1 or _runs_once(program, node) or _runs_beside(program, node):
            continue
        value = program.number(arguments[0])
        called = program.of(node).partition("(")[0]
        seconds = None if value is None else value if called.endswith("sleep") else value / 1000.0
        if seconds is None or seconds <= allowed_s:
            continue
        at = f"at {speed:g} m/s" if facts.speed_m_s else f"at, say, {speed:g} m/s"
        spare = (
            f"; its stopping distance has {100.0 * facts.margin_m:.0f} cm to spare"
            if facts.margin_m
            else ""
        )
        yield ProgramFinding(
            "long-delay",
            program.line(node),
            program.code(node),
            f"For {1000.0 * seconds:.0f} ms nothing is read: {at} that is "
            f"{100.0 * speed * seconds:.0f} cm{spare}.",
            "Blind time belongs into the stopping distance"
            + (
                ", and pulses in it are lost unless an interrupt counts them."
                if not is_echo
                else "."
            ),
            "Keep the time of the last deed, and do the next once enough has passed.",
        )


def _runs_once(program: ReadProgram, node: Node) -> bool:
    """In setup, or before anything repeats."""
    function = program.function_around(node)
    if function is not None:
        return any(name == "setup" and one == function for name, one in program.functions())
    while node.parent is not None:
        node = node.parent
        if node.type in ("while_statement", "for_statement"):
            return False
    return True


def _runs_beside(program: ReadProgram, node: Node) -> bool:
    """In a function that a thread of its own runs."""
    function = program.function_around(node)
    beside = {
        name
        for call, _ in program.calls("Thread", "start_new_thread")
        for name in program.names_in(call)
    }
    return any(name in beside and one == function for name, one in program.functions())


def short_clock(program: ReadProgram, facts: RigFacts) -> Iterator[ProgramFinding]:
    """Times in 16 bits; and sums of times compared, which break at the wrap."""
    for node in program.every("declaration"):
        kind = node.child_by_field_name("type")
        if kind is None or program.of(kind).replace("static ", "") not in _SHORT:
            continue
        if any(True for _ in program.calls("millis", "micros", within=node)):
            yield _short(program, node, program.of(kind))
    kinds = {
        program.of(name): program.of(kind)
        for node in program.every("declaration")
        if (kind := node.child_by_field_name("type")) is not None
        for name in program.every("identifier", within=node)
    }
    for name, value, node in program.assigned():
        is_short = node.type == "assignment_expression" and kinds.get(name) in _SHORT
        if is_short and any(True for _ in program.calls("millis", "micros", within=value)):
            yield _short(program, node, kinds[name])
    for node in program.every("binary_expression"):
        sign = node.child_by_field_name("operator")
        left, right = (node.child_by_field_name(one) for one in ("left", "right"))
        if sign is None or left is None or right is None:
            continue
        if program.of(sign) not in ("<", "<=", ">", ">="):
            continue
        clock = any(program.of(one).strip() in ("millis()", "micros()") for one in (left, right))
        added = any(
            one.type == "binary_expression" and "+" in program.of(one) for one in (left, right)
        )
        if clock and added:
            yield ProgramFinding(
                "sum-of-times",
                program.line(node),
                program.code(node),
                "A time is added up before it is compared: near the counter’s wrap the sum is "
                "small and the counter is not.",
                "Every 49.7 days in ms, every 71.6 minutes in µs, it fires at once or not at all.",
                "Compare a difference: millis() - last >= wait.",
            )


def _short(program: ReadProgram, node: Node, kind: str) -> ProgramFinding:
    return ProgramFinding(
        "short-clock",
        program.line(node),
        program.code(node),
        f"“{kind}” holds 16 bits on an 8-bit board; the counter has 32.",
        "In ms it is wrong after 65 s (or 32), in µs after a fifteenth of a second.",
        "Declare it as unsigned long, and compare differences.",
    )
