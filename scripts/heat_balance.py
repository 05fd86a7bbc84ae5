"""Make the table of sweat by heat balance, with pythermalcomfort 4.8.1 installed for the occasion.

The library is not part of the application: its first call compiles for seconds, and one table serves every rider. It is
asked for the predicted heat strain of ISO 7933 in its form of 2004, which holds for the metabolic rate of a rider.
"""

import csv
from itertools import product
from pathlib import Path

OUT = Path(__file__).parents[1] / "src" / "stonechat" / "core" / "supply" / "heat_balance.csv"
TEMPS, HUMIDITIES, POWERS = (15, 20, 25, 30, 35, 40), (20, 40, 60), (80, 110, 150, 185)  # °C, %, W at the pedals
SUN = 20.0  # K, radiant over air temperature in the sun
WIND, CLOTHING, MASS, HEIGHT, EFFICIENCY = 3.0, 0.4, 75.0, 1.80, 0.22  # m/s (the model's most), clo, kg, m, 1
MET, MINUTES = 58.15, 240  # W/m² of one met; min ridden


def sweat(temp: float, humidity: float, power: float, radiant: float) -> float:
    """Return the loss in litres per hour."""
    from pythermalcomfort.models import phs  # type: ignore[import-not-found]

    surface = 0.202 * MASS**0.425 * HEIGHT**0.725  # m² [DuBois1916]
    told = phs(
        tdb=temp,
        tr=temp + radiant,
        v=WIND,
        rh=humidity,
        met=power / EFFICIENCY / surface / MET,
        wme=power / surface / MET,
        clo=CLOTHING,
        posture="standing",
        model="7933-2004",
        weight=MASS,
        height=HEIGHT,
        duration=MINUTES,
        drink=1,
        round_output=False,
    )
    return float(told.sweat_loss_g) / MINUTES * 60.0 / 1000.0


def main() -> None:
    """Write the table."""
    with OUT.open("w", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(("temp_c", "humidity_pct", "power_w", "shade_l_h", "sun_l_h"))
        for temp, humidity, power in product(TEMPS, HUMIDITIES, POWERS):
            shade, sun = (sweat(temp, humidity, power, radiant) for radiant in (0.0, SUN))
            writer.writerow((temp, humidity, power, f"{shade:.3f}", f"{sun:.3f}"))


if __name__ == "__main__":
    main()
