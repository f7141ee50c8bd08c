"""The seam: how each question stands for one item, from its current revision's report."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from caulkjob.questions import QUESTIONS, noun
from orders.models import Item

TIGHT, LEAKS, CALL, WAIVED, NOT_RUN = "tight", "leaks", "your call", "waived", "not run"


@dataclass(frozen=True)
class Segment:
    """One question, its state, and a few words about it."""

    question: str
    title: str
    state: str
    text: str
    can_wait: bool = False

    @property
    def blocks(self) -> bool:
        """Whether it stands in the way of a release."""
        return self.state in (LEAKS, CALL, NOT_RUN) and not self.can_wait


def _few_words(findings: Iterable[dict[str, Any]]) -> str:
    return ", ".join(f"{f['places']:,} {noun(f['kind'], f['places'])}" for f in findings)


_TIGHT_WORDS = {
    "closed": "watertight, outward",
    "solid": "nothing crosses",
    "inside": "nothing inside",
    "walls": "thick enough",
}


def _size_words(report: dict[str, Any]) -> str:
    return " × ".join(f"{x:,.1f}" for x in report["size_mm"]) + " mm"


def answers(item: Item) -> list[Segment]:
    """A segment for each question, in order."""
    current = item.workpiece.current
    if current is None:
        state = "unreadable" if item.workpiece.problem else "waits for its examination"
        return [Segment(q.key, q.title, NOT_RUN, state) for q in QUESTIONS]
    report = current.report
    waived = {w.kind for w in item.waivers.all()}
    segments: list[Segment] = []
    for q in QUESTIONS:
        if q.key not in report["questions"]:
            why = {one["question"]: one["words"] for one in report["unasked"]}
            words = why.get(q.key, "not asked")
            segments.append(Segment(q.key, q.title, NOT_RUN, words, can_wait=True))
            continue
        found = [f for f in report["findings"] if f["kind"] in q.kinds]
        leaks = [f for f in found if f["severity"] == "leak"]
        calls = [f for f in found if f["severity"] == "call" and f["kind"] not in waived]
        size = _size_words(report) if q.key == "size" else ""
        if leaks:
            segments.append(Segment(q.key, q.title, LEAKS, _few_words(leaks)))
        elif calls:
            words = f"{size}?" if size else _few_words(calls)
            segments.append(Segment(q.key, q.title, CALL, words))
        elif any(f["severity"] == "call" for f in found):
            segments.append(Segment(q.key, q.title, WAIVED, size or "accepted"))
        else:
            segments.append(Segment(q.key, q.title, TIGHT, size or _TIGHT_WORDS[q.key]))
    return segments
