"""The job of a print service: what it asks of a model, what it decides, what it tells the customer.

>>> from caulkjob import examine, mend, read
>>> from caulkcore.mesh.simple_solids import cuboid
>>> examine(cuboid()).tight
True
"""

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from caulkcore.io.files import write

    from .examination import examine
    from .intake import read
    from .plan import mend

__all__ = ["examine", "mend", "read", "write"]
_HOMES = {
    "examine": "caulkjob.examination",
    "mend": "caulkjob.plan",
    "read": "caulkjob.intake",
    "write": "caulkcore.io.files",
}
"""Where each name is defined: it is loaded when it is asked for, so that a short process loads
nothing that it does not use."""


def __getattr__(name: str) -> Any:
    if name not in _HOMES:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    return getattr(import_module(_HOMES[name]), name)
