"""The kinds of work there are: each application registers its own when it starts."""

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from .models import Job
from .queues import FRONT


class NotEntered(Exception):
    """What a child made does not fit the state that things are in by now; says why."""


def _nothing(job: Job) -> None:
    """Most kinds have nothing to do when work ended without a result."""


@dataclass(frozen=True)
class Order:
    """What a child process is given to work on.

    Attributes
    ----------
    stored : str
        Path of the blob it reads.
    given : dict
        Parameters, as plain values; the child knows no database.
    context : value
        Kept by the parent for `WorkKind.enter`, such as the rules that held when it began.
    also : dict
        Paths of further blobs, by the names under which the child finds them in its folder.
    """

    stored: str
    given: dict[str, Any]
    context: Any = None
    also: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class WorkKind:
    """How one kind of work is done.

    Attributes
    ----------
    name : str
        Stored with the job.
    does : str
        ``module:function`` that the child process runs: it takes the source file, a folder to
        write into, the parameters and a `Progress`, and returns plain values. Its module knows
        nothing of Django.
    order : callable
        Makes the `Order` of a job.
    enter : callable
        Stores what the child left in its folder, in the transaction that ends the job as done.
        May raise `NotEntered`, which undoes it and ends the job as refused.
    queue : str
        Where its jobs wait, at first and again.
    not_done : callable
        Called in the transaction that ends a job that was refused, failed or stopped.
    """

    name: str
    does: str
    order: Callable[[Job], Order]
    enter: Callable[[Job, Order, Path, dict[str, Any]], None]
    not_done: Callable[[Job], None] = _nothing
    queue: str = FRONT


_KINDS: dict[str, WorkKind] = {}


def register(*kinds: WorkKind) -> None:
    """Make kinds of work known; called when an application starts."""
    for kind in kinds:
        assert kind.name not in _KINDS, f"two kinds of work are called {kind.name}"
        _KINDS[kind.name] = kind


def kind_of(job: Job) -> WorkKind:
    """How a job is done."""
    return _KINDS[job.kind]


def modules() -> list[str]:
    """Modules that child processes need, for loading once ahead of all of them."""
    return sorted({kind.does.partition(":")[0] for kind in _KINDS.values()})
