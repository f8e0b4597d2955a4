"""Each fault is found where it is, and its mended counterpart is let be."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.proof.rigs import SMALL_BOARDS, demo_plan, random_plan

from tickstone.lookover.checks import CHECKS, MOST_FINDINGS, look_over
from tickstone.lookover.finding import ProgramFinding, RigFacts, Threshold
from tickstone.lookover.reading import LARGEST_BYTES, NotAProgramError, read_program
from tickstone.targets import TARGETS

FACTS = RigFacts(
    baud=115_200,
    pins=(("2", "wheel"), ("7", "trigger"), ("8", "echo"), ("A0", "eye")),
    speed_m_s=0.4,
    margin_m=0.05,
    thresholds=(Threshold("Front, stop", 0.3), Threshold("Front, go", 0.36)),
)
ECHO = "long t = pulseIn(8, HIGH, 30000);"
COUNT = "void tick() { count++; } void setup() { attachInterrupt(0, tick, FALLING); }"


def found(text: str, name: str = "", facts: RigFacts = FACTS) -> list[ProgramFinding]:
    return list(look_over(read_program(text, name), facts).findings)


@pytest.mark.parametrize(
    ("fault", "wrong", "right"),
    [
        ("missing-half", f"{ECHO} float cm = t * 0.034;", f"{ECHO} float cm = t * 0.034 / 2;"),
        ("missing-half", f"{ECHO} float mm = t * 0.343;", f"{ECHO} float mm = t * 0.343 * 0.5;"),
        ("missing-half", f"{ECHO} long cm = t / 29;", f"{ECHO} long cm = t / 29 / 2;"),
        ("missing-half", f"{ECHO} float m = t * 343e-6f;", f"{ECHO} float m = t * 172e-6;"),
        (
            "missing-half",
            f"{ECHO} float way = t * 0.034;",
            f"{ECHO} float way = t * 0.034; float cm = way / 2;",
        ),
        (
            "zero-as-distance",
            f"{ECHO} float cm = t / 58.0; if (cm < 30) halt();",
            f"{ECHO} float cm = t / 58.0; if (cm > 0 && cm < 30) halt();",
        ),
        (
            "other-threshold",
            f"{ECHO} float cm = t / 58.0; if (cm > 0 && cm < 25) halt();",
            f"{ECHO} float mm = t / 5.8; if (mm > 0 && mm < 300) halt();",
        ),
        ("whole-division", "float v = analogRead(A0) * (5 / 1023);", "float v = 5.0 / 1023;"),
        ("whole-division", "int r = read(); float v = r / 4;", "int r = read(); int v = r / 4;"),
        (
            "whole-map",
            "float g = map(analogRead(A0), 277, 411, -1, 1);",
            "int p = map(analogRead(A0), 0, 180, 500, 2500);",
        ),
        ("endless-wait", "while (digitalRead(2) == LOW);", "for (int i = 0; i < 9; i++) look();"),
        (
            "endless-wait",
            "while (digitalRead(2) == LOW);",
            "while (digitalRead(2) == LOW) { if (millis() - since > 50) break; }",
        ),
        ("endless-wait", "long t = pulseIn(8, HIGH);", ECHO),
        ("long-delay", "delay(500);", "delay(10);"),
        ("short-clock", "int now = millis();", "unsigned long now = millis();"),
        ("short-clock", "int now; now = micros();", "uint32_t now; now = micros();"),
        ("sum-of-times", "if (millis() > last + 500) go();", "if (millis() - last > 500) go();"),
        ("both-edges", "attachInterrupt(0, tick, CHANGE);", "attachInterrupt(0, tick, RISING);"),
        ("other-baud", "Serial.begin(9600);", "Serial.begin(115200);"),
        ("other-pin", "pinMode(5, OUTPUT);", "pinMode(7, OUTPUT); analogRead(A0);"),
    ],
)
def test_a_fault_is_found_and_its_mending_is_let_be(fault: str, wrong: str, right: str) -> None:
    in_loop = "\n\nvoid loop() {{\n  {} \n}}\n"
    hits = [one for one in found(in_loop.format(wrong)) if one.id == fault]
    assert [one.line for one in hits] == [4]
    assert all(one.why and one.repair and one.code in wrong for one in hits)
    assert fault not in {one.id for one in found(in_loop.format(right))}


@pytest.mark.parametrize(
    ("fault", "wrong", "right"),
    [
        ("not-volatile", f"int count; {COUNT}", f"volatile int count; {COUNT}"),
        (
            "torn-read",
            f"volatile long count; {COUNT} void loop() {{ print(count); }}",
            f"volatile byte count; {COUNT} void loop() {{ print(count); }}",
        ),
        (
            "torn-read",
            f"volatile long count; {COUNT} void loop() {{ print(count); }}",
            f"volatile long count; {COUNT} "
            "void loop() { noInterrupts(); long n = count; interrupts(); print(n); }",
        ),
    ],
)
def test_what_an_interrupt_shares(fault: str, wrong: str, right: str) -> None:
    assert fault in {one.id for one in found(wrong)}
    assert fault not in {one.id for one in found(right)}


@pytest.mark.parametrize(
    ("fault", "line"),
    [
        ("missing-half", "cm = time_pulse_us(echo, 1, 30000) * 0.0343"),
        ("endless-wait", "t = time_pulse_us(echo, 1)"),
        ("endless-wait", "while echo.value() == 0:\n        pass"),
        ("long-delay", "time.sleep(0.5)"),
        ("long-delay", "time.sleep_ms(500)"),
        ("both-edges", "pin.irq(tick, Pin.IRQ_RISING | Pin.IRQ_FALLING)"),
        ("other-pin", "led = Pin(25, Pin.OUT)"),
    ],
)
def test_python_is_read_as_python(fault: str, line: str) -> None:
    text = f"import time\n\nwhile True:\n    {line}\n"
    assert [one.line for one in found(text) if one.id == fault] == [4]


def test_a_delay_may_be_as_long_as_the_way_to_spare_allows() -> None:
    text = "void loop() { delay(120); }"
    assert not found(text)  # 0.05 m at 0.4 m/s are 125 ms
    assert found(text, facts=RigFacts(speed_m_s=0.5, margin_m=0.05))
    assert not found("void setup() { delay(2000); }")
    beside = "def ask():\n    while True:\n        sleep(2)\n"
    assert found(f"{beside}ask()\n")
    assert not found(f"{beside}Thread(target=ask).start()\n")


@pytest.mark.parametrize("name", ["Bramble", "Pipit"])
def test_programs_written_here_have_no_finding(name: str) -> None:
    for target in TARGETS.values():
        text = target.listening(demo_plan(name.lower(), target.wanted(10.0)), "rig").text
        assert not found(text, facts=RigFacts())


@pytest.mark.parametrize("seed", range(12))
def test_programs_for_random_rigs_have_no_finding(seed: int) -> None:
    for target, boards in (("cpp", SMALL_BOARDS), ("small-python", ("three_volt_dual_core",))):
        text = TARGETS[target].listening(random_plan(seed, boards, TARGETS[target]), "rig").text
        assert not found(text, facts=RigFacts())


def test_what_was_not_looked_for_is_said() -> None:
    seen = look_over(read_program("void loop() { go(); }"), RigFacts())
    assert len(seen.looked_for) + len(seen.not_looked_for) == len(CHECKS)
    assert [one for one in seen.not_looked_for if "baud is not known" in one]
    python = look_over(read_program("go()\n", "a.py"), FACTS)
    assert [one for one in python.not_looked_for if "not in this language" in one]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "empty"),
        (" \n\t", "empty"),
        ("\x00\x01\x02", "compiled"),
        ("x" * (LARGEST_BYTES + 1), "512 kB"),
        ("Dear all, the cart went well today; see you on Monday. " * 9, "neither"),
        ('{"a": [1, 2]}', "no program"),
        ("void loop() { x = " + "(" * 900 + "1" + ")" * 900 + "; }", "deep"),
        ("fn main() { let mut x: u32 = 5; loop { match x { 1 => {}, _ => break } } }", "neither"),
    ],
)
def test_what_is_no_program_is_said(text: str, says: str) -> None:
    with pytest.raises(NotAProgramError, match=says):
        read_program(text)


def test_a_heap_of_findings_is_cut_and_counted() -> None:
    seen = look_over(read_program("void loop() {\n" + "delay(900);\n" * 300 + "}"), FACTS)
    assert len(seen.findings) == MOST_FINDINGS
    assert seen.more == 300 - MOST_FINDINGS


@given(st.text(max_size=300))
def test_any_text_is_looked_over_or_refused(text: str) -> None:
    for name in ("a.ino", "a.py", ""):
        try:
            program = read_program(text, name)
        except NotAProgramError:
            continue
        for one in look_over(program, FACTS).findings:
            assert 1 <= one.line <= text.count("\n") + 1
