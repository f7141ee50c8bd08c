"""A part must fit one of its process's machines, however its sides are laid."""

from dataclasses import replace

import numpy as np
import pytest
from caulkcore import Mesh
from caulkjob import examine
from caulkjob.limits import Limits, Machine, room_for
from caulkjob.rule_sheets import usual_rule_sheet
from makers import box

NYLON = replace(usual_rule_sheet("sintered-nylon"), largest=(300, 300, 300))
SMALL = Machine("Short pier", NYLON.process, (30, 50, 20))
LONG = Machine("Long pier", NYLON.process, (15, 15, 200))
OTHER = Machine("Vat", "Vat resin", (500, 500, 500))


def bar(*sides: float) -> Mesh:
    return Mesh(box().vertices / 10 * sides, box().faces)


@pytest.mark.parametrize(
    ("sides", "machines", "words"),
    [
        ((45, 18, 28), (SMALL, LONG), None),
        ((12, 150, 12), (SMALL, LONG), None),
        ((45, 28, 28), (SMALL, LONG), "8.0 mm longer than “Short pier” takes, the machine it"),
        ((14, 210, 14), (SMALL, LONG), "10.0 mm longer than “Long pier” takes"),
        (
            (14, 350, 14),
            (SMALL, LONG),
            "50.0 mm longer than the material takes (300 × 300 × 300 mm)",
        ),
        ((45, 28, 28), (OTHER,), None),
        ((45, 28, 28), (), None),
    ],
)
def test_it_fits_or_the_machine_that_comes_nearest_is_named(
    sides: tuple[float, float, float], machines: tuple[Machine, ...], words: str | None
) -> None:
    report = examine(
        bar(*sides), limits=Limits(machines=machines), rules=NYLON, rule_sheets=(NYLON,)
    )
    told = [f.text for f in report.findings if f.kind == "too-large"]
    faults = [f for f in report.verdicts[0].faults if f.what == "too-large"]
    assert len(told) == len(faults) == (words is not None)
    if words:
        assert words in told[0]
        name = words.split("“")[1].split("”")[0] if "“" in words else ""
        assert faults[0].title == (f"Build volume of {name}" if name else "Build volume")


def test_the_scale_that_fits_is_the_best_machines() -> None:
    size = np.array([28.0, 45.0, 28.0])
    room, machine = room_for(size, NYLON.largest, (SMALL, LONG), NYLON.process)
    assert machine is SMALL
    report = examine(
        bar(*size), limits=Limits(machines=(SMALL, LONG)), rules=NYLON, rule_sheets=(NYLON,)
    )
    assert report.verdicts[0].scale == pytest.approx((room / np.sort(size)).min(), abs=1e-3)
