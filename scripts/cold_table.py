"""Make the table that riding in the cold is held against, with pythermalcomfort 4.8.1 installed for the occasion.

It asks that library for the required insulation of ISO 11079 and how long too little of it is bearable.
"""

import csv
from itertools import product
from pathlib import Path

OUT = Path(__file__).parents[1] / "tests" / "oracles" / "required_insulation.csv"
MET = 58.15  # W/m² of one met
TEMPS, SPEEDS, PERMEABILITIES, CLOS = (-20, -5, 0, 10), (2.0, 6.0, 14.0), (5, 50), (0.5, 1.2, 2.5)
EFFORTS = ((110, 0), (200, 30), (359, 79))  # W/m², metabolic rate and work
COLUMNS = (
    "temp_c", "speed_ms", "permeability", "heat", "work", "clo", "icl_min", "icl_neutral", "hours_min", "hours_neutral"
)  # fmt: skip


def main() -> None:
    """Write the table."""
    from pythermalcomfort.models import ireq  # type: ignore[import-not-found]

    with OUT.open("w", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(COLUMNS)
        for temp, speed, permeability, (heat, work), clo in product(TEMPS, SPEEDS, PERMEABILITIES, EFFORTS, CLOS):
            told = ireq(
                tdb=temp, tr=temp, vr=speed, rh=85, met=heat / MET, clo=clo, p=permeability, wme=work / MET,
                walk_sp=min(1.2, 0.0052 * (heat - 58.0)), limit_inputs=False, round_output=False,
            )  # fmt: skip
            hours = ("" if isinstance(h, str) else f"{float(h):.4f}" for h in (told.dle_min, told.dle_neutral))
            writer.writerow(
                (temp, speed, permeability, heat, work, clo, f"{told.icl_min:.4f}", f"{told.icl_neutral:.4f}", *hours)
            )


if __name__ == "__main__":
    main()
