"""The state of each question, from reports as the worker stores them."""

from types import SimpleNamespace

import pytest
from bench.models import Examination
from bench.standard import Standard
from caulkjob.operations import OPERATIONS
from caulkjob.questions import NOUNS, QUESTIONS, noun, question_of
from caulkjob.shop_policy import ShopPolicy
from dispatch.rules import blocked_by, standing

BOX = [[0, 0, 0], [9, 9, 1]]
SPOT = {"title": "Here", "measure": "", "box": BOX, "value": 0.5, "limit_mm": 0.7, "pieces": [0, 1]}


def finding(kind: str, severity: str, places: int = 1) -> dict:
    spots = [
        {**SPOT, "box": [[40 * i, 0, 0], [40 * i + 9, 9, 1]], "stands_for": 1}
        for i in range(places)
    ]
    return {
        "kind": kind, "severity": severity, "places": places, "count": places, "spots": spots
    }  # fmt: skip


class Many(list):
    def all(self):
        return self


ALL = [q.key for q in QUESTIONS]
NYLON = SimpleNamespace(pk=1, key="nylon", rules={"key": "nylon"})
NOW = Standard(ShopPolicy(), [])


def acceptance(key: int, kind: str, places: list) -> SimpleNamespace:
    return SimpleNamespace(pk=key, act="accept", kind=kind, material_id=None, places=places)


def item(
    *findings,
    accepted=(),
    apart=(),
    released=None,
    withdrawn=False,
    problem="",
    examined=True,
    asked=ALL,
    why="",
    reason="",
    thinnest=(),
    sheet=NYLON.rules,
    judging=None,
    set_aside=False,
):
    report = {
        "findings": list(findings),
        "size_mm": [53, 51.2, 66.6],
        "questions": asked,
        "unasked": [{"question": "walls", "words": why, "reason": reason}] if why else [],
        "pieces": [{"shell": 0, "number": 1}, {"shell": 1, "number": 5}],
        "thinnest": list(thinnest),
    }
    standard = {**NOW.of(NYLON), "sheet": sheet}
    brief = Examination.brief_of(report)
    examination = SimpleNamespace(report=report, brief=brief, material_id=1, standard=standard)
    decisions = [acceptance(i, one["kind"], one["spots"]) for i, one in enumerate(accepted)]
    decisions += [acceptance(90, "stays-apart", [{"piece": n}]) for n in apart]
    release = SimpleNamespace(revision_id=7, format=released, material="nylon", holds=not withdrawn)
    return SimpleNamespace(
        workpiece=SimpleNamespace(
            examination=examination if examined else None,
            current_id=7 if examined else None,
            problem=problem,
        ),
        material=NYLON,
        material_id=1,
        decisions=Many(decisions),
        jobs=Many([SimpleNamespace(kind="judge", state=judging)] if judging else []),
        releases=Many([release] if released else []),
        set_aside=set_aside,
    )


HOLE = finding("open-edges", "leak", 2)
SHEET = finding("open-sheets", "call")
UNIT = finding("unit-suspect", "call")
VOID = finding("sealed-voids", "call")
OVERLAP = finding("overlapping-shells", "leak")
WIRE = finding("thin-wires", "call", 2)
FLAT = finding("zero-area-faces", "note", 3)
THICK = {"kind": "thin-walls", "thickness_mm": 0.8, "limit_mm": 0.7}
ONE_WIRE = finding("thin-wires", "call", 1)
LARGE = {"asked": ALL[:-1], "why": "not measured yet", "reason": "not-measured"}
ANOTHER = {"key": "nylon", "wall_free": 3}


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
        ("a waived void", item(VOID, accepted=[VOID]), "inside", "waived", "as it is"),
        ("doubt", item(UNIT), "size", "your call", "mm?"),
        ("waived doubt", item(UNIT, accepted=[UNIT]), "size", "waived", "66.6"),
        ("thin", item(WIRE), "walls", "your call", "2 thin wires"),
        ("thick", item(), "walls", "tight", "thick enough"),
        ("crossed", item(OVERLAP, asked=ALL[:-1], why="waits"), "walls", "not run", "waits"),
        ("no rules", item(asked=ALL[:-1]), "release", "not run", "waits for 1 question"),
        ("one of two", item(WIRE, accepted=[ONE_WIRE]), "walls", "your call", "1 thin wire"),
        ("both", item(WIRE, accepted=[WIRE]), "walls", "waived", "as it is"),
        ("how thick", item(thinnest=[THICK]), "walls", "tight", "held 0.80 of 0.70 mm"),
        ("kept apart", item(OVERLAP, apart=[5]), "solid", "waived", "kept apart"),
        ("another apart", item(OVERLAP, apart=[2]), "solid", "leaks", "1 overlap"),
        ("large", item(**LARGE), "walls", "not run", "being judged"),
        ("large", item(**LARGE), "release", "not run", "waits for 1 question"),
        ("stopped", item(judging="cancelled", **LARGE), "walls", "not run", "not judged"),
        ("old sheet", item(sheet=ANOTHER), "walls", "not run", "being judged"),
        ("old sheet", item(sheet=ANOTHER), "size", "not run", "being judged"),
        ("old sheet", item(sheet=ANOTHER), "closed", "tight", "watertight"),
        ("withdrawn", item(released="3mf", withdrawn=True), "release", "not run", "ready"),
        ("set aside", item(set_aside=True), "release", "not run", "set aside"),
        ("two", item(HOLE, VOID), "release", "not run", "waits for 2 questions"),
        ("released", item(released="3mf"), "release", "tight", "released as 3MF"),
        ("new", item(examined=False), "closed", "not run", "waits for its examination"),
        ("broken", item(examined=False, problem="Cut off."), "size", "not run", "not read"),
    ],
)
def test_a_segment(what, made, question, state, words) -> None:
    segment = next(s for s in standing(made, NOW).seam if s.question == question)
    assert segment.state == state
    assert words in segment.text


@pytest.mark.parametrize(
    ("made", "blocking"),
    [
        (item(), []),
        (item(FLAT), []),
        (item(HOLE), ["closed"]),
        (item(UNIT, VOID), ["size", "inside"]),
        (item(UNIT, VOID, accepted=[UNIT, VOID]), []),
        (item(HOLE, accepted=[HOLE]), ["closed"]),
        (item(examined=False), [q.key for q in QUESTIONS]),
        (item(sheet=ANOTHER), ["size", "walls"]),
        (item(OVERLAP), ["solid"]),
        (item(OVERLAP, apart=[1]), []),
    ],
)
def test_what_stands_in_the_way_of_a_release(made, blocking) -> None:
    assert [s.question for s in blocked_by(made, NOW)] == blocking


WITHOUT_REMEDY = {
    "narrow-gaps": "widening slits is not built",
    "fine-relief": "a note: detail may be lost",
    "fine-engraving": "a note: detail may be lost",
    "loose-parts": "a note: nothing is wrong",
    "needle-faces": "a note: they stay",
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
