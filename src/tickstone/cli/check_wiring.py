"""``tickstone check wiring``: what is wrong with a wiring, from its JSON file."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import typer

from tickstone.core.display import prefixed
from tickstone.core.wiring.finding import Number, WiringFinding
from tickstone.core.wiring.judging import check_wiring as find
from tickstone.formats.family_file import shipped_boards, shipped_devices
from tickstone.formats.wiring_file import LARGEST_BYTES, read_wiring


def check_wiring(
    file: Annotated[Path, typer.Argument(help="A wiring as JSON; see docs/formats.md.")],
    as_json: Annotated[
        bool, typer.Option("--json", help="One JSON object instead of text.")
    ] = False,
) -> None:
    """Check a wiring. Exit code 1 when an error stands, 2 when the file cannot be read."""
    try:
        with file.open("rb") as stream:
            raw = stream.read(LARGEST_BYTES + 1)
        wiring = read_wiring(raw, shipped_boards(), shipped_devices())
    except OSError as error:
        typer.echo(f"tickstone: {file}: {error.strerror}", err=True)
        raise typer.Exit(2) from error
    except ValueError as error:
        typer.echo(f"tickstone: {file}: {error}", err=True)
        raise typer.Exit(2) from error
    findings = find(wiring)
    if as_json:
        body = {"findings": [_as_json(finding) for finding in findings]}
        typer.echo(json.dumps(body, ensure_ascii=False))
    else:
        typer.echo(_as_text(findings))
    if any(finding.severity == "error" for finding in findings):
        raise typer.Exit(1)


def _as_json(finding: WiringFinding) -> dict[str, Any]:
    return {
        "id": finding.id,
        "severity": finding.severity,
        "happens": finding.happens.value,
        "where": finding.where,
        "message": finding.message,
        "why": finding.why,
        "numbers": [
            {"name": number.name, "value": number.value, "unit": number.unit}
            for number in finding.numbers
        ],
        "repair": finding.repair.text if finding.repair else None,
        "remedies": [repair.text for repair in finding.repairs],
        "buy": finding.buy or None,
        "source": finding.source,
    }


def _as_text(findings: tuple[WiringFinding, ...]) -> str:
    if not findings:
        return "nothing found: the wiring is as it should be, as far as rules can tell"
    lines = []
    for finding in findings:
        tail = f"[{finding.id}, {finding.happens.value}]"
        lines.append(f"{finding.severity}: {finding.message}  {tail}")
        lines.append(f"    {finding.why}")
        if finding.numbers:
            lines.append(f"    {', '.join(_number(number) for number in finding.numbers)}")
        words = ("do", *("or" for _ in finding.repairs[1:]))
        lines += [
            f"    {word}: {repair.text}"
            for word, repair in zip(words, finding.repairs, strict=False)
        ]
        if finding.buy:
            lines.append(
                f"    or get {finding.buy}" if finding.repairs else f"    get {finding.buy}"
            )
    return "\n".join(lines)


def _number(number: Number) -> str:
    if not number.unit:
        return f"{number.name} {number.value:g}"
    return f"{number.name} {prefixed(number.value, number.unit)}"
