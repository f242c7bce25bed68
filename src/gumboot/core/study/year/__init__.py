"""What does a year with this system look like, and how long does an outage from any hour of it last?"""

from gumboot.core.study.year.hours import run_quarter_hours
from gumboot.core.study.year.parts import MONTHS, More, YearStudy, field_figure
from gumboot.core.study.year.series import MINUTES, PV_TO_AC, face_yield_w, load_series_w, place_of, pv_series_w
from gumboot.core.study.year.station import study_year
from gumboot.core.study.year.store import grid_charge_hours, rules_of, store_of

__all__ = [
    "MINUTES",
    "MONTHS",
    "PV_TO_AC",
    "More",
    "YearStudy",
    "face_yield_w",
    "field_figure",
    "grid_charge_hours",
    "load_series_w",
    "place_of",
    "pv_series_w",
    "rules_of",
    "run_quarter_hours",
    "store_of",
    "study_year",
]
