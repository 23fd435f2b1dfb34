"""Asking a catalogue, and taking what answers into the study as one source."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from umber_knot.gather.catalogue.client import ask, collected, harvest, titles
from umber_knot.gather.read import read_text
from umber_knot.work.tasks.keeper import Keeper
from umber_knot.work.tasks.saving import Saved, save
from umber_knot.work.worker import Job


def preview(keeper: Keeper, job: Job, question: Any) -> tuple[int, list[tuple[str, str, int]]]:
    """How many records of a catalogue answer a question, and the first of them."""
    job.progress("asking the catalogue")
    answer = ask(question)
    return answer.total if answer.total >= 0 else len(answer.records), titles(answer.records[:20])


def take(keeper: Keeper, job: Job, path: Path, question: Any, most: int, today: str) -> Saved:
    """Take the records of a catalogue that answer a question into the study."""
    records = list(harvest(question, most, lambda done, of: job.progress("taking records", done, of)))
    asked = {"address": question.address, "protocol": question.protocol, "query": question.query, "asked": today}
    found = read_text(collected(records), question.name(), {"catalogue": asked})
    found.note = f"{question.protocol} {question.address}, “{question.query}”, asked {today}"
    return save(path, [found], lambda n: job.progress("saving the records", n, len(records)))
