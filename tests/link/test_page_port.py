"""A page's port: its end waits for nobody, and nobody waits for its reader's end."""

from __future__ import annotations

import pytest

from tickstone.link.page_port import PageSource
from tickstone.link.source import LineLostError


def filled() -> tuple[PageSource, int]:
    source, fed = PageSource(), 0
    while source.feed(b"%d\n" % fed):
        fed += 1
    return source, fed


def test_a_page_that_goes_with_a_full_queue_waits_for_nobody() -> None:
    """It once waited on the server's own loop, and everything stood still."""
    source, fed = filled()
    source.end()
    read = [source.read() for _ in range(fed)]
    assert read == [b"%d\n" % n for n in range(fed)]
    with pytest.raises(LineLostError):
        source.read()


def test_a_page_is_told_that_nobody_reads_any_more() -> None:
    source, _ = filled()
    source.close()
    with pytest.raises(LineLostError):
        source.feed(b"more")
