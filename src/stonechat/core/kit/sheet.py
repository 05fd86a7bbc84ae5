"""The rider's own table of the kit: its columns, so that it can go out again as it came in."""

from dataclasses import dataclass

MOST_COLUMNS = 120  # 1, of a table that are read and kept: our own has some sixty
MOST_CELLS = 20  # columns of a row that say nothing here and are kept all the same
LONGEST_CELL = 200  # letters
LONGEST_HEADER = 80  # letters


@dataclass(frozen=True, kw_only=True)
class SheetColumn:
    """One column."""

    header: str
    field: str  # what it is taken for; empty: kept as it is
    unit: str = ""
