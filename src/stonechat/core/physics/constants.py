"""Physical constants, each with unit and source key (docs/builders/references.md)."""

GRAVITY = 9.80665  # m/s² [ISO80000-3]
PRESSURE_SEA_LEVEL = 101_325.0  # Pa [ISO2533]
GAS_CONSTANT_DRY_AIR = 287.053  # J/(kg·K) [ISO2533]
GAS_CONSTANT_VAPOUR = 461.495  # J/(kg·K) [CIPM2007], molar gas constant over molar mass of water
KELVIN_OFFSET = 273.15  # K
LAPSE_RATE = 0.0065  # K/m [ISO2533]
JOULES_PER_KCAL = 4184.0  # J/kcal, thermochemical calorie
BEARING_CONSTANT = 0.091  # N [Martin1998]
BEARING_SLOPE = 0.0087  # N·s/m [Martin1998]
