"""The seam: how each question stands for one item, from its current revision's report."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from caulkjob.accepted_places import MAY_OVERLAP
from caulkjob.questions import QUESTIONS, Question, noun
from orders.models import Item

from .decisions import Accepted, Held
from .models import Examination, ItemJob
from .standard import Standard

TIGHT, LEAKS, CALL, WAIVED, NOT_RUN = "tight", "leaks", "your call", "waived", "not run"


@dataclass(frozen=True)
class Segment:
    """One question, its state, and a few words about it."""

    question: str
    title: str
    state: str
    text: str

    @property
    def blocks(self) -> bool:
        """Whether it stands in the way of a release."""
        return self.state in (LEAKS, CALL, NOT_RUN)


def _few_words(findings: Iterable[tuple[dict[str, Any], int]]) -> str:
    return ", ".join(f"{n:,} {noun(f['kind'], n)}" for f, n in findings)


_TIGHT_WORDS = {
    "closed": "watertight, outward",
    "solid": "nothing crosses",
    "inside": "nothing inside",
    "walls": "thick enough",
}


_KINDS_OF_WALL = {
    "thin-walls": "held",
    "thin-free-walls": "free",
    "thin-wires": "wire",
    "thin-necks": "neck",
}


def _size_words(report: dict[str, Any]) -> str:
    return " × ".join(f"{x:,.1f}" for x in report["size_mm"]) + " mm"


def answers(
    item: Item, standard: Standard | None, examination: Examination | None = None
) -> list[Segment]:
    """A segment for each question, in order.

    Parameters
    ----------
    item : Item
    standard : Standard or None
        What holds now: an answer by what no longer holds is none. Without it, the answers are those
        of then.
    examination : Examination, optional
        Of the revision that is asked about; that of the one which holds by default.
    """
    examination = examination or item.workpiece.examination
    if examination is None:
        state = "not read" if item.workpiece.problem else "waits for its examination"
        return [Segment(q.key, q.title, NOT_RUN, state) for q in QUESTIONS]
    held = Held.of(item)
    outdated = standard.outdated(examination, item.material) if standard else set()
    words = _judging(item)
    # the whole report is large, and only needed to tell which places were accepted
    report = examination.report if held.by_kind else examination.brief
    return [_segment(q, report, held, q.key in outdated, words) for q in QUESTIONS]


def _segment(
    question: Question, report: dict[str, Any], held: Held, outdated: bool, judging: str
) -> Segment:
    q, size = question, _size_words(report) if question.key == "size" else ""
    found = [f for f in report["findings"] if f["kind"] in q.kinds]
    pieces = report.get("pieces", ())
    covered = {f["kind"]: held.covering(f, pieces) if "spots" in f else [] for f in found}
    open_of = {f["kind"]: _open(f, covered[f["kind"]]) for f in found}
    leaks = [(f, open_of[f["kind"]]) for f in found if f["severity"] == "leak"]
    calls = [(f, open_of[f["kind"]]) for f in found if f["severity"] == "call"]
    leaks, calls = [x for x in leaks if x[1]], [x for x in calls if x[1]]
    unasked = {one["question"]: one for one in report["unasked"]}.get(q.key)
    if leaks:
        return Segment(q.key, q.title, LEAKS, _few_words(leaks))
    if outdated or (unasked and unasked.get("reason") == "not-measured"):
        return Segment(q.key, q.title, NOT_RUN, judging)
    if q.key not in report["questions"]:
        return Segment(q.key, q.title, NOT_RUN, unasked["words"] if unasked else "not asked")
    if calls:
        return Segment(q.key, q.title, CALL, f"{size}?" if size else _few_words(calls))
    if any(one is not None for every in covered.values() for one in every):
        apart = any(f["kind"] in MAY_OVERLAP for f in found)
        return Segment(q.key, q.title, WAIVED, size or ("kept apart" if apart else "as it is"))
    thinnest = _thinnest_words(report) if q.key == "walls" else ""
    return Segment(q.key, q.title, TIGHT, size or thinnest or _TIGHT_WORDS[q.key])


def _thinnest_words(report: dict[str, Any]) -> str:
    """The thinnest wall of each kind against its limit, as far as any was measured."""
    told = [
        f"{_KINDS_OF_WALL[one['kind']]} {one['thickness_mm']:.2f} of {one['limit_mm']:.2f}"
        for one in report.get("thinnest", ())
        if one["thickness_mm"] is not None
    ]
    return f"{', '.join(told)} mm" if told else ""


def _open(finding: dict[str, Any], covered: list[Accepted | None]) -> int:
    """How many places of a finding nothing covers, those told together counted singly."""
    spots = finding.get("spots")
    if spots is None or (finding["severity"] == "leak" and finding["kind"] not in MAY_OVERLAP):
        return int(finding["places"])
    rest = [s for s, by in zip(spots, covered, strict=True) if by is None]
    return sum(int(s.get("stands_for", 1)) for s in rest)


def _judging(item: Item) -> str:
    """Whether the verdict that is lacking is being worked on, or why it is not."""
    last = next((one for one in item.jobs.all() if one.kind == ItemJob.Kind.JUDGE), None)
    if last is None or last.state in ItemJob.OPEN or last.state == ItemJob.State.DONE:
        return "being judged"
    return "not judged"


def covered(item: Item, examination: Examination) -> list[dict[str, Any]]:
    """Which places of an examination's findings are accepted, and by what."""
    held, report = Held.of(item), examination.report
    return [
        {"kind": one["kind"], "place": place, "by": by}
        for one in report["findings"]
        for place, by in enumerate(held.covering(one, report.get("pieces", ())), start=1)
        if by is not None
    ]
