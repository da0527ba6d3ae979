"""How a card is set: never fewer lines than the browser takes, columns that hold every block in its order."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st

from muster.web.figures.type_setting import Block, column_height_em, lines_of, width_em
from tests.examples import examples

blocks = st.lists(
    st.builds(Block, st.lists(st.floats(0.5, 6), min_size=1, max_size=12).map(tuple), st.booleans()),
    min_size=1,
    max_size=10,
)


def columns_used(content: list[Block], height_em: float) -> int:
    """A plain reckoning: each line, or each whole block, goes where there is room below the one before."""
    filled = [0.0]
    for block in content:
        for piece in [block.height_em] if block.whole and block.height_em <= height_em else block.heights_em:
            if filled[-1] + piece > height_em + 1e-6:
                filled.append(0.0)
            filled[-1] += piece
    return len(filled)


@settings(max_examples=examples(150))
@given(blocks)
def test_two_columns_hold_all_blocks_and_are_not_taller_than_need_be(content: list[Block]) -> None:
    height_em = column_height_em(content)
    assert columns_used(content, height_em) <= 2
    half = sum(block.height_em for block in content) / 2
    assert height_em >= half - 1e-6
    if height_em - 0.5 > half:
        assert columns_used(content, height_em - 0.5) > 2


@given(st.text("abc mnopW ", min_size=1, max_size=200), st.floats(6, 60))
def test_a_narrower_column_never_takes_fewer_lines(text: str, column_em: float) -> None:
    assert lines_of(text, column_em / 2) >= lines_of(text, column_em) >= 1
    assert lines_of(text, column_em, bold=True) >= lines_of(text, column_em)


def test_a_figure_stays_with_its_unit_and_a_long_word_is_broken() -> None:
    assert lines_of("above 2\u202f600\u202fW", width_em("2\u202f600\u202fW") + 0.5) == 2
    assert lines_of("W" * 40, 10) == 4
