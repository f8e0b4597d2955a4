"""From a wired rig by one key to a program that was seen to run, and its constants."""

from __future__ import annotations

import os
import pty
import re
import select
import tty
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Event, Thread

from playwright.sync_api import expect

from tests.browser.conftest import OpenPage
from tests.browser.test_screens import serious
from tickstone.link.ports import stand_in_folder


def test_one_key_and_a_program_that_was_seen_to_run(open_page: OpenPage) -> None:
    page = open_page("/rigs/2/wire/plan")
    expect(page.get_by_role("link", name="Programs O")).to_be_visible()
    page.keyboard.press("o")
    expect(page.get_by_role("heading", name="Pipit, programs")).to_be_visible()
    expect(page.get_by_label("Text of main.py")).to_contain_text("class Edges")
    page.get_by_role("button", name="Run it here").click()
    expect(page.get_by_text("printed as they were told")).to_be_visible(timeout=30_000)
    page.get_by_label("Lines a second, if it can").fill("5")
    page.get_by_label("Lines a second, if it can").press("Tab")
    expect(page.get_by_label("Text of main.py")).to_contain_text("PERIOD_US = 200000")
    assert serious(page) == []


def test_what_cannot_be_is_said_where_it_is_typed(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/program/listen")
    expect(page.get_by_text("Not before the wiring is mended")).to_be_visible()
    page.get_by_label("Lines a second, if it can").fill("0")
    page.get_by_label("Lines a second, if it can").press("Tab")
    expect(page.get_by_text(re.compile("outside 0.1 to 1000"))).to_be_visible()


def test_conversions_and_constants(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/program/convert")
    page.get_by_role("button", name="sums.h").click()
    expect(page.get_by_label("Text of sums.h")).to_contain_text("struct FrontRangerSum")
    page.get_by_role("link", name="Constants").click()
    expect(page.get_by_text("4 marks").first).to_be_visible()
    page.get_by_role("button", name="constants.json").click()
    expect(page.get_by_label("Text of constants.json")).to_contain_text("tickstone-constants")
    assert serious(page) == []


def test_rules_as_code_and_where_there_are_none(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/program/rules")
    expect(page.get_by_label("Text of bramble_rules.ino")).to_contain_text("RULES_IS_BRAKE")
    page.get_by_role("button", name="Run it here").click()
    expect(page.get_by_text("“Bramble’s rule”", exact=True)).to_be_visible(timeout=60_000)
    assert serious(page) == []
    page = open_page("/rigs/2/program/rules")
    expect(page.get_by_text("Nothing is decided on this rig yet.")).to_be_visible()
    page.get_by_role("link", name="rules", exact=True).click()
    expect(page).to_have_url(re.compile("/rigs/2/rules$"))


def test_a_second_pair_of_eyes_on_a_program(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/program/own")
    field = page.get_by_label("Your program, in C++ or Python")
    field.fill("void loop() {\n  pinMode(51, OUTPUT);\n  delay(2000);\n}\n")
    page.get_by_role("button", name="Look it over").click()
    expect(page.get_by_text("2 things stand out")).to_be_visible()
    page.get_by_role("button", name="line 3").click()
    expect(field).to_be_focused()
    chosen = field.evaluate("f => f.value.slice(f.selectionStart, f.selectionEnd)")
    assert chosen == "  delay(2000);"
    assert serious(page) == []
    page.get_by_label("A program’s file").set_input_files(
        {"name": "mine.py", "mimeType": "text/plain", "buffer": b"go()\n"}
    )
    expect(page.get_by_text("Nothing was found")).to_be_visible()
    expect(page.get_by_text("Read as Python")).to_be_visible()
    field.fill("Dear all, it went well. " * 30)
    page.get_by_role("button", name="Look it over").click()
    expect(page.get_by_text("neither as C++ nor as Python")).to_be_visible()


@contextmanager
def running_board(row: bytes, answer: bytes) -> Iterator[str]:
    """A port on which a board prints since long; asked, it answers."""
    master, other = pty.openpty()
    tty.setraw(other)
    port = stand_in_folder() / f"cart-{uuid.uuid4().hex[:8]}"
    port.parent.mkdir(mode=0o700, exist_ok=True)
    port.symlink_to(os.ttyname(other))
    is_over = Event()

    def prints() -> None:
        n = 0
        while not is_over.wait(0.05):
            n += 1
            os.write(master, b"%d,%s\r\n" % (50_000 * n, row))
            if select.select([master], [], [], 0)[0] and b"?" in os.read(master, 100):
                os.write(master, answer)

    board = Thread(target=prints, daemon=True)
    board.start()
    yield str(port)
    is_over.set()
    board.join()
    port.unlink()
    os.close(master)
    os.close(other)


def test_a_board_that_ran_already_is_asked_which_program(open_page: OpenPage) -> None:
    page = open_page("/rigs/1/program/listen")
    base = page.url.split("/rigs/")[0] + "/api/rigs/1"
    program = page.request.post(f"{base}/programs", data={}).json()
    headers = [one["header"] for one in program["columns"]]
    row = b",".join(b"700" for _ in headers[1:])
    said = f"# Tick Stone: listening program {program['identity']}\r\n{','.join(headers)}\r\n"
    with running_board(row, said.encode()) as port:
        opened = page.request.post(
            f"{base}/line", data={"path": port, "speed": program["baud"], "resets": False}
        )
        assert opened.ok, opened.text()
        page.goto(page.url.replace("program/listen", "line"))
        page.get_by_role("button", name="Ask which program it runs").click()
        expect(page.get_by_text(f"baud, listening program {program['identity']}")).to_be_visible()
        expect(page.get_by_text("nose_strip_3").first).to_be_visible()
        expect(page.get_by_role("button", name="Ask which")).to_have_count(0)
        expect(page.get_by_text("changed by hand")).to_have_count(0)
        assert serious(page) == []
        page.request.delete(f"{base}/line")
