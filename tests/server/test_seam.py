"""The state of each question, from reports as the worker stores them."""

from types import SimpleNamespace

import pytest
from caulkjob.operations import OPERATIONS
from caulkjob.questions import NOUNS, QUESTIONS, noun, question_of
from dispatch.rules import blocked_by, standing


def finding(kind: str, severity: str, places: int = 1) -> dict:
    return {"kind": kind, "severity": severity, "places": places, "count": places}


class Many(list):
    def all(self):
        return self


ALL = [q.key for q in QUESTIONS]


def item(*findings, waived=(), released=None, problem="", examined=True, asked=ALL, why=""):
    report = {
        "findings": list(findings),
        "size_mm": [53, 51.2, 66.6],
        "questions": asked,
        "unasked": [{"question": "walls", "words": why}] if why else [],
    }
    revision = SimpleNamespace(report=report)
    releases = [SimpleNamespace(revision_id=7, format=released)] if released else []
    return SimpleNamespace(
        workpiece=SimpleNamespace(
            current=revision if examined else None,
            current_id=7 if examined else None,
            problem=problem,
        ),
        waivers=Many(SimpleNamespace(kind=k) for k in waived),
        releases=Many(releases),
    )


HOLE = finding("open-edges", "leak", 2)
SHEET = finding("open-sheets", "call")
UNIT = finding("unit-suspect", "call")
VOID = finding("sealed-voids", "call")
OVERLAP = finding("overlapping-shells", "leak")
WIRE = finding("thin-wires", "call", 2)
FLAT = finding("zero-area-faces", "note", 3)


@pytest.mark.parametrize(
    ("what", "made", "question", "state", "words"),
    [
        ("sound", item(), "closed", "tight", "watertight"),
        ("sound", item(), "size", "tight", "53.0 × 51.2 × 66.6 mm"),
        ("sound", item(), "release", "not run", "ready"),
        ("a note", item(FLAT), "closed", "tight", "watertight"),
        ("holes", item(HOLE), "closed", "leaks", "2 holes"),
        ("holes", item(HOLE), "release", "not run", "waits for 1 question"),
        ("a sheet", item(HOLE, SHEET), "closed", "leaks", "2 holes"),
        ("a void", item(VOID), "inside", "your call", "1 sealed void"),
        ("a waived void", item(VOID, waived=["sealed-voids"]), "inside", "waived", "accepted"),
        ("doubt", item(UNIT), "size", "your call", "mm?"),
        ("waived doubt", item(UNIT, waived=["unit-suspect"]), "size", "waived", "66.6"),
        ("thin", item(WIRE), "walls", "your call", "2 thin wires"),
        ("thick", item(), "walls", "tight", "thick enough"),
        ("crossed", item(OVERLAP, asked=ALL[:-1], why="waits"), "walls", "not run", "waits"),
        ("no rules", item(asked=ALL[:-1]), "release", "not run", "ready"),
        ("two", item(HOLE, VOID), "release", "not run", "waits for 2 questions"),
        ("released", item(released="3mf"), "release", "tight", "released as 3MF"),
        ("new", item(examined=False), "closed", "not run", "waits for its examination"),
        ("broken", item(examined=False, problem="Cut off."), "size", "not run", "unreadable"),
    ],
)
def test_a_segment(what, made, question, state, words) -> None:
    segment = next(s for s in standing(made).seam if s.question == question)
    assert segment.state == state
    assert words in segment.text


@pytest.mark.parametrize(
    ("made", "blocking"),
    [
        (item(), []),
        (item(FLAT), []),
        (item(HOLE), ["closed"]),
        (item(UNIT, VOID), ["size", "inside"]),
        (item(UNIT, VOID, waived=["unit-suspect", "sealed-voids"]), []),
        (item(HOLE, waived=["open-edges"]), ["closed"]),
        (item(examined=False), [q.key for q in QUESTIONS]),
    ],
)
def test_what_stands_in_the_way_of_a_release(made, blocking) -> None:
    assert [s.question for s in blocked_by(made)] == blocking


WITHOUT_REMEDY = {
    "narrow-gaps": "widening slits is not built",
    "fine-relief": "a note: detail may be lost",
    "fine-engraving": "a note: detail may be lost",
    "loose-parts": "a note: nothing is wrong",
    "needle-faces": "a note: they stay",
    "too-large": "scaling and parting are not built",
    "too-small": "scaling is not built",
}


def test_every_kind_has_a_question_a_noun_and_an_operation_or_a_reason() -> None:
    kinds = {k for q in QUESTIONS for k in q.kinds}
    assert kinds == set(NOUNS)
    assert {question_of(k) for k in kinds} == {q.key for q in QUESTIONS}
    answered = {k for one in OPERATIONS for k in one.answers}
    assert answered <= kinds
    assert kinds - answered == set(WITHOUT_REMEDY)
    assert noun("open-edges", 1) == "hole"
    assert noun("open-edges", 2) == "holes"
