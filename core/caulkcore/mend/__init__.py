"""Mending: one module for each family of remedies, their description, and the plan."""

from .account import Account
from .operations import OPERATIONS, Operation, Parameter, operation, run_operation
from .outcome import Outcome
from .plan import Mended, Step, mend

__all__ = [
    "OPERATIONS",
    "Account",
    "Mended",
    "Operation",
    "Outcome",
    "Parameter",
    "Step",
    "mend",
    "operation",
    "run_operation",
]
