"""A command from its call to its rows."""

from __future__ import annotations

import argparse
import sys
import tempfile
from pathlib import Path
from typing import Any

from oat_tide.command.asked import asked_session
from oat_tide.command.call import STAGE_OF
from oat_tide.command.reported import gaps_taken, what_else_is_there, what_was_left
from oat_tide.command.written import written
from oat_tide.core.language import phrase
from oat_tide.core.user_error import UserError
from oat_tide.publish.record import write_parquet, write_text
from oat_tide.stages import STAGES
from oat_tide.system.whole import write_whole


def run(command: str, part: Any, asked: argparse.Namespace) -> int:
    """Make the deck of a stage for every series of a source and write its record; returns the exit code."""
    if asked.format == "parquet" and asked.output is None:
        raise UserError("--format parquet: Parquet is no text. Name a file with --output.")
    stage = STAGES[STAGE_OF.get(command, command)]
    kept = stage.others.get(command, stage.record)
    assert kept is not None
    session = asked_session(stage, part, asked)
    left, more = what_was_left(session), (what_else_is_there(session), gaps_taken(session))
    if left or any(more):
        said = "; ".join(part for part in (left, *more) if part)
        print(
            phrase("oat-tide: {source}: {said}.", source=session.reading.source, said=said), file=sys.stderr
        )
    if left and asked.strict:
        return 3
    frames = written(session, stage, kept)
    if asked.format == "parquet":
        with tempfile.TemporaryDirectory(prefix="oat-tide-") as folder:
            write_whole(asked.output, lambda path: write_parquet(frames, Path(folder), path))
        return 0
    if asked.output is None:
        write_text(frames, asked.format, sys.stdout)
        return 0

    def write(path: Path) -> None:
        with path.open("w", encoding="utf-8") as file:
            write_text(frames, asked.format, file)

    write_whole(asked.output, write)
    return 0
