"""The letter to the customer: what can be proposed beforehand, and the page that is kept."""

from collections.abc import Iterable
from dataclasses import dataclass, fields
from typing import Any

from bench.decisions import Accepted
from bench.models import Decision, Revision
from caulkjob.accepted_places import STAYS_APART
from caulkjob.text import without_places
from django.template.loader import render_to_string
from orders.models import Item

from .templatetags.humanize_numbers import cm3, mm, whole


@dataclass(frozen=True)
class LetterText:
    """The parts of a letter that a person may write anew; a line of each is an entry.

    What the delivered file measures is not among them: that is told by the file.

    Attributes
    ----------
    opening, found, changed, accepted : str
    """

    opening: str
    found: str
    changed: str
    accepted: str

    @staticmethod
    def of(given: dict[str, str]) -> "LetterText":
        """From named parts."""
        return LetterText(**{one.name: given[one.name] for one in fields(LetterText)})

    def lines(self) -> dict[str, list[str]]:
        """The entries of each part."""
        return {
            one.name: [x.strip() for x in getattr(self, one.name).splitlines() if x.strip()]
            for one in fields(self)
        }


def lineage(revision: Revision) -> list[Revision]:
    """The revisions that led to one, from the file as received on."""
    chain = [revision]
    while chain[-1].parent is not None:
        chain.append(chain[-1].parent)
    return chain[::-1]


def proposed(item: Item, revision: Revision, accepted: Iterable[Accepted]) -> LetterText:
    """The letter as it would go.

    Reasons for decisions are the shop's own and are not in it; what was decided about is.
    """
    received, *changes = lineage(revision)
    changes = [one for one in changes if one.steps or one.left]
    first = received.examinations.first()
    report = first.report if first else {"findings": []}
    found = [*report.get("notes", ()), *(f["text"] for f in report["findings"])]
    told = " and mended as told below" if changes else "; nothing had to be changed"
    material = [one for one in item.decisions.all() if one.act == Decision.Act.MATERIAL]
    swaps = [f"Made in {one.about['to']} instead of {one.about['from']}." for one in material]
    return LetterText(
        f"Your file {item.file_name} was checked before printing{told}.",
        "\n".join(found) or "Nothing to remark: the surface was closed and sound as it came.",
        "\n".join(line for one in changes for line in _told(one)) or "Nothing.",
        "\n".join([*swaps, *_accepted(accepted)]),
    )


def _told(change: Revision) -> list[str]:
    """What a revision changed, a line each, with its figures."""
    lines = [without_places(step["text"]) for step in change.steps]
    lines += [f"Left as it is: {without_places(one)}" for one in change.left]
    account = change.account
    if account:
        lines.append(_figures(account, moved=change.operation != "set-unit"))
    return lines


def _figures(account: dict[str, Any], *, moved: bool) -> str:
    triangles, volume = account["triangles"], account["volume_mm3"]
    told = [f"{whole(triangles['before'])} → {whole(triangles['after'])} triangles"]
    # inside out, a volume says nothing to anybody
    if volume["before"] >= 0 and volume["after"] >= 0:
        told.append(f"volume {cm3(volume['before'])} → {cm3(volume['after'])} cm³")
    if moved:
        told.append(f"{whole(account['unchanged_faces'])} triangles on the corners they had")
        told.append(f"the outer skin moved by {mm(account['max_deviation_mm'])} mm at most")
    out = (account.get("taken_out") or {}).get("pieces", 0)
    if out:
        told.append(f"{out:,} inner part{'s'[: out != 1]} or crumb{'s'[: out != 1]} taken out")
    words = ", ".join(told)
    return f"{words[:1].upper()}{words[1:]}."


def _accepted(accepted: Iterable[Accepted]) -> list[str]:
    lines = []
    for one in accepted:
        place = one.place
        if one.decision.kind == STAYS_APART:
            lines.append(f"{place['title']} ({place['measure']}) stays apart from the others.")
        elif place["title"] == "The whole model":
            lines.append(f"The size stays as it is: {place['measure']}.")
        else:
            lines.append(f"{place['title']}, {place['measure']}: stays as it is.")
    return lines


def page(item: Item, text: LetterText, **more: Any) -> str:
    """The page that goes to the customer and is kept."""
    return render_to_string(
        "dispatch/letter.html",
        {"item": item, "order": item.order, **text.lines(), **more},
    )


def withdrawn(letter: str, at: str) -> str:
    """The page of a release that was withdrawn, which says so."""
    told = render_to_string("dispatch/withdrawn.html", {"at": at})
    return letter.replace("<body>", f"<body>\n{told}", 1)
