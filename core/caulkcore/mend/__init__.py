"""Mending: one module for each family of remedies, their description, and the plan."""

from .account import Account
from .cost import Cost, Measures
from .describe import Operation, Parameter
from .operations import OPERATIONS, cost_of, operation, run_operation
from .outcome import Outcome
from .plan import Mended, Step, mend

__all__ = [
    "OPERATIONS",
    "Account",
    "Cost",
    "Measures",
    "Mended",
    "Operation",
    "Outcome",
    "Parameter",
    "Step",
    "cost_of",
    "mend",
    "operation",
    "run_operation",
]
