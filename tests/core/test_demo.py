"""Every demo item says on the bench what its order tells, and can be mended or says why not."""

import numpy as np
import pytest
from caulkcore import RefusedInput
from caulkjob import examine, mend, read, write
from harbour import shapes
from harbour.orders import orders
from makers import assert_tight_by_referees

DEMO = orders()
ITEMS = {item.file: item for order in DEMO for item in order.items}

# file: the kinds found, and the solid that it was before it was broken, if that is known
EXPECTED = {
    "lantern_v7.stl": (
        {"open-edges", "open-sheets", "flipped-faces", "sealed-voids", "debris"},
        shapes.lantern_housing,
    ),
    "bracket-left.stl": (set(), shapes.gallery_bracket),
    "bollard_scan.stl": ({"open-edges", "open-sheets"}, None),
    "seal_sculpt.obj": ({"inside-out-shells", "overlapping-shells"}, None),
    "cleat.obj": ({"unit-suspect"}, None),
    "name_board.obj": (
        {"zero-area-faces", "needle-faces", "self-intersections"},
        shapes.name_board,
    ),
    "hull_half.stl": ({"cracks"}, shapes.half_hull),
    "pennant.stl": ({"open-sheets"}, None),
    "cap.stl": ({"open-edges"}, shapes.float_cap),
    "double_float.stl": (set(), shapes.double_float),
    "gauge_box.stl": (set(), shapes.gauge_box),
    "lid.stl": ({"duplicate-faces"}, shapes.gauge_lid),
    "blocks.stl": ({"over-shared-edges"}, None),
    "pump_port.stl": ({"inside-out-shells"}, shapes.pump_body),
    "valve_wheel.stl": ({"over-shared-edges"}, shapes.valve_wheel),
    "bell_frame.obj": ({"open-edges", "zero-area-faces"}, shapes.bell_frame),
}
REFUSED = {"pennant.stl": "open sheet"}


@pytest.mark.parametrize("file", [f for f, item in ITEMS.items() if not item.cut_off])
def test_a_demo_item(file: str, tmp_path) -> None:
    source = read(ITEMS[file].write(tmp_path))
    mesh = source.mesh_mm()
    kinds, whole = EXPECTED[file]
    report = examine(mesh, source.unit)
    assert {f.kind for f in report.findings} == kinds
    for finding in report.findings:
        assert finding.place_count >= len(finding.places) > 0
        for place in finding.places:
            assert np.isfinite(place.at).all()
            assert place.title
            assert place.measure
    outcome = mend(mesh, source.unit)
    if file in REFUSED:
        assert outcome.refused is not None
        assert REFUSED[file] in outcome.refused
        return
    assert outcome.refused is None
    assert_tight_by_referees(outcome.mesh)
    if whole is not None:
        assert outcome.mesh.volume == pytest.approx(whole().volume(), rel=0.005)
    again = mend(outcome.mesh, source.unit)
    assert again.mesh is outcome.mesh, "mending what is mended changes nothing"
    out = tmp_path / "out.stl"
    write(outcome.mesh, out)
    assert examine(read(out).mesh, source.unit).tight


def test_the_item_that_was_cut_off_is_refused(tmp_path) -> None:
    (item,) = (one for one in ITEMS.values() if one.cut_off)
    with pytest.raises(RefusedInput, match="cut off"):
        read(item.write(tmp_path))


def test_each_demo_item_has_a_file_of_its_own() -> None:
    assert len(ITEMS) == sum(len(order.items) for order in DEMO) == 17
    assert set(EXPECTED) == {f for f, item in ITEMS.items() if not item.cut_off}
