"""What a figure may be, for every figure that a person or a file gives. In house units."""

from typing import NamedTuple


class Interval(NamedTuple):
    """Closed interval."""

    low: float
    high: float


MOST_DAYS = 75  # of a race that are looked at: nights, doors, weather, sun

LIMITS: dict[str, Interval] = {
    "rider_mass": Interval(35.0, 160.0),  # kg
    "power": Interval(50.0, 400.0),  # W
    "endurance": Interval(0.3, 1.0),  # 1
    "fade_time": Interval(8 * 3600.0, 120 * 3600.0),  # s
    "recovery_time": Interval(2 * 3600.0, 30 * 3600.0),  # s
    "coasting": Interval(0.0, 0.5),  # 1
    "climb_from": Interval(0.0, 0.15),  # 1
    "night_cap": Interval(0.3, 1.0),  # 1
    "walk_factor": Interval(0.3, 1.2),  # 1
    "push_efficiency": Interval(0.05, 0.5),  # 1
    "sleep": Interval(0.0, 16 * 3600.0),  # s
    "wait": Interval(0.0, 24 * 3600.0),  # s
    "time_limit": Interval(3600.0, 75 * 86_400.0),  # s
    "mend_minutes": Interval(0.0, 4320.0),  # min
    "mend_speed": Interval(1.0, 40.0),  # km/h
    "mend_rate": Interval(0.0, 1_000_000.0),  # in the unit of its ground; what is too often is said in a sentence
    "mend_factor": Interval(0.0, 20.0),  # 1
    "mend_limit": Interval(0.0005, 0.5),  # 1
    "part_age": Interval(0.0, 50_000.0),  # km, mm, days or %
    "lining": Interval(0.0, 3.0),  # mm
    "bolts": Interval(0.0, 200.0),  # 1
    "torque": Interval(0.0, 80.0),  # N·m
    "tool_reach": Interval(0.0, 200.0),  # mm
    "system_mass": Interval(30.0, 300.0),  # kg
    "water_aboard": Interval(0.0, 30.0),  # l
    "food_aboard": Interval(0.0, 60_000.0),  # kcal
    "note_km": Interval(0.0, 20_000.0),  # km
    "type_size": Interval(7.0, 14.0),  # pt
    "print_margin": Interval(4.0, 40.0),  # mm
    "rolling": Interval(0.002, 0.2),  # 1
    "cap": Interval(1.0, 30.0),  # m/s
    "grade_most": Interval(0.01, 0.45),  # 1
    "rain": Interval(0.0, 500.0),  # mm
    "temp_band": Interval(0.0, 20.0),  # K
    "night_dip": Interval(0.0, 0.3),  # 1
    "pace_uphill": Interval(0.0, 4.0),  # 1
    "pace_downhill": Interval(0.0, 12.0),  # 1
    "pace_most": Interval(1.0, 1.6),  # 1
    "drivetrain": Interval(0.85, 0.99),  # 1
    "gross_efficiency": Interval(0.15, 0.28),  # 1
    "intake": Interval(80.0, 500.0),  # kcal/h
    "day_time": Interval(0.0, 86_400.0),  # s
    "dwell": Interval(0.0, 48 * 3600.0),  # s
    "camp_time": Interval(0.0, 4 * 3600.0),  # s
    "distance": Interval(0.0, 6_000_000.0),  # m
    "day_distance": Interval(10_000.0, 800_000.0),  # m
    "box_volume": Interval(0.0005, 0.2),  # m³
    "box_mass": Interval(0.1, 60.0),  # kg
    "detour": Interval(0.0, 40_000.0),  # m
    "temp": Interval(-40.0, 55.0),  # °C
    "wind_speed": Interval(0.0, 35.0),  # m/s
    "wind_from": Interval(0.0, 360.0),  # °
    "latitude": Interval(-90.0, 90.0),  # °
    "longitude": Interval(-180.0, 180.0),  # °
    "height": Interval(-500.0, 9_000.0),  # m
    "share": Interval(0.0, 1.0),  # 1
    "smoothing": Interval(0.0, 500.0),  # m
    "ascent_threshold": Interval(0.0, 50.0),  # m
    "gear": Interval(0.3, 3.5),  # 1
    "bike_mass": Interval(4.0, 40.0),  # kg
    "rim": Interval(0.30, 0.64),  # m
    "tyre_width": Interval(0.018, 0.13),  # m
    "wheelbase": Interval(0.85, 1.40),  # m
    "chainstay": Interval(0.36, 0.60),  # m
    "bottom_bracket_drop": Interval(-0.05, 0.12),  # m
    "frame_angle": Interval(55.0, 82.0),  # °
    "stack": Interval(0.40, 0.80),  # m
    "reach": Interval(0.28, 0.60),  # m
    "head_tube": Interval(0.06, 0.30),  # m
    "seat_tube": Interval(0.30, 0.70),  # m
    "saddle_height": Interval(0.45, 0.95),  # m
    "saddle_setback": Interval(-0.15, 0.25),  # m
    "stem": Interval(0.0, 0.15),  # m
    "bar_width": Interval(0.30, 0.90),  # m
    "front_share": Interval(0.30, 0.65),  # 1
    "fork_rake": Interval(0.0, 0.09),  # m
    "travel": Interval(0.0, 0.25),  # m
    "crank": Interval(0.12, 0.20),  # m
    "carrier_volume": Interval(0.00005, 0.060),  # m³
    "carrier_volume_least": Interval(0.0, 0.060),  # m³
    "carrier_limit": Interval(0.05, 30.0),  # kg
    "carrier_mass": Interval(0.0, 4.0),  # kg
    "carrier_length": Interval(0.01, 1.2),  # m
    "carrier_box": Interval(0.0, 0.8),  # m; 0: usual for its place
    "shift": Interval(-0.4, 0.6),  # m
    "mouth": Interval(0.0, 0.8),  # m
    "drag_coefficient": Interval(0.1, 1.5),  # 1
    "shield": Interval(-0.5, 1.5),  # 1
    "open_time": Interval(0.0, 300.0),  # s
    "drag": Interval(-0.02, 0.20),  # m²
    "drag_fill": Interval(-2.0, 20.0),  # m² per m³
    "lever": Interval(0.0, 1.0),  # m
    "steadiness": Interval(1.0, 3.0),  # 1
    "item_mass": Interval(0.0005, 15.0),  # kg
    "item_volume": Interval(0.0, 0.040),  # m³
    "item_length": Interval(0.0, 1.2),  # m
    "item_content": Interval(0.0, 15.0),  # kg
    "mass_all": Interval(0.0005, 200.0),  # kg, of all of a kind
    "wheel_load": Interval(0.5, 250.0),  # kg
    "count": Interval(0, 10_000),  # 1
    "quantity": Interval(1, 200),  # 1
    "reaches": Interval(0.0, 200.0),  # 1 per day
    "water": Interval(0.0, 15.0),  # l
    "food": Interval(0.0, 40_000.0),  # kcal
    "meal": Interval(0.0, 4_000.0),  # kcal
    "height_rider": Interval(1.2, 2.2),  # m
    "drag_scale": Interval(0.6, 1.6),  # 1
    "tiredness": Interval(0.0, 1.0),  # 1
    "awake": Interval(0.0, 7 * 86_400.0),  # s
    "sweat": Interval(0.3, 3.0),  # 1
    "handling": Interval(0.2, 5.0),  # 1
    "punctures": Interval(0.05, 10.0),  # 1
    "runs_cold": Interval(-6.0, 6.0),  # K
    "age": Interval(14.0, 100.0),  # years
    "tired": Interval(3_600.0, 1_000 * 3_600.0),  # s
    "food_density": Interval(500.0, 9_000.0),  # kcal/kg
    "food_bulk": Interval(200.0, 9_000.0),  # kcal per l
    "food_energy": Interval(0.05, 9.0),  # kcal/g
    "food_by_ml": Interval(0.05, 12.0),  # kcal/ml
    "for_climbs": Interval(0.0, 2_000.0),  # kcal for each 1,000 m
    "gut": Interval(20.0, 150.0),  # g/h
    "sodium": Interval(0.0, 400.0),  # g/kg
}
