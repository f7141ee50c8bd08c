"""Is there anything inside that does not belong? Voids, buried solids, debris."""

from caulkcore.diagnose.components import buried_solids, debris, sealed_voids
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.arrays import Array

from ..limits import USUAL, Limits
from ..text import counted, volume_text
from .finding import Finding
from .places import shell_places


def find(diagnosis: Diagnosis, limits: Limits = USUAL) -> list[Finding]:
    """The findings of *Inside*.

    Parameters
    ----------
    diagnosis : Diagnosis
    limits : Limits
        The shop's.

    Returns
    -------
    list of Finding
    """
    if diagnosis.shells[1] < 2:
        return []
    makers = (sealed_void_finding, buried_solid_finding, debris_finding)
    found = (make(diagnosis, limits) for make in makers)
    return [f for f in found if f]


def _finding(
    diagnosis: Diagnosis, kind: str, chosen: Array, what: str, text: str
) -> Finding | None:
    """A call about some shells; None if there are none."""
    if not len(chosen):
        return None
    volume, _ = diagnosis.shell_measures

    def title(s: int) -> str:
        return f"{what}, {volume_text(abs(float(volume[s])))}"

    places = shell_places(diagnosis, kind, chosen, title)
    return Finding(kind, "call", len(chosen), text, places)


def sealed_void_finding(diagnosis: Diagnosis, limits: Limits = USUAL) -> Finding | None:
    """Hollows without an opening.

    Parameters
    ----------
    diagnosis : Diagnosis
    limits : Limits
        The shop's.

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.
    """
    chosen = sealed_voids(diagnosis, limits.debris)
    text = (
        f"{counted(len(chosen), 'hollow')} without an opening. Powder or resin stays inside "
        "for good; if it is not meant, fill it."
    )
    return _finding(diagnosis, "sealed-voids", chosen, "Sealed void", text)


def buried_solid_finding(diagnosis: Diagnosis, limits: Limits = USUAL) -> Finding | None:
    """Solids inside a solid.

    Parameters
    ----------
    diagnosis : Diagnosis
    limits : Limits
        The shop's.

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.
    """
    chosen = buried_solids(diagnosis, limits.debris)
    text = (
        f"{counted(len(chosen), 'solid')} buried in another. Its skin shows as rings in the layers "
        "and costs time; nothing of it can be seen."
    )
    return _finding(diagnosis, "buried-shells", chosen, "Buried solid", text)


def debris_finding(diagnosis: Diagnosis, limits: Limits = USUAL) -> Finding | None:
    """Shells too small to be meant.

    Parameters
    ----------
    diagnosis : Diagnosis
    limits : Limits
        The shop's.

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> crumb = cuboid((0.1, 0.1, 0.1), at=(30.0, 0.0, 0.0))
    >>> debris_finding(Diagnosis(concatenate([cuboid(), crumb]))).count
    1
    """
    chosen = debris(diagnosis, limits.debris)
    text = (
        f"{counted(len(chosen), 'bit')} too small to be meant. Loose crumbs in the powder or "
        "the vat, or spots on the layers."
    )
    return _finding(diagnosis, "debris", chosen, "Debris", text)
