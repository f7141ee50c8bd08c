"""What came of mending: the mesh, the steps that made it, and the account."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from caulkcore.mesh.triangle_mesh import Mesh

from .account import Account
from .report import Report


@dataclass(frozen=True)
class Step:
    """One thing that was done.

    Attributes
    ----------
    operation : str
        Its name.
    text : str
        What it did.
    left : tuple of str
        What it left alone, and why.
    work_out : callable
        Works out its account.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> step = Step("reduce", "Fewer triangles.", (), lambda: Account.unchanged(cuboid()))
    >>> step.account.unchanged_faces
    12
    """

    operation: str
    text: str
    left: tuple[str, ...]
    work_out: Callable[[], Account]

    @cached_property
    def account(self) -> Account:
        """The account of this step alone, worked out when it is asked for."""
        return self.work_out()

    def as_json(self) -> dict[str, Any]:
        """All of it as plain values.

        Returns
        -------
        dict of str to value
        """
        return {
            "operation": self.operation,
            "text": self.text,
            "left": list(self.left),
            "account": self.account.as_json(),
        }


@dataclass(frozen=True)
class Mended:
    """What was made of a mesh.

    Attributes
    ----------
    mesh : Mesh
        The result; the very mesh that came in when nothing was better.
    before, after : Report
    account : Account
        Of the whole change.
    steps : tuple of Step
    refused : str or None
        Why it is not tight, if it is not.
    unmoved : Mesh, optional
        The result with every piece where it was before it was moved, turned or set off; None where
        none was.
    """

    mesh: Mesh
    before: Report
    after: Report
    account: Account
    steps: tuple[Step, ...]
    refused: str | None
    unmoved: Mesh | None = None

    @staticmethod
    def unchanged(mesh: Mesh, report: Report, reason: str) -> "Mended":
        """The mesh as it came in, since nothing better could be made of it.

        Parameters
        ----------
        mesh : Mesh
        report : Report
            Of the mesh.
        reason : str
            Why it stays, in a sentence.

        Returns
        -------
        Mended
        """
        return Mended(mesh, report, report, Account.unchanged(mesh), (), reason)

    def as_json(self) -> dict[str, Any]:
        """The form of ``mend --json``, without the file's name and format.

        Returns
        -------
        dict of str to value
        """
        return {
            "before": self.before.as_json(),
            "after": self.after.as_json(),
            "account": self.account.as_json(),
            "steps": [s.as_json() for s in self.steps],
            "refused": self.refused,
        }
