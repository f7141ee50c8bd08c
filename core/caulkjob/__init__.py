"""The job of a print service: what it asks of a model, what it decides, what it tells the customer.

>>> from caulkjob import read, examine, mend
"""

from caulkcore.io.files import write

from .examination import examine
from .intake import read
from .plan import mend

__all__ = ["examine", "mend", "read", "write"]
