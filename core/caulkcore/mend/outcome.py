"""What a remedy gives back."""

from dataclasses import dataclass, field
from typing import Any

from ..mesh import Mesh


@dataclass(frozen=True)
class Outcome:
    """The result of one remedy.

    Attributes
    ----------
    mesh : Mesh
        The very mesh that came in when nothing was done.
    done : str
        What was done, in one sentence; empty when nothing was.
    counts : dict
        The numbers behind the sentence.
    left : tuple of str
        What was left alone, and why.
    """

    mesh: Mesh
    done: str = ""
    counts: dict[str, Any] = field(default_factory=dict)
    left: tuple[str, ...] = ()
