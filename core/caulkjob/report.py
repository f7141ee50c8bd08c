"""The outcome of an examination."""

from dataclasses import asdict, dataclass
from typing import Any

from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.thickness.thickness_map import ThicknessMap

from .findings.finding import Finding
from .findings.materials import Verdict
from .findings.pieces import Pieces
from .findings.walls import Thinnest
from .unit_guess import UnitGuess


@dataclass(frozen=True)
class Unasked:
    """A question that was left out although it could be asked of a model.

    Attributes
    ----------
    question : str
    reason : {"no-rules", "skins-cross", "not-measured", "no-solid"}
        Why, as a code.
    words : str
        Why, in a few words.
    about : str
        The same in a sentence, with what can be done.
    """

    question: str
    reason: str
    words: str
    about: str


@dataclass(frozen=True)
class Report:
    """Measures and findings of one mesh.

    Attributes
    ----------
    mesh : Mesh
        What was examined, millimetres.
    pieces : Pieces
        The shells, and what each is.
    findings : tuple of Finding
    seconds : float
        Time the examination took.
    unit : UnitGuess
    questions : tuple of str
        Those that were asked.
    unasked : tuple of Unasked
        Those that were not, and why.
    walls : Walls or None
        Thickness all over, if it was measured.
    verdicts : tuple of Verdict
        What each of the shop's materials says to it.
    thinnest : tuple of Thinnest
        The thinnest wall of each kind that the material asks about, where walls were measured.
    could_miss : float or None
        Size below which a thin place could have been missed, mm, where a large part's walls were
        measured less closely than its material asks for.
    """

    mesh: Mesh
    pieces: Pieces
    findings: tuple[Finding, ...]
    seconds: float
    unit: UnitGuess
    questions: tuple[str, ...]
    unasked: tuple[Unasked, ...] = ()
    walls: ThicknessMap | None = None
    verdicts: tuple[Verdict, ...] = ()
    could_miss: float | None = None
    thinnest: tuple[Thinnest, ...] = ()

    @property
    def shells(self) -> int:
        """Number of shells: pieces of surface joined by edges."""
        return len(self.pieces.what)

    @property
    def volume(self) -> float:
        """What is enclosed, mm³, as if each open rim had a lid."""
        return self.pieces.total_volume

    @property
    def tight(self) -> bool:
        """Whether nothing blocks: no finding is a leak."""
        return all(f.severity != "leak" for f in self.findings)

    @property
    def leaks(self) -> dict[str, int]:
        """Count of each kind of leak."""
        return {f.kind: f.count for f in self.findings if f.severity == "leak"}

    def as_json(self) -> dict[str, Any]:
        """The stable form of the report, without the file's name and format.

        Returns
        -------
        dict of str to value

        Examples
        --------
        >>> from caulkcore.mesh.simple_solids import cuboid
        >>> from caulkjob import examine
        >>> examine(cuboid()).as_json()["volume_mm3"]
        1000.0
        """
        mesh = self.mesh
        return {
            "unit": self.unit.unit,
            "unit_source": self.unit.source,
            "unit_reason": self.unit.reason,
            "triangles": len(mesh.faces),
            "vertices": len(mesh.vertices),
            "size_mm": [round(float(x), 6) for x in mesh.size],
            "volume_mm3": round(self.volume, 6),
            "area_mm2": round(mesh.area, 6),
            "shells": self.shells,
            "tight": self.tight,
            "questions": list(self.questions),
            "unasked": [asdict(one) for one in self.unasked],
            "seconds": round(self.seconds, 4),
            "could_miss_mm": None if self.could_miss is None else round(self.could_miss, 3),
            "thinnest": [one.as_json() for one in self.thinnest],
            "findings": [f.as_json() for f in self.findings],
        }
