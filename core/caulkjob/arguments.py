"""Operations on the command line: their parameters read from words, and all of them told."""

from typing import Any

from caulkcore.errors import RefusedInput

from .operation import Operation, Parameter
from .operations import OPERATIONS
from .perform import SET_UNIT

_SWITCH = {"yes": True, "true": True, "no": False, "false": False}
"""How a switch is written."""


def parameters_of(operation: Operation, words: list[str]) -> tuple[str, dict[str, Any]]:
    """The parameters of an operation from words such as ``--shape flat``.

    Numbers are written plain, lists ``1,2,5``, faces ``0-19,25`` as the file counts them, from 0,
    spots ``x,y,z,radius`` with ``;`` between several, vectors ``x,y,z``, switches ``yes`` or
    ``no``. Hyphens may stand for underscores.

    Parameters
    ----------
    operation : Operation
    words : list of str
        Those left of the command line.

    Returns
    -------
    unit : str
        The unit to read the file in; ``auto`` by default.
    given : dict
        The parameters by name.

    Raises
    ------
    RefusedInput
        If a word is none of the operation's parameters, or cannot be read as its kind.

    Examples
    --------
    >>> from caulkjob.operations import operation
    >>> parameters_of(operation("fill-holes"), ["--places", "1,3", "--shape", "flat"])
    ('auto', {'places': [1, 3], 'shape': 'flat'})
    """
    known = {one.name: one for one in operation.parameters}
    unit, given = "auto", {}
    words = [word for one in words for word in _split(one)]
    for name, value in zip(words[::2], words[1::2], strict=False):
        key = name.removeprefix("--").replace("-", "_")
        if name.startswith("--") and key in known:
            given[key] = _value(known[key], value)
        elif name == "--unit":
            unit = value
        else:
            raise RefusedInput(f"“{operation.name}” has no parameter “{name}”.")
    if len(words) % 2:
        raise RefusedInput(f"“{words[-1]}” stands without a value.")
    if operation.name == SET_UNIT and "was" in given:
        unit = given["was"]
    return unit, given


def _split(word: str) -> list[str]:
    return word.split("=", 1) if word.startswith("--") else [word]


def _value(parameter: Parameter, text: str) -> Any:
    try:
        match parameter.kind:
            case "number":
                return float(text)
            case "switch":
                return _SWITCH[text.lower()]
            case "places" | "pieces":
                return [int(word) for word in text.split(",")]
            case "faces":
                return [n for word in text.split(",") for n in _run(word)]
            case "vector":
                return [float(word) for word in text.split(",")]
            case "region" | "line":
                return [[float(x) for x in spot.split(",")] for spot in text.split(";")]
            case "meshes":
                raise ValueError("they are files")
            case _:
                return text
    except (KeyError, ValueError):
        raise RefusedInput(f"--{parameter.name} cannot be “{text}”.") from None


def _run(word: str) -> tuple[int, int]:
    first, _, last = word.partition("-")
    return int(first), int(last or first) - int(first) + 1


def all_operations() -> list[dict[str, Any]]:
    """All operations as ``do --list --json`` tells them.

    Returns
    -------
    list of dict
        With ``operation``, ``title``, ``parameters`` and ``answers``, the kinds of finding that it
        can mend.
    """
    return [
        {
            "operation": one.name,
            "title": one.title,
            "about": one.about,
            "parameters": [_described(parameter) for parameter in one.parameters],
            "answers": list(one.answers),
        }
        for one in OPERATIONS
    ]


def _described(one: Parameter) -> dict[str, Any]:
    number = one.kind == "number"
    return {
        "name": one.name,
        "title": one.title,
        "kind": one.kind,
        "unit": one.unit,
        "least": one.least if number else None,
        "most": one.most if number else None,
        "default": list(one.default) if isinstance(one.default, tuple) else one.default,
        "choices": list(one.choices),
    }


def page_of_operations() -> str:
    """All operations for a person, a paragraph each.

    Returns
    -------
    str
    """
    return "\n".join(line for one in OPERATIONS for line in _paragraph(one))


def _paragraph(operation: Operation) -> list[str]:
    lines = [f"{operation.name}: {operation.about}"]
    for one in operation.parameters:
        what = {"number": one.unit or "number", "choice": "|".join(one.choices)}.get(
            one.kind, one.kind
        )
        default = "" if one.default is None else f" (usually {one.default})"
        lines.append(f"  --{one.name.replace('_', '-')} {what}: {one.about}{default}")
    return lines
