"""The examples in the docs are those of the demo as it is."""

from __future__ import annotations

from pathlib import Path

import pytest

from muster.formats.data_digest import changed_parts, data_parts
from muster.formats.paper_marks import read_marks
from tests.field.judging import demo_job

EXAMPLES = Path(__file__).parents[2] / "docs/examples"


@pytest.mark.parametrize(("name", "source"), [("report.html", ""), ("card.html", "the inverter on the bank")])
def test_an_example_of_the_docs_speaks_of_the_demo_as_it_is(name: str, source: str) -> None:
    marks = read_marks(EXAMPLES / name)
    assert changed_parts(marks.parts, data_parts(demo_job("net_loft").job, source)) == ()
